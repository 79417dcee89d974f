"""Heat in a wire during a fault or a short duty (docs/rules/heat.md)."""

from __future__ import annotations

import math

FINAL_C = {80: 160.0, 90: 160.0, 105: 160.0, 125: 250.0}
_TAU_S_AT_1_MM2 = 60.0
_TAU_EXPONENT = 0.6


def withstand_constant(*, insulation_c: int, start_c: float) -> float:
    """Return K of the adiabatic equation for copper. [A·s½/mm²]

    Parameters
    ----------
    insulation_c : int, one of 80, 90, 105, 125
        Insulation class; the end temperature follows (PVC 160 °C, cross-linked 250 °C).
    start_c : float
        Conductor temperature before the fault. [°C]

    Source
    ------
    IEC 60949: ``K = 226 * sqrt(ln(1 + (T_f - T_i) / (234.5 + T_i)))``.

    Examples
    --------
    >>> round(withstand_constant(insulation_c=105, start_c=70.0), 1)
    115.0
    """
    final_c = FINAL_C[insulation_c]
    if start_c >= final_c:
        return 0.0
    return 226.0 * math.sqrt(math.log(1.0 + (final_c - start_c) / (234.5 + start_c)))


def withstand_a2s(*, area_mm2: float, insulation_c: int, start_c: float) -> float:
    """Return the I²t that the insulation survives. [A²s]"""
    return (withstand_constant(insulation_c=insulation_c, start_c=start_c) * area_mm2) ** 2


def time_constant_s(area_mm2: float) -> float:
    """Return the thermal time constant of a wire in air, good to ±30 % (house). [s]"""
    return float(_TAU_S_AT_1_MM2 * area_mm2**_TAU_EXPONENT)


def short_time_ampacity_a(
    *, ampacity_a: float, area_mm2: float, on_s: float, withstand_limit_a2s: float
) -> float:
    """Return what a wire carries for ``on_s`` seconds from its ambient. [A]

    Notes
    -----
    ``I_z / sqrt(1 - exp(-t / tau))``, capped by the adiabatic limit ``sqrt(I²t / t)``.
    """
    thermal_a = ampacity_a / math.sqrt(1.0 - math.exp(-on_s / time_constant_s(area_mm2)))
    return min(thermal_a, math.sqrt(withstand_limit_a2s / on_s))
