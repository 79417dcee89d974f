"""Edits of accessories. Adding one proposes its circuit with an estimated run."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.document import Accessory, Circuit, Job, Return, Segment
from ready_trail.core.job.parts import Ident

DEFAULT_RUN = (
    Segment(zone="engine_bay", length_m=1.5),
    Segment(zone="cabin", length_m=1.5),
)
"""The estimated run of a new circuit, until somebody tapes it (house)."""


class AccessoryDraft(Accessory):
    """An accessory that has no place in a job yet."""

    id: Ident = "new"


class AddAccessory(Edit):
    """Add an accessory, with a circuit of its own."""

    kind: Literal["add_accessory"] = "add_accessory"
    accessory: AccessoryDraft
    run: tuple[Segment, ...] = DEFAULT_RUN
    back: Return | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory and its circuit."""
        number = next_number(job)
        accessory = Accessory.model_validate({**dict(self.accessory), "id": f"a{number}"})
        composite = job.vehicle.body == "composite"
        back = self.back or Return(kind="wire" if composite else "chassis")
        fed_by_block = job.block is not None and accessory.model != "winch"
        circuit = Circuit(
            id=f"c{number}",
            number=number,
            name=accessory.name,
            accessory_ids=(accessory.id,),
            source="block" if fed_by_block else "battery",
            run=self.run,
            back=back,
        )
        return rebuilt(
            job,
            accessories=(*job.accessories, accessory),
            circuits=(*job.circuits, circuit),
        )

    def title(self, job: Job) -> str:
        """Say what was added."""
        return f"Add {self.accessory.name}"


class AddAccessories(Edit):
    """Add several accessories at once, each with a circuit of its own."""

    kind: Literal["add_accessories"] = "add_accessories"
    accessories: Annotated[tuple[AccessoryDraft, ...], Field(min_length=1, max_length=200)]

    def apply(self, job: Job) -> Job:
        """Return the job with all of them."""
        for accessory in self.accessories:
            job = AddAccessory(accessory=accessory).apply(job)
        return job

    def title(self, job: Job) -> str:
        """Say how many."""
        return f"Add {len(self.accessories)} accessories from a list"


class PutOnCircuit(Edit):
    """Move an accessory onto another circuit, or onto one of its own (``new``)."""

    kind: Literal["put_on_circuit"] = "put_on_circuit"
    accessory_id: str
    circuit_id: str

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory moved; a circuit left empty goes."""
        accessory = _find(job, self.accessory_id)
        was = job.circuit_of(accessory.id)
        if was is None:
            raise EditRefusedError("accessory_id", "this accessory is on no circuit")
        circuits = []
        for circuit in job.circuits:
            ids = tuple(i for i in circuit.accessory_ids if i != accessory.id)
            if circuit.id == self.circuit_id:
                ids = (*ids, accessory.id)
            if ids:
                circuits.append(rebuilt(circuit, accessory_ids=ids))
        if self.circuit_id == "new":
            number = next_number(job)
            circuits.append(
                rebuilt(was, id=f"c{number}", number=number, name=accessory.name,
                        accessory_ids=(accessory.id,), accepted=())
            )  # fmt: skip
        elif self.circuit_id not in {c.id for c in job.circuits}:
            raise EditRefusedError("circuit_id", "this circuit is no longer in the job")
        return rebuilt(job, circuits=tuple(circuits))

    def title(self, job: Job) -> str:
        """Say what goes where."""
        name = _find(job, self.accessory_id).name
        if self.circuit_id == "new":
            return f"Give {name} a circuit of its own"
        to = next((c.name for c in job.circuits if c.id == self.circuit_id), "another circuit")
        return f"Put {name} on {to}"


class ChangeAccessory(Edit):
    """Change what is stated of an accessory."""

    kind: Literal["change_accessory"] = "change_accessory"
    accessory: Accessory

    @model_validator(mode="after")
    def _has_a_place(self) -> Self:
        if self.accessory.id == "new":
            raise ValueError("name the accessory to change")
        return self

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory changed; its circuit's name follows."""
        before = _find(job, self.accessory.id)
        accessories = tuple(self.accessory if a.id == before.id else a for a in job.accessories)
        circuits = tuple(
            rebuilt(c, name=self.accessory.name)
            if c.accessory_ids == (before.id,) and c.name == before.name
            else c
            for c in job.circuits
        )
        return rebuilt(job, accessories=accessories, circuits=circuits)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Change {_find(job, self.accessory.id).name}"


class RemoveAccessory(Edit):
    """Remove an accessory; a circuit left without one goes too."""

    kind: Literal["remove_accessory"] = "remove_accessory"
    accessory_id: str

    def apply(self, job: Job) -> Job:
        """Return the job without it."""
        gone = _find(job, self.accessory_id).id
        circuits = []
        for circuit in job.circuits:
            left = tuple(i for i in circuit.accessory_ids if i != gone)
            if left:
                circuits.append(rebuilt(circuit, accessory_ids=left))
        accessories = tuple(a for a in job.accessories if a.id != gone)
        return rebuilt(job, accessories=accessories, circuits=tuple(circuits))

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Remove {_find(job, self.accessory_id).name}"


class SplitAccessory(Edit):
    """Put half of the units of an accessory on a second circuit."""

    kind: Literal["split_accessory"] = "split_accessory"
    accessory_id: str

    def apply(self, job: Job) -> Job:
        """Return the job with two accessories of half the quantity each."""
        whole = _find(job, self.accessory_id)
        circuit = job.circuit_of(whole.id)
        if whole.quantity < 2 or circuit is None:
            raise EditRefusedError("quantity", "one unit cannot be split over two circuits")
        number = next_number(job)
        half = whole.quantity // 2
        first = rebuilt(whole, quantity=whole.quantity - half)
        second = rebuilt(whole, id=f"a{number}", name=f"{whole.name} (second half)", quantity=half)
        twin = rebuilt(
            circuit, id=f"c{number}", number=number, name=second.name,
            accessory_ids=(second.id,), accepted=(),
        )  # fmt: skip
        accessories = tuple(first if a.id == whole.id else a for a in job.accessories)
        return rebuilt(job, accessories=(*accessories, second), circuits=(*job.circuits, twin))

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Split {_find(job, self.accessory_id).name} over two circuits"


def next_number(job: Job) -> int:
    """Return the next free number for an accessory and its circuit."""
    used = [c.number for c in job.circuits]
    used += [int(a.id[1:]) for a in job.accessories if a.id[1:].isdigit()]
    return max(used, default=0) + 1


def _find(job: Job, accessory_id: str) -> Accessory:
    try:
        return job.accessory(accessory_id)
    except KeyError:
        raise EditRefusedError("accessory_id", "this accessory is no longer in the job") from None
