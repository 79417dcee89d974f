"""The supply as a tree: battery, feeders, points, and the circuits that start at them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ready_trail.core.job.accessory import KeyUse, LightUse, Use
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import BATTERY, Point, Switch
from ready_trail.core.kinds.points import CHARGER_SET_V, CONVERTER_SET_V
from ready_trail.core.states import CHARGING_V, REST_V, Closed, when

KEY_ORDER: tuple[KeyUse, ...] = ("always", "accessory", "run")
LIT: dict[str, frozenset[str]] = {
    "any": frozenset({"off", "side", "low", "high"}),
    "side": frozenset({"side", "low", "high"}),
    "low": frozenset({"low"}),
    "high": frozenset({"high"}),
}
"""Light states in which each statement of lights holds."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Waking:
    """When a point is live: the key and lights that all its feeders ask for.

    ``switched`` tells that a hand switch feeds it, ``parted`` that a battery disconnect does.
    """

    key: KeyUse = "always"
    lights: LightUse = "any"
    switched: bool = False
    parted: bool = False

    def gives(self, use: Use) -> bool:
        """Whether a circuit there follows the key and lights of a use without a relay."""
        follows = (use.key, use.lights, use.signal, use.also, use.unless)
        return (self.key, self.lights, "", "", "") == follows

    @property
    def sleeps(self) -> bool:
        """Whether it is dead while the vehicle is parked."""
        return self.key != "always" or self.lights != "any"


