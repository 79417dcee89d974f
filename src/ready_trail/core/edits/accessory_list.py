"""A whole list of accessories at once, with what ties its lines to each other."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.edits.accessory import (
    AccessoryDraft,
    AddAccessory,
    ChangeAccessory,
    PutOnCircuit,
)
from ready_trail.core.edits.base import Edit, rebuilt, with_switch
from ready_trail.core.edits.output import SetCircuitUse, SplitOutputs
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Channel, InputWire, Use
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import ShortText, Stated
from ready_trail.core.job.points import Switch

LIST_MOST = 200
Line = Annotated[int, Field(ge=0, lt=LIST_MOST)]


class OutputLine(Stated):
    """One output that has a circuit of its own, and when that is on."""

    at: Line
    output: ShortText
    use: Use


class WaitLine(Stated):
    """A line (or one output of it) works only while another is on."""

    at: Line
    output: ShortText = ""
    enabler: Line
    enabler_output: ShortText = ""


class ChannelLine(Stated):
    """A line (or one output of it) is triggered by a point's position, by their names."""

    at: Line
    output: ShortText = ""
    point: ShortText
    position: ShortText


class TieLine(Stated):
    """A function wire of one line ends at one of another."""

    at: Line
    wire: ShortText
    other: Line
    other_wire: ShortText


class AddAccessories(Edit):
    """Add several accessories at once, each with a circuit of its own unless it shares one.

    ``outputs`` gives outputs circuits of their own, ``shares`` puts the first of two lines on the
    circuit of the second. Lines are counted from 0.
    """

    kind: Literal["add_accessories"] = "add_accessories"
    accessories: Annotated[tuple[AccessoryDraft, ...], Field(min_length=1, max_length=LIST_MOST)]
    switches: Annotated[tuple[Switch, ...], Field(max_length=LIST_MOST)] = ()
    outputs: Annotated[tuple[OutputLine, ...], Field(max_length=6 * LIST_MOST)] = ()
    shares: Annotated[tuple[tuple[Line, Line], ...], Field(max_length=LIST_MOST)] = ()
    waits: Annotated[tuple[WaitLine, ...], Field(max_length=7 * LIST_MOST)] = ()
    channels: Annotated[tuple[ChannelLine, ...], Field(max_length=7 * LIST_MOST)] = ()
    ties: Annotated[tuple[TieLine, ...], Field(max_length=12 * LIST_MOST)] = ()

    def apply(self, job: Job) -> Job:
        """Return the job with all of them."""
        stated = {switch.name: switch for switch in self.switches}
        ids: list[str] = []
        for accessory in self.accessories:
            for name in _switches_of(accessory.inputs):
                job = with_switch(job, name, None if job.switch(name) else stated.get(name))
            switch = stated.get(accessory.use.switch)
            job = AddAccessory(accessory=accessory, switch=switch).apply(job)
            ids.append(job.accessories[-1].id)
        for at, host in self.shares:
            to = job.circuit_of(self._id(ids, host))
            if to is not None:
                job = PutOnCircuit(accessory_id=self._id(ids, at), circuit_id=to.id).apply(job)
        job = self._outputs_apart(job, ids, stated)
        for channel in self.channels:
            job = _with_use(
                job, self._id(ids, channel.at), channel.output, channel=_channel_of(job, channel)
            )
        for wait in self.waits:
            enabler = _circuit_of(job, self._id(ids, wait.enabler), wait.enabler_output)
            job = _with_use(job, self._id(ids, wait.at), wait.output, while_on=enabler.id)
        for tie in self.ties:
            job = _tied(job, tie, self._id(ids, tie.at), self._id(ids, tie.other))
        return job

    def _outputs_apart(self, job: Job, ids: list[str], stated: dict[str, Switch]) -> Job:
        for at in dict.fromkeys(line.at for line in self.outputs):
            job = SplitOutputs(accessory_id=self._id(ids, at)).apply(job)
        for line in self.outputs:
            circuit = _circuit_of(job, self._id(ids, line.at), line.output)
            known = job.switch(line.use.switch) is not None
            switch = None if known else stated.get(line.use.switch)
            edit = SetCircuitUse(circuit_id=circuit.id, use=line.use, switch=switch)
            job = edit.apply(job)
        return job

    def _id(self, ids: list[str], at: int) -> str:
        if at >= len(ids):
            raise EditRefusedError("accessories", "a line of this list names one that it lacks")
        return ids[at]

    def title(self, job: Job) -> str:
        """Say how many."""
        return f"Add {len(self.accessories)} accessories from a list"


def _switches_of(wires: tuple[InputWire, ...]) -> list[str]:
    return [wire.at for wire in wires if wire.ends == "switch"]


def _circuit_of(job: Job, accessory_id: str, output: str) -> Circuit:
    for circuit in job.circuits_of(accessory_id):
        if not output or circuit.output == output:
            return circuit
    name = job.accessory(accessory_id).name
    raise EditRefusedError("outputs", f"{name} has no circuit for an output {output}")


def _with_use(job: Job, accessory_id: str, output: str, **changes: object) -> Job:
    """The job with a part of one use changed: an accessory's, or that of one output."""
    if output:
        circuit = _circuit_of(job, accessory_id, output)
        use = rebuilt(job.use_of(circuit), **changes)
        return SetCircuitUse(circuit_id=circuit.id, use=use).apply(job)
    accessory = job.accessory(accessory_id)
    changed = rebuilt(accessory, use=rebuilt(accessory.use, **changes))
    return ChangeAccessory(accessory=changed).apply(job)


def _channel_of(job: Job, line: ChannelLine) -> Channel:
    point = next((p for p in job.points if p.name == line.point), None)
    if point is None or point.position(line.position) is None:
        raise EditRefusedError(
            "channel", f"this job has no {line.point} {line.position}: add it to the supply first"
        )
    return Channel(point=point.id, position=line.position)


def _tied(job: Job, tie: TieLine, accessory_id: str, other_id: str) -> Job:
    accessory = job.accessory(accessory_id)
    inputs = tuple(
        rebuilt(w, ends="accessory", at=f"{other_id} {tie.other_wire}") if w.name == tie.wire else w
        for w in accessory.inputs
    )
    return ChangeAccessory(accessory=rebuilt(accessory, inputs=inputs)).apply(job)
