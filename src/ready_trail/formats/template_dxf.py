"""Templates as DXF for those who cut by machine: millimetres, cuts and words on their layers."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ready_trail.core.build.cutouts import Opening, Template

if TYPE_CHECKING:  # a third of a second and 20 MB, for a file that few ask for
    from ezdxf.layouts.layout import Modelspace

CUT, DRILL, WORDS = "CUT", "DRILL", "WORDS"
_GAP_MM = 20.0
_QUARTER = 0.41421356237309503
"""Bulge of a quarter turn: the tangent of a quarter of its angle."""


def templates_dxf(templates: Sequence[Template]) -> str:
    """Return templates one above another, each with its name under it. [mm]"""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010", setup=False)
    document.units = units.MM
    for layer, colour in ((CUT, 1), (DRILL, 5), (WORDS, 8)):
        document.layers.add(layer, color=colour)
    space = document.modelspace()
    base = 0.0
    for template in templates:
        _put(space, template, base)
        base -= template.height + _GAP_MM
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _put(space: Modelspace, template: Template, base: float) -> None:
    """One template with its upper left corner at (0, base): DXF counts upwards."""
    for opening in template.openings:
        space.add_lwpolyline(
            [(x, base - y, bulge) for x, y, bulge in _corners(opening)],
            format="xyb",
            close=True,
            dxfattribs={"layer": CUT},
        )
    for bore in template.bores:
        space.add_circle((bore.x, base - bore.y), bore.diameter / 2, dxfattribs={"layer": DRILL})
    place = f", {template.place}" if template.place else ""
    text = space.add_text(f"{template.name}{place}", height=4.0, dxfattribs={"layer": WORDS})
    text.set_placement((0.0, base - template.height))


def _corners(o: Opening) -> list[tuple[float, float, float]]:
    """Round a rectangle clockwise as it is seen, from its upper left, bulged at corners."""
    r, left, top, right, low = o.radius, o.x, o.y, o.x + o.width, o.y + o.height
    if not r:
        return [(left, top, 0.0), (right, top, 0.0), (right, low, 0.0), (left, low, 0.0)]
    return [
        (left + r, top, 0.0),
        (right - r, top, -_QUARTER),
        (right, top + r, 0.0),
        (right, low - r, -_QUARTER),
        (right - r, low, 0.0),
        (left + r, low, -_QUARTER),
        (left, low - r, 0.0),
        (left, top + r, -_QUARTER),
    ]
