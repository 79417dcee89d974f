"""Edits of accessories. Adding one proposes its circuit with an estimated run."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from ready_trail.core.edits.accessory_typed import change_typed, new_typed
from ready_trail.core.edits.base import (
    Edit,
    find_circuit,
    next_number,
    rebuilt,
    with_switch_of,
    without_idle_switches,
)
from ready_trail.core.edits.branch import redealt, second_half
from ready_trail.core.edits.output import SplitOutputs
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Accessory, Channel, Use
from ready_trail.core.job.circuit import Circuit, HeldChoices, Return, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Name
from ready_trail.core.job.points import Switch
from ready_trail.core.job.sites import likely_run
from ready_trail.core.loads import Duty
from ready_trail.core.supply.starts import best_start


class AccessoryDraft(Accessory):
    """An accessory that has no place in a job yet."""

    id: Ident = "new"


class AddAccessory(Edit):
    """Add an accessory, with a circuit of its own.

    ``switch`` states the switch that its use names, where the job has none of that name yet;
    ``site`` tells where such a thing usually sits.
    """

    kind: Literal["add_accessory"] = "add_accessory"
    accessory: AccessoryDraft
    switch: Switch | None = None
    site: str = ""
    run: tuple[Segment, ...] | None = None
    back: Return | None = None
    start: Channel | None = None
    held: HeldChoices = HeldChoices()
    split_outputs: bool = False
    """Whether each output gets a circuit of its own."""

    output_uses: Annotated[tuple[Use | None, ...], Field(max_length=6)] = ()

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Read the accessory's form."""
        return dict(typed) if "accessory" in typed else new_typed(job, typed)

    def added(self, after: Job) -> str:
        """Return the accessory's id."""
        return after.accessories[-1].id

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory and its circuit, or one for each output."""
        after = self._added(job)
        if not (self.split_outputs and self.accessory.outputs):
            return after
        last = after.accessories[-1].id
        return SplitOutputs(accessory_id=last, uses=self.output_uses).apply(after)

    def _added(self, job: Job) -> Job:
        job = with_switch_of(job, self.accessory.use, self.switch, new_only=True)
        number = next_number(job)
        accessory = Accessory.model_validate({**dict(self.accessory), "id": f"a{number}"})
        start = self.start or best_start(job, accessory)
        begins = next((p.zone for p in job.points if p.id == start.point), "")
        run = self.run or likely_run(job.vehicle.kind, self.site, begins)
        run_m = sum(s.length_m for s in run)
        circuit = Circuit(
            id=f"c{number}",
            number=number,
            name=accessory.name,
            start=start,
            accessory_ids=(accessory.id,),
            run=run,
            back=self.back or _usual_return(job, start, accessory),
            held=self.held,
            fuse_at_m=min(0.15, run_m / 4),
            switching_at_m=min(0.5, run_m / 2),
        )
        return rebuilt(
            job,
            last_number=number,
            accessories=(*job.accessories, accessory),
            circuits=(*job.circuits, circuit),
        )

    def title(self, job: Job) -> str:
        """Say what was added."""
        return f"Add {self.accessory.name}"


def _usual_return(job: Job, start: Channel, accessory: Accessory) -> Return:
    """The point's earth bus where it has one; else a stub on a steel body, a wire for electronics,
    on a motorcycle and in a composite body.
    """
    if accessory.model == "winch":
        return Return(kind="wire")
    if any(p.id == start.point and p.earth_bus for p in job.points):
        return Return(kind="bus")
    home = job.rules.earth == "home" or accessory.model == "electronics"
    if home or job.vehicle.body == "composite" or job.vehicle.kind == "motorcycle":
        return Return(kind="wire")
    return Return()


class PutOnCircuit(Edit):
    """Move an accessory onto another circuit, or onto one of its own (``new``).

    One circuit has one use. Where the two differ the join is refused, unless ``follow`` says
    that the newcomer takes the circuit's key, lights, switch and interlock.
    """

    kind: Literal["put_on_circuit"] = "put_on_circuit"
    accessory_id: str
    circuit_id: str
    follow: bool = False

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory moved; a circuit left empty goes."""
        accessory = _find(job, self.accessory_id)
        was = job.circuit_of(accessory.id)
        if was is None:
            raise EditRefusedError("accessory_id", "this accessory is on no circuit")
        if was.output:
            raise EditRefusedError(
                "accessory_id", "its outputs have circuits of their own; put them on one first"
            )
        if self.circuit_id == "new":
            return self._alone(job, accessory, was)
        to = find_circuit(job, self.circuit_id)
        if to.id == was.id:
            return job
        if to.is_feeder:
            raise EditRefusedError("circuit_id", "a feeder serves a point, not an accessory")
        host = job.accessory(to.accessory_ids[0])
        if "winch" in (host.model, accessory.model):
            raise EditRefusedError("circuit_id", "a winch has a circuit of its own")
        if host.use != accessory.use:
            if not self.follow:
                raise EditRefusedError("circuit_id", differing(job, host, accessory))
            changed = rebuilt(accessory, use=host.use)
            accessories = tuple(changed if a.id == accessory.id else a for a in job.accessories)
            job = rebuilt(job, accessories=accessories)
        circuits = _without(job, accessory.id)
        joined = redealt(
            job, to.model_copy(update={"accessory_ids": (*to.accessory_ids, accessory.id)})
        )
        circuits = [joined if c.id == to.id else c for c in circuits]
        job = rebuilt(job, circuits=tuple(circuits))
        return without_idle_switches(job, accessory.use.switch)

    def _alone(self, job: Job, accessory: Accessory, was: Circuit) -> Job:
        if was.accessory_ids == (accessory.id,):
            return job
        number = next_number(job)
        alone = rebuilt(
            was,
            id=f"c{number}",
            number=number,
            name=accessory.name,
            accessory_ids=(accessory.id,),
            accepted=(),
            branches=(),
            joint="splice",
            start=Channel(point=was.start.point),
        )
        return rebuilt(job, last_number=number, circuits=(*_without(job, accessory.id), alone))

    def title(self, job: Job) -> str:
        """Say what goes where."""
        name = _find(job, self.accessory_id).name
        if self.circuit_id == "new":
            return f"Give {name} a circuit of its own"
        to = next((c.name for c in job.circuits if c.id == self.circuit_id), "another circuit")
        return f"Put {name} on {to}"


