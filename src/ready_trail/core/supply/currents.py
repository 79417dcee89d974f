"""What flows: each accessory's design current, and what runs together behind a point.

The worst of the job's scenarios decides; where none is stated, what can be on together in one
state of key and lights.
"""

from __future__ import annotations

from ready_trail.core.conductors import PAIR_SHARE_RATIO
from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.points import Point
from ready_trail.core.job.scenario import Scenario
from ready_trail.core.loads import design_current_a
from ready_trail.core.sizing.rules.winch import PULL_FOR_DROP_RATIO
from ready_trail.core.states import LIGHT_STATES, LightState
from ready_trail.core.supply.apart import most_together, pairs_apart
from ready_trail.core.supply.own_load import own_load_a
from ready_trail.core.supply.running import Runs
from ready_trail.core.supply.tree import Tree

IDLE_RATIO = 0.18
"""A winch's current without pull over that at rated pull, if the label is silent (typical)."""

SELECTIVE_X = 2.0
"""A main of twice its largest branch leaves the branch to open first (house)."""

COIL_A = 0.2
LAMP_A = 0.05
_LEAST_POINT_A = 1.0
"""A relay coil and a switch lamp on a panel's feed; an empty point still gets a cable (house)."""

CHARGE_RATIO = 0.2
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


def quiet_a(accessories: tuple[Accessory, ...]) -> float | None:
    """What something takes that is on and does nothing yet: no pull, no transmission. [A]"""
    if len(accessories) != 1:
        return None
    only = accessories[0]
    if only.model == "winch":
        return IDLE_RATIO * only.rated_a if only.idle_a is None else only.idle_a
    return only.idle_a if only.idle_a is not None and only.duty != "continuous" else None


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
        self.runs = Runs(tree)
        self._apart = pairs_apart(tree.job)
        self._points: dict[str, float] = {}
        self._worst: dict[str, tuple[Scenario | None, float]] = {}
        self._circuits: dict[str, float] = {}

    def circuit_a(self, circuit: Circuit) -> float:
        """Return what a circuit carries at its design load. [A]"""
        if circuit.id not in self._circuits:
            if circuit.feeds is not None:
                current_a = self.input_a(self.tree.points[circuit.feeds])
            else:
                accessories = self.job.loads_of(circuit)
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
        """Return the most that runs together behind a point. [A]"""
        return self.worst(point)[1]

    def worst(self, point: Point) -> tuple[Scenario | None, float]:
        """Return the scenario that decides, and its total; None where none does. [A]"""
        if point.id not in self._worst:
            self._worst[point.id] = self._find_worst(point)
        return self._worst[point.id]

    def _find_worst(self, point: Point) -> tuple[Scenario | None, float]:
        if not self.job.scenarios:
            return None, self.possible_a(point)
        each = [(self.scenario_a(point, s), s) for s in self.job.scenarios]
        most_a = max(amps for amps, _ in each)
        alone_a = max((self.peak_a(c) for c in self._members(point)), default=0.0)
        if most_a < alone_a:
            return None, alone_a  # in no scenario; still it must be able to run by itself
        return next(s for amps, s in each if amps == most_a), most_a

    def possible_a(self, point: Point) -> float:
        """Return the largest total over the light states; what never runs together counts once."""
        most_a = 0.0
        for lights in LIGHT_STATES:
            on = [
                (c.id, self.peak_a(c))
                for c in self._members(point)
                if lights in _ALLOWED[self.job.use_of(c).lights]
            ]
            most_a = max(most_a, most_together(on, self._apart))
        return most_a + self._coils_a(point)

    def scenario_a(self, point: Point, scenario: Scenario) -> float:
        """Return what runs at once behind a point in a scenario, all of it at its full. [A]"""
        return self._scenario_a(point, scenario) + self._coils_a(point)

    def _scenario_a(self, point: Point, scenario: Scenario) -> float:
        on = self.runs.on(scenario)
        amps: list[tuple[str, float]] = []
        for circuit in self._members(point):
            if circuit.feeds is not None:
                fed = self.tree.points[circuit.feeds]
                stated_a = fed.together_a
                out_a = self.scenario_a(fed, scenario) if stated_a is None else stated_a
                amps.append((circuit.id, self.taken_in_a(fed, out_a)))
            elif circuit.id in on:
                amps.append((circuit.id, self.peak_a(circuit)))
        return most_together(amps, self._apart)

    def _members(self, point: Point) -> tuple[Circuit, ...]:
        """What counts for long there: a disconnect bears a winch's pull by its rating for that."""
        here = (*self.tree.starting.get(point.id, ()), *self.tree.resting.get(point.id, ()))
        if point.is_a.parts_battery:
            return tuple(c for c in here if not self.pulls(c))
        return here

    def pulls(self, circuit: Circuit) -> bool:
        """Whether a circuit feeds a winch."""
        return any(a.model == "winch" for a in self.job.loads_of(circuit))

    def peak_a(self, circuit: Circuit) -> float:
        """Return what a feeder has to give for a circuit: a winch pulls its rated current. [A]"""
        if self.pulls(circuit):
            return sum(a.rated_a for a in self.job.loads_of(circuit))
        return self.circuit_a(circuit)

    def input_a(self, point: Point) -> float:
        """Return what a point takes in from its feeder: for what was taken as its total. [A]"""
        return self.taken_in_a(point, self.total_a(point))

    def taken_in_a(self, point: Point, given_out_a: float) -> float:
        """Return what a point takes in from its feeder while it gives out so much, or what a
        source at its end gives back. [A]
        """
        if point.is_a.gives_back:
            given_a = point.output_a or self.job.vehicle.charging_a or _LEAST_POINT_A
            return given_a * (PAIR_SHARE_RATIO if point.doubled else 1.0)
        total_a = max(given_out_a, _LEAST_POINT_A if not point.is_a.has_switches else 0.2)
        if point.is_a.holds_vehicle:
            vehicle = self.job.vehicle
            own_a = own_load_a(vehicle, "cruise", "low", key="run", blower=vehicle.has_blower)
            return max(total_a + own_a, vehicle.charging_a)
        output_v = point.is_a.output_12_v
        if output_v is not None:
            given_a = point.output_a or total_a
            if point.is_a.keeps_output_v:
                given_a = min(given_a, total_a)
            out_v = float(point.output_v or self.job.vehicle.nominal_v)
            feeder = self.tree.feeders.get(point.id)
            in_v = self.tree.nominal_v(feeder.start.point) if feeder else out_v
            out_v *= output_v / 12.0
            return given_a * out_v / point.efficiency_ratio / in_v
        if point.is_a.stores and point.battery is not None:
            charge_a = point.output_a or CHARGE_RATIO * point.battery.capacity_ah
            return given_out_a + charge_a
        return total_a

    def _coils_a(self, point: Point) -> float:
        """Coils and lamps of the switches that sit in a panel."""
        if not point.is_a.has_switches:
            return 0.0
        return sum(
            COIL_A + (LAMP_A if s.lamp != "none" else 0.0)
            for s in self.job.switches
            if s.panel == point.id
        )
