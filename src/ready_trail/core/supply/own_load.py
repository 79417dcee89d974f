"""The vehicle by itself: what its alternator gives, what it draws running, cranking and parked.

Figures and their sources: docs/rules/battery.md.
"""

from __future__ import annotations

from ready_trail.core.job.scenario import Engine
from ready_trail.core.job.vehicle import Vehicle, VehicleKind

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
