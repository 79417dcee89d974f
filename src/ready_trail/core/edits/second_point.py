"""A second point beside one that carries too much: half of its circuits move there."""

from __future__ import annotations

from typing import Literal

from ready_trail.core.edits.base import free_point_name
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.edits.supply import AddSupply, PointDraft, StartAt, find_point
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Channel
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import Point, Position
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.tree import Tree


class SecondPoint(CircuitEdit):
    """Put a point like the one that a feeder brings current to beside it, with a feeder of its own.

    Of the circuits that start there every other one, by current, starts at the second one: at the
    position that it had, woken as it was.
    """

    kind: Literal["second_point"] = "second_point"

    def apply(self, job: Job) -> Job:
        """Return the job with both points."""
        feeder = self.circuit(job)
        point = find_point(job, feeder.feeds or "")
        if not may_have_second(job, point):
            raise EditRefusedError("circuit_id", f"{point.name} has nothing to share with another")
        moving = _every_other(job, point)
        stated = point.model_dump(exclude={"id", "number", "item", "together_a"})
        kept = tuple(Position(name=p.name, rating_a=p.rating_a) for p in point.positions)
        draft = PointDraft.model_validate(
            {**stated, "name": free_point_name(job, point.name), "positions": kept}
        )
        start = Channel(point=feeder.start.point)
        add = AddSupply(
            point=draft, start=start, run=feeder.run, back=feeder.back, wake=job.use_of(feeder)
        )
        job = add.apply(job)
        second = next(p.id for p in job.points if p.name == draft.name)
        for circuit in moving:
            to = Channel(point=second, position=circuit.start.position)
            job = StartAt(circuit_id=circuit.id, start=to).apply(job)
        return job

    def title(self, job: Job) -> str:
        """Say beside which."""
        return f"Put a second one beside {find_point(job, self.circuit(job).feeds or '').name}"


def may_have_second(job: Job, point: Point) -> bool:
    """Return whether circuits can be shared out: of a block of fuses from which two start."""
    kind = point.is_a
    plain = kind.holds_fuses and not point.switches_its_positions and not kind.has_switches
    return plain and sum(c.start.point == point.id for c in job.circuits) > 1


def _every_other(job: Job, point: Point) -> tuple[Circuit, ...]:
    currents = Currents(Tree(job))
    here = [c for c in job.circuits if c.start.point == point.id]
    return tuple(sorted(here, key=lambda c: -currents.circuit_a(c))[1::2])
