"""Filling the channels of a module or bank: many circuits in one act, their own switches gone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ready_trail.core.edits.base import Edit, find_circuit, rebuilt, without_idle_switches
from ready_trail.core.edits.remedy import with_use
from ready_trail.core.edits.supply import StartAt, find_point
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Channel
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident
from ready_trail.core.job.points import Point, Position
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.tree import KEY_ORDER, Tree


class FillChannels(Edit):
    """Start circuits at a point's free channels, in order.

    Each takes the first free channel that carries it with the maker's share. What none carries
    keeps fuse and relay, and the channel that is next triggers it. The channel takes the place of
    the circuit's own switch, springs back where that did, follows the key that it followed, and
    gets its legend.
    """

    kind: Literal["fill_channels"] = "fill_channels"
    point_id: Ident
    circuit_ids: Annotated[tuple[Ident, ...], Field(min_length=1, max_length=60)]

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Refuse a form on which nothing is ticked."""
        if not typed.get("circuit_ids"):
            raise EditRefusedError("circuit_ids", "Tick at least one circuit.")
        return dict(typed)

    def apply(self, job: Job) -> Job:
        """Return the job with the circuits on their channels."""
        point = find_point(job, self.point_id)
        if not point.is_a.has_channels:
            raise EditRefusedError("point_id", f"{point.name} has no channels that a hand switches")
        gone: list[str] = []
        for circuit_id in self.circuit_ids:
            circuit = find_circuit(job, circuit_id)
            why_not = why_no_channel(job, circuit)
            if why_not:
                raise EditRefusedError("circuit_ids", f"{circuit.name} {why_not}")
            channel = _channel_for(job, find_point(job, point.id), circuit)
            gone.append(job.use_of(circuit).switch)
            job = _on_channel(job, circuit, *channel)
        return without_idle_switches(job, *gone)

    def title(self, job: Job) -> str:
        """Say how many."""
        count = len(self.circuit_ids)
        what = find_circuit(job, self.circuit_ids[0]).name if count == 1 else f"{count} circuits"
        return f"Put {what} on {find_point(job, self.point_id).name}"


def why_no_channel(job: Job, circuit: Circuit) -> str:
    """Return why a channel that a hand switches cannot work a circuit, or an empty text."""
    use = job.use_of(circuit)
    if not circuit.accessory_ids:
        return "feeds a point; a channel switches accessories"
    if any(a.model == "winch" for a in job.loads_of(circuit)):
        return "takes more than any channel"
    if use.while_on:
        return "works only while another circuit is on"
    if use.lights != "any" or use.signal or use.also or use.unless or use.unit:
        return "follows the lights or a signal; a channel follows a key alone"
    return ""


def _channel_for(job: Job, point: Point, circuit: Circuit) -> tuple[Channel, Position, bool]:
    """The first free channel that carries a circuit, else the first free one as its trigger."""
    tree = Tree(job)
    used = {c.start.position for c in job.circuits if c.start.point == point.id}
    used |= {
        u.channel.position
        for u in job.uses()
        if u.channel is not None and u.channel.point == point.id
    }
    free = [p for p in point.positions if p.name not in used and not p.spare]
    if not free:
        raise EditRefusedError(
            "circuit_ids", f"{point.name} has no free channel left for {circuit.name}"
        )
    share = point.channel_ratio or job.rules.k_cont
    amps = Currents(tree).circuit_a(circuit)
    fits = [p for p in free if p.rating_a is None or amps <= share * p.rating_a]
    chosen = (fits or free)[0]
    return Channel(point=point.id, position=chosen.name), chosen, bool(fits)


def _on_channel(
    job: Job, circuit: Circuit, channel: Channel, position: Position, carries: bool
) -> Job:
    use = job.use_of(circuit)
    switch = job.switch(use.switch) if use.switch else None
    if carries:
        job = StartAt(circuit_id=circuit.id, start=channel).apply(job)
        moved = find_circuit(job, circuit.id)
        held = moved.held.model_copy(
            update={"scheme": None, "family": None, "fuse_a": None, "relay": None}
        )
        job = rebuilt(
            job,
            circuits=tuple(rebuilt(c, held=held) if c.id == moved.id else c for c in job.circuits),
        )
    plain = {"switch": "", "throw": "", "channel": None if carries else channel}
    job = with_use(job, find_circuit(job, circuit.id), use.model_copy(update=plain))
    springs = "momentary" if switch is not None and switch.momentary else position.mode
    point = find_point(job, channel.point)
    later = KEY_ORDER.index(use.key) > KEY_ORDER.index(Tree(job).waking(point.id).key)
    told = rebuilt(
        position,
        mode=springs,
        legend=position.legend or circuit.name[:40],
        wakes=use.key if later else position.wakes,
    )
    positions = tuple(told if p.name == position.name else p for p in point.positions)
    changed = rebuilt(point, positions=positions)
    return rebuilt(job, points=tuple(changed if p.id == point.id else p for p in job.points))
