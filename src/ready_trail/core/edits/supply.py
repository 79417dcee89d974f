"""Edits of the supply: points, feeders, where circuits start; and of the hand switches."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ready_trail.core.edits.base import (
    Edit,
    find_circuit,
    next_number,
    rebuilt,
    with_circuit,
    with_switch,
    with_switch_of,
    without_idle_switches,
)
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, merged, rows, without_blanks
from ready_trail.core.job.accessory import Channel, KeyUse, Use
from ready_trail.core.job.circuit import Circuit, HeldChoices, Return, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Number
from ready_trail.core.job.points import BATTERY, Point, Position, Switch
from ready_trail.core.job.sites import likely_run
from ready_trail.core.supply.starts import free_position


class PointDraft(Point):
    """A point that has no place in a job yet."""

    id: Ident = "new"
    number: Number = 1


class AddSupply(Edit):
    """Add a distribution point, with the feeder that brings its current.

    A point that the vehicle feeds has none. ``wake`` is what the feeder follows; ``switches``
    that are there are taken into a new panel, ``new_switches`` come with it.
    """

    kind: Literal["add_supply"] = "add_supply"
    point: PointDraft
    start: Channel = Channel(point=BATTERY)
    run: tuple[Segment, ...] | None = None
    back: Return | None = None
    wake: Use = Use(key="always")
    held: HeldChoices = HeldChoices()
    fed: bool = True
    switches: tuple[str, ...] = ()
    new_switches: tuple[Switch, ...] = ()

    def apply(self, job: Job) -> Job:
        """Return the job with the point and its feeder."""
        number = next_number(job)
        point = Point.model_validate({**dict(self.point), "id": f"p{number}", "number": number})
        job = _with_pulse(rebuilt(job, last_number=number), point)
        job = rebuilt(job, points=(*job.points, point))
        if self.fed and not point.fed_by_vehicle:
            job = FeedPoint(
                point_id=point.id,
                start=self.start,
                run=self.run,
                back=self.back,
                wake=self.wake,
                held=self.held,
            ).apply(job)
        if self.switches:
            taken = [s for s in job.switches if s.name in self.switches]
            names = [p.name for p in point.positions]
            moved = {
                s.name: rebuilt(s, panel=point.id, position=names[at] if at < len(names) else "")
                for at, s in enumerate(taken)
            }
            job = rebuilt(job, switches=tuple(moved.get(s.name, s) for s in job.switches))
        names = [p.name for p in point.positions]
        for at, switch in enumerate(self.new_switches):
            name = _free_name(job, switch.name)
            position = names[at] if at < len(names) else ""
            new = switch.model_copy(update={"panel": point.id, "position": position})
            job = with_switch(job, name, new)
        return job

    def title(self, job: Job) -> str:
        """Say its name."""
        return f"Add {self.point.name}"

    def added(self, after: Job) -> str:
        """Return the point's id."""
        return after.points[-1].id


class FeedPoint(Edit):
    """Give a point that is there its feeder."""

    kind: Literal["feed_point"] = "feed_point"
    point_id: Ident
    start: Channel = Channel(point=BATTERY)
    run: tuple[Segment, ...] | None = None
    back: Return | None = None
    wake: Use = Use(key="always")
    held: HeldChoices = HeldChoices()

    def apply(self, job: Job) -> Job:
        """Return the job with the feeder."""
        point = find_point(job, self.point_id)
        if job.feeder_of(point.id) is not None:
            raise EditRefusedError("point_id", f"{point.name} has a feeder already")
        job = with_switch_of(job, self.wake)
        number = next_number(job)
        run = self.run or _feeder_run(job, point)
        run_m = sum(s.length_m for s in run)
        composite = job.vehicle.body == "composite"
        feeder = Circuit(
            id=f"c{number}",
            number=number,
            name=f"Feeder of {point.name}"[:80],
            start=_with_position(job, self.start),
            feeds=point.id,
            use=self.wake,
            run=run,
            back=self.back or Return(kind="wire" if composite else "chassis"),
            fuse_at_m=min(0.15, run_m / 4),
            switching_at_m=min(0.3, run_m / 2),
            end_fuse=point.is_a.stores or point.is_a.holds_vehicle,
            held=self.held,
        )
        return rebuilt(job, last_number=number, circuits=(*job.circuits, feeder))

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Feed {find_point(job, self.point_id).name}"


