"""What flows: each accessory's design current, and what runs together behind a point.

No scenario is stated: what can be on together in one state of key and lights decides.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.supply import Point
from ready_trail.core.loads import design_current_a
from ready_trail.core.sizing.winch import PULL_FOR_DROP_RATIO
from ready_trail.core.states import LIGHT_STATES, LightState
from ready_trail.core.supply.tree import CHARGER_SET_V, CONVERTER_SET_V, Tree

IDLE_RATIO = 0.18
"""A winch's current without pull over that at rated pull, if the label is silent (typical)."""

SELECTIVE_X = 2.0
"""A main of twice its largest branch leaves the branch to open first (house)."""

COIL_A = 0.2
LAMP_A = 0.05
_LEAST_POINT_A = 1.0
"""A relay coil and a switch lamp on a panel's feed; an empty point still gets a cable (house)."""

_CHARGE_RATIO = 0.2
"""A second battery takes about a fifth of its ampere-hours through a plain link (house)."""

_ALLOWED: dict[str, frozenset[LightState]] = {
    "any": frozenset(LIGHT_STATES),
    "side": frozenset({"side", "low", "high"}),
    "low": frozenset({"low"}),
    "high": frozenset({"high"}),
}


def load_currents_a(accessories: tuple[Accessory, ...], nominal_v: float) -> tuple[float, ...]:
    """Return each accessory's design current; for a winch the current at 60 % pull. [A]"""
    return tuple(_load_a(accessory, nominal_v) for accessory in accessories)


def _load_a(accessory: Accessory, nominal_v: float) -> float:
    if accessory.model == "winch":
        full_a = accessory.rated_a
        idle_a = IDLE_RATIO * full_a if accessory.idle_a is None else accessory.idle_a
        return idle_a + (full_a - idle_a) * PULL_FOR_DROP_RATIO
    if accessory.amps is not None:
        return accessory.rated_a
    return design_current_a(
        model=accessory.model,
        watts=accessory.rated_w,
        at_v=accessory.at_v,
        engine_only=accessory.use.engine_only,
        nominal_v=nominal_v,
    )


class Currents:
    """Design currents of circuits and points of one job, worked out bottom up, each once."""

    def __init__(self, tree: Tree) -> None:
        self.tree, self.job = tree, tree.job
        self._points: dict[str, float] = {}
        self._circuits: dict[str, float] = {}

    def circuit_a(self, circuit: Circuit) -> float:
        """Return what a circuit carries at its design load. [A]"""
        if circuit.id not in self._circuits:
            if circuit.feeds is not None:
                current_a = self.input_a(self.tree.points[circuit.feeds])
            else:
                accessories = tuple(self.job.accessory(i) for i in circuit.accessory_ids)
                nominal_v = self.tree.nominal_v(circuit.start.point)
                current_a = sum(load_currents_a(accessories, nominal_v))
            self._circuits[circuit.id] = current_a
        return self._circuits[circuit.id]

    def total_a(self, point: Point) -> float:
        """Return what runs together behind a point: stated, or the most in one state. [A]"""
        if point.id not in self._points:
            stated = point.together_a
            self._points[point.id] = self.together_a(point) if stated is None else stated
        return self._points[point.id]

    def together_a(self, point: Point) -> float:
        """Return the largest total over the light states; what never runs together counts once."""
        members = self.tree.starting.get(point.id, [])
        apart = pairs_apart(self.job)
        extra_a = self._coils_a(point)
        most_a = 0.0
        for lights in LIGHT_STATES:
            on = [
                (c.id, self.peak_a(c))
                for c in members
                if lights in _ALLOWED[self.job.use_of(c).lights]
            ]
            most_a = max(most_a, most_together(on, apart))
        return most_a + extra_a

    def peak_a(self, circuit: Circuit) -> float:
        """Return what a feeder has to give for a circuit: a winch pulls its rated current. [A]"""
        accessories = [self.job.accessory(i) for i in circuit.accessory_ids]
        if any(a.model == "winch" for a in accessories):
            return sum(a.rated_a for a in accessories)
        return self.circuit_a(circuit)

    def input_a(self, point: Point) -> float:
        """Return what a point takes in from its feeder. [A]"""
        total_a = max(self.total_a(point), _LEAST_POINT_A if point.kind != "switch_panel" else 0.2)
        if point.kind in ("converter", "charger"):
            given_a = point.output_a or total_a
            if point.kind == "converter":
                given_a = min(given_a, total_a)
            out_v = float(point.output_v or self.job.vehicle.nominal_v)
            feeder = self.tree.feeders.get(point.id)
            in_v = self.tree.nominal_v(feeder.start.point) if feeder else out_v
            out_v *= (CONVERTER_SET_V if point.kind == "converter" else CHARGER_SET_V) / 12.0
            return given_a * out_v / point.efficiency_ratio / in_v
        if point.kind == "battery" and point.battery is not None:
            charge_a = point.output_a or _CHARGE_RATIO * point.battery.capacity_ah
            return self.total_a(point) + charge_a
        return total_a

    def _coils_a(self, point: Point) -> float:
        """Coils and lamps of the switches that sit in a panel."""
        if point.kind != "switch_panel":
            return 0.0
        return sum(COIL_A + (LAMP_A if s.lamp != "none" else 0.0)
                   for s in self.job.switches if s.panel == point.id)  # fmt: skip


def pairs_apart(job: Job) -> set[frozenset[str]]:
    """Return the pairs of circuits that are never on together: stated, or on one switch's sides."""
    pairs = {frozenset((c.id, other)) for c in job.circuits for other in c.never_with}
    thrown: dict[str, list[tuple[str, str]]] = {}
    for circuit in job.circuits:
        use = job.use_of(circuit)
        if use.switch and use.throw:
            thrown.setdefault(use.switch, []).append((circuit.id, use.throw))
    for members in thrown.values():
        for at, (a, side) in enumerate(members):
            pairs |= {frozenset((a, b)) for b, other in members[at + 1 :] if other != side}
    return pairs


def most_together(members: Iterable[tuple[str, float]], apart: Iterable[frozenset[str]]) -> float:
    """Return the largest sum of weights that can be on at once, given pairs that never are."""
    pairs = set(apart)
    weights: dict[str, float] = {}
    for name, weight in members:
        weights[name] = weights.get(name, 0.0) + weight
    free = [n for n in weights if not any(n in pair for pair in pairs)]
    bound = sorted(n for n in weights if n not in free)
    return sum(weights[n] for n in free) + _best(bound, weights, pairs)


def _best(names: list[str], weights: Mapping[str, float], pairs: set[frozenset[str]]) -> float:
    """Exact by taking or leaving each name in turn; the groups are small."""
    if not names:
        return 0.0
    first, rest = names[0], names[1:]
    without = _best(rest, weights, pairs)
    beside = [n for n in rest if frozenset((first, n)) not in pairs]
    if len(beside) == len(rest):
        return weights[first] + without
    return max(without, weights[first] + _best(beside, weights, pairs))
