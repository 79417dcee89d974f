"""The vehicle from above and from the left, true to scale, with its looms."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from statistics import median
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
    """Its length, for a plate on it while it is picked."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanPoint:
    """A point with what sits there."""

    point_id: str
    title: str
    x: float
    y: float
    kind: str
    label: str
    label_at: Point
    leader: tuple[Point, ...]
    """From the label, outside the body, to the point."""
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
    ground = _SIDE_GROUND if view == "side" else 0.0

    def across(point: LoomPoint) -> float:
        return point.y_m if view == "plan" else point.z_m

    said = [p for p in layout.points if sits.get(p.id)]
    middle_m = median(across(p) for p in said) if said else 0.0  # as many above as below
    above: list[_Tag] = []
    below: list[_Tag] = []
    for point in layout.points:
        label = _label(sits.get(point.id, []))
        if label:
            tags = above if across(point) >= middle_m else below
            tags.append(_Tag(point.id, label, _MARGIN + point.x_m * scale))
    over, under = _rowed(above), _rowed(below)
    top = _ZONE_PX + _band_px(over)
    body_px = across_m * scale + 2 * _MARGIN + ground
    height = top + body_px + _band_px(under)
    origin_y = top + (body_px / 2 if view == "plan" else _MARGIN + layout.height_m * scale)

    def at(point: LoomPoint) -> Point:
        return (_MARGIN + point.x_m * scale, origin_y - across(point) * scale)

    places = {point.id: at(point) for point in layout.points}
    put = {t.point_id: _put(t, row, top, -1) for t, row in over}
    put |= {t.point_id: _put(t, row, top + body_px, 1) for t, row in under}
    points = tuple(_point(p, places[p.id], sits, put.get(p.id)) for p in layout.points)
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
        legs=tuple(_leg(loom, places, catalogue) for loom in looms),
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
        label=f"{loom.length_m:.2f} m {'taped' if taped else 'estimated'}",
    )


def _label(names: list[str]) -> str:
    """What stands at a point, in few words."""
    return names[0] if len(names) == 1 else (f"{names[0]} +{len(names) - 1}" if names else "")


def _point(
    point: LoomPoint,
    place: Point,
    held: Mapping[str, list[str]],
    put: tuple[Point, tuple[Point, ...]] | None,
) -> PlanPoint:
    names = held.get(point.id, [])
    kind = "earth" if point.is_earth else "junction"
    if "Battery" in names:
        kind = "battery"
    elif names:
        kind = "device"
    label_at, leader = put if put is not None else (place, ())
    return PlanPoint(
        point_id=point.id,
        title=f"{point.name}: {', '.join(names)}" if names else point.name,
        x=place[0],
        y=place[1],
        kind=kind,
        label=_label(names) if put is not None else "",
        label_at=label_at,
        leader=(*leader, place) if leader else (),
        x_m=point.x_m,
        y_m=point.y_m,
        z_m=point.z_m,
    )


_LABEL_CHAR, _ROW_PX, _ZONE_PX, _GAP_PX = 6.8, 14.0, 20.0, 8.0
_SHIFT_PX, _FAR_PX = 6.0, 420.0


@dataclass(slots=True)
class _Tag:
    """A label, the middle of which is wanted over its point; ``left`` is where it begins."""

    point_id: str
    text: str
    x: float
    left: float = 0.0

    @property
    def width(self) -> float:
        return len(self.text) * _LABEL_CHAR

    @property
    def foot(self) -> float:
        """Where its leader begins: over its point if it reaches there."""
        return min(max(self.x, self.left + 4), self.left + self.width - 4)


def _rowed(tags: list[_Tag]) -> list[tuple[_Tag, int]]:
    """Put labels in rows, the first next to the body, near their points; no leader, which goes
    straight through the rows beneath its label, meets another label.
    """
    rows: list[list[tuple[float, float]]] = []
    leaders: list[tuple[float, int]] = []
    found: list[tuple[_Tag, int]] = []

    def is_free(row: int, left: float, right: float) -> bool:
        while len(rows) <= row:
            rows.append([])
        clear = all(right + _GAP_PX <= a or b + _GAP_PX <= left for a, b in rows[row])
        return clear and all(upto <= row or not left - 3 < x < right + 3 for x, upto in leaders)

    def fits(tag: _Tag, row: int) -> bool:
        right = tag.left + tag.width
        if tag.left < 4 or right > WIDTH - 4 or not is_free(row, tag.left, right):
            return False
        foot = tag.foot
        lower = (interval for below in rows[:row] for interval in below)
        return all(foot + 3 <= a or b + 3 <= foot for a, b in lower) and all(
            abs(foot - x) >= 3 for x, _ in leaders
        )

    for tag in sorted(tags, key=lambda t: t.x):
        best: tuple[float, int, float] | None = None
        for row in range(len(rows) + 1):
            shift = 0.0
            while shift <= _FAR_PX:
                for side in (-1.0, 1.0):
                    tag.left = tag.x - tag.width / 2 + side * shift
                    if fits(tag, row):
                        cost = shift + 20.0 * row
                        if best is None or cost < best[0]:
                            best = (cost, row, tag.left)
                if best is not None and best[1] == row:
                    break
                shift += _SHIFT_PX
        if best is None:
            continue  # no room anywhere: its title tells
        _, row, tag.left = best
        rows[row].append((tag.left, tag.left + tag.width))
        leaders.append((tag.foot, row))
        found.append((tag, row))
    return found


def _band_px(rowed: list[tuple[_Tag, int]]) -> float:
    return _ROW_PX * (1 + max((row for _, row in rowed), default=-1))


def _put(tag: _Tag, row: int, edge_y: float, side: int) -> tuple[Point, tuple[Point, ...]]:
    """Where a label stands, beyond an edge of the body's field, and how its leader begins."""
    middle_y = edge_y + side * (_ROW_PX * row + _ROW_PX / 2)
    near_y = middle_y - side * 6.0
    return (tag.left, middle_y + 4.0), ((tag.foot, near_y), (tag.foot, edge_y))