class ChangePoint(Edit):
    """Change what is stated of a point: limits, positions, legends, spares."""

    kind: Literal["change_point"] = "change_point"
    point: Point

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the point; a position without a name is gone."""
        stated = mapping(typed.get("point"))
        before = find_point(job, str(stated.get("id", "")))
        point = merged(before.model_dump(), stated)
        if "positions" in stated:
            point["positions"] = [r for r in rows(stated["positions"]) if r.get("name")]
        return {**typed, "point": point}

    def apply(self, job: Job) -> Job:
        """Return the job with the point changed; a used position cannot go."""
        before = find_point(job, self.point.id)
        point = rebuilt(self.point, number=before.number)
        names = {p.name for p in point.positions}
        for circuit in job.circuits:
            start = circuit.start
            if start.point == point.id and start.position and start.position not in names:
                raise EditRefusedError(
                    "positions", f"position {start.position} feeds {circuit.name}; move that first"
                )
        job = _with_pulse(job, point)
        points = tuple(point if p.id == point.id else p for p in job.points)
        feeder = job.feeder_of(point.id)
        circuits = job.circuits
        if feeder is not None and feeder.name == f"Feeder of {before.name}"[:80]:
            named = rebuilt(feeder, name=f"Feeder of {point.name}"[:80])
            circuits = tuple(named if c.id == feeder.id else c for c in circuits)
        job = rebuilt(job, points=points, circuits=circuits)
        return without_idle_switches(job, before.pulse_switch)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Change {find_point(job, self.point.id).name}"


class RemoveSupply(Edit):
    """Remove a point with its feeder; what starts there is moved, or the removal is refused."""

    kind: Literal["remove_supply"] = "remove_supply"
    point_id: Ident
    move_to: Channel | None = None

    def apply(self, job: Job) -> Job:
        """Return the job without the point."""
        point = find_point(job, self.point_id)
        behind = [c for c in job.circuits if c.start.point == point.id]
        if behind and self.move_to is None:
            names = ", ".join(c.name for c in behind[:3]) + (" and more" if len(behind) > 3 else "")
            raise EditRefusedError(
                "point_id", f"{point.name} still feeds {names}; say where these start instead"
            )
        triggered = [
            a.name
            for a in job.accessories
            if a.use.channel is not None and a.use.channel.point == point.id
        ]
        if triggered:
            raise EditRefusedError("point_id", f"{point.name} still triggers {triggered[0]}")
        circuits = tuple(
            rebuilt(c, start=Channel(point=self.move_to.point))
            if self.move_to is not None and c.start.point == point.id
            else c
            for c in job.circuits
            if c.feeds != point.id
        )
        circuits = tuple(
            rebuilt(c, rest_start=None)
            if c.rest_start is not None and c.rest_start.point == point.id
            else c
            for c in circuits
        )
        left = {c.id for c in circuits}
        circuits = tuple(
            rebuilt(c, never_with=tuple(i for i in c.never_with if i in left))
            if c.never_with
            else c
            for c in circuits
        )
        switches = tuple(
            rebuilt(s, panel=None, position="") if s.panel == point.id else s for s in job.switches
        )
        points = tuple(p for p in job.points if p.id != point.id)
        job = rebuilt(
            job,
            last_number=max(job.last_number, next_number(job) - 1),
            points=points,
            circuits=circuits,
            switches=switches,
        )
        return without_idle_switches(job, point.pulse_switch)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Remove {find_point(job, self.point_id).name}"


class StartAt(CircuitEdit):
    """Say where a circuit starts: point and position; and perhaps the channel that triggers it."""

    kind: Literal["start_at"] = "start_at"
    start: Channel
    trigger: Channel | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with that start; two circuits that meet on a position change places."""
        circuit = self.circuit(job)
        start = _with_position(job, self.start, circuit)
        if start == circuit.start and self.trigger is None:
            return job
        taken = next(
            (c for c in job.circuits if start.position and c.start == start and c != circuit), None
        )
        changes = {circuit.id: _moved(job, circuit, start)}
        if taken is not None:
            if circuit.start.point != start.point:
                raise EditRefusedError(
                    "start.position", f"position {start.position} feeds {taken.name} already"
                )
            changes[taken.id] = rebuilt(taken, start=circuit.start)
        circuits = tuple(changes.get(c.id, c) for c in job.circuits)
        accessories = job.accessories
        if self.trigger is not None:
            triggered = {"channel": self.trigger}
            if circuit.use is not None:  # of one output, whose circuit has a use of its own
                use = circuit.use.model_copy(update=triggered)
                circuits = tuple(rebuilt(c, use=use) if c.id == circuit.id else c for c in circuits)
            else:
                ids = circuit.accessory_ids
                accessories = tuple(
                    rebuilt(a, use=a.use.model_copy(update=triggered)) if a.id in ids else a
                    for a in accessories
                )
        return rebuilt(job, circuits=circuits, accessories=accessories)

    def title(self, job: Job) -> str:
        """Say where."""
        name = self.circuit(job).name
        if self.start.point == BATTERY:
            return f"Start {name} at the battery"
        where = find_point(job, self.start.point).name
        return f"Start {name} at {where} {self.start.position}".rstrip()


