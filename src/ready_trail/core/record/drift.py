"""Then and now: one test's readings over the years, and a drift told before it is a fault."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from ready_trail.core.prove.progress import Reading, is_mended
from ready_trail.core.prove.verdict import Limits

_SHARE = 0.5
"""A reading that moved by half of what is left to its limit drifts (house)."""
_AHEAD_DAYS = 730
_LEAST_DAYS = 7
"""Readings of one week are one reading."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A reading on its day, in the instrument's unit."""

    day: date
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """Readings over time with the band that passes; ``leaves`` is the day on which the line
    through the first and the last would leave it, where that is foreseen.
    """

    points: tuple[Point, ...]
    low: float
    high: float
    drifts: bool
    leaves: date | None


def course_of(test: str, readings: Sequence[Reading], limits: Limits) -> Course | None:
    """Return one test's readings over time since it was mended last; None with fewer than two."""
    own: list[Reading] = []
    for reading in readings:
        if is_mended(reading):
            own = []
        elif reading.test == test and reading.value is not None and reading.made_at:
            own.append(reading)
    points = tuple(Point(day=date.fromisoformat(r.made_at[:10]), value=r.value or 0.0) for r in own)
    if len(points) < 2:
        return None
    first, last = points[0], points[-1]
    days = (last.day - first.day).days
    moved = last.value - first.value
    edge = limits.pass_to if moved > 0 else limits.pass_from
    left = edge - first.value
    inside = limits.pass_from <= last.value <= limits.pass_to
    drifts = (
        days >= _LEAST_DAYS
        and inside
        and math.isfinite(left)
        and moved * left > 0
        and abs(moved) >= _SHARE * abs(left)
    )
    leaves = None
    if drifts:
        ahead = round(days * (edge - last.value) / moved)
        leaves = last.day + timedelta(days=ahead) if ahead <= _AHEAD_DAYS else None
    return Course(
        points=points, low=limits.pass_from, high=limits.pass_to, drifts=drifts, leaves=leaves
    )
