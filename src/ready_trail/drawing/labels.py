"""Placing words on a drawing so that none covers another.

A label asks for a middle and a few rows; it gets the first row where it fits. One that finds no
room is left to the piece's own title, which a pointer and a screen reader find.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

CHAR_PX = 7.25
"""Advance of a figure in the drawing's mono type at 12 px."""

_GAP_PX = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """Words on the drawing, anchored at their middle."""

    x: float
    y: float
    text: str
    look: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Words that ask for a place: texts from best to shortest, rows from best to last.

    ``most_px`` is the room in its own column; None means that it may reach over its neighbours.
    """

    x: float
    texts: tuple[str, ...]
    rows: tuple[float, ...]
    look: str
    most_px: float | None = None


class Rows:
    """Rows of words, with what is taken on each."""

    def __init__(self, left: float, right: float) -> None:
        self._left, self._right = left, right
        self._taken: dict[float, list[tuple[float, float]]] = {}

    def block(self, row: float, x0: float, x1: float) -> None:
        """Keep a stretch of a row free."""
        self._taken.setdefault(row, []).append((x0, x1))

    def place(self, wanted: Iterable[Wanted]) -> tuple[Label, ...]:
        """Return the labels that found room, in the order in which they asked."""
        found = []
        for ask in wanted:
            label = self._one(ask)
            if label is not None:
                found.append(label)
        return tuple(found)

    def _one(self, ask: Wanted) -> Label | None:
        for text in ask.texts:
            width = len(text) * CHAR_PX
            if not text or (ask.most_px is not None and width > ask.most_px):
                continue
            x = min(max(ask.x, self._left + width / 2), self._right - width / 2)
            for row in ask.rows:
                span = (x - width / 2, x + width / 2)
                if all(
                    span[1] + _GAP_PX <= a or b + _GAP_PX <= span[0]
                    for a, b in self._taken.get(row, ())
                ):
                    self.block(row, *span)
                    return Label(x=x, y=row, text=text, look=ask.look)
        return None
