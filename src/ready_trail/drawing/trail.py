"""The whole trail sheet of one circuit as a scene."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.drawing.band import AXIS_X0, AXIS_X1, draw_band
from ready_trail.drawing.columns import lay_columns
from ready_trail.drawing.lane import draw_lane, draw_pins, draw_side_lane
from ready_trail.drawing.profile import draw_profile
from ready_trail.drawing.scene import Trail


def draw_trail(design: CircuitDesign, catalogue: Catalogue) -> Trail | None:
    """Return the scene of a circuit, or None where there is nothing wired to draw."""
    if design.installation is None or design.profile is None:
        return None
    columns = lay_columns(design, AXIS_X0, AXIS_X1)
    return Trail(
        drawing_id=f"trail-{design.circuit.id}",
        band=draw_band(design, columns, catalogue),
        profile=draw_profile(design, columns),
        lane=draw_lane(design),
        side_lane=draw_side_lane(design),
        pins=draw_pins(design),
    )
