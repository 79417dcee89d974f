"""The job document: only what a person stated, validated once at the border.

This is the one Pydantic model of the core; everything derived lives in frozen dataclasses.
Ranges are limits of sense, wide enough for any road vehicle; outside them a figure is a slip.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Literal, Protocol, Self, TypeVar, get_args

from pydantic import FailFast, Field, StringConstraints, model_validator

from ready_trail.core.job.accessory import Accessory, Use
from ready_trail.core.job.circuit import AcceptedFinding, Circuit
from ready_trail.core.job.layout import Layout
from ready_trail.core.job.parts import Name, Note, Readable, Stated
from ready_trail.core.job.points import BATTERY, Point, Position, SignalPlace, Switch, VehicleSignal
from ready_trail.core.job.scenario import DayPart, Scenario
from ready_trail.core.job.survey import Survey
from ready_trail.core.job.vehicle import HouseRules, Vehicle

SCHEMA_VERSION: Literal[2] = 2
SEGMENTS_MOST = 4_000
"""Segments of all runs together that the program can carry."""


class Job(Stated):
    """One vehicle's work. ``last_number`` is the highest ever given: ids never return."""

    schema_version: Literal[2] = SCHEMA_VERSION
    name: Name
    place: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), Readable] = ""
    note: Note = ""
    last_number: Annotated[int, Field(ge=0, le=99_999)] = 0
    vehicle: Vehicle = Vehicle()
    rules: HouseRules = HouseRules()
    survey: Survey = Survey()
    layout: Layout | None = None
    signals: Annotated[tuple[SignalPlace, ...], Field(max_length=12)] = ()
    points: Annotated[tuple[Point, ...], Field(max_length=60)] = ()
    switches: Annotated[tuple[Switch, ...], Field(max_length=400), FailFast()] = ()
    accessories: Annotated[tuple[Accessory, ...], Field(max_length=400), FailFast()] = ()
    circuits: Annotated[tuple[Circuit, ...], Field(max_length=400), FailFast()] = ()
    scenarios: Annotated[tuple[Scenario, ...], Field(max_length=24)] = ()
    day: Annotated[tuple[DayPart, ...], Field(max_length=24)] = ()
    accepted: Annotated[tuple[AcceptedFinding, ...], Field(max_length=50)] = ()

    @model_validator(mode="after")
    def _references_hold(self) -> Self:
        _require_distinct("accessories", [accessory.id for accessory in self.accessories])
        _require_distinct("circuits", [circuit.id for circuit in self.circuits])
        _require_distinct("circuit numbers", [str(c.number) for c in self.circuits])
        _require_distinct("points", [point.id for point in self.points])
        _require_distinct("switches", [switch.name.casefold() for switch in self.switches])
        _require_distinct("switch numbers", [str(switch.number) for switch in self.switches])
        checks = (
            self._circuits_hold,
            self._switches_hold,
            self._wires_hold,
            self._places_hold,
            self._scenarios_hold,
        )
        segments = sum(len(c.segments) for c in self.circuits)
        if segments > SEGMENTS_MOST:
            raise ValueError(
                f"circuits: {segments:,} segments of runs; {SEGMENTS_MOST:,} are the most"
            )
        for check in checks:
            for problem in check():
                raise ValueError(problem)
        return self

    def _circuits_hold(self) -> Iterator[str]:
        points = {point.id: point for point in self.points}
        taken: set[tuple[str, str]] = set()
        feeders: dict[str, Circuit] = {}
        for circuit in self.circuits:
            yield from self._loads_hold(circuit)
            yield from _start_holds(circuit, points, taken)
            if circuit.feeds is not None:
                if circuit.feeds not in points:
                    yield f"circuit {circuit.id} feeds {circuit.feeds}, which is no point here"
                elif points[circuit.feeds].fed_by_vehicle:
                    yield f"{points[circuit.feeds].name} is fed by the vehicle itself"
                if circuit.feeds in feeders:
                    yield f"{points[circuit.feeds].name} has two feeders"
                feeders[circuit.feeds] = circuit
            yield from self._branches_hold(circuit)
        _require_distinct("accessories on circuits", list(self._fed_outputs()))
        yield from self._loops(feeders)

    def _loads_hold(self, circuit: Circuit) -> Iterator[str]:
        """What a circuit feeds is there, and has the output that it takes."""
        known = {a.id: a for a in self.accessories}
        for accessory_id in circuit.accessory_ids:
            if accessory_id not in known:
                yield (
                    f"circuit {circuit.id} names accessory {accessory_id}, "
                    "which this job does not have"
                )
                continue
            accessory = known[accessory_id]
            outputs = [o.name for o in accessory.outputs]
            if circuit.output and outputs and circuit.output not in outputs:
                yield f"{accessory.name} has no output {circuit.output}"

    def _fed_outputs(self) -> Iterator[str]:
        """Every accessory that is fed, or every output of one that has several."""
        outputs = {a.id: tuple(o.name for o in a.outputs) or ("",) for a in self.accessories}
        for circuit in self.circuits:
            for accessory_id in circuit.accessory_ids:
                fed = outputs.get(accessory_id, ("",))
                for name in (circuit.output,) if circuit.output in fed else fed:
                    yield f"{accessory_id} {name}".strip()

    def _branches_hold(self, circuit: Circuit) -> Iterator[str]:
        """Every unit of a branching circuit hangs on one branch, no more and no less."""
        if not circuit.branches:
            return
        hung: dict[str, int] = {}
        for branch in circuit.branches:
            for share in branch.loads:
                hung[share.accessory] = hung.get(share.accessory, 0) + share.units
        for accessory_id in circuit.accessory_ids:
            accessory = self.accessory(accessory_id)
            if accessory.model == "winch":
                yield f"{accessory.name} has a circuit of its own, without branches"
            if hung.pop(accessory_id, 0) != accessory.quantity:
                yield (
                    f"branches of {circuit.name}: not every unit of {accessory.name} "
                    "hangs on exactly one"
                )
        for stray in hung:
            yield f"branches of {circuit.name}: {stray} is not on this circuit"

    def _loops(self, feeders: dict[str, Circuit]) -> Iterator[str]:
        for point in self.points:
            seen = {point.id}
            at = feeders.get(point.id)
            while at is not None and at.start.point != BATTERY:
                if at.start.point in seen:
                    yield f"{point.name} would feed itself: the feeders run in a loop"
                    return
                seen.add(at.start.point)
                at = feeders.get(at.start.point)

    def _switches_hold(self) -> Iterator[str]:
        by_name = {switch.name: switch for switch in self.switches}
        points = {point.id: point for point in self.points}
        for use in self.uses():
            if use.switch and use.switch not in by_name:
                yield f"the switch {use.switch} is not among this job's switches"
            elif use.throw and by_name[use.switch].throws != 2:
                yield f"the switch {use.switch} has no side {use.throw}"
            if use.channel is not None and use.channel.point not in points:
                yield f"no point {use.channel.point} gives this trigger"
        for point in self.points:
            pulse = by_name.get(point.pulse_switch)
            if pulse is not None and pulse.throws != 2:
                yield f"the switch {pulse.name} has one side; {point.name} wants one for each pulse"
        for switch in self.switches:
            if switch.panel is not None and switch.panel not in points:
                yield f"the switch {switch.name} sits in a panel that is not there"

    def _wires_hold(self) -> Iterator[str]:
        """What function wires end at exists, and synchronising wires make no ring."""
        inputs = {(a.id, w.name): w for a in self.accessories for w in a.inputs}
        switches = {switch.name for switch in self.switches}
        for (accessory_id, name), wire in inputs.items():
            if wire.ends == "switch" and wire.at not in switches:
                yield f"the wire {name} ends at the switch {wire.at}, which is not there"
            if wire.ends == "signal" and wire.at not in _SIGNALS:
                yield f"the wire {name} ends at {wire.at}, which is no signal of a vehicle"
            seen = [(accessory_id, name)]
            at = wire
            while at.ends == "accessory":
                other, _, its = at.at.partition(" ")
                if (other, its) not in inputs:
                    yield f"the wire {name} ends at {at.at}, which is no function wire here"
                    break
                if (other, its) in seen:
                    yield f"the synchronising wire {name} runs in a ring; end one of them free"
                    break
                seen.append((other, its))
                at = inputs[other, its]

    def _scenarios_hold(self) -> Iterator[str]:
        known = {accessory.id for accessory in self.accessories}
        ids = [scenario.id for scenario in self.scenarios]
        names = [scenario.name.casefold() for scenario in self.scenarios]
        for values in (ids, names):
            _require_distinct("scenarios", values)
        for scenario in self.scenarios:
            for item in scenario.running:
                if item.accessory not in known:
                    yield f"{scenario.name} runs {item.accessory}, which this job does not have"
        for part in self.day:
            if part.scenario not in ids:
                yield f"the day names {part.scenario}, which is no scenario here"

    def _places_hold(self) -> Iterator[str]:
        spots = {p.id for p in self.layout.points} if self.layout else set()
        for circuit in self.circuits:
            place = circuit.place
            for branch in circuit.branches:
                for spot in (branch.place, branch.earth):
                    if spot is not None and spot not in spots:
                        yield f"{branch.name} is placed at {spot}, which is not a point"
            if place is None:
                continue
            if place.load is None and circuit.feeds is None:
                yield f"circuit {circuit.id} is placed, but its accessory is not"
            for spot in (place.load, place.switching, place.earth, *place.via):
                if spot is not None and spot not in spots:
                    yield f"circuit {circuit.id} is placed at {spot}, which is not a point"
        others = [("point", p.name, p.place) for p in self.points]
        others += [("switch", s.name, s.place) for s in self.switches]
        others += [("signal", s.signal, s.place) for s in self.signals]
        for what, name, spot in others:
            if spot is not None and spot not in spots:
                yield f"the {what} {name} is placed at {spot}, which is not a point"

    def uses(self) -> tuple[Use, ...]:
        """Return every use that is stated: of accessories, and of feeders."""
        by_output = {i for c in self.circuits if c.output for i in c.accessory_ids}
        own = tuple(a.use for a in self.accessories if a.id not in by_output)
        own += tuple(
            Use(key="always", switch=w.at)
            for a in self.accessories
            for w in a.inputs
            if w.ends == "switch"
        )
        own += tuple(
            Use(key="always", switch=p.pulse_switch) for p in self.points if p.pulse_switch
        )
        return own + tuple(c.use for c in self.circuits if c.use is not None)

    def loads_of(self, circuit: Circuit) -> tuple[Accessory, ...]:
        """Return what a circuit feeds of its accessories: all of each, or one output."""
        return tuple(
            self.accessory(i).only(output=circuit.output or self.accessory(i).main_output)
            for i in circuit.accessory_ids
        )

    def plus_of(self, circuit: Circuit) -> str:
        """Return the terminal at which a circuit feeds its accessory: "+", or an output's name."""
        if circuit.output or not circuit.accessory_ids:
            return circuit.output or "+"
        first = self.accessory(circuit.accessory_ids[0])
        return first.main_output or ("F1" if first.remote and first.field_posts else "+")

    def use_of(self, circuit: Circuit) -> Use:
        """Return what decides when a circuit is on: its accessory's use, or its own."""
        if circuit.accessory_ids and circuit.use is None:
            return self.accessory(circuit.accessory_ids[0]).use
        return circuit.use if circuit.use is not None else Use(key="always")

    def accessory(self, accessory_id: str) -> Accessory:
        """Return one accessory; KeyError when the job has none of that id."""
        return _by_id(self.accessories, accessory_id)

    def circuit(self, circuit_id: str) -> Circuit:
        """Return one circuit; KeyError when the job has none of that id."""
        return _by_id(self.circuits, circuit_id)

    def point(self, point_id: str) -> Point:
        """Return one distribution point; KeyError when the job has none of that id."""
        return _by_id(self.points, point_id)

    def switch(self, name: str) -> Switch | None:
        """Return one switch by its name, or None."""
        return next((s for s in self.switches if s.name == name), None)

    def legend(self, point: Point, position: Position) -> str:
        """Return what stands beside a position: as stated, else the name of what is there."""
        if position.legend:
            return position.legend
        for switch in self.switches:
            if switch.panel == point.id and switch.position == position.name:
                return switch.name
        for circuit in self.circuits:
            if circuit.start.point == point.id and circuit.start.position == position.name:
                fed = next((p.name for p in self.points if p.id == circuit.feeds), "")
                return fed or circuit.name
        return ""

    def leader(self, circuit: Circuit) -> Circuit:
        """Return the circuit whose return a further output of its accessory shares, or itself.

        Outputs of one accessory have one way back: that of the first circuit, by number.
        """
        if not circuit.output or circuit.branches or len(circuit.accessory_ids) != 1:
            return circuit
        group = [
            c
            for c in self.circuits_of(circuit.accessory_ids[0])
            if c.output and not c.branches and len(c.accessory_ids) == 1
        ]
        return min(group, key=lambda c: c.number)

    def followers(self, circuit: Circuit) -> tuple[Circuit, ...]:
        """Return the circuits that feed further outputs and share this one's return."""
        if not circuit.output or self.leader(circuit).id != circuit.id:
            return ()
        others = self.circuits_of(circuit.accessory_ids[0]) if circuit.accessory_ids else ()
        return tuple(c for c in others if c.id != circuit.id and self.leader(c).id == circuit.id)

    def circuits_of(self, accessory_id: str) -> tuple[Circuit, ...]:
        """Return the circuits that feed an accessory: one for each output, or one for all."""
        return tuple(c for c in self.circuits if accessory_id in c.accessory_ids)

    def circuit_of(self, accessory_id: str) -> Circuit | None:
        """Return the circuit that feeds an accessory, the first of several, or None."""
        return next((c for c in self.circuits if accessory_id in c.accessory_ids), None)

    def feeder_of(self, point_id: str) -> Circuit | None:
        """Return the circuit that feeds a point, or None."""
        return next((c for c in self.circuits if c.feeds == point_id), None)

    def signal_place(self, signal: str) -> str | None:
        """Return where a vehicle signal is picked up on the layout, or None."""
        return next((s.place for s in self.signals if s.signal == signal), None)

    def signal_most_a(self, signal: str) -> float | None:
        """Return what a vehicle signal may give to a trigger, where that is stated. [A]"""
        return next((s.most_a for s in self.signals if s.signal == signal), None)