class SetRestStart(CircuitEdit):
    """Give a circuit a second feed, taken while its relay is at rest; ``None`` takes it away."""

    kind: Literal["set_rest_start"] = "set_rest_start"
    start: Channel | None

    def apply(self, job: Job) -> Job:
        """Return the job with that second feed."""
        circuit = self.circuit(job)
        if self.start is not None and self.start.point != BATTERY:
            find_point(job, self.start.point)
        return with_circuit(job, circuit, rest_start=self.start)

    def title(self, job: Job) -> str:
        """Say which."""
        name = self.circuit(job).name
        return f"{'Give' if self.start else 'Take from'} {name} a second feed"


class StartBehindConverter(CircuitEdit):
    """Add a converter of the voltage that a circuit needs, and start the circuit there."""

    kind: Literal["start_behind_converter"] = "start_behind_converter"
    output_v: Literal[12, 24]
    output_a: Annotated[float, Field(ge=1, le=200)] = 25.0

    def apply(self, job: Job) -> Job:
        """Return the job with the converter and the circuit behind it."""
        circuit = self.circuit(job)
        zone = circuit.run[0].zone
        draft = PointDraft(
            kind="converter",
            name=f"{job.vehicle.nominal_v} to {self.output_v} V converter",
            zone=zone,
            output_v=self.output_v,
            output_a=self.output_a,
        )
        job = AddSupply(point=draft).apply(job)
        return StartAt(circuit_id=circuit.id, start=Channel(point=job.points[-1].id)).apply(job)

    def title(self, job: Job) -> str:
        """Say for which."""
        return f"Add a converter to {self.output_v} V for {self.circuit(job).name}"


class WakePoint(Edit):
    """Say what a point's feeder follows: always live, the accessory key, the ignition."""

    kind: Literal["wake_point"] = "wake_point"
    point_id: Ident
    key: KeyUse = "run"

    def apply(self, job: Job) -> Job:
        """Return the job with the feeder following that key."""
        point = find_point(job, self.point_id)
        feeder = job.feeder_of(point.id)
        if feeder is None:
            if point.fed_by_vehicle:
                points = tuple(
                    rebuilt(p, key=self.key) if p.id == point.id else p for p in job.points
                )
                return rebuilt(job, points=points)
            raise EditRefusedError("point_id", f"{point.name} has no feeder yet")
        use = job.use_of(feeder).model_copy(update={"key": self.key})
        held = feeder.held.model_copy(update={"scheme": None})
        return with_circuit(job, feeder, use=use, held=held)

    def title(self, job: Job) -> str:
        """Say how."""
        name = find_point(job, self.point_id).name
        words = {
            "always": "always live",
            "accessory": "with the accessory key",
            "run": "with the ignition",
        }[self.key]
        return f"Wake {name}: {words}"


class SetTogether(Edit):
    """State what runs together behind a point, or let it follow from what can be on."""

    kind: Literal["set_together"] = "set_together"
    point_id: Ident
    together_a: Annotated[float, Field(ge=0.1, le=1000)] | None

    def apply(self, job: Job) -> Job:
        """Return the job with the statement."""
        point = find_point(job, self.point_id)
        changed = rebuilt(point, together_a=self.together_a)
        return rebuilt(job, points=tuple(changed if p.id == point.id else p for p in job.points))

    def title(self, job: Job) -> str:
        """Say the figure."""
        name = find_point(job, self.point_id).name
        if self.together_a is None:
            return f"{name}: what can be on together"
        return f"{name}: {self.together_a:g} A run together"


