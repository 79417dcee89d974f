"""Buying plans as a plot: spools to the right, copper upwards, one line for each set of colours."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ready_trail.drawing.scene import Point

WIDTH, HEIGHT = 640.0, 250.0
_X0, _X1, _TOP, _FLOOR = 58.0, 626.0, 40.0, 208.0
_STEPS = (1, 2, 5, 10, 20)
_TICKS_MOST = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """One plan: where it stands, and its key."""

    key: str
    x: float
    y: float
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """The plans of one set of colours, as steps: fewer spools, more copper."""

    colours: str
    steps: tuple[Point, ...]
    marks: tuple[Mark, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SpoolPlot:
    """The plot in pixels."""

    lines: tuple[Line, ...]
    ticks: tuple[tuple[float, str], ...]
    levels: tuple[tuple[float, str], ...]
    x0: float = _X0
    x1: float = _X1
    top: float = _TOP
    floor: float = _FLOOR
    width: float = WIDTH
    height: float = HEIGHT


def draw_spools(plans: Mapping[str, Sequence[tuple[str, int, float, str]]]) -> SpoolPlot:
    """Return the plot of plans by colours: each a key, spools, copper over the design's as a
    ratio, and a title.
    """
    every = [plan for line in plans.values() for plan in line]
    most = max((spools for _, spools, _, _ in every), default=1)
    high = max(0.05, *(more for _, _, more, _ in every)) * 1.08 if every else 0.05

    def at(spools: float, more: float) -> Point:
        x = _X0 + (_X1 - _X0) * spools / most
        return x, _FLOOR - (_FLOOR - _TOP) * more / high

    lines = []
    for colours, line in plans.items():
        spots = [at(spools, more) for _, spools, more, _ in line]
        steps = spots[:1]
        for (_, y0), (x1, y1) in pairwise(spots):
            steps += [(x1, y0), (x1, y1)]
        marks = tuple(
            Mark(key=key, x=x, y=y, title=title)
            for (key, _, _, title), (x, y) in zip(line, spots, strict=True)
        )
        lines.append(Line(colours=colours, steps=tuple(steps), marks=marks))
    step = next((s for s in _STEPS if most / s <= _TICKS_MOST), _STEPS[-1])
    level = next((s for s in (0.01, 0.02, 0.05, 0.1, 0.2, 0.5) if high / s <= 5), 1.0)
    return SpoolPlot(
        lines=tuple(lines),
        ticks=tuple((at(n, 0)[0], str(n)) for n in range(0, most + 1, step)),
        levels=tuple(
            (at(0, n * level)[1], f"+{n * level:.0%}") for n in range(int(high / level) + 1)
        ),
    )
