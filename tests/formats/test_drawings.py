"""Drawings: shapes on one axis, ends that meet, text escaped, the same bytes each time."""

from __future__ import annotations

import csv
import io
import xml.etree.ElementTree as ET
from itertools import pairwise

import pytest

from ready_trail.core.design import CircuitDesign, design
from ready_trail.drawing.band import AXIS_X0, AXIS_X1
from ready_trail.drawing.columns import lay_columns
from ready_trail.drawing.trail import draw_trail
from ready_trail.drawing.words import coord, drop, metres
from ready_trail.formats.wire_csv import COLUMNS, wire_list_csv
from support import CATALOGUE, demo, job_with, only_circuit

EVERY = [
    c for name in ("Marmot", "Bluebell", "Kestrel") for c in design(demo(name), CATALOGUE).circuits
]


@pytest.mark.parametrize("made", EVERY, ids=[f"{c.job.name}-{c.circuit.name}" for c in EVERY])
def test_scene_of_every_demo_circuit(made: CircuitDesign) -> None:
    trail = draw_trail(made, CATALOGUE)
    assert trail is not None
    assert trail == draw_trail(made, CATALOGUE)
    columns = lay_columns(made, AXIS_X0, AXIS_X1)
    assert columns[0].x0 == AXIS_X0
    assert columns[-1].x1 == pytest.approx(AXIS_X1)
    for left, right in pairwise(columns):
        assert left.x1 == pytest.approx(right.x0)
        assert right.x1 > right.x0
    ridge = trail.profile.ridge
    assert all(right >= left - 1e-9 for (left, _), (right, _) in pairwise(ridge))
    for (_, above), (_, below) in pairwise(ridge):
        assert below >= above - 1e-9, "voltage only falls on the way out"
    assert ridge[0][0] == AXIS_X0
    assert ridge[-1][0] == pytest.approx(AXIS_X1)
    assert all(0 <= y <= trail.profile.height for _, y in (*ridge, *trail.profile.back))
    refs = [p.ref for p in trail.band.parts]
    assert len(refs) == len(set(refs))
    marks = [x for x, _ in trail.profile.marks]
    assert marks == sorted(marks)
    if trail.lane is not None:
        assert trail.lane.parts[-1].x <= trail.lane.width


def test_pins_show_every_terminal_of_the_relay() -> None:
    bar = next(c for c in EVERY if c.circuit.name == "Roof light bar")
    trail = draw_trail(bar, CATALOGUE)
    assert trail is not None
    assert {p.terminal for p in trail.pins} == {"30", "85", "86", "87"}
    assert all(p.used for p in trail.pins)


def test_wider_wire_is_drawn_wider() -> None:
    thin, thick = only_circuit(job_with(watts=30)), only_circuit(job_with(watts=600))
    widths = []
    for made in (thin, thick):
        trail = draw_trail(made, CATALOGUE)
        assert trail is not None
        widths.append(trail.band.wires[0].stroke)
    assert widths[0] < widths[1]


def test_svg_file_is_xml_and_escapes_names() -> None:
    from ready_trail.formats.rendering import environment
    from ready_trail.web.pages.sheet import sheet_of

    job = design(job_with(name='<script>alert("x")</script> & bar'), CATALOGUE)
    stored = type("Stored", (), {"revision": 7})
    shell = type("Shell", (), {"stored": stored, "design": job})
    template = environment().get_template("drawing/file.svg.html")
    text = template.render(sheet=sheet_of(job.circuits[0], job, CATALOGUE), css="", shell=shell)
    root = ET.fromstring(text)
    assert root.tag.endswith("svg")
    assert "<script>" not in text
    assert "<script>alert" in "".join(root.itertext())


def test_wire_list_has_every_wire_once_and_no_formulas() -> None:
    made = design(job_with(name="=cmd|x"), CATALOGUE)
    rows = list(csv.reader(io.StringIO(wire_list_csv(made))))
    assert tuple(rows[0]) == COLUMNS
    assert len(rows) - 1 == len(made.installation.wires)
    assert rows[1][0] == "'=cmd|x"
    marmot = design(demo(), CATALOGUE)
    labels = [row[1] for row in csv.reader(io.StringIO(wire_list_csv(marmot)))][1:]
    assert len(labels) == len(set(labels))
    assert set(labels) == set(marmot.installation.wires)


@pytest.mark.parametrize(
    ("got", "wanted"),
    [
        (coord(-0.001), "0"),
        (coord(12.50), "12.5"),
        (coord(3.14159), "3.14"),
        (drop(0.0437), "44 mV"),
        (drop(0.53), "0.53 V"),
        (metres(0.3), "0.30 m"),
        (metres(5.2), "5.2 m"),
        (metres(5.25), "5.25 m"),
    ],
)
def test_words(got: str, wanted: str) -> None:
    assert got.replace("\u00a0", " ") == wanted
