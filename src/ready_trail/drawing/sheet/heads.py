"""Names of bars over one row, level and in lines of their own, as a phone shows them."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.drawing.sheet.draw import SheetBar, SheetScene

_SIGN_PX, _LINE_PX, _GAP_PX = 7.2, 15.0, 8.0
"""What a sign takes of a line, how far lines stand apart, and names on one line."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadName:
    """A bar's name: where its text begins or ends, and the line down to the bar."""

    bar: SheetBar
    y: float
    anchor: str
    x0: float
    x1: float
    name: str

    @property
    def x(self) -> float:
        """Where the text is anchored."""
        return self.x0 if self.anchor == "start" else self.x1


def level_names(scene: SheetScene, width: float) -> tuple[HeadName, ...]:
    """Return the bars' names, none over another: each on the lowest line that is free, best one
    whose line down crosses no other name. A name starts at its bar, or ends there where it would
    leave the ``width`` otherwise; lines go as high as they must, above the scene's top too.
    """
    placed: list[HeadName] = []
    for bar in sorted(scene.bars, key=lambda bar: bar.x, reverse=True):
        names = [
            name
            for k in range(len(scene.bars))
            for name in _named(bar, width, scene.top - 10.0 - k * _LINE_PX)
        ]
        free = [n for n in names if not any(_over(n, other) for other in placed)]
        clear = [n for n in free if not any(_crosses(n, other) for other in placed)]
        placed.append((clear or free)[0])
    return tuple(placed)


def _named(bar: SheetBar, width: float, y: float) -> list[HeadName]:
    takes = len(bar.name) * _SIGN_PX
    found = []
    if bar.x + takes <= width:
        found.append(
            HeadName(bar=bar, y=y, anchor="start", x0=bar.x, x1=bar.x + takes, name=bar.name)
        )
    if bar.x >= takes or not found:
        found.append(
            HeadName(bar=bar, y=y, anchor="end", x0=bar.x - takes, x1=bar.x, name=bar.name)
        )
    return found


def _over(name: HeadName, other: HeadName) -> bool:
    """Whether two names lie over each other."""
    return name.y == other.y and name.x0 < other.x1 + _GAP_PX and other.x0 < name.x1 + _GAP_PX


def _crosses(name: HeadName, other: HeadName) -> bool:
    """Whether the line down from the upper name crosses the lower."""
    upper, lower = (name, other) if name.y < other.y else (other, name)
    return upper.y < lower.y and lower.x0 - 3.0 < upper.bar.x < lower.x1 + 3.0
