"""What the batteries do over the hours: state of charge above, currents stacked beneath."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ready_trail.core.budget import HALF, Course
from ready_trail.core.budget.battery import FLAT
from ready_trail.core.job import BATTERY
from ready_trail.drawing import words
from ready_trail.drawing.scene import Point

WIDTH, HEIGHT = 760.0, 344.0
_X0, _X1 = 46.0, 748.0
_TOP, _STATE_FLOOR = 30.0, 170.0
_AMPS_TOP, _AMPS_FLOOR = 196.0, 316.0
_KINDS = 6
_HOUR_STEPS = (0.25, 0.5, 1.0, 2.0, 3.0, 6.0, 12.0, 24.0, 48.0, 96.0)
Scale = Callable[[float], float]
Loads = Sequence[Sequence[tuple[str, float]]]
_AMP_STEPS = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A mark on an axis, with its words."""

    at: float
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartBand:
    """A stretch of the course: its background and its name."""

    x: float
    width: float
    label: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StackBlock:
    """One consumer's share of the current in one stretch."""

    x: float
    y: float
    width: float
    height: float
    tone: int
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StateLine:
    """One battery's state of charge; ``end`` is where its words stand."""

    points: tuple[Point, ...]
    end: Point
    label: str
    main: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CourseShape:
    """The whole plot: plain numbers and words."""

    width: float
    height: float
    x0: float
    x1: float
    bands: tuple[PartBand, ...]
    lines: tuple[StateLine, ...]
    levels: tuple[Tick, ...]
    half_y: float
    flat_y: float
    lowest: Point
    lowest_label: str
    lowest_anchor: str
    lowest_is_bad: bool
    blocks: tuple[StackBlock, ...]
    charge: tuple[Point, ...]
    amp_ticks: tuple[Tick, ...]
    hour_ticks: tuple[Tick, ...]
    floor_y: float
    keys: tuple[tuple[int, str], ...]
    title: str


def draw_course(
    course: Course,
    loads: Loads,
    names: Mapping[str, str],
) -> CourseShape:
    """Place the plot. ``loads`` holds, stretch by stretch, what draws how much. [A]"""
    hours = course.moments[-1].at_h or 1.0

    def x_of(at_h: float) -> float:
        return _X0 + (_X1 - _X0) * at_h / hours

    def y_of(state: float) -> float:
        return _STATE_FLOOR - (_STATE_FLOOR - _TOP) * state

    most_a = max(
        max((sum(a for _, a in part) for part in loads), default=0.0),
        max((s.charging_a for s in course.stretches), default=0.0),
        1.0,
    )

    def y_amps(amps: float) -> float:
        return _AMPS_FLOOR - (_AMPS_FLOOR - _AMPS_TOP) * amps / most_a

    keys = _keys(course, loads)
    low = min(course.moments, key=lambda m: m.state[BATTERY])
    low_at = (x_of(low.at_h), y_of(low.state[BATTERY]))
    return CourseShape(
        width=WIDTH,
        height=HEIGHT,
        x0=_X0,
        x1=_X1,
        bands=tuple(_bands(course, x_of)),
        lines=tuple(_lines(course, names, x_of, y_of)),
        levels=tuple(Tick(at=y_of(s), label=f"{s:.0%}") for s in (0.0, 0.5, 1.0)),
        half_y=y_of(HALF),
        flat_y=y_of(FLAT),
        lowest=low_at,
        lowest_label=f"lowest {low.state[BATTERY]:.0%} after {_hours(low.at_h)}"
        if low.state[BATTERY] < 0.995
        else "stays full",
        lowest_anchor="end" if low_at[0] > 0.6 * _X1 else "start",
        lowest_is_bad=low.state[BATTERY] <= HALF,
        blocks=tuple(_blocks(course, loads, keys, x_of, y_amps)),
        charge=_charge(course, x_of, y_amps),
        amp_ticks=tuple(Tick(at=y_amps(a), label=f"{a:g}") for a in _steps(most_a, _AMP_STEPS, 4)),
        hour_ticks=tuple(Tick(at=x_of(h), label=f"{h:g}") for h in _steps(hours, _HOUR_STEPS, 9)),
        floor_y=_AMPS_FLOOR,
        keys=tuple((tone, name) for name, tone in keys.items()),
        title=f"State of charge over {_hours(hours)}: lowest {low.state[BATTERY]:.0%} after "
        f"{_hours(low.at_h)}, {course.ends():.0%} in the end",
    )


