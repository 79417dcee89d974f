"""A battery as energy: how fast it empties (Peukert), how much it takes back, what charges it.

Rules and their sources: docs/rules/battery.md.
"""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job.scenario import Engine
from ready_trail.core.job.vehicle import Battery, Vehicle, VehicleKind

HALF = 0.5
"""Below half a starter battery ages fast and may not start the engine in the cold (house)."""

FLAT = 0.2
"""Below this the engine may not start at all (house)."""

PEUKERT: dict[str, float] = {"flooded": 1.2, "agm": 1.1, "lithium": 1.03}
ALTERNATOR_RATIO: dict[Engine, float] = {"off": 0.0, "idle": 0.45, "cruise": 0.85}
"""Output over rating; a hot machine gives 40 % at idle (house)."""

_BASE_A: dict[VehicleKind, float] = {"motorcycle": 8.0, "side_by_side": 10.0}
_LIGHTS_A: dict[VehicleKind, float] = {"motorcycle": 5.0, "side_by_side": 6.0}
_PARKED_MA: dict[VehicleKind, float] = {"motorcycle": 3.0, "side_by_side": 5.0}
_BASE_USUAL_A, _LIGHTS_USUAL_A, _BLOWER_A, _PARKED_USUAL_MA = 25.0, 12.0, 15.0, 35.0
"""A vehicle's own load: engine running, its lights, its blower, and parked; 12 V (house)."""

_STARTING_A: dict[VehicleKind, float] = {
    "motorcycle": 120.0,
    "side_by_side": 180.0,
    "saloon": 250.0,
    "wagon": 300.0,
    "lorry": 900.0,
}
_STARTING_USUAL_A = 400.0
"""What a starter takes while it turns the engine, at 12 V (typical)."""

_ACCEPTS: dict[str, float] = {"flooded": 0.2, "agm": 0.3, "lithium": 0.5}
_TAPER_FROM: dict[str, float] = {"flooded": 0.8, "agm": 0.8, "lithium": 0.95}
_EFFICIENCY: dict[str, float] = {"flooded": 0.85, "agm": 0.9, "lithium": 0.98}
_FLOAT = 0.02
"""Share of the ampere-hours that a battery takes per hour while charging, the state from which
it takes less, what of it stays, and what it still takes when full (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bank:
    """A battery that accessories live on. ``capacity_ah`` is at the twenty-hour rate."""

    capacity_ah: float
    chemistry: str

    @property
    def twenty_hour_a(self) -> float:
        """The current that empties it in twenty hours. [A]"""
        return self.capacity_ah / 20.0

    def falls_per_h(self, current_a: float) -> float:
        """Return the share of its charge that a discharge takes in an hour. [1/h]

        Peukert above the twenty-hour rate; below it no bonus is given (reasoning).

        Examples
        --------
        >>> round(Bank(capacity_ah=100, chemistry="agm").falls_per_h(5.0), 3)
        0.05
        """
        if current_a <= 0:
            return 0.0
        ratio = max(1.0, current_a / self.twenty_hour_a)
        by_peukert: float = ratio ** (PEUKERT[self.chemistry] - 1.0)
        return current_a / self.capacity_ah * by_peukert

    def hours_to(self, current_a: float, *, used: float = HALF) -> float | None:
        """Return the hours in which a current takes that share of it; None for no current. [h]"""
        falls = self.falls_per_h(current_a)
        return used / falls if falls > 0 else None

    def accepts_a(self, state: float) -> float:
        """Return the most that it takes at a state of charge from 0 to 1. [A]"""
        most = _ACCEPTS[self.chemistry]
        start = _TAPER_FROM[self.chemistry]
        if state <= start:
            return most * self.capacity_ah
        left = max(0.0, (1.0 - state) / (1.0 - start))
        return (_FLOAT + (most - _FLOAT) * left) * self.capacity_ah

    def rises_per_h(self, current_a: float) -> float:
        """Return the share that charging with a current adds in an hour. [1/h]"""
        return _EFFICIENCY[self.chemistry] * current_a / self.capacity_ah


def bank_of(battery: Battery) -> Bank:
    """Return a stated battery as a bank."""
    return Bank(capacity_ah=battery.capacity_ah, chemistry=battery.chemistry)


def alternator_a(vehicle: Vehicle, engine: Engine) -> float:
    """Return what the alternator gives. [A]"""
    return ALTERNATOR_RATIO[engine] * vehicle.charging_a


def own_load_a(vehicle: Vehicle, engine: Engine, lights: str, *, key: str, blower: bool) -> float:
    """Return what the vehicle itself draws in a state. [A]

    Defaults are for 12 V; at another voltage the same power counts.
    """
    share = 12.0 / vehicle.nominal_v
    load_a = parked_a(vehicle)
    if engine != "off":
        usual_a = share * _BASE_A.get(vehicle.kind, _BASE_USUAL_A)
        load_a = usual_a if vehicle.base_a is None else vehicle.base_a
    elif key == "run":
        load_a += share * 0.3 * _BASE_A.get(vehicle.kind, _BASE_USUAL_A)
    if lights in ("low", "high"):
        load_a += share * _LIGHTS_A.get(vehicle.kind, _LIGHTS_USUAL_A)
    elif lights == "side":
        load_a += share * 0.3 * _LIGHTS_A.get(vehicle.kind, _LIGHTS_USUAL_A)
    return load_a + (share * _BLOWER_A if blower else 0.0)


def starting_a(vehicle: Vehicle) -> float:
    """Return what the starter takes while it turns the engine. [A]"""
    if vehicle.starting_a is not None:
        return vehicle.starting_a
    return _STARTING_A.get(vehicle.kind, _STARTING_USUAL_A) * 12.0 / vehicle.nominal_v


def parked_a(vehicle: Vehicle) -> float:
    """Return what the vehicle itself draws while it is parked. [A]"""
    if vehicle.parked_ma is not None:
        return vehicle.parked_ma * 1e-3
    return _PARKED_MA.get(vehicle.kind, _PARKED_USUAL_MA) * 1e-3 * 12.0 / vehicle.nominal_v