def differing(job: Job, host: Accessory, guest: Accessory) -> str:
    """Say in what two accessories differ that one circuit cannot give to both."""
    words = (
        ("key", host.use.key, guest.use.key),
        ("lights", host.use.lights, guest.use.lights),
        ("signal", host.use.signal or "none", guest.use.signal or "none"),
        ("second trigger", host.use.also or "none", guest.use.also or "none"),
        ("what takes it off", host.use.unless or "nothing", guest.use.unless or "nothing"),
        ("switch", host.use.switch or "none", guest.use.switch or "none"),
        ("side of the switch", host.use.throw or "-", guest.use.throw or "-"),
        ("engine only", host.use.engine_only, guest.use.engine_only),
        ("taken from", host.use.while_by, guest.use.while_by),
        ("only while", _name(job, host.use.while_on), _name(job, guest.use.while_on)),
    )
    parts = [f"{what} ({_plain(b)} here, {_plain(a)} there)" for what, a, b in words if a != b]
    if not parts:
        parts = ["what triggers them"]
    return (
        f"{guest.name} and {host.name} differ in {', '.join(parts)}; one circuit has one use. "
        "Say that it follows the circuit's, or leave them apart"
    )


def _plain(value: object) -> str:
    return (
        {True: "yes", False: "no"}.get(value, str(value))
        if isinstance(value, bool)
        else (str(value))
    )


def _name(job: Job, circuit_id: str) -> str:
    return next((c.name for c in job.circuits if circuit_id and c.id == circuit_id), "nothing")


class ChangeAccessory(Edit):
    """Change what is stated of an accessory, and of the switch that its use names."""

    kind: Literal["change_accessory"] = "change_accessory"
    accessory: Accessory
    switch: Switch | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Read the accessory's form."""
        return dict(typed) if "accessory" in typed else change_typed(job, typed)

    @model_validator(mode="after")
    def _has_a_place(self) -> Self:
        if self.accessory.id == "new":
            raise ValueError("name the accessory to change")
        return self

    def apply(self, job: Job) -> Job:
        """Return the job with the accessory changed; its circuit's name follows."""
        before = _find(job, self.accessory.id)
        after = self.accessory
        job = with_switch_of(job, after.use, self.switch)
        circuit = job.circuit_of(before.id)
        mates = circuit.accessory_ids if circuit is not None else (before.id,)
        if len(mates) > 1 and after.use != before.use:  # one circuit has one use
            same = {i: rebuilt(job.accessory(i), use=after.use) for i in mates}
        else:
            same = {}
        accessories = tuple(
            after if a.id == before.id else same.get(a.id, a) for a in job.accessories
        )
        circuits = tuple(
            rebuilt(c, name=after.name)
            if c.accessory_ids == (before.id,) and c.name == before.name
            else c
            for c in job.circuits
        )
        whole = job.model_copy(update={"accessories": accessories})
        circuits = _outputs_kept(before, after, circuits)
        circuits = tuple(redealt(whole, c) for c in circuits)
        job = rebuilt(job, accessories=accessories, circuits=circuits)
        return without_idle_switches(job, before.use.switch)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Change {_find(job, self.accessory.id).name}"


