"""The whole job on one sheet: placed on a grid, routed, then drawn to scale of its lines."""

from ready_trail.drawing.sheet.draw import TIGHT, SheetScene, draw_sheet
from ready_trail.drawing.sheet.heads import HeadName, level_names

__all__ = ["TIGHT", "HeadName", "SheetScene", "draw_sheet", "level_names"]
