"""A shorted wire over time: its temperature without a fuse, and where the fuse ends it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ready_trail.core.heating import Heating
from ready_trail.drawing.scene import Point

WIDTH, HEIGHT = 320.0, 190.0
_X0, _X1, _TOP, _FLOOR = 44.0, 308.0, 14.0, 160.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatPlot:
    """The course with its marks, in pixels."""

    course: tuple[Point, ...]
    with_fuse: tuple[Point, ...]
    limit_y: float
    limit_label: str
    opens_x: tuple[float, float] | None
    ticks: tuple[tuple[float, str], ...]
    levels: tuple[tuple[float, str], ...]
    x0: float = _X0
    x1: float = _X1
    top: float = _TOP
    floor: float = _FLOOR
    width: float = WIDTH
    height: float = HEIGHT


def draw_heat(found: Heating) -> HeatPlot:
    """Return the plot of one wire's heating, over decades of time."""
    end_s = max(found.course[-1][0], 1e-3)
    marks = [t for t in (found.opens_fastest_s, found.opens_slowest_s) if 0 < t < math.inf]
    if marks:
        end_s = max(end_s, min(max(marks) * 1.2, 100 * end_s))
    first_s = max(1e-4, min([end_s / 1e3, *(t / 3 for t in marks)]))
    low_c, high_c = found.start_c, max(found.final_c, found.start_c + 1) * 1.06
    decades = math.log10(end_s / first_s)

    def at(seconds: float, celsius: float) -> Point:
        share = math.log10(max(seconds, first_s) / first_s) / decades
        y = _FLOOR - (_FLOOR - _TOP) * (min(celsius, high_c) - low_c) / (high_c - low_c)
        return (_X0 + (_X1 - _X0) * min(1.0, share), y)

    course = tuple(at(s, c) for s, c in found.course if s >= first_s or s == 0)
    opens = None
    with_fuse: tuple[Point, ...] = ()
    if marks:
        opens = (at(min(marks), low_c)[0], at(max(marks), low_c)[0])
        with_fuse = tuple(at(s, c) for s, c in found.course if s <= max(marks))
    ticks = tuple(
        (at(10.0**n, low_c)[0], _tick(10.0**n))
        for n in range(math.ceil(math.log10(first_s)), math.floor(math.log10(end_s)) + 1)
    )
    levels = tuple((at(0, c)[1], f"{c:.0f}") for c in (low_c, (low_c + found.final_c) / 2))
    return HeatPlot(
        course=course,
        with_fuse=with_fuse,
        limit_y=at(0, found.final_c)[1],
        limit_label=f"insulation gives up, {found.final_c:.0f} °C",
        opens_x=opens,
        ticks=ticks,
        levels=levels,
    )


def _tick(seconds: float) -> str:
    return f"{seconds * 1000:g} ms" if 0 < seconds < 1 else f"{seconds:g} s"
