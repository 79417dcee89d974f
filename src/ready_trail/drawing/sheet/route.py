"""Wires find their way: straight where they can, else along a gutter and over a track.

Horizontal pieces never share a place with another net, nor vertical ones; wires only cross.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import count

from ready_trail.drawing.sheet.grid import Grid, Line, Port

Interval = tuple[int, int]
Ends = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Taken:
    """A stretch of a line that is in use: by a device, kept for a port, or by a wire."""

    start: int
    end: int
    nodes: tuple[str, ...]
    is_port: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """A horizontal piece on a line, from place to place (a gutter is even, a column odd)."""

    line: Line
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Drop:
    """A vertical piece in a lane of a gutter."""

    gutter: int
    lane: int
    top: Line
    bottom: Line


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """The way of one wire between its ports: runs and drops in turn."""

    name: str
    a: Port
    b: Port
    pieces: tuple[Run | Drop, ...]


@dataclass(slots=True)
class Router:
    """What is taken on each line and in each gutter."""

    grid: Grid
    lines: dict[Line, list[Taken]] = field(default_factory=dict)
    lanes: dict[int, dict[int, list[tuple[Line, Line]]]] = field(default_factory=dict)
    stubs: dict[tuple[int, Line], list[tuple[bool, int, str]]] = field(default_factory=dict)
    """Where ports on both sides of a gutter look at each other: from the left, lane, node."""
    tracks: dict[int, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Take up the places of devices, and keep the way to each port free for its own net."""
        for cell in self.grid.cells:
            at = 2 * cell.column + 1
            for n in range(cell.lines):
                line = Line(cell.line.block, False, cell.line.number + n)
                self.lines.setdefault(line, []).append(Taken(at, at, ()))
            for port in cell.ports:
                if port.line is not None:
                    for place in self._exits(port):
                        kept = Taken(place, place, (port.node,), is_port=True)
                        self.lines.setdefault(port.line, []).append(kept)

    def route(self, name: str, a: Port, b: Port, block: int) -> Route:
        """Return the way of a wire, and take it; ``block`` is whose tracks it may use."""
        if a.is_bar and not b.is_bar:
            turned = self.route(name, b, a, block)
            return Route(name=name, a=a, b=b, pieces=turned.pieces[::-1])
        ends = (a.node, b.node)
        if a.is_bar and b.is_bar:
            pieces = self._between_bars(a, b, ends, block)
        elif b.is_bar:
            pieces = self._to_bar(a, b, ends, block)
        else:
            pieces = self._between(a, b, ends, block)
        return Route(name=name, a=a, b=b, pieces=pieces)

    def _between(self, a: Port, b: Port, ends: Ends, block: int) -> tuple[Run | Drop, ...]:
        assert a.line is not None
        assert b.line is not None
        ga, gb = self._exit(a, b), self._exit(b, a)
        span = (min(ga, gb), max(ga, gb))
        if a.line == b.line and self._free(a.line, span, ends):
            self._take(a.line, span, ends)
            return (Run(a.line, ga, gb),)
        if ga == gb and a.line != b.line:
            return (self._drop(ga, a.line, b.line, a, b),)
        for line, gutter in ((b.line, ga), (a.line, gb)):
            if a.line != b.line and self._free(line, span, ends):
                self._take(line, span, ends)
                drop = self._drop(gutter, a.line, b.line, a if gutter == ga else b)
                run = Run(line, ga, gb)
                return (drop, run) if line == b.line else (run, drop)
        track = self._track(block, span, ends)
        first = self._drop(ga, a.line, track, a)
        last = self._drop(gb, track, b.line, b)
        return (first, Run(track, ga, gb), last)

    def _to_bar(self, a: Port, bar: Port, ends: Ends, block: int) -> tuple[Run | Drop, ...]:
        assert a.line is not None
        ga, at = self._exit(a, bar), 2 * bar.column + 1
        span = (min(ga, at), max(ga, at))
        if self._free(a.line, span, ends):
            self._take(a.line, span, ends)
            return (Run(a.line, ga, at),)
        track = self._track(block, span, ends)
        return (self._drop(ga, a.line, track, a), Run(track, ga, at))

    def _between_bars(self, a: Port, b: Port, ends: Ends, block: int) -> tuple[Run | Drop, ...]:
        start, end = 2 * a.column + 1, 2 * b.column + 1
        track = self._track(block, (min(start, end), max(start, end)), ends)
        return (Run(track, start, end),)

    def _exits(self, port: Port) -> tuple[int, ...]:
        """The gutters' places at a port's own sides."""
        left, right = 2 * port.column, 2 * port.column + 2
        return {"left": (left,), "right": (right,), "both": (left, right)}[port.side]

    def _exit(self, port: Port, towards: Port) -> int:
        """The place at which a wire leaves a port: of two sides the one that looks that way."""
        exits = self._exits(port)
        return exits[-1] if towards.column > port.column else exits[0]

    def _free(self, line: Line, span: Interval, ends: Ends) -> bool:
        """Whether a wire may lie there: it may share a place only at a terminal that it shares."""
        for taken in self.lines.get(line, ()):
            low, high = max(span[0], taken.start), min(span[1], taken.end)
            if low > high:
                continue
            shared = any(node in ends for node in taken.nodes)
            if not (shared and low == high and low in (*span, taken.start, taken.end)):
                return False
        return True

    def _take(self, line: Line, span: Interval, ends: Ends) -> None:
        self.lines.setdefault(line, []).append(Taken(*span, ends))

    def _track(self, block: int, span: Interval, ends: Ends) -> Line:
        for number in range(self.tracks.get(block, 0)):
            line = Line(block, True, number)
            if self._free(line, span, ends):
                self._take(line, span, ends)
                return line
        line = Line(block, True, self.tracks.get(block, 0))
        self.tracks[block] = line.number + 1
        self._take(line, span, ends)
        return line

    def _drop(self, place: int, a: Line, b: Line, *ports: Port) -> Drop:
        """A vertical piece in the first lane that is free there.

        Ports on both sides of a gutter may look at each other; what leaves the left one then
        keeps left of what leaves the right one.
        """
        gutter, top, bottom = place // 2, min(a, b), max(a, b)
        lanes = self.lanes.setdefault(gutter, {})
        number = next(
            n
            for n in _outwards()
            if all(high < top or low > bottom for low, high in lanes.get(n, ()))
            and all(self._keeps_side(gutter, n, port) for port in ports)
        )
        lanes.setdefault(number, []).append((top, bottom))
        for port in ports:
            if port.line is not None:
                from_left = port.column < gutter
                at = (gutter, port.line)
                self.stubs.setdefault(at, []).append((from_left, number, port.node))
        return Drop(gutter, number, top, bottom)

    def _keeps_side(self, gutter: int, lane: int, port: Port) -> bool:
        if port.line is None:
            return True
        from_left = port.column < gutter
        return all(
            node == port.node
            or was_left == from_left
            or (lane < other if from_left else lane > other)
            for was_left, other, node in self.stubs.get((gutter, port.line), ())
        )


def _outwards() -> Iterator[int]:
    """Lanes in the order in which they are tried: 0, 1, -1, 2, -2 and on."""
    yield 0
    for n in count(1):
        yield from (n, -n)
