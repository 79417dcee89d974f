"""One way of earthing for the whole job: the body, home to the battery, or the points' own bus."""

from __future__ import annotations

from typing import Literal

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.circuit import Circuit, Return
from ready_trail.core.job.document import Job

_WORDS = {"body": "the body", "home": "the battery", "bus": "the earth bus where there is one"}


class EarthAll(Edit):
    """Bring every accessory's return to the body, to the battery, or to its point's earth bus.

    A winch and a feeder keep theirs; where a point has no bus, a return goes home. What was
    measured or taped of a stub stays where the stub does.
    """

    kind: Literal["earth_all"] = "earth_all"
    way: Literal["body", "home", "bus"]

    def apply(self, job: Job) -> Job:
        """Return the job with those returns. Refused where a composite body carries nothing."""
        if self.way == "body" and job.vehicle.body == "composite":
            raise EditRefusedError("way", "a composite body carries no current")
        with_bus = {p.id for p in job.points if p.earth_bus or p.starts_a_system}
        return rebuilt(job, circuits=tuple(self._earthed(job, c, with_bus) for c in job.circuits))

    def _earthed(self, job: Job, circuit: Circuit, with_bus: set[str]) -> Circuit:
        loads = [job.accessory(i) for i in circuit.accessory_ids]
        if not loads or any(a.model == "winch" for a in loads):
            return circuit
        if self.way == "body":
            return circuit if circuit.back.on_body else rebuilt(circuit, back=Return())
        bus = self.way == "bus" and circuit.start.point in with_bus
        return rebuilt(circuit, back=rebuilt(circuit.back, kind="bus" if bus else "wire"))

    def title(self, job: Job) -> str:
        """Say where."""
        return f"Earth all accessories at {_WORDS[self.way]}"
