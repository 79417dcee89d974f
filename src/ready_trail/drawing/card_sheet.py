"""Cards and cover labels, true to scale: lines flow into columns in the largest type that fits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ready_trail.core.record.card import Card, CardRow

A6_MM, CREDIT_MM = (148.0, 105.0), (85.6, 53.98)
"""Sides of a card, across. [mm]"""
_PAD_MM, _GAP_MM = 4.0, 3.0
CODE_MM = 17.0
_SIZES_MM = (3.2, 2.9, 2.6, 2.3, 2.0, 1.8, 1.6, 1.4, 1.25)
_LINE, _CHAR = 1.22, 0.54
"""Height of a line and width of a character over the size of its type (Overpass, mixed)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One line: a heading, or what stands at the left and what it says."""

    words: str
    at: str = ""
    rating: str = ""
    head: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """A line where it is printed. [mm]"""

    entry: Entry
    x: float
    y: float
    words: str
    words_x: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One side of a card: its size, the size of its type, its lines, and how many found no room."""

    width: float
    height: float
    size: float
    lines: tuple[Placed, ...]
    lost: int
    code: tuple[float, float, float, str] | None = None
    """A code with its left, top and side, and its picture."""


def fuse_side(card: Card, size_mm: tuple[float, float]) -> Side:
    """Return the side with every fuse, by block and place."""
    entries: list[Entry] = []
    for place, rows in card.blocks:
        entries.append(Entry(words=place, head=True))
        entries += [_entry(r) for r in rows]
    return _flowed(entries, size_mm)


def with_code(side: Side, qr: str) -> Side:
    """Return a side with a code in its lower right corner, where no line stands there."""
    left, top = side.width - _PAD_MM - CODE_MM, side.height - _PAD_MM - CODE_MM
    taken = any(
        line.y > top and line.words_x + len(line.words) * side.size * _CHAR > left
        for line in side.lines
    )
    return side if taken or not qr else replace(side, code=(left, top, CODE_MM, qr))


def _entry(row: CardRow) -> Entry:
    words = f"{row.feeds} ({row.colour})" if row.colour else row.feeds
    return Entry(words=words, at=row.at, rating=row.rating)


def help_side(card: Card, title: str, size_mm: tuple[float, float]) -> Side:
    """Return the side with isolators, relays, spares, and what to look at first."""
    entries = [Entry(words=title, head=True)]
    groups: list[tuple[str, list[str]]] = [
        ("Battery isolator", [f"{name}: {place}" for name, place in card.isolators]),
        ("Relays", [f"{ref} {name}: {place}" for ref, name, place in card.relays]),
    ]
    if size_mm != CREDIT_MM:  # the small card keeps to what is looked for in the dark
        groups.append(("Spares aboard", list(card.spares)))
        groups += [(f"{name} does not work", list(checks)) for name, checks in card.checks]
    for head, lines in groups:
        if lines:
            entries.append(Entry(words=head, head=True))
            entries += [Entry(words=line) for line in lines]
    return _flowed(entries, size_mm)


def cover_label(place: str, card: Card) -> Side:
    """Return the label for one block's cover."""
    rows = next(rows for name, rows in card.blocks if name == place)
    entries = [Entry(words=place, head=True)]
    entries += [_entry(r) for r in rows]
    return _flowed(entries, (80.0, 12.0 + 4.2 * len(rows)), columns=1)


def _flowed(entries: Sequence[Entry], size_mm: tuple[float, float], columns: int = 0) -> Side:
    width, height = size_mm
    for size in _SIZES_MM:
        most = columns or max(1, int((width - 2 * _PAD_MM) / (34.0 * size / 2.0)))
        side = _placed(entries, width, height, size, most)
        if not side.lost or size == _SIZES_MM[-1]:
            return side
    raise AssertionError("the smallest type is always tried")


def _placed(
    entries: Sequence[Entry], width: float, height: float, size: float, columns: int
) -> Side:
    step = size * _LINE
    column_mm = (width - 2 * _PAD_MM - (columns - 1) * _GAP_MM) / columns
    rows = int((height - 2 * _PAD_MM) / step)
    lines: list[Placed] = []
    column, row, lost = 0, 0, 0
    for at, entry in enumerate(entries):
        lead = size * (7.6 if entry.rating else 0.0)
        words = _wrapped(entry.words, column_mm - lead, size)
        keep = 3 if entry.head and at + 1 < len(entries) else 0
        if row + len(words) + keep > rows:
            column, row = column + 1, 0
        if column >= columns:
            lost += 1
            continue
        for number, text in enumerate(words):
            x = _PAD_MM + column * (column_mm + _GAP_MM)
            first = entry if number == 0 else Entry(words="", head=entry.head)
            lines.append(
                Placed(
                    entry=first,
                    x=x,
                    y=_PAD_MM + row * step + size,
                    words=text,
                    words_x=x + lead,
                )
            )
            row += 1
    return Side(width=width, height=height, size=size, lines=tuple(lines), lost=lost)


def _wrapped(words: str, room: float, size: float) -> list[str]:
    most = max(8, int(room / (size * _CHAR)))
    found, line = [], ""
    for word in words.split():
        if line and len(line) + 1 + len(word) > most:
            found.append(line)
            line = word
        else:
            line = f"{line} {word}".strip()
    return [*found, line] if line else found
