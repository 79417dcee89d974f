"""Edits of the job as a whole: name, vehicle, house rules."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.edits.found import found_under
from ready_trail.core.forms import mapping, merged
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Name, Note
from ready_trail.core.job.vehicle import HouseRules, Vehicle


class RenameJob(Edit):
    """Give the job another name, place or note."""

    kind: Literal["rename_job"] = "rename_job"
    name: Name
    place: str = ""
    note: Note = ""

    def apply(self, job: Job) -> Job:
        """Return the renamed job."""
        return rebuilt(job, name=self.name, place=self.place, note=self.note)

    def title(self, job: Job) -> str:
        """Say the new name."""
        return f"Name the job {self.name}" if self.name != job.name else "Change the job's note"


class SetVehicle(Edit):
    """State the vehicle."""

    kind: Literal["set_vehicle"] = "set_vehicle"
    vehicle: Vehicle

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the vehicle."""
        return {**typed, "vehicle": merged(job.vehicle.model_dump(), mapping(typed.get("vehicle")))}

    def apply(self, job: Job) -> Job:
        """Return the job with this vehicle."""
        return rebuilt(job, vehicle=self.vehicle)

    def title(self, job: Job) -> str:
        """Name what changed."""
        changed = [
            name.replace("_", " ")
            for name, value in dict(self.vehicle).items()
            if getattr(job.vehicle, name) != value
        ]
        return f"Set vehicle: {', '.join(changed)}" if changed else "Set vehicle"


class SetHouseRules(Edit):
    """Choose between schools."""

    kind: Literal["set_house_rules"] = "set_house_rules"
    rules: HouseRules

    def apply(self, job: Job) -> Job:
        """Return the job under these rules; a held size of another kind of wire is let go, but for
        one that was found: that is what it is.
        """
        circuits = job.circuits
        now, before = self.rules, job.rules
        if (now.system, now.wire_kind) != (before.system, before.wire_kind):
            circuits = tuple(self._under(c, before) for c in circuits)
        return rebuilt(job, rules=self.rules, circuits=circuits)

    def _under(self, circuit: Circuit, before: HouseRules) -> Circuit:
        if circuit.found is not None and circuit.found.size is not None:
            circuit = rebuilt(circuit, found=found_under(circuit.found, before, self.rules))
        if circuit.kept:
            return circuit
        branches = tuple(rebuilt(b, size=None) for b in circuit.branches)
        return rebuilt(circuit, held=rebuilt(circuit.held, size=None), branches=branches)

    def title(self, job: Job) -> str:
        """Plain name."""
        return "Change house rules"
