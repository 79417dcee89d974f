"""A press changes no more than its words say: when things are on, guards, ratings and fuses."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, given, settings

from core.review.findings_cases import Case, cases
from core.review.test_ways_out import installations
from ready_trail.core.design import CircuitDesign, Design, design
from ready_trail.core.edits import apply
from ready_trail.core.job import Job, Switch
from ready_trail.core.outcome import Action
from ready_trail.core.truth import truth_table
from support import CATALOGUE

CASES = {case.code: case for case in cases()}


def altered(before: Design, after: Design) -> Iterator[tuple[str, str]]:
    """What differs of that which a press must leave, for each circuit that is in both."""
    now = {c.circuit.id: c for c in after.circuits}
    for was in before.circuits:
        new = now.get(was.circuit.id)
        if new is None:
            continue
        one_on, other_on = states_on(was, before), states_on(new, after)
        if one_on and other_on is not None and one_on != other_on:  # what was dead may live
            yield "when", f"{was.circuit.name} is on in other states"
        one, other = switch_of(was), switch_of(new)
        if one is not None and one.guarded and (other is None or not other.guarded):
            yield "guard", f"{one.name} loses its guard"
        if one is not None and other is not None and one.rating_a != other.rating_a:
            yield "rating", f"{one.rating_a:g} → {other.rating_a:g} A"
        fuse, larger = was.sizing.fuse, new.sizing.fuse
        thicker = copper_mm2(new) > copper_mm2(was)  # its least holder may be a larger one
        if fuse is None or larger is None or thicker:
            continue
        if larger.rating_a > fuse.rating_a:
            yield "fuse", f"{fuse.rating_a:g} → {larger.rating_a:g} A"


def copper_mm2(made: CircuitDesign) -> float:
    return made.sizing.chosen.conductor.area_mm2 if made.sizing.chosen is not None else 0.0


def switch_of(made: CircuitDesign) -> Switch | None:
    return made.job.switch(made.use.switch) if made.use.switch else None


def states_on(made: CircuitDesign, job: Design) -> set[tuple[str, str, str]] | None:
    """Where it is on with its switch on; while cranking a relay's own volts decide."""
    table = None if made.circuit.is_feeder else truth_table(made, job.plan)
    if table is None:
        return None  # nothing that could be drawn answers the fault
    return {
        (c.key, c.lights, c.signal)
        for c in table.cells
        if c.switch_on and c.is_on and c.key != "cranking"
    }


def check_presses(job: Job, *codes: str) -> None:
    made = design(job, CATALOGUE)
    found = [f for c in made.circuits for f in c.findings] + list(made.findings)
    actions: dict[str, Action] = {
        a.edit.model_dump_json(): a
        for f in found
        if f.is_open and (not codes or f.code in codes)
        for a in f.actions
    }
    for action in actions.values():
        after = design(apply(job, action.edit), CATALOGUE)
        wrong = [x for x in altered(made, after) if x[0] not in action.alters]
        assert wrong == [], (action.label, wrong)


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_a_press_on_a_seeded_fault_changes_no_more_than_it_says(case: Case) -> None:
    check_presses(case.job, case.code)


@given(installations())
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_a_press_on_careless_work_changes_no_more_than_it_says(job: Job) -> None:
    check_presses(job)
