"""A short over time: how hot the wire gets, until its fuse opens or its insulation gives up."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ready_trail.core.heat import FINAL_C, time_constant_s

STEPS = 60
LONGEST_S = 600.0
_DECADES = 4.0
_COPPER_K = 234.5
_COPPER_A_S_PER_MM2 = 226.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Heating:
    """A wire under a steady current: its course without a fuse, and when a fuse ends it.

    ``course`` is time, in even decades, and conductor temperature, to where the insulation gives
    up or the time ends. Times are infinite where a thing does not happen. [s, °C]
    """

    current_a: float
    start_c: float
    final_c: float
    course: tuple[tuple[float, float], ...]
    gives_up_s: float
    opens_fastest_s: float
    opens_slowest_s: float
    at_slowest_c: float

    @property
    def fuse_is_first(self) -> bool:
        """Whether even the slowest fuse of its kind opens before the insulation gives up."""
        return self.opens_slowest_s < self.gives_up_s


def heating(
    *,
    current_a: float,
    area_mm2: float,
    insulation_c: int,
    start_c: float,
    ambient_c: float,
    opens_fastest_s: float = math.inf,
    opens_slowest_s: float = math.inf,
) -> Heating:
    """Return how a wire heats under a fault current, and what its fuse does meanwhile.

    Notes
    -----
    ``dT/dt = (I / 226 S)² (234.5 + T) - (T - T_air) / tau``: heat into the copper as in
    IEC 60949, and losses to the air with the house's time constant. The equation is linear, so
    each point is exact. ``opens_fastest_s`` and ``opens_slowest_s`` are those of its fuse.
    """
    final_c = FINAL_C[insulation_c]
    rate, drive = _warming(current_a, area_mm2, ambient_c)

    def at_c(after_s: float) -> float:
        grown = math.exp(min(700.0, rate * after_s))
        if abs(rate) < 1e-12:
            return start_c + drive * after_s
        return start_c * grown + drive / rate * (grown - 1.0)

    gives_up_s = _reached_s(start_c, final_c, rate, drive)
    ends = [t for t in (gives_up_s, opens_slowest_s) if math.isfinite(t)]
    end_s = min(LONGEST_S, 1.25 * max(ends, default=LONGEST_S))
    until_s = min(end_s, gives_up_s)
    times = [until_s * 10.0 ** (_DECADES * (n / STEPS - 1.0)) for n in range(STEPS + 1)]
    course = ((0.0, start_c), *((t, at_c(t)) for t in times))
    slow_c = at_c(opens_slowest_s) if opens_slowest_s < gives_up_s else final_c
    return Heating(
        current_a=current_a,
        start_c=start_c,
        final_c=final_c,
        course=course,
        gives_up_s=gives_up_s,
        opens_fastest_s=opens_fastest_s,
        opens_slowest_s=opens_slowest_s,
        at_slowest_c=slow_c,
    )


def outlasts(
    *,
    current_a: float,
    area_mm2: float,
    insulation_c: int,
    start_c: float,
    ambient_c: float,
    for_s: float,
) -> bool:
    """Return whether a wire's insulation bears a current that long; the same equation as above."""
    rate, drive = _warming(current_a, area_mm2, ambient_c)
    return for_s < _reached_s(start_c, FINAL_C[insulation_c], rate, drive)


def _warming(current_a: float, area_mm2: float, ambient_c: float) -> tuple[float, float]:
    """Return rate and drive of ``dT/dt = rate T + drive``. [1/s, K/s]"""
    heat = (current_a / (_COPPER_A_S_PER_MM2 * area_mm2)) ** 2
    loss = 1.0 / time_constant_s(area_mm2)
    return heat - loss, _COPPER_K * heat + ambient_c * loss


def _reached_s(start_c: float, final_c: float, rate: float, drive: float) -> float:
    """When a temperature is reached; infinity where it never is."""
    if start_c >= final_c:
        return 0.0
    if abs(rate) < 1e-12:
        return (final_c - start_c) / drive if drive > 0 else math.inf
    away_k = start_c + drive / rate  # from where it settles
    share = (final_c + drive / rate) / away_k if away_k else 0.0
    if share <= 0:
        return math.inf
    after_s = math.log(share) / rate
    return after_s if after_s > 0 else math.inf