class GiveSwitch(Edit):
    """Give an accessory a switch of its own: guarded, or one that springs back, where it asks."""

    kind: Literal["give_switch"] = "give_switch"
    accessory_id: str
    name: Name
    guarded: bool = False
    momentary: bool = False

    def apply(self, job: Job) -> Job:
        """Return the job with the switch; one of that name is refused, it works something else."""
        accessory = _find(job, self.accessory_id)
        if job.switch(self.name) is not None:
            raise EditRefusedError("name", "there is a switch of this name")
        use = rebuilt(accessory.use, switch=self.name, throw="")
        switch = Switch(name=self.name, guarded=self.guarded, momentary=self.momentary)
        edit = ChangeAccessory(accessory=rebuilt(accessory, use=use), switch=switch)
        return edit.apply(job)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Give {_find(job, self.accessory_id).name} a switch"


class SetDuty(Edit):
    """State how long the accessories of a circuit run at a time."""

    kind: Literal["set_duty"] = "set_duty"
    circuit_id: str
    duty: Duty

    def apply(self, job: Job) -> Job:
        """Return the job with that duty."""
        ids = find_circuit(job, self.circuit_id).accessory_ids
        accessories = tuple(
            rebuilt(a, duty=self.duty) if a.id in ids else a for a in job.accessories
        )
        return rebuilt(job, accessories=accessories)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"{find_circuit(job, self.circuit_id).name}: {self.duty} duty"


class RemoveAccessory(Edit):
    """Remove an accessory; a circuit left without one goes too."""

    kind: Literal["remove_accessory"] = "remove_accessory"
    accessory_id: str

    def apply(self, job: Job) -> Job:
        """Return the job without it; what waited for its circuit waits for nothing."""
        gone = _find(job, self.accessory_id)
        circuits = _without(job, gone.id)
        left = {c.id for c in circuits}
        accessories = tuple(
            a
            if not a.use.while_on or a.use.while_on in left
            else rebuilt(a, use=a.use.model_copy(update={"while_on": ""}), hazard=True)
            for a in job.accessories
            if a.id != gone.id
        )
        circuits = [
            rebuilt(c, never_with=tuple(i for i in c.never_with if i in left))
            if c.never_with
            else c
            for c in circuits
        ]
        scenarios = tuple(
            s.model_copy(update={"running": tuple(r for r in s.running if r.accessory != gone.id)})
            for s in job.scenarios
        )
        job = rebuilt(
            job,
            last_number=max(job.last_number, next_number(job) - 1),
            accessories=accessories,
            circuits=tuple(circuits),
            scenarios=scenarios,
        )
        return without_idle_switches(job, gone.use.switch)

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
        name = f"{whole.name[:66]} (second half)"
        second = rebuilt(whole, id=f"a{number}", name=name, quantity=half)
        twin = rebuilt(
            circuit,
            id=f"c{number}",
            number=number,
            name=second.name,
            accessory_ids=(second.id,),
            accepted=(),
            start=Channel(point=circuit.start.point),
            branches=(),
            joint="splice",
        )
        accessories = tuple(first if a.id == whole.id else a for a in job.accessories)
        after = job.model_copy(update={"accessories": (*accessories, second)})
        circuits = tuple(redealt(after, c) if c.id == circuit.id else c for c in job.circuits)
        if circuit.branches:  # the units that the first half leaves keep their wires too
            twin = second_half(circuit, twin, whole.id, second.id, first.quantity)
        scenarios = tuple(
            s.model_copy(
                update={
                    "running": (
                        *s.running,
                        *(
                            r.model_copy(update={"accessory": second.id})
                            for r in s.running
                            if r.accessory == whole.id
                        ),
                    )
                }
            )
            for s in job.scenarios
        )
        return rebuilt(
            job,
            last_number=number,
            accessories=(*accessories, second),
            circuits=(*circuits, twin),
            scenarios=scenarios,
        )

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Split {_find(job, self.accessory_id).name} over two circuits"


def _without(job: Job, accessory_id: str) -> list[Circuit]:
    """The circuits without an accessory; one left empty goes, a feeder stays."""
    circuits = []
    for circuit in job.circuits:
        ids = tuple(i for i in circuit.accessory_ids if i != accessory_id)
        if ids == circuit.accessory_ids:
            circuits.append(circuit)
        elif ids:
            circuits.append(redealt(job, circuit.model_copy(update={"accessory_ids": ids})))
    return circuits


def _outputs_kept(
    before: Accessory, after: Accessory, circuits: tuple[Circuit, ...]
) -> tuple[Circuit, ...]:
    """Circuits follow an output that got another name, by its place on the label."""
    if before.outputs == after.outputs:
        return circuits
    if len(before.outputs) != len(after.outputs) and any(
        c.output and before.id in c.accessory_ids for c in circuits
    ):
        raise EditRefusedError(
            "outputs", "its outputs are on circuits of their own; put them on one circuit first"
        )
    renamed = {a.name: b.name for a, b in zip(before.outputs, after.outputs, strict=False)}
    return tuple(
        c.model_copy(update={"output": renamed.get(c.output, c.output)})
        if c.output and before.id in c.accessory_ids
        else c
        for c in circuits
    )


def _find(job: Job, accessory_id: str) -> Accessory:
    try:
        return job.accessory(accessory_id)
    except KeyError:
        raise EditRefusedError("accessory_id", "this accessory is no longer in the job") from None