class Tree:
    """The supply tree of one job. Built once, asked many times; the document has no loops."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.points = {point.id: point for point in job.points}
        self.feeders = {c.feeds: c for c in job.circuits if c.feeds is not None}
        self.starting: dict[str, list[Circuit]] = {}
        for circuit in job.circuits:
            self.starting.setdefault(circuit.start.point, []).append(circuit)
        self.resting: dict[str, list[Circuit]] = {}
        for circuit in job.circuits:
            if circuit.rest_start is not None:
                self.resting.setdefault(circuit.rest_start.point, []).append(circuit)
        self._waking: dict[str, Waking] = {}

    def order(self) -> tuple[Circuit, ...]:
        """Return the circuits so that every feeder stands before what it feeds."""
        return tuple(self._below(BATTERY)) + tuple(self._roots())

    def _roots(self) -> Iterator[Circuit]:
        """Circuits behind points that nothing of ours feeds."""
        for point in self.job.points:
            if point.id not in self.feeders:
                yield from self._below(point.id)

    def _below(self, point_id: str) -> Iterator[Circuit]:
        for circuit in self.starting.get(point_id, ()):
            yield circuit
            if circuit.feeds is not None:
                yield from self._below(circuit.feeds)

    def chain(self, circuit: Circuit) -> tuple[Circuit, ...]:
        """Return the feeders ahead of a circuit, from the source of its own system on."""
        ahead: list[Circuit] = []
        at = circuit.start.point
        while at != BATTERY and not self.points[at].starts_a_system:
            feeder = self.feeders.get(at)
            if feeder is None:
                break
            ahead.append(feeder)
            at = feeder.start.point
        return tuple(reversed(ahead))

    def root(self, circuit: Circuit) -> Point | None:
        """Return the point at which its system begins, or None for the vehicle's battery."""
        chain = self.chain(circuit)
        at = chain[0].start.point if chain else circuit.start.point
        return None if at == BATTERY else self.points[at]

    @property
    def main_post(self) -> Point | None:
        """Where the vehicle hangs while its battery is elsewhere."""
        return next((p for p in self.points.values() if p.is_a.holds_vehicle), None)

    def parts_vehicle(self, point: Point) -> bool:
        """Whether a disconnect parts the vehicle itself from its battery."""
        post = self.main_post
        if not point.is_a.parts_battery or post is None:
            return point.is_a.parts_battery and point.vehicle_behind
        feeder = self.feeders.get(post.id)
        while feeder is not None and feeder.start.point != point.id:
            feeder = self.feeders.get(feeder.start.point)
        return feeder is not None

    def is_fed(self, point_id: str) -> bool:
        """Whether current can reach a point at all."""
        while point_id != BATTERY:
            point = self.points[point_id]
            if point.fed_by_vehicle:
                return True
            feeder = self.feeders.get(point_id)
            if feeder is None:
                return False
            point_id = feeder.start.point
        return True

    def nominal_v(self, point_id: str) -> float:
        """Return the nominal voltage at a point. [V]"""
        while point_id != BATTERY:
            point = self.points[point_id]
            if point.starts_a_system and point.output_v is not None:
                return float(point.output_v)
            feeder = self.feeders.get(point_id)
            if feeder is None:
                break
            point_id = feeder.start.point
        return float(self.job.vehicle.nominal_v)

    def rest_v(self, circuit: Circuit) -> float:
        """Return the voltage of a circuit's source at rest. [V]"""
        return self._source_v(circuit, REST_V, CONVERTER_SET_V, REST_V)

    def charging_v(self, circuit: Circuit) -> float:
        """Return the highest voltage of a circuit's source, while charging. [V]"""
        return self._source_v(circuit, CHARGING_V, CONVERTER_SET_V, CHARGER_SET_V)

    def _source_v(
        self, circuit: Circuit, battery_v: float, converter_v: float, charger_v: float
    ) -> float:
        root = self.root(circuit)
        ratio = self.nominal_v(circuit.start.point) / 12.0
        if root is not None and root.is_a.keeps_output_v:
            return converter_v * ratio
        if root is not None and (root.is_a.charges or root.is_a.stores):
            return charger_v * ratio
        return battery_v * ratio

    def waking(self, point_id: str, position: str = "") -> Waking:
        """Return when a point is live, or one of its channels, which may follow a later key."""
        if point_id not in self._waking:
            self._waking[point_id] = self._find_waking(point_id)
        found = self._waking[point_id]
        point = self.points.get(point_id)
        channel = point.position(position) if point is not None and position else None
        if channel is None or not channel.wakes:
            return found
        return replace(found, key=max(found.key, channel.wakes, key=KEY_ORDER.index))

    def waking_of(self, circuit: Circuit) -> Waking:
        """Return when the place is live at which a circuit starts."""
        return self.waking(circuit.start.point, circuit.start.position)

    def by_hand(self, circuit: Circuit) -> bool:
        """Whether a circuit starts at a channel that a hand switches on and off."""
        point = self.points.get(circuit.start.point)
        return point is not None and point.is_a.has_channels and bool(circuit.start.position)

    def _find_waking(self, point_id: str) -> Waking:
        key, lights, switched, parted = 0, "any", False, False
        while point_id != BATTERY:
            point = self.points[point_id]
            if point.is_a.stores:
                break  # it lives by itself
            parted = parted or point.is_a.parts_battery
            use = Use(key=point.key, lights=point.lights)
            feeder = self.feeders.get(point_id)
            uses = [use] if feeder is None else [use, self.job.use_of(feeder)]
            for use in uses:  # a converter is enabled by one thing and fed by another
                key = max(key, KEY_ORDER.index(use.key))
                lights = use.lights if lights == "any" else lights
                switched = switched or bool(use.switch)
            if feeder is None:
                break
            point_id = feeder.start.point
        return Waking(
            key=KEY_ORDER[key],
            lights=lights,  # type: ignore[arg-type]
            switched=switched,
            parted=parted,
        )

    def panel_of(self, switch: Switch, use: Use) -> Point | None:
        """Return the fed panel in which a switch sits, unless a signal or channel feeds it."""
        if switch.panel is None or use.lights != "any" or use.signal or use.channel is not None:
            return None
        panel = self.points.get(switch.panel)
        if panel is None or panel.id not in self.feeders or not self.is_fed(panel.id):
            return None
        return panel

    def panel_feed(self, switch: Switch, use: Use) -> Point | None:
        """Return the panel whose shared feed serves a switch, where that follows the same key."""
        panel = self.panel_of(switch, use)
        return panel if panel is not None and self.waking(panel.id).gives(use) else None

    def parts_needed(self, circuit: Circuit) -> tuple[str, ...]:
        """Return the ids of all circuits ahead of this one, across converters too."""
        ahead: list[str] = []
        at = circuit.start.point
        while at != BATTERY and at in self.feeders:
            feeder = self.feeders[at]
            ahead.append(feeder.id)
            at = feeder.start.point
        return tuple(reversed(ahead))


def closed_when(use: Use) -> Closed:
    """Return the vehicle states in which a use is met, without its switch."""
    return when(use.key, use.lights, use.signal)
