"""The vehicle from above and from the left, true to scale, with its looms."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design
from ready_trail.core.job.layout import Layout, LoomPoint
from ready_trail.core.layout.templates import Outline, VehicleShape, vehicle_shape
from ready_trail.core.looms import Loom
from ready_trail.core.places import what_sits_where
from ready_trail.core.wording import lower_first
from ready_trail.drawing.scene import Point

View = Literal["plan", "side"]

WIDTH = 760.0
_MARGIN = 22.0
_SIDE_GROUND = 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanZone:
    """A zone's stretch of the vehicle."""

    zone: str
    label: str
    ambient_c: float
    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanLeg:
    """A leg between two points, as wide as its bundle."""

    leg_id: str
    title: str
    a: str
    b: str
    x1: float
    y1: float
    x2: float
    y2: float
    stroke: float
    is_hot: bool
    rule: str
    taped: bool
    used: bool
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanPoint:
    """A point with what sits there."""

    point_id: str
    title: str
    x: float
    y: float
    kind: str
    label: str
    label_x: float
    label_y: float
    label_anchor: str
    x_m: float
    y_m: float
    z_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """One view of the vehicle. ``px_per_m`` turns a drag into metres."""

    view: View
    width: float
    height: float
    px_per_m: float
    origin_x: float
    origin_y: float
    body: tuple[Point, ...]
    glass: tuple[Point, ...]
    wheels: tuple[tuple[float, float, float, float], ...]
    zones: tuple[PlanZone, ...]
    legs: tuple[PlanLeg, ...]
    points: tuple[PlanPoint, ...]


def draw_plan(
    design: Design, looms: tuple[Loom, ...], catalogue: Catalogue, view: View
) -> Plan | None:
    """Return one view of the job's vehicle, or None without a layout."""
    layout = design.job.layout
    if layout is None:
        return None
    shape = vehicle_shape(design.job.vehicle.kind)
    sits = what_sits_where(design)
    scale = (WIDTH - 2 * _MARGIN) / layout.length_m
    across_m = layout.width_m if view == "plan" else layout.height_m
    height = across_m * scale + 2 * _MARGIN + (_SIDE_GROUND if view == "side" else 0.0)
    origin_y = height / 2 if view == "plan" else _MARGIN + layout.height_m * scale

    def at(point: LoomPoint) -> Point:
        across = point.y_m if view == "plan" else point.z_m
        return (_MARGIN + point.x_m * scale, origin_y - across * scale)

    places = {point.id: at(point) for point in layout.points}
    points = _labelled(tuple(_point(p, places[p.id], sits) for p in layout.points), height)
    return Plan(
        view=view,
        width=WIDTH,
        height=height,
        px_per_m=scale,
        origin_x=_MARGIN,
        origin_y=origin_y,
        body=_outline(shape.body if view == "plan" else shape.side, layout, view, scale, origin_y),
        glass=_outline(shape.glass, layout, view, scale, origin_y) if view == "plan" else (),
        wheels=_wheels(shape, layout, view, scale, origin_y),
        zones=_zones(shape, layout, catalogue, scale),
        legs=_without_clashes(
            tuple(_leg(loom, places, catalogue) for loom in looms), points, height
        ),
        points=points,
    )


def _outline(
    pairs: Outline, layout: Layout, view: View, scale: float, origin_y: float
) -> tuple[Point, ...]:
    across_m = layout.width_m if view == "plan" else layout.height_m
    return tuple(
        (_MARGIN + u * layout.length_m * scale, origin_y - v * across_m * scale) for u, v in pairs
    )


def _wheels(
    shape: VehicleShape, layout: Layout, view: View, scale: float, origin_y: float
) -> tuple[tuple[float, float, float, float], ...]:
    """Centre and radii of each wheel."""
    radius = 0.075 * layout.length_m * scale
    if layout.length_m < 2.6:
        radius = 0.14 * layout.length_m * scale
    found: list[tuple[float, float, float, float]] = []
    for u, v in shape.wheels:
        x = _MARGIN + u * layout.length_m * scale
        if view == "plan":
            found.append((x, origin_y - v * layout.width_m * scale, radius, radius * 0.36))
        elif not any(abs(x - other[0]) < 1 for other in found):
            found.append((x, origin_y - radius + 4, radius, radius))
    return tuple(found)


def _zones(
    shape: VehicleShape, layout: Layout, catalogue: Catalogue, scale: float
) -> tuple[PlanZone, ...]:
    return tuple(
        PlanZone(
            zone=span.zone,
            label=catalogue.zones[span.zone].label,
            ambient_c=catalogue.zones[span.zone].ambient_c,
            x=_MARGIN + span.from_ratio * layout.length_m * scale,
            width=(span.to_ratio - span.from_ratio) * layout.length_m * scale,
        )
        for span in shape.zones
    )


