"""The job document: only what a person stated, validated once at the border.

This is the one Pydantic model of the core; everything derived lives in frozen dataclasses.
Ranges are limits of sense, wide enough for any road vehicle; outside them a figure is a slip.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from ready_trail.core.job.accessory import Accessory, Use
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.layout import Layout
from ready_trail.core.job.parts import Name, Note, Stated
from ready_trail.core.job.supply import BATTERY, Point, SignalPlace, Switch
from ready_trail.core.job.survey import Survey
from ready_trail.core.job.vehicle import HouseRules, Vehicle

SCHEMA_VERSION: Literal[2] = 2


class Job(Stated):
    """One vehicle's work. ``last_number`` is the highest ever given: ids never return."""

    schema_version: Literal[2] = SCHEMA_VERSION
    name: Name
    place: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    note: Note = ""
    last_number: Annotated[int, Field(ge=0, le=99_999)] = 0
    vehicle: Vehicle = Vehicle()
    rules: HouseRules = HouseRules()
    survey: Survey = Survey()
    layout: Layout | None = None
    signals: Annotated[tuple[SignalPlace, ...], Field(max_length=6)] = ()
    points: Annotated[tuple[Point, ...], Field(max_length=60)] = ()
    switches: Annotated[tuple[Switch, ...], Field(max_length=400)] = ()
    accessories: Annotated[tuple[Accessory, ...], Field(max_length=400)] = ()
    circuits: Annotated[tuple[Circuit, ...], Field(max_length=400)] = ()

    @model_validator(mode="after")
    def _references_hold(self) -> Self:
        _require_distinct("accessories", [accessory.id for accessory in self.accessories])
        _require_distinct("circuits", [circuit.id for circuit in self.circuits])
        _require_distinct("circuit numbers", [str(c.number) for c in self.circuits])
        _require_distinct("points", [point.id for point in self.points])
        _require_distinct("switches", [switch.name.casefold() for switch in self.switches])
        _require_distinct("switch numbers", [str(switch.number) for switch in self.switches])
        for check in (self._circuits_hold, self._switches_hold, self._places_hold):
            for problem in check():
                raise ValueError(problem)
        return self

    def _circuits_hold(self) -> Iterator[str]:
        accessory_ids = {accessory.id for accessory in self.accessories}
        points = {point.id: point for point in self.points}
        used: list[str] = []
        taken: dict[tuple[str, str], str] = {}
        feeders: dict[str, Circuit] = {}
        for circuit in self.circuits:
            for accessory_id in circuit.accessory_ids:
                if accessory_id not in accessory_ids:
                    yield (
                        f"circuit {circuit.id} names accessory {accessory_id}, "
                        "which this job does not have"
                    )
                used.append(accessory_id)
            start = circuit.start
            if start.point != BATTERY and start.point not in points:
                yield f"circuit {circuit.id} starts at {start.point}, which is no point of this job"
            if start.position and start.point in points:
                point = points[start.point]
                if point.position(start.position) is None:
                    yield f"{point.name} has no position {start.position}"
                at = (start.point, start.position)
                if at in taken:
                    yield f"{point.name} position {start.position} is used twice"
                taken[at] = circuit.id
            if circuit.feeds is not None:
                if circuit.feeds not in points:
                    yield f"circuit {circuit.id} feeds {circuit.feeds}, which is no point here"
                elif points[circuit.feeds].fed_by_vehicle:
                    yield f"{points[circuit.feeds].name} is fed by the vehicle itself"
                if circuit.feeds in feeders:
                    yield f"{points[circuit.feeds].name} has two feeders"
                feeders[circuit.feeds] = circuit
        _require_distinct("accessories on circuits", used)
        yield from self._loops(feeders)

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
        for switch in self.switches:
            if switch.panel is not None and switch.panel not in points:
                yield f"the switch {switch.name} sits in a panel that is not there"

    def _places_hold(self) -> Iterator[str]:
        spots = {p.id for p in self.layout.points} if self.layout else set()
        for circuit in self.circuits:
            place = circuit.place
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
        own = tuple(accessory.use for accessory in self.accessories)
        return own + tuple(c.use for c in self.circuits if c.use is not None)

    def use_of(self, circuit: Circuit) -> Use:
        """Return what decides when a circuit is on: its accessory's use, or its own."""
        if circuit.accessory_ids:
            return self.accessory(circuit.accessory_ids[0]).use
        return circuit.use if circuit.use is not None else Use(key="always")

    def accessory(self, accessory_id: str) -> Accessory:
        """Return one accessory; KeyError when the job has none of that id."""
        for accessory in self.accessories:
            if accessory.id == accessory_id:
                return accessory
        raise KeyError(accessory_id)

    def circuit(self, circuit_id: str) -> Circuit:
        """Return one circuit; KeyError when the job has none of that id."""
        for circuit in self.circuits:
            if circuit.id == circuit_id:
                return circuit
        raise KeyError(circuit_id)

    def point(self, point_id: str) -> Point:
        """Return one distribution point; KeyError when the job has none of that id."""
        for point in self.points:
            if point.id == point_id:
                return point
        raise KeyError(point_id)

    def switch(self, name: str) -> Switch | None:
        """Return one switch by its name, or None."""
        return next((s for s in self.switches if s.name == name), None)

    def circuit_of(self, accessory_id: str) -> Circuit | None:
        """Return the circuit that feeds an accessory, or None."""
        return next((c for c in self.circuits if accessory_id in c.accessory_ids), None)

    def feeder_of(self, point_id: str) -> Circuit | None:
        """Return the circuit that feeds a point, or None."""
        return next((c for c in self.circuits if c.feeds == point_id), None)

    def signal_place(self, signal: str) -> str | None:
        """Return where a vehicle signal is picked up on the layout, or None."""
        return next((s.place for s in self.signals if s.signal == signal), None)


def _require_distinct(what: str, values: list[str]) -> None:
    if len(set(values)) == len(values):
        return
    for value in values:
        if values.count(value) > 1:
            raise ValueError(f"{what}: {value} stands twice")
