"""A second block beside one that carries too much."""

from __future__ import annotations

import pytest

from core.review.findings_cases import behind, positions
from ready_trail.core.design import design
from ready_trail.core.edits import SecondPoint, SetReturn, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job, Return
from ready_trail.core.truth import truth_table
from support import CATALOGUE


def crowded(count: int, load_a: float) -> Job:
    job = behind("fuse_block", *[load_a] * count, positions=positions(8, 30), total_a=80)
    ids = [c.id for c in job.circuits if not c.is_feeder]
    for circuit_id in ids:
        job = apply(job, SetReturn(circuit_id=circuit_id, back=Return()))
    return job


@pytest.mark.parametrize(
    ("count", "load_a", "code"),
    [(7, 11.3, "fuse_over_element"), (6, 16.0, "unsized"), (8, 14.0, "point_total")],
)
def test_one_press_shares_the_circuits_out_and_leaves_each_as_it_was(
    count: int, load_a: float, code: str
) -> None:
    job = crowded(count, load_a)
    before = design(job, CATALOGUE)
    feeder = next(c for c in before.circuits if c.circuit.is_feeder)
    (finding,) = (f for f in feeder.findings if f.code == code)
    (edit,) = {a.edit for a in finding.actions if isinstance(a.edit, SecondPoint)}
    after_job = apply(job, edit)
    after = design(after_job, CATALOGUE)
    assert [f.code for c in after.circuits for f in c.findings if f.severity == "stop"] == []
    first, second = after_job.points
    assert (second.name, second.total_a, second.kind) == ("Block 2", 80, "fuse_block")
    shares = [sum(c.start.point == p.id for c in after_job.circuits) for p in (first, second)]
    assert shares == [count - count // 2, count // 2]
    for made in before.circuits:
        now = after.circuit(made.circuit.id)
        if made.circuit.is_feeder:
            continue
        assert now.circuit.start.position == made.circuit.start.position
        assert now.sizing.fuse is not None
        if made.sizing.fuse is not None:
            assert now.sizing.fuse.rating_a == made.sizing.fuse.rating_a
        table, was = truth_table(now, after.plan), truth_table(made, before.plan)
        if table is not None and was is not None and made.sizing.ok:
            assert [c.is_on for c in table.cells] == [c.is_on for c in was.cells]
    for main in (c for c in after.circuits if c.circuit.is_feeder):
        assert main.sizing.fuse is not None
        assert main.sizing.fuse.rating_a <= 80
        assert main.current_a == pytest.approx(load_a * (count / 2), abs=load_a / 2 + 0.01)


def test_it_is_refused_where_there_is_nothing_to_share() -> None:
    job = crowded(1, 10.0)
    feeder = next(c for c in job.circuits if c.is_feeder)
    with pytest.raises(EditRefusedError, match="nothing to share"):
        apply(job, SecondPoint(circuit_id=feeder.id))
