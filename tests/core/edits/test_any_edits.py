"""Any sequence of edits: the job stays whole, the design never raises, undo has what it needs."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from any_edits import MARMOT, edits
from ready_trail.core.design import design
from ready_trail.core.edits import (
    ChangeAccessory,
    Edit,
    HoldChoice,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.inputs import read_inputs
from ready_trail.core.job import (
    Job,
)
from ready_trail.core.looms import looms
from ready_trail.core.references import unknown_references
from ready_trail.core.truth import truth_table
from ready_trail.drawing.fan import draw_fan
from ready_trail.drawing.trail import draw_trail
from support import CATALOGUE, afresh, facts


def applied(job: Job, edit: Edit) -> Job | EditRefusedError:
    """The job after an edit, or why it was refused."""
    try:
        return apply(job, edit)
    except EditRefusedError as refused:
        return refused


@given(st.lists(edits(), min_size=1, max_size=7))
@settings(max_examples=8, deadline=None)
def test_any_edits_leave_a_job_that_can_be_designed(sequence: list[Edit]) -> None:
    job = MARMOT
    for edit in sequence:
        after = applied(job, edit)
        if isinstance(after, EditRefusedError):
            assert after.field
            assert after.message
            continue
        if any(unknown_references(after, CATALOGUE)):
            continue  # the web layer refuses these
        assert edit.title(job)
        job = after
        made = design(job, CATALOGUE)
    assert Job.model_validate_json(job.model_dump_json()) == job
    made = design(job, CATALOGUE)
    assert facts(made) == afresh(job)
    looms(made, CATALOGUE)
    for circuit in made.circuits:
        if circuit.planned.parts is None:
            assert not circuit.is_ready
            continue
        assert truth_table(circuit, made.plan) is not None
        read_inputs(circuit, made.plan)
        draw_trail(circuit, CATALOGUE)
        draw_fan(circuit)
        if circuit.operating is not None:
            assert circuit.operating.residual_a <= 1e-6


def test_titles_are_short_and_end_without_a_stop() -> None:
    hold = HoldChoice(circuit_id="c15", what="fuse_a", value=25.0)
    assert hold.title(MARMOT) == "Hold fuse of Roof light bar: 25 A"
    with pytest.raises(EditRefusedError):
        HoldChoice(circuit_id="c99", what="size", value="8").title(MARMOT)


@given(st.lists(edits(), min_size=1, max_size=2))
@settings(max_examples=5, deadline=None)
def test_words_alone_change_no_design(sequence: list[Edit]) -> None:
    """Another name, place and note: the same design with the new words in it, whatever came."""
    job = MARMOT
    for edit in sequence:
        after = applied(job, edit)
        if isinstance(after, Job) and not any(unknown_references(after, CATALOGUE)):
            job = after
    words = {"name": "Other", "place": "Hill", "note": "Wet."}
    named = job.model_copy(update=words)
    made = design(named, CATALOGUE)
    assert facts(made)[2:-1] == facts(design(job, CATALOGUE))[2:-1]
    assert {c.job.name for c in made.circuits} <= {"Other"}
    assert made.plan.job.name == "Other"


def test_a_main_is_chosen_anew_when_a_branch_behind_it_is_held_larger() -> None:
    """Found by the test above: a feeder reads the fuses of what it feeds."""
    job = MARMOT
    branches = [c for c in job.circuits if c.start.point != "battery" and not c.is_feeder]
    for branch in branches[::4]:
        held = apply(job, HoldChoice(circuit_id=branch.id, what="fuse_a", value=40.0))
        assert facts(design(held, CATALOGUE)) == afresh(held), branch.name


def test_an_output_that_is_renamed_is_renamed_everywhere() -> None:
    two = next(a for a in MARMOT.accessories if a.outputs)
    renamed = (two.outputs[0], two.outputs[1].model_copy(update={"name": "amber"}))
    edit = ChangeAccessory(accessory=two.model_copy(update={"outputs": renamed}))
    job = apply(MARMOT, edit)
    assert facts(design(job, CATALOGUE)) == afresh(job)