class SetFeederUse(CircuitEdit):
    """Say what a feeder follows and which switch works it."""

    kind: Literal["set_feeder_use"] = "set_feeder_use"
    use: Use
    switch: Switch | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the use, and over the switch that it names."""
        feeder = find_circuit(job, str(typed.get("circuit_id", "")))
        use = merged(job.use_of(feeder).model_dump(), mapping(typed.get("use")))
        known = job.switch(str(use.get("switch") or ""))
        kept = known.model_dump() if known is not None else {}
        stated = without_blanks(mapping(typed.get("switch")), "rating_a")
        switch = {**kept, **stated, "name": use["switch"]} if use.get("switch") else None
        return {**typed, "use": use, "switch": switch}

    def apply(self, job: Job) -> Job:
        """Return the job with the feeder used that way."""
        feeder = self.circuit(job)
        if not feeder.is_feeder:
            raise EditRefusedError("circuit_id", "its accessory says how this circuit is used")
        was = job.use_of(feeder).switch
        job = with_switch_of(job, self.use, self.switch)
        job = with_circuit(job, find_circuit(job, feeder.id), use=self.use)
        return without_idle_switches(job, was)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Change what wakes {self.circuit(job).name}"


class FitEndFuse(CircuitEdit):
    """Put a second fuse at the far end of a link between two sources."""

    kind: Literal["fit_end_fuse"] = "fit_end_fuse"

    def apply(self, job: Job) -> Job:
        """Return the job with both ends fused."""
        return with_circuit(job, self.circuit(job), end_fuse=True)

    def title(self, job: Job) -> str:
        """Say where."""
        return f"Fuse both ends of {self.circuit(job).name}"


def _free_name(job: Job, name: str) -> str:
    """The name, or the name with a number that no switch has yet."""
    at, free = 2, name
    while job.switch(free) is not None:
        free, at = f"{name} ({at})", at + 1
    return free


def find_point(job: Job, point_id: str) -> Point:
    """Return a distribution point of the job, or refuse the edit."""
    try:
        return job.point(point_id)
    except KeyError:
        raise EditRefusedError("point_id", "this point is no longer in the job") from None


def _feeder_run(job: Job, point: Point) -> tuple[Segment, ...]:
    """An estimated run to where the point sits."""
    if point.zone == "engine_bay":
        return (Segment(zone="engine_bay", length_m=0.8),)
    if not job.vehicle.has_cabin:
        return (Segment(zone=point.zone, length_m=0.5),)
    near = likely_run(job.vehicle.kind, "cabin")[:1]
    return (*near, Segment(zone=point.zone, length_m=1.5))


def _with_pulse(job: Job, point: Point) -> Job:
    """Return the job with the switch that works a disconnect: a new one springs back both ways."""
    if not point.pulse_switch:
        return job
    if not point.is_a.parts_battery:
        raise EditRefusedError("pulse_switch", "a pulse works a battery disconnect alone")
    known = job.switch(point.pulse_switch)
    if known is None:
        new = Switch(name=point.pulse_switch, throws=2, momentary=True, guarded=True)
        return with_switch(job, point.pulse_switch, new)
    if known.throws != 2:
        raise EditRefusedError(
            "pulse_switch", f"{known.name} has one side; it takes one for each pulse: off-I-II"
        )
    return job


def _with_position(job: Job, start: Channel, circuit: Circuit | None = None) -> Channel:
    """Take the first free position where none is named; the battery has none."""
    if start.point == BATTERY:
        return Channel(point=BATTERY)
    if start.position:
        return start
    point = find_point(job, start.point)
    if circuit is not None and circuit.start.point == point.id:
        return circuit.start
    free = free_position(job, point)
    return Channel(point=point.id, position=free or "")


def _moved(job: Job, circuit: Circuit, start: Channel) -> Circuit:
    """The circuit at its new start; a return to an earth bus needs one there."""
    point = next((p for p in job.points if p.id == start.point), None)
    back = circuit.back
    if back.by_bus and (point is None or not (point.earth_bus or point.starts_a_system)):
        back = rebuilt(back, kind="wire")
    held = circuit.held
    if held.family == "post_block" and start.point != BATTERY:
        held = held.model_copy(update={"family": None})  # only for what starts at the post
    return rebuilt(circuit, start=start, back=back, held=held)


def positions(count: int, rating_a: float | None = None) -> tuple[Position, ...]:
    """Return numbered positions, for a new block or panel."""
    return tuple(Position(name=str(at), rating_a=rating_a) for at in range(1, count + 1))
