"""Sheets of labels, true to scale in millimetres, for screen and paper alike."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.build.labels import Label, LabelGrid
from ready_trail.drawing.qr import qr_picture

_PAD_MM = 1.4
_QR_LEAST_MM = 14.0
_CHAR_RATIO = 0.56
"""Width of a character over its size (Overpass, mixed text)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedText:
    """A line of a label: its baseline and size. [mm]"""

    text: str
    x: float
    y: float
    size: float
    strong: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedLabel:
    """One label on its sheet. ``qr`` is the code's side and its picture. [mm]"""

    x: float
    y: float
    width: float
    height: float
    lines: tuple[PlacedText, ...]
    colour: str
    qr: tuple[float, str] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelPage:
    """One sheet of labels."""

    number: int
    width: float
    height: float
    labels: tuple[PlacedLabel, ...]


def label_pages(
    labels: tuple[Label, ...], grid: LabelGrid, *, skip: int = 0, address: str = ""
) -> tuple[LabelPage, ...]:
    """Return labels on sheets; ``skip`` leaves that many places of the first sheet free.

    With ``address`` labels that are large enough carry a QR code of it.
    """
    qr = (
        qr_picture(address)
        if address and min(grid.height_mm, grid.width_mm) >= _QR_LEAST_MM
        else None
    )
    width, height = grid.paper_mm
    pages: list[list[PlacedLabel]] = []
    for at, label in enumerate(labels, start=skip % grid.per_page):
        page, place = divmod(at, grid.per_page)
        row, column = divmod(place, grid.columns)
        while len(pages) <= page:
            pages.append([])
        pages[page].append(
            _placed(
                label,
                grid,
                grid.left_mm + column * grid.pitch_x_mm,
                grid.top_mm + row * grid.pitch_y_mm,
                qr,
            )
        )
    return tuple(
        LabelPage(number=number, width=width, height=height, labels=tuple(found))
        for number, found in enumerate(pages, start=1)
    )


def _placed(label: Label, grid: LabelGrid, x: float, y: float, qr: str | None) -> PlacedLabel:
    most = min(grid.height_mm - 2 * _PAD_MM, grid.width_mm * 0.36)
    side = min(most, 16.0) if qr is not None else 0.0
    room = grid.width_mm - 2 * _PAD_MM - (side + 1.0 if side else 0.0)
    return PlacedLabel(
        x=x,
        y=y,
        width=grid.width_mm,
        height=grid.height_mm,
        colour=label.colour,
        lines=tuple(_lines(label, x + _PAD_MM, y + _PAD_MM, room, grid.height_mm - 2 * _PAD_MM)),
        qr=(side, qr) if qr is not None else None,
    )


def _lines(label: Label, x: float, y: float, room: float, height: float) -> Iterator[PlacedText]:
    """Code first and largest; then where it is, and where its far end is, as far as it fits."""
    width = max(len(label.code), 4) + len(label.colour) * 0.75 + (1 if label.colour else 0)
    code_mm = min(height * 0.36, 5.0, room / (width * 0.62))
    yield PlacedText(text=label.code, x=x, y=y + code_mm * 0.8, size=code_mm, strong=True)
    small_mm = min(2.6, height * 0.22)
    at = y + code_mm * 0.9
    for words in (label.words, label.far):
        for line in _wrapped(words, room, small_mm):
            at += small_mm * 1.12
            if at > y + height + 0.1:
                return
            yield PlacedText(text=line, x=x, y=at, size=small_mm)


def _wrapped(words: str, room: float, size: float) -> Iterator[str]:
    most = max(6, int(room / (size * _CHAR_RATIO)))
    line = ""
    for word in words.split():
        piece = word if len(word) <= most else f"{word[: most - 1]}…"
        if line and len(line) + 1 + len(piece) > most:
            yield line
            line = piece
        else:
            line = f"{line} {piece}".strip()
    if line:
        yield line
