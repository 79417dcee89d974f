"""What an accessory draws at a voltage, when it starts, and for design (docs/rules/load.md)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

LoadModel = Literal["resistive", "filament", "constant_power", "motor", "winch", "electronics"]
Duty = Literal["continuous", "intermittent", "momentary"]
DropClass = Literal["critical", "normal", "tolerant"]

ENGINE_RUNNING_V = 12.8
ENGINE_STOPPED_V = 12.0
CUT_IN_V = 9.0
FILAMENT_EXPONENT = 0.55
FILAMENT_COLD_SHARE = 0.05  # below this share of rated volts a filament is cold: linear
MODEL_INRUSH: dict[str, tuple[float, float]] = {
    "resistive": (1.0, 0.0),
    "filament": (7.0, 0.010),
    "constant_power": (5.0, 0.002),
    "motor": (3.0, 0.150),
    "winch": (1.0, 0.0),
    "electronics": (1.0, 0.0),
}
"""Inrush multiple and duration by model, as rectangles of equal I²t (house)."""


def start_x(model: str, stated_x: float) -> float:
    """Return how many times its current a load draws at its start: stated, or typical. [ratio]"""
    return stated_x if stated_x > 1.0 else MODEL_INRUSH[model][0]


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """One electrical load as the solver sees it: a model with its rating."""

    model: LoadModel
    rated_a: float
    rated_v: float
    cut_in_v: float = CUT_IN_V

    @property
    def power_w(self) -> float:
        """Rated power. [W]"""
        return self.rated_a * self.rated_v


def design_current_a(
    *, model: LoadModel, watts: float, at_v: float, engine_only: bool, nominal_v: float
) -> float:
    """Return the current to design a circuit for, from the label's watts. [A]

    Notes
    -----
    A constant-power load draws more as the voltage falls: its watts are divided by 12.8 V
    if it is used only with the engine running, by 12.0 V otherwise (twice that on 24 V).
    Every other model: watts over the voltage at which the maker states them.

    Examples
    --------
    >>> round(design_current_a(model="constant_power", watts=280, at_v=13.5,
    ...                        engine_only=True, nominal_v=12), 1)
    21.9
    """
    if model != "constant_power":
        return watts / at_v
    low_v = ENGINE_RUNNING_V if engine_only else ENGINE_STOPPED_V
    return watts / (low_v * nominal_v / 12.0)


def load_current_a(load: Load, voltage_v: float) -> tuple[float, float]:
    """Return current and its slope at a voltage across the load. ([A], [A/V])

    Notes
    -----
    resistive, motor ``I_r V / V_r``; filament ``I_r (V / V_r)^0.55``, straight below 5 % of
    rated volts (cold); constant power ``P / V`` from cut-in up, nothing below; electronics
    and winch constant current, falling straight to zero under the cut-in voltage.
    The same pieces are written into the exported SPICE deck.
    """
    if load.model in ("resistive", "motor"):
        slope = load.rated_a / load.rated_v
        return slope * voltage_v, slope
    if load.model == "filament":
        return _filament(load, voltage_v)
    if load.model == "constant_power":
        if voltage_v < load.cut_in_v:
            return 0.0, 0.0
        return load.power_w / voltage_v, -load.power_w / voltage_v**2
    if voltage_v >= load.cut_in_v:
        return load.rated_a, 0.0
    slope = load.rated_a / load.cut_in_v
    return slope * max(0.0, voltage_v), slope if voltage_v > 0 else 0.0


DIODE_V, DIODE_OHM, DIODE_OFF_S = 0.65, 0.05, 1e-7
"""A blocking diode as two straight lines: 0.7 V at an amp, a microamp backwards (typical)."""


def diode_current_a(voltage_v: float) -> tuple[float, float]:
    """Return current and slope of a blocking diode at a voltage along its direction."""
    if voltage_v <= DIODE_V:
        return DIODE_OFF_S * voltage_v, DIODE_OFF_S
    return DIODE_OFF_S * voltage_v + (voltage_v - DIODE_V) / DIODE_OHM, 1 / DIODE_OHM + DIODE_OFF_S


def filament_cold_ohm(load: Load) -> float:
    """Return the resistance of a cold filament, below 5 % of its rated voltage. [Ω]"""
    cold_v = FILAMENT_COLD_SHARE * load.rated_v
    cold_a: float = load.rated_a * FILAMENT_COLD_SHARE**FILAMENT_EXPONENT
    return cold_v / cold_a


def _filament(load: Load, voltage_v: float) -> tuple[float, float]:
    cold_v = FILAMENT_COLD_SHARE * load.rated_v
    if abs(voltage_v) <= cold_v:
        slope = 1.0 / filament_cold_ohm(load)
        return slope * voltage_v, slope
    size: float = load.rated_a * (abs(voltage_v) / load.rated_v) ** FILAMENT_EXPONENT
    return (size if voltage_v > 0 else -size), FILAMENT_EXPONENT * size / abs(voltage_v)