def _leg(loom: Loom, places: Mapping[str, Point], catalogue: Catalogue) -> PlanLeg:
    leg = loom.leg
    (x1, y1), (x2, y2) = places[leg.a], places[leg.b]
    count = len(loom.wires)
    taped = leg.taped_m is not None
    return PlanLeg(
        leg_id=leg.id,
        title=f"Leg {leg.id}, {loom.length_m:.2f} m {'taped' if taped else 'estimated'}, "
        f"{lower_first(catalogue.zones[leg.zone].label)}, {count} wires",
        a=leg.a,
        b=leg.b,
        x1=x1,
        y1=y1,
        x2=x2,
        y2=y2,
        stroke=max(2.0, min(12.0, loom.bundle_mm * 0.55)),
        is_hot=loom.ambient_c >= 100.0,
        rule=leg.rule,
        taped=taped,
        used=bool(count),
        label=f"{loom.length_m:.2f}" if taped else "",
    )


def _point(point: LoomPoint, place: Point, held: Mapping[str, list[str]]) -> PlanPoint:
    names = held.get(point.id, [])
    kind = "earth" if point.is_earth else "junction"
    if "Battery" in names:
        kind = "battery"
    elif names:
        kind = "device"
    label = names[0] if len(names) == 1 else (f"{names[0]} +{len(names) - 1}" if names else "")
    title = f"{point.name}: {', '.join(names)}" if names else point.name
    return PlanPoint(
        point_id=point.id,
        title=title,
        x=place[0],
        y=place[1],
        kind=kind,
        label=label,
        label_x=place[0],
        label_y=place[1] - 10,
        label_anchor="middle",
        x_m=point.x_m,
        y_m=point.y_m,
        z_m=point.z_m,
    )


_Box = tuple[float, float, float, float]
_LABEL_CHAR, _LEG_CHAR, _LINE = 6.8, 6.4, 12.0
_SPOTS = (
    (0.0, -10.0, "middle"),
    (0.0, 19.0, "middle"),
    (11.0, 4.0, "start"),
    (-11.0, 4.0, "end"),
    (11.0, -11.0, "start"),
    (-11.0, 17.0, "end"),
    (-11.0, -11.0, "end"),
    (11.0, 17.0, "start"),
)
_FAR_SPOTS = tuple(
    (side * out, up, "start" if side > 0 else "end")
    for out in (16.0, 30.0, 46.0)
    for up in (-26.0, 32.0, -40.0, 46.0, -54.0, 60.0)
    for side in (1.0, -1.0)
)
"""Further away, with a thin line back to the point."""


def _labelled(points: tuple[PlanPoint, ...], height: float) -> tuple[PlanPoint, ...]:
    """Put each label where it touches no other; one that finds no room is left to the title."""
    taken: list[_Box] = [(p.x - 7, p.y - 7, p.x + 7, p.y + 7) for p in points]
    placed: list[PlanPoint] = []
    for point in points:
        own = (point.x - 7, point.y - 7, point.x + 7, point.y + 7)
        choice = _room_for(point, [box for box in taken if box != own], height)
        if choice is None:
            placed.append(replace(point, label=""))
            continue
        label, dx, dy, anchor, box = choice
        taken.append(box)
        placed.append(
            replace(
                point, label=label, label_x=point.x + dx, label_y=point.y + dy, label_anchor=anchor
            )
        )
    return tuple(placed)


def _room_for(
    point: PlanPoint, others: list[_Box], height: float
) -> tuple[str, float, float, str, _Box] | None:
    """Where the label goes, whole: beside its point, else further off."""
    for dx, dy, anchor in (*_SPOTS, *_FAR_SPOTS) if point.label else ():
        box = _text_box(point.label, point.x + dx, point.y + dy, anchor, _LABEL_CHAR)
        if _inside(box, height) and not any(_overlap(box, other) for other in others):
            return point.label, dx, dy, anchor, box
    return None


def _without_clashes(
    legs: tuple[PlanLeg, ...], points: tuple[PlanPoint, ...], height: float
) -> tuple[PlanLeg, ...]:
    """Drop the taped lengths that would cover a label or each other."""
    taken = [(p.x - 7, p.y - 7, p.x + 7, p.y + 7) for p in points]
    taken += [
        _text_box(p.label, p.label_x, p.label_y, p.label_anchor, _LABEL_CHAR)
        for p in points
        if p.label
    ]
    kept: list[PlanLeg] = []
    for leg in legs:
        x, y = (leg.x1 + leg.x2) / 2, (leg.y1 + leg.y2) / 2 - 5
        box = _text_box(leg.label, x, y, "middle", _LEG_CHAR)
        if leg.label and _inside(box, height) and not any(_overlap(box, b) for b in taken):
            taken.append(box)
            kept.append(leg)
        else:
            kept.append(replace(leg, label=""))
    return tuple(kept)


def _text_box(text: str, x: float, y: float, anchor: str, advance: float) -> _Box:
    width = len(text) * advance
    left = x - {"start": 0.0, "middle": width / 2, "end": width}[anchor]
    return (left, y - _LINE + 2, left + width, y + 3)


def _overlap(a: _Box, b: _Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def _inside(box: _Box, height: float) -> bool:
    return box[0] >= 2 and box[2] <= WIDTH - 2 and box[1] >= 20 and box[3] <= height - 2
