"""Vehicle states: key, lights, which switches are on, and the voltage behind it all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

KeyState = Literal["off", "accessory", "run", "cranking"]
LightState = Literal["off", "side", "low", "high"]

Signal = Literal["brake", "left", "right", "reverse", "charging"]

KEY_STATES: tuple[KeyState, ...] = ("off", "accessory", "run", "cranking")
LIGHT_STATES: tuple[LightState, ...] = ("off", "side", "low", "high")
SIGNALS: tuple[Signal, ...] = ("brake", "left", "right", "reverse", "charging")

KEY_WORDS: dict[KeyState, str] = {
    "off": "key off",
    "accessory": "key at accessory",
    "run": "ignition on",
    "cranking": "cranking",
}
LIGHT_WORDS: dict[LightState, str] = {
    "off": "lights off",
    "side": "side lights on",
    "low": "low beam on",
    "high": "high beam on",
}
"""What people call the states."""

REST_V = 12.7
RUNNING_V = 13.6
CRANKING_V = 10.5
CHARGING_V = 14.4
"""Voltages behind the battery's resistance at rest, engine running, cranking, charging (house,
12 V)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class VehicleState:
    """One state to solve: ``on`` holds the names of the switches that are on, ``signals`` the
    vehicle's own signals that are live.
    """

    key: KeyState = "off"
    lights: LightState = "off"
    on: frozenset[str] = frozenset()
    signals: frozenset[str] = frozenset()
    emf_v: float | None = None

    def source_v(self, nominal_v: float) -> float:
        """Return the voltage behind the battery's resistance. [V]"""
        if self.emf_v is not None:
            return self.emf_v
        if self.key == "cranking":
            return CRANKING_V * nominal_v / 12.0
        return (CHARGING_V if "charging" in self.signals else REST_V) * nominal_v / 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Closed:
    """When a switch is closed: every condition that is given must hold.

    ``unless`` names what opens it: by itself it is closed.
    """

    key: frozenset[str] | None = None
    lights: frozenset[str] | None = None
    switch: str | None = None
    signal: str | None = None
    unless: str | None = None

    def holds(self, state: VehicleState) -> bool:
        """Return whether the switch is closed in this state."""
        return (
            (self.key is None or state.key in self.key)
            and (self.lights is None or state.lights in self.lights)
            and (self.switch is None or self.switch in state.on)
            and (self.signal is None or self.signal in state.signals)
            and (self.unless is None or self.unless not in state.on)
        )


WITH_ACCESSORY = Closed(key=frozenset({"accessory", "run"}))
WITH_IGNITION = Closed(key=frozenset({"run", "cranking"}))
WITH_SIDE = Closed(lights=frozenset({"side", "low", "high"}))
WITH_LOW = Closed(lights=frozenset({"low"}))
WITH_HIGH = Closed(lights=frozenset({"high"}))
WITH_HEADLAMPS = Closed(lights=frozenset({"low", "high"}))


def when(key: str, lights: str, signal: str = "") -> Closed:
    """Return the vehicle states that a use asks for: a signal is live with any key and lights."""
    if signal:
        return Closed(signal=signal)
    keys = {"accessory": WITH_ACCESSORY.key, "run": WITH_IGNITION.key}
    lit = {"side": WITH_SIDE.lights, "low": WITH_LOW.lights, "high": WITH_HIGH.lights}
    return Closed(key=keys.get(key), lights=lit.get(lights))
