"""The sheet cut onto paper between its rows, with the bars that go on marked."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

from ready_trail.drawing.sheet import SheetScene

_ACROSS_MM = {"letter": (262.0, 190.0), "a4": (280.0, 184.0)}
_HEAD_MM = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperPage:
    """One page: what part of the sheet it shows, and where bars and wires come in or go on."""

    number: int
    y: float
    height: float
    width_mm: float
    height_mm: float
    comes: tuple[float, ...]
    goes: tuple[float, ...]


def pages_of(sheet: SheetScene, paper: str, *, whole: bool) -> tuple[PaperPage, ...]:
    """Return the pages of a sheet; with ``whole`` one page as large as it needs. [mm]"""
    across_mm, down_mm = _ACROSS_MM["letter" if paper.lower() == "letter" else "a4"]
    mm_px = 0.26 if whole else across_mm / sheet.width
    if whole or not sheet.blocks:
        return (
            PaperPage(
                number=1,
                y=sheet.top,
                height=sheet.height - sheet.top,
                comes=(),
                goes=(),
                width_mm=sheet.width * mm_px,
                height_mm=(sheet.height - sheet.top) * mm_px,
            ),
        )
    room_px = (down_mm - _HEAD_MM) / mm_px - sheet.top
    cuts = [sheet.blocks[0].y]
    for block in sheet.blocks:
        if block.y + block.height - cuts[-1] > room_px and block.y > cuts[-1]:
            cuts.append(block.y)
    last = sheet.blocks[-1]
    ends = [*cuts[1:], last.y + last.height]
    found = []
    for number, (start, end) in enumerate(zip(cuts, ends, strict=True), start=1):
        fits = min(1.0, room_px / (end - start))
        found.append(
            PaperPage(
                number=number,
                y=start,
                height=end - start,
                width_mm=across_mm * fits,
                height_mm=(end - start) * mm_px * fits,
                comes=_through(sheet, start),
                goes=_through(sheet, end),
            )
        )
    return tuple(found)


def cropped(sheet: SheetScene, page: PaperPage) -> SheetScene:
    """Return the sheet with only what shows on a page; the rest would be laid out for nothing."""
    top, bottom = page.y, page.y + page.height

    def shows(points: tuple[tuple[float, float], ...]) -> bool:
        levels = [y for _, y in points]
        return min(levels) <= bottom and max(levels) >= top

    return replace(
        sheet,
        wires=tuple(w for w in sheet.wires if shows(w.points)),
        devices=tuple(d for d in sheet.devices if top - 60 <= d.y <= bottom + 60),
        blocks=tuple(b for b in sheet.blocks if top <= b.y + b.height and b.y <= bottom),
        links=tuple(link for link in sheet.links if shows(link)),
        link_dots=tuple((x, y) for x, y in sheet.link_dots if top <= y <= bottom),
    )


def _through(sheet: SheetScene, y: float) -> tuple[float, ...]:
    """Where bars and wires pass a level of the sheet, from left to right."""
    found = [b.x for b in sheet.bars if b.top < y < b.bottom]
    for wire in sheet.wires:
        found += [
            x0
            for (x0, y0), (x1, y1) in pairwise(wire.points)
            if x0 == x1 and min(y0, y1) < y < max(y0, y1)
        ]
    return tuple(sorted(found))
