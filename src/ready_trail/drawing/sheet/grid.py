"""The sheet's grid: columns with gutters between them, and lines in blocks, one a circuit.

Nothing here knows pixels. Gutter ``i`` lies left of column ``i``. Lines sort from top to bottom;
a block's device lines come before the tracks on which its wires find their way.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Side = Literal["left", "right", "both"]


@dataclass(frozen=True, slots=True, order=True)
class Line:
    """A line of a block: a device line, or a track beneath them."""

    block: int
    is_track: bool
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Port:
    """A terminal on the grid. A bar's ports are on every line."""

    node: str
    terminal: str
    column: int
    side: Side
    line: Line | None

    @property
    def is_bar(self) -> bool:
        """Whether wires meet it wherever they come."""
        return self.line is None


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """A device, or one part of it, in one column over some lines of a block."""

    ref: str
    part: str
    kind: str
    column: int
    line: Line
    lines: int
    words: tuple[str, ...]
    title: str
    ports: tuple[Port, ...]
    protects: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """A vertical line that many wires meet: a source, a point, a signal of the vehicle."""

    node: str
    ref: str
    terminal: str
    kind: Literal["source", "point", "signal", "negative"]
    column: int
    name: str
    detail: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """A circuit's lines, those of what several share, or all feeders' (each of ``owners``)."""

    number: int
    owner: str
    owners: tuple[str, ...]
    name: str
    lines: int
    is_feeder: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """What joins two terminals without a wire: a fuse on its bus, a channel of a panel."""

    name: str
    a: Port
    b: Port


@dataclass(slots=True, kw_only=True)
class Grid:
    """Everything placed: ``columns`` by key from left to right."""

    columns: list[str] = field(default_factory=list)
    cells: list[Cell] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)
    blocks: list[Block] = field(default_factory=list)
    links: list[Link] = field(default_factory=list)
    ports: dict[tuple[str, str], Port] = field(default_factory=dict)
    """Ports by device and terminal."""
