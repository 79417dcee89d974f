"""Every figure that the shelf takes of a datasheet is reckoned with, and taking it back is too."""

from __future__ import annotations

import re

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.datasheet import (
    FIELDS,
    Figure,
    FigureField,
    checked_figure,
    fields_of,
    with_figures,
)
from ready_trail.core.design import design
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job
from ready_trail.formats.design_json import design_to_json
from support import CATALOGUE, demo


def reckoned(job: Job, catalogue: Catalogue) -> str:
    """What follows from the figures: solved volts, findings, parts. Not the figures themselves."""
    made = design(job, catalogue)  # whatever the shelf takes, a job can be designed with it
    parts = [(line.key, line.quantity) for line in build_of(made, catalogue).parts]
    return re.sub(r",? datasheet[^'\"]*", "", f"{design_to_json(made)} {parts}")


def _rows(name: str) -> list[str]:
    lines = build_of(design(demo(name), CATALOGUE), CATALOGUE).parts
    return sorted({line.catalogue_key for line in lines if fields_of(line.catalogue_key)})


USED = {name: _rows(name) for name in ("Bluebell", "Marmot", "Kestrel")}
BEFORE = {name: reckoned(demo(name), CATALOGUE) for name in USED}


def changes(name: str, row: str, field: FigureField) -> bool:
    """Whether a figure at either end of what is taken changes that job, and back."""
    for value in (field.least, field.most):
        figure = Figure(row=row, field=field.name, value=value, source="sheet 7")
        try:
            checked_figure(figure, CATALOGUE)
        except EditRefusedError:  # hot over cold: the other end of the range is taken
            continue
        if reckoned(demo(name), with_figures(CATALOGUE, (figure,))) != BEFORE[name]:
            return True
    return False


@pytest.mark.parametrize("name", ["Bluebell", "Kestrel"])
def test_each_part_in_use_is_reckoned_by_its_own_datasheet(name: str) -> None:
    """The row that the parts list names is the row that the design reads."""
    deaf = [row for row in USED[name] if not any(changes(name, row, f) for f in fields_of(row))]
    assert deaf == []
    assert reckoned(demo(name), with_figures(CATALOGUE, ())) == BEFORE[name]


@pytest.mark.parametrize("kind", FIELDS)
def test_each_figure_that_is_taken_counts_somewhere(kind: str) -> None:
    rows = [(name, row) for name in USED for row in USED[name] if row.startswith(f"{kind}:")]
    deaf = [f.name for f in FIELDS[kind] if not any(changes(n, row, f) for n, row in rows)]
    assert deaf == []


def test_a_wires_own_resistance_is_what_its_drop_comes_from() -> None:
    job = demo()
    made = design(job, CATALOGUE)
    row = next(r for r in USED["Marmot"] if r.startswith("wire:"))
    size = row.rpartition(":")[2]
    used = next(w for c in made.circuits for w in c.wires if w.conductor.label == size)
    figure = Figure(
        row=row, field="r20_mohm_per_m", value=used.conductor.r20_mohm_per_m * 1.1, source="sheet 7"
    )
    again = design(job, with_figures(CATALOGUE, (figure,)))
    now = next(w for c in again.circuits for w in c.wires if w.label == used.label)
    assert now.conductor.label == size, "the size may not change by a tenth here"
    assert now.conductor.r20_mohm_per_m == pytest.approx(1.1 * used.conductor.r20_mohm_per_m)
