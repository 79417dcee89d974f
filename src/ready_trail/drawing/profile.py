"""The voltage profile as a ridge on the band's axis."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from itertools import pairwise

from ready_trail.core.design import CircuitDesign, Profile
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO
from ready_trail.drawing import words
from ready_trail.drawing.band import AXIS_X0, AXIS_X1, WIDTH, back_spans
from ready_trail.drawing.columns import Column, total_m, x_at_run
from ready_trail.drawing.scene import Point, ProfileShape, Tick

HEIGHT = 180.0
_TOP, _FLOOR, _BACK_Y = 18.0, 126.0, 174.0
Scale = Callable[[float], float]
_TICK_STEPS_V = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0)


def draw_profile(design: CircuitDesign, columns: tuple[Column, ...]) -> ProfileShape:
    """Place the ridge, its limit, the steepest step and the return side."""
    profile = design.profile
    if profile is None:
        raise ValueError("a circuit that was not solved has no profile")
    request = design.sizing.request
    allowed_v = design.limit_v + PATH_EXTRA_RATIO * request.supply.nominal_v
    earth_side_v = profile.back[0].before_v if profile.back else 0.0
    needs_v = profile.posts_v - allowed_v
    limit_v = needs_v + earth_side_v
    end_v = profile.outward[-1].after_v
    top_v = profile.posts_v + 0.04 * (profile.posts_v - min(end_v, limit_v))
    bottom_v = min(end_v, limit_v) - 0.12 * (profile.posts_v - min(end_v, limit_v))
    scale = (_FLOOR - _TOP) / (top_v - bottom_v)

    def y_of(voltage_v: float) -> float:
        return _TOP + (top_v - voltage_v) * scale

    ridge = _ridge(profile, columns, y_of)
    steepest, label = _steepest(profile, ridge, y_of)
    words_at, anchor = _words_place(steepest, label, y_of(limit_v))
    back = _back(design, profile, columns, min(scale, 24.0 / max(earth_side_v, 0.02)))
    return ProfileShape(
        width=WIDTH,
        height=HEIGHT,
        x0=AXIS_X0,
        x1=AXIS_X1,
        ridge=ridge,
        floor_y=_FLOOR,
        ticks=_ticks(bottom_v, top_v, y_of),
        limit_y=y_of(limit_v),
        limit_label=f"{words.volts(needs_v)}, least allowed at the load",
        holds=end_v >= limit_v,
        steepest=steepest,
        steepest_label=label,
        steepest_words_at=words_at,
        steepest_anchor=anchor,
        end_label=words.volts(profile.load_v),
        marks=_marks(columns),
        back=back,
        back_y=_BACK_Y,
        back_label=f"return side {words.drop(earth_side_v)}" if profile.back else "",
        title=_title(design, profile),
    )


def _title(design: CircuitDesign, profile: Profile) -> str:
    if profile.at_design_current:
        return f"Voltage along the trail, at the design current of {words.amps(profile.current_a)}"
    return (
        f"Voltage along the trail, fed with {words.volts(profile.posts_v)}: it draws "
        f"{words.amps(profile.current_a)}"
    )


def _ridge(profile: Profile, columns: tuple[Column, ...], y_of: Scale) -> tuple[Point, ...]:
    left = {("wire", c.ref, c.at): c for c in columns if c.is_wire}
    devices = {c.ref: c for c in columns if not c.is_wire}
    counts: dict[str, int] = {}
    elements = Counter(step.place for step in profile.outward)
    points: list[Point] = [(AXIS_X0, y_of(profile.posts_v))]
    x = AXIS_X0
    for step in profile.outward:
        if step.is_wire:
            at = counts.get(step.place, 0)
            counts[step.place] = at + 1
            x = left[("wire", step.place, at)].x1
        elif step.place in devices:
            column, done = devices[step.place], counts.get(step.place, 0)
            counts[step.place] = done + 1
            if done == 0:
                points.append((column.x0, y_of(step.before_v)))
            x = column.x0 + (column.x1 - column.x0) * (done + 1) / elements[step.place]
        points.append((x, y_of(step.after_v)))
    points.append((AXIS_X1, points[-1][1]))
    return tuple(points)


def _steepest(profile: Profile, ridge: tuple[Point, ...], y_of: Scale) -> tuple[Point, str]:
    """The wire or device on the way out that loses most, marked at the middle of its slope."""
    sums: dict[str, float] = {}
    for step in profile.outward:
        sums[step.place] = sums.get(step.place, 0.0) + step.drop_v
    place = max(sums, key=lambda p: sums[p])
    own = [s for s in profile.outward if s.place == place]
    middle_y = y_of((own[0].before_v + own[-1].after_v) / 2)
    x = AXIS_X0
    for (xa, ya), (xb, yb) in pairwise(ridge):
        if min(ya, yb) - 1e-6 <= middle_y <= max(ya, yb) + 1e-6 and yb > ya:
            x = xa + (xb - xa) * (middle_y - ya) / (yb - ya)
    return (x, middle_y), f"steepest: {place}, {words.drop(sums[place])}"


def _words_place(point: Point, label: str, limit_y: float) -> tuple[Point, str]:
    """Above the slope to the right where there is room, else beneath it, clear of the limit."""
    x, y = point
    if x + 12 + len(label) * 7.2 < AXIS_X1 - 4:
        return (x + 10, y - 7), "start"
    beneath = y + 16
    if abs(beneath - limit_y) < 13:
        beneath = limit_y + 14 if limit_y + 14 < _FLOOR else limit_y - 20
    return (x - 10, beneath), "end"


def _back(
    design: CircuitDesign, profile: Profile, columns: tuple[Column, ...], scale: float
) -> tuple[Point, ...]:
    spans = dict(back_spans(design, columns))
    counts: dict[str, int] = {}
    points: list[Point] = []
    x = AXIS_X1
    for step in profile.back:
        points.append((x, _BACK_Y - step.before_v * scale))
        if step.is_wire:
            at = counts.get(step.place, 0)
            counts[step.place] = at + 1
            x = spans[(step.place, at)][1]
        elif step.is_body:
            x = AXIS_X0
        points.append((x, _BACK_Y - step.after_v * scale))
    return tuple(points) or ((AXIS_X1, _BACK_Y), (AXIS_X0, _BACK_Y))


def _ticks(bottom_v: float, top_v: float, y_of: Scale) -> tuple[Tick, ...]:
    step_v = next((s for s in _TICK_STEPS_V if (top_v - bottom_v) / s <= 6), 5.0)
    digits = 2 if step_v < 0.1 else 1
    first = math.ceil(bottom_v / step_v)
    last = math.floor(top_v / step_v)
    return tuple(
        Tick(y=y_of(at * step_v), label=f"{at * step_v:.{digits}f}")
        for at in range(first, last + 1)
    )


def _marks(columns: tuple[Column, ...]) -> tuple[tuple[float, str], ...]:
    """True distances from the source: the compressed scale made readable."""
    run_m = total_m(columns)
    step_m = next((s for s in (0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0) if run_m / s <= 6), 50.0)
    at = [step_m * i for i in range(1, int(run_m / step_m + 1e-9) + 1)]
    marks: list[tuple[float, str]] = []
    for m in at:
        x = x_at_run(columns, m, default=AXIS_X0)
        if not marks or x - marks[-1][0] > 34:
            marks.append((x, f"{m:g} m"))
    return tuple(marks)
