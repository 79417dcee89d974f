"""A small plan of the vehicle on which one place is marked: the picture beside a step."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ready_trail.core.design import Design
from ready_trail.core.layout.templates import vehicle_shape
from ready_trail.drawing.scene import Point

WIDTH = 200.0
_MARGIN = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Where:
    """The outline from above, front to the left, with every point of the layout on it."""

    width: float
    height: float
    body: tuple[Point, ...]
    glass: tuple[Point, ...]
    spots: Mapping[str, Point]


def where_of(design: Design) -> Where | None:
    """Return the small plan of a job's vehicle, or None without a layout."""
    layout = design.job.layout
    if layout is None:
        return None
    shape = vehicle_shape(design.job.vehicle.kind)
    scale = (WIDTH - 2 * _MARGIN) / layout.length_m
    middle = layout.width_m * scale / 2 + _MARGIN

    def outline(pairs: tuple[tuple[float, float], ...]) -> tuple[Point, ...]:
        return tuple(
            (_MARGIN + u * layout.length_m * scale, middle - v * layout.width_m * scale)
            for u, v in pairs
        )

    return Where(
        width=WIDTH,
        height=2 * middle,
        body=outline(shape.body),
        glass=outline(shape.glass),
        spots={p.id: (_MARGIN + p.x_m * scale, middle - p.y_m * scale) for p in layout.points},
    )
