"""The sheet on paper: as many rows a page as stay readable, each page with its own bars."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.outcome import Design
from ready_trail.drawing.sheet import SheetScene, draw_sheet
from ready_trail.drawing.sheet.draw import SheetBlock

_ROOM_MM = {"letter": (262.0, 170.0), "a4": (280.0, 164.0)}
_LETTER_PX, LEAST_LETTER_MM = 10.0, 2.2
"""The sheet's smallest letters, and what they may become at least (house)."""
_LEAST_SCALE, _MOST_SCALE, _WHOLE_SCALE = LEAST_LETTER_MM / _LETTER_PX, 0.30, 0.26


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperPage:
    """One page: its rows as a sheet of their own, and where its bars come from or go on to
    another page.
    """

    number: int
    scene: SheetScene
    width_mm: float
    height_mm: float
    comes: tuple[tuple[float, float], ...] = ()
    goes: tuple[tuple[float, float], ...] = ()

    @property
    def letter_mm(self) -> float:
        """Height of its smallest letters. [mm]"""
        return _LETTER_PX * self.width_mm / self.scene.width


def pages_of(made: Design, sheet: SheetScene, paper: str, *, whole: bool) -> tuple[PaperPage, ...]:
    """Return the pages of a design's sheet; with ``whole`` one page as large as it needs. [mm]"""
    if whole or not sheet.blocks:
        return (_page(1, sheet, _WHOLE_SCALE),)
    room = _ROOM_MM["letter" if paper.lower() == "letter" else "a4"]
    scenes = list(_scenes(made, sheet, room))
    nodes = [{bar.node for bar in scene.bars} for scene in scenes]
    found = []
    for at, scene in enumerate(scenes):
        scale = min(room[0] / scene.width, room[1] / scene.height, _MOST_SCALE)
        before = set().union(*nodes[:at])
        after = set().union(*nodes[at + 1 :])
        comes = tuple((b.x, b.top) for b in scene.bars if b.node in before)
        goes = tuple((b.x, b.bottom) for b in scene.bars if b.node in after)
        found.append(_page(at + 1, scene, scale, comes, goes))
    return tuple(found)


def _page(
    number: int,
    scene: SheetScene,
    scale: float,
    comes: tuple[tuple[float, float], ...] = (),
    goes: tuple[tuple[float, float], ...] = (),
) -> PaperPage:
    return PaperPage(
        number=number,
        scene=scene,
        width_mm=scene.width * scale,
        height_mm=scene.height * scale,
        comes=comes,
        goes=goes,
    )


def _scenes(made: Design, sheet: SheetScene, room: tuple[float, float]) -> Iterator[SheetScene]:
    """Yield the rows of each page, drawn by themselves: as many as fit at readable letters."""
    across_px, down_px = (mm / _LEAST_SCALE for mm in room)
    parts = (c.planned.parts for c in made.circuits)
    needed = {owner for p in parts if p is not None for owner in p.needs}
    brought = (needed & set(made.shared)) - set(made.points)
    left = [b for b in sheet.blocks if not brought.issuperset(b.owners)]  # those come of themselves
    while left:
        count, high_px = 0, sheet.top
        for block in left:
            high_px += block.height
            if high_px > down_px and count:
                break
            count += 1
        scene = _drawn(made, left[:count])
        while count > 1 and (scene.width > across_px or scene.height > down_px):
            count -= 1
            scene = _drawn(made, left[:count])
        yield scene
        left = left[count:]


def _drawn(made: Design, blocks: list[SheetBlock]) -> SheetScene:
    return draw_sheet(made, frozenset(owner for block in blocks for owner in block.owners))
