"""Edits of the job as a whole: name, vehicle, house rules, fuse block."""

from __future__ import annotations

from typing import Literal

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.job.document import (
    FuseBlock,
    HouseRules,
    Job,
    Vehicle,
)
from ready_trail.core.job.parts import Name, Note


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
        """Return the job under these rules; a held size of another kind of wire is let go."""
        circuits = job.circuits
        wire = (self.rules.system, self.rules.wire_kind)
        if wire != (job.rules.system, job.rules.wire_kind):
            circuits = tuple(
                rebuilt(c, held=c.held.model_copy(update={"size": None})) for c in circuits
            )
        return rebuilt(job, rules=self.rules, circuits=circuits)

    def title(self, job: Job) -> str:
        """Plain name."""
        return "Change house rules"


class SetBlock(Edit):
    """State the fuse block and its feeder."""

    kind: Literal["set_block"] = "set_block"
    block: FuseBlock

    def apply(self, job: Job) -> Job:
        """Return the job with this block."""
        return rebuilt(job, block=self.block)

    def title(self, job: Job) -> str:
        """Say whether it is new."""
        return f"{'Change' if job.block else 'Add'} {self.block.name}"


class RemoveBlock(Edit):
    """Take the fuse block away; its circuits go back to the battery."""

    kind: Literal["remove_block"] = "remove_block"

    def apply(self, job: Job) -> Job:
        """Return the job without a block."""
        circuits = tuple(
            rebuilt(c, source="battery") if c.source == "block" else c for c in job.circuits
        )
        return rebuilt(job, block=None, circuits=circuits)

    def title(self, job: Job) -> str:
        """Plain name."""
        return "Remove the fuse block"