def _hours(hours: float) -> str:
    return f"{hours * 60:.0f}{words.NBSP}min" if hours < 1 else f"{hours:.1f}{words.NBSP}h"


def _steps(most: float, steps: Sequence[float], count: int) -> list[float]:
    step = next((s for s in steps if most / s <= count), steps[-1])
    return [step * n for n in range(int(most / step) + 1)]


def _keys(course: Course, loads: Loads) -> dict[str, int]:
    """The consumers that take most over the whole course, each with its tone; then the rest."""
    taken: dict[str, float] = {}
    for stretch, part in zip(course.stretches, loads, strict=True):
        for name, amps in part:
            taken[name] = taken.get(name, 0.0) + amps * stretch.hours
    ranked = sorted((n for n in taken if taken[n] > 0), key=lambda n: (-taken[n], n))
    keys = {name: tone for tone, name in enumerate(ranked[:_KINDS])}
    if len(ranked) > _KINDS:
        keys["the rest"] = _KINDS
    return keys


def _bands(course: Course, x_of: Scale) -> Iterator[PartBand]:
    at_h = 0.0
    for stretch in course.stretches:
        x, width = x_of(at_h), x_of(at_h + stretch.hours) - x_of(at_h)
        fits = int(width / 6.6)
        name = stretch.name if len(stretch.name) <= fits else ""
        if not name and fits >= 5:
            name = stretch.name.split(",")[0].split()[0]
            name = name if len(name) <= fits else ""
        yield PartBand(
            x=x,
            width=width,
            label=name,
            title=f"{stretch.name}, {_hours(stretch.hours)}",
        )
        at_h += stretch.hours


def _lines(
    course: Course, names: Mapping[str, str], x_of: Scale, y_of: Scale
) -> Iterator[StateLine]:
    for bank, name in names.items():
        line = tuple((x_of(m.at_h), y_of(m.state[bank])) for m in course.moments)
        yield StateLine(
            points=_thin(line),
            end=line[-1],
            main=bank == BATTERY,
            label=f"{name} {course.ends(bank):.0%}",
        )


def _thin(line: tuple[Point, ...]) -> tuple[Point, ...]:
    """Drop points on a straight line: a plot needs no hundred points for a slope."""
    kept = [line[0]]
    for at in range(1, len(line) - 1):
        (x0, y0), (x1, y1), (x2, y2) = kept[-1], line[at], line[at + 1]
        if abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)) > 0.05:
            kept.append(line[at])
    return (*kept, line[-1])


def _blocks(
    course: Course, loads: Loads, keys: Mapping[str, int], x_of: Scale, y_amps: Scale
) -> Iterator[StackBlock]:
    at_h = 0.0
    for stretch, part in zip(course.stretches, loads, strict=True):
        x, width = x_of(at_h), x_of(at_h + stretch.hours) - x_of(at_h)
        by_tone: dict[int, list[tuple[str, float]]] = {}
        for name, amps in part:
            if amps > 0:
                by_tone.setdefault(keys.get(name, _KINDS), []).append((name, amps))
        base_a = 0.0
        for tone in sorted(by_tone):
            amps = sum(a for _, a in by_tone[tone])
            told = ", ".join(f"{n} {words.amps(a)}" for n, a in by_tone[tone])
            top = y_amps(base_a + amps)
            yield StackBlock(
                x=x,
                y=top,
                width=width,
                height=y_amps(base_a) - top,
                tone=tone,
                title=f"{stretch.name}: {told}",
            )
            base_a += amps
        at_h += stretch.hours


def _charge(course: Course, x_of: Scale, y_amps: Scale) -> tuple[Point, ...]:
    """What the alternator gives, as steps."""
    line: list[Point] = []
    at_h = 0.0
    for stretch in course.stretches:
        line += [
            (x_of(at_h), y_amps(stretch.charging_a)),
            (x_of(at_h + stretch.hours), y_amps(stretch.charging_a)),
        ]
        at_h += stretch.hours
    return tuple(line)
