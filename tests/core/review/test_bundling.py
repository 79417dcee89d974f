"""Wires that pass a zone together: counted as one loom, or said to lie apart."""

from __future__ import annotations

import pytest

from core.review.findings_cases import behind, positions, with_edits
from ready_trail.core.conductors import bundle_ratio
from ready_trail.core.design import design
from ready_trail.core.edits import CountInLoom, KeepApart, SetReturn, StartAt
from ready_trail.core.job import BATTERY, Channel, Job, Return
from ready_trail.core.outcome import CircuitDesign, Finding
from support import CATALOGUE


def block(*loads_a: float) -> Job:
    """Loads of one block, whose runs were typed one by one; each earthed where it sits."""
    job = behind("fuse_block", *loads_a, positions=positions(len(loads_a), 30))
    ids = [c.id for c in job.circuits if not c.is_feeder]
    return with_edits(job, *(SetReturn(circuit_id=i, back=Return()) for i in ids))


def told(job: Job) -> list[tuple[CircuitDesign, Finding]]:
    made = design(job, CATALOGUE)
    return [(c, f) for c in made.circuits for f in c.findings if f.code == "laid_alone"]


@pytest.mark.parametrize("count", [3, 5, 8])
def test_what_a_wire_bears_beside_the_others_is_told_and_counting_them_mends_it(count: int) -> None:
    job = block(*[15.0] * count)
    ((circuit, finding),) = told(job)
    chosen, fuse = circuit.sizing.chosen, circuit.sizing.fuse
    assert chosen is not None
    assert fuse is not None
    beside_a = chosen.single_ampacity_a * bundle_ratio(count)
    assert finding.found == f"{beside_a:.1f} A in a loom"
    assert beside_a < fuse.rating_a <= chosen.ampacity_a
    (action,) = finding.actions
    after = design(with_edits(job, action.edit), CATALOGUE)
    assert told(after.job) == []
    for one in after.circuits:
        before = design(job, CATALOGUE).circuit(one.circuit.id)
        sized, now = one.sizing, before.sizing
        assert sized.ok
        assert sized.fuse is not None
        assert now.fuse is not None
        assert sized.fuse.rating_a == now.fuse.rating_a
        assert sized.chosen is not None
        assert sized.chosen.ampacity_a >= sized.fuse.rating_a


def test_a_loom_of_more_than_can_be_counted_is_told_too() -> None:
    job = block(*[4.0] * 60)
    first = job.circuits[-1]
    for _ in range(4):
        number = max(c.number for c in job.circuits) + 1
        alike = first.model_copy(update={"id": f"c{number}", "number": number})
        job = job.model_copy(update={"circuits": (*job.circuits, alike)})
    ((_, finding),) = told(job)
    assert finding.text.startswith("64 loaded wires")
    assert finding.actions[0].edit.loaded_conductors == 60  # type: ignore[attr-defined]


def test_it_is_a_caution_where_the_load_alone_is_more_than_the_wire_bears_there() -> None:
    """The fuse alone lets more through in a fault; the load does it every day."""
    for amps, severity in ((12.0, "note"), (14.0, "caution")):
        ((circuit, finding),) = told(block(*[amps] * 5))
        chosen = circuit.sizing.chosen
        assert chosen is not None
        beside_a = chosen.single_ampacity_a * bundle_ratio(5)
        assert (finding.severity, amps > beside_a) == (severity, severity == "caution")


def test_two_wires_are_no_loom_and_light_ones_heat_nobody() -> None:
    assert told(block(15, 15)) == []
    home = behind("fuse_block", 15, 15, positions=positions(2, 30))
    assert "4 loaded wires" in told(home)[0][1].text, "a return wire heats like its feed"
    assert told(block(15, 15, 0.2, 0.2, 0.2)) == []


def test_what_never_runs_together_counts_once() -> None:
    job = block(15, 15, 15)
    assert told(job)
    ids = [c.id for c in job.circuits if not c.is_feeder]
    assert told(with_edits(job, KeepApart(circuit_id=ids[0], never_with=(ids[1],)))) == []


def test_wires_that_begin_elsewhere_are_in_another_loom() -> None:
    job = block(15, 15, 15)
    last = job.circuits[-1].id
    assert told(with_edits(job, StartAt(circuit_id=last, start=Channel(point=BATTERY)))) == []


def test_who_counted_is_believed() -> None:
    job = block(15, 15, 15)
    ids = tuple(c.id for c in job.circuits if not c.is_feeder)
    zone = job.circuit(ids[0]).run[0].zone
    for circuit_id in ids:
        for segment in job.circuit(circuit_id).run:
            edit = CountInLoom(zone=segment.zone, circuit_ids=(circuit_id,), loaded_conductors=2)
            job = with_edits(job, edit)
    assert zone
    assert told(job) == []
