"""Readings over time as a small plot with the band that passes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ready_trail.core.record.drift import Course
from ready_trail.drawing.scene import Point

WIDTH, HEIGHT = 320.0, 110.0
_X0, _X1, _TOP, _FLOOR = 10.0, 310.0, 12.0, 84.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Trend:
    """The plot in pixels: the band from ``band_y`` down, the readings, first and last day."""

    band_y: float
    band_height: float
    line: tuple[Point, ...]
    first: str
    last: str
    width: float = WIDTH
    height: float = HEIGHT
    floor: float = _FLOOR
    x0: float = _X0
    x1: float = _X1


def draw_trend(course: Course) -> Trend:
    """Return the plot of one test's readings."""
    values = [p.value for p in course.points]
    edges = [e for e in (course.low, course.high) if math.isfinite(e)]
    low, high = min([*values, *edges]), max([*values, *edges])
    room = (high - low) * 0.1 or max(abs(high), 1.0) * 0.1
    low, high = low - room, high + room
    start = course.points[0].day
    days = max(1, (course.points[-1].day - start).days)

    def y_of(value: float) -> float:
        share = (min(max(value, low), high) - low) / (high - low)
        return _FLOOR - (_FLOOR - _TOP) * share

    top, bottom = y_of(course.high), y_of(course.low)
    return Trend(
        band_y=top,
        band_height=bottom - top,
        line=tuple(
            (_X0 + (_X1 - _X0) * (p.day - start).days / days, y_of(p.value)) for p in course.points
        ),
        first=start.isoformat(),
        last=course.points[-1].day.isoformat(),
    )
