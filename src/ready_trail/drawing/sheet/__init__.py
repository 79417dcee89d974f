"""The whole job on one sheet: placed on a grid, routed, then drawn to scale of its lines."""

from ready_trail.drawing.sheet.draw import TIGHT, SheetScene, draw_sheet

__all__ = ["TIGHT", "SheetScene", "draw_sheet"]