_SIGNALS = frozenset(get_args(VehicleSignal)) - {"constant"}


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=_HasId)


def _by_id(items: tuple[T, ...], wanted: str) -> T:
    """Return the part of the document with an id; KeyError when there is none."""
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(wanted)


def _start_holds(
    circuit: Circuit, points: Mapping[str, Point], taken: set[tuple[str, str]]
) -> Iterator[str]:
    """Where a circuit starts, and what it rests on, is there and not used twice."""
    start, rest = circuit.start, circuit.rest_start
    if start.point != BATTERY and start.point not in points:
        yield f"circuit {circuit.id} starts at {start.point}, which is no point of this job"
    if start.position and start.point in points:
        point = points[start.point]
        if point.position(start.position) is None:
            yield f"{point.name} has no position {start.position}"
        if (start.point, start.position) in taken:
            yield f"{point.name} position {start.position} is used twice"
        taken.add((start.point, start.position))
    if rest is not None and rest.point != BATTERY and rest.point not in points:
        yield f"circuit {circuit.id} rests on {rest.point}, which is no point of this job"
    elif rest is not None and rest.position:
        if (rest.point, rest.position) in taken:
            yield f"{points[rest.point].name} position {rest.position} is used twice"
        taken.add((rest.point, rest.position))


def _require_distinct(what: str, values: list[str]) -> None:
    if len(set(values)) == len(values):
        return
    for value in values:
        if values.count(value) > 1:
            raise ValueError(f"{what}: {value} stands twice")
