"""The grid to scale: pixels of columns and lines, wires as paths, words where there is room."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from textwrap import wrap

from ready_trail.core.kinds.base import DeviceKind
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.kinds.load import LoadSpec
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.drawing.band import split_colour
from ready_trail.drawing.scene import Point
from ready_trail.drawing.sheet.grid import Bar, Cell, Grid, Line, Port
from ready_trail.drawing.sheet.order import ordered
from ready_trail.drawing.sheet.place import COIL, end_of
from ready_trail.drawing.sheet.route import Drop, Route, Router, Run

CHAR_PX = 6.1
"""Advance of a sign in the sheet's small type."""

_TRACK_PX, _TITLE_PX, _GAP_PX = 17.0, 24.0, 8.0
_LANE_PX, _TOP_PX, _FOOT_PX = 8.0, 108.0, 20.0
_WORD_PX = 11.0
"""From one line of words to the next."""
_UNDER_PX = 23.0
"""How far under its line a device's second word stands."""
_SYMBOL_PX = {
    "fuse": 44.0,
    "breaker": 44.0,
    "relay": 54.0,
    "load": 40.0,
    "earth": 26.0,
    "diode": 34.0,
    "switch": 54.0,
    "isolator": 54.0,
}
_FIXED_PX = {"joint": 14.0}
"""Dots, whatever the spacing."""
_SLANT_PX, _NAME_PX = 5.8, 6.6
"""What a sign of a bar's slanted name takes to the right, and one of a row's name."""
_BOX_PX, _FUSE_WORDS_PX = 60.0, 44.0
_NUMBER_PX = 18.0
"""Room that a terminal's number takes at each end of a wire."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Spacing:
    """How far apart things stand. ``widest_px`` bounds a column's words, which go on in up to
    ``rows`` lines; ``symbol`` is the share of a symbol's usual width.
    """

    line_px: float = 56.0
    gutter_px: float = 20.0
    left_px: float = 18.0
    bar_px: float = 20.0
    widest_px: float = 180.0
    rows: int = 1
    symbol: float = 1.0
    under: bool = True
    """Whether the second word of a device stands under it."""
    char_px: float = CHAR_PX
    top_px: float = _TOP_PX


WIDE = Spacing()
TIGHT = Spacing(
    line_px=66.0,
    gutter_px=13.0,
    left_px=2.0,
    bar_px=12.0,
    widest_px=62.0,
    rows=2,
    symbol=0.86,
    under=False,
    char_px=6.7,
    top_px=84.0,
)
"""One row on a phone."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetWire:
    """One wire: its path, colours, what it is called, and where its words stand."""

    label: str
    owner: str
    points: tuple[Point, ...]
    dots: tuple[Point, ...]
    stroke: float
    base: str
    tracer: str
    title: str
    words: str = ""
    at: Point = (0.0, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A terminal where a probe can be put."""

    node: str
    number: str
    x: float
    y: float
    anchor: str

    @property
    def words(self) -> str:
        """The number as it stands beside the terminal, or nothing where the symbol says it."""
        if self.number in ("1", "2", "+", "-") or self.anchor == "middle":
            return ""
        if self.number.endswith(("bus", "inside")):
            return ""
        return self.number.removeprefix("out ").removeprefix("sense ")


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetDevice:
    """A device, or one part of it, in its frame; words stand above it."""

    ref: str
    part: str
    kind: str
    symbol: str
    x: float
    y: float
    width: float
    height: float
    words: tuple[str, ...]
    """Lines above it, the last one nearest."""
    title: str
    spots: tuple[Spot, ...]
    shape: str = ""
    under: str = ""
    words_y: float = -20.0
    finding: str = ""
    """The worst that is open here: stop, caution or nothing."""

    @property
    def mark_at(self) -> tuple[float, float]:
        """Where the mark of a finding stands: before the words, so that it covers none."""
        said_px = len(self.words[-1]) * CHAR_PX if self.words else 0.0
        return -max(self.width, said_px) / 2 - 11, self.words_y - 4

    @property
    def lines(self) -> tuple[tuple[float, str], ...]:
        """Its words, each with how far under its line it stands."""
        count = len(self.words)
        above = ((self.words_y - _WORD_PX * (count - 1 - n), w) for n, w in enumerate(self.words))
        return (*above, *(((_UNDER_PX, self.under),) if self.under else ()))


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetBar:
    """A vertical line that wires meet, with its name on top."""

    node: str
    ref: str
    kind: str
    x: float
    top: float
    bottom: float
    name: str
    title: str

    @property
    def is_negative(self) -> bool:
        """Whether it is a way back."""
        return self.kind == "negative"


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetBlock:
    """A circuit's rows, with its name and whether it is ready."""

    owner: str
    owners: tuple[str, ...]
    name: str
    state: str
    y: float
    height: float
    feed: str = ""
    """Where it starts, in words."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetScene:
    """The whole sheet in pixels. ``missing`` says what could not be drawn, and why."""

    width: float
    height: float
    title: str
    wires: tuple[SheetWire, ...]
    devices: tuple[SheetDevice, ...]
    bars: tuple[SheetBar, ...]
    blocks: tuple[SheetBlock, ...]
    links: tuple[tuple[Point, ...], ...]
    link_dots: tuple[Point, ...]
    missing: tuple[str, ...]
    names_x: float
    top: float = _TOP_PX


def draw_sheet(
    design: Design, only: frozenset[str] | None = None, spacing: Spacing = WIDE
) -> SheetScene:
    """Return the sheet of a job, as far as its circuits could be wired.

    ``only`` names the owners whose rows are wanted, with the bars that they meet.
    """
    grid, routes, links = routed(design, only)
    return _Scale(design, grid, routes, links, spacing).scene()


def routed(
    design: Design, only: frozenset[str] | None = None
) -> tuple[Grid, tuple[Route, ...], tuple[Route, ...]]:
    """Return the grid of a design with the way of every wire, and of what hangs on a bus."""
    grid = ordered(design, only)
    router = Router(grid)
    block_of = {owner: b.number for b in grid.blocks for owner in b.owners}
    links = tuple(
        router.route(x.name, x.a, x.b, x.b.line.block if x.b.line else 0) for x in grid.links
    )
    found: list[tuple[int, str, Port, Port, int]] = []
    for label, wire in design.installation.wires.items():
        a, b = end_of(grid, wire.start), end_of(grid, wire.end)
        if a is None or b is None:
            continue
        if a.is_bar and b.is_bar and wire.owner not in block_of:
            continue
        lines = [p.line.block for p in (a, b) if p.line is not None]
        block = block_of.get(wire.owner, lines[0] if lines else 0)
        far = 0 if a.line == b.line else 2
        far += abs(a.column - b.column)
        found.append((far, label, a, b, block))
    routes = [
        router.route(label, a, b, block)
        for _, label, a, b, block in sorted(found, key=lambda f: (f[4], f[0], f[1]))
    ]
    return grid, tuple(routes), links


class _Scale:
    """Turns places into pixels."""

    def __init__(
        self,
        design: Design,
        grid: Grid,
        routes: tuple[Route, ...],
        links: tuple[Route, ...],
        spacing: Spacing,
    ) -> None:
        self.design, self.grid, self.routes, self.links = design, grid, routes, links
        self.spacing = spacing
        self.said = {(c.ref, c.part): _said(c, spacing) for c in grid.cells}
        self.found = _findings(design)
        self.cell_of = {(p.node, p.column): c for c in grid.cells for p in c.ports}
        every = (*routes, *links)
        lanes: dict[int, set[int]] = {}
        tracks: dict[int, int] = {}
        for route in every:
            for piece in route.pieces:
                if isinstance(piece, Drop):
                    lanes.setdefault(piece.gutter, set()).add(piece.lane)
                elif piece.line.is_track:
                    at = piece.line.block
                    tracks[at] = max(tracks.get(at, 0), piece.line.number + 1)
        self.first_lane = {g: min(n) for g, n in lanes.items()}
        self.lanes = {g: max(n) - min(n) + 1 for g, n in lanes.items()}
        self.column_x, self.gutter_x, self.widths = self._columns()
        self.line_y, self.blocks = self._lines(tracks)

    def _columns(self) -> tuple[list[float], list[float], list[float]]:
        count = len(self.grid.columns)
        widths = [0.0] * count
        for cell in self.grid.cells:
            above, under = self.said[(cell.ref, cell.part)]
            said = max((len(w) for w in (*above, under)), default=0) * self.spacing.char_px + 8
            symbol = self._symbol_px(cell.kind)
            most = max(self.spacing.widest_px, symbol)
            widths[cell.column] = max(widths[cell.column], symbol, min(said, most))
        met = {p.column for r in (*self.routes, *self.links) for p in (r.a, r.b) if p.is_bar}
        for column in met:
            widths[column] = max(widths[column], self.spacing.bar_px)
        gutter_px = self.spacing.gutter_px
        x = self.spacing.left_px
        columns, gutters = [], []
        for at in range(count):
            gutters.append(x)
            if widths[at] or self.lanes.get(at):
                x += (gutter_px if widths[at] else 0.0) + _LANE_PX * self.lanes.get(at, 0)
            columns.append(x + widths[at] / 2)
            x += widths[at]
        gutters.append(x)
        beyond = self.lanes.get(count, 0)
        self.width = x + (
            gutter_px + _LANE_PX * beyond + 12 if beyond else self.spacing.left_px + 6
        )
        return columns, gutters, widths

    def _lines(self, tracks: dict[int, int]) -> tuple[dict[Line, float], list[SheetBlock]]:
        found: dict[Line, float] = {}
        blocks: list[SheetBlock] = []
        states = {c.circuit.id: c for c in self.design.circuits}
        y = self.spacing.top_px
        for block in sorted(self.grid.blocks, key=lambda b: b.number):
            top = y
            line_px = self.spacing.line_px
            y += _TITLE_PX + line_px / 2
            for n in range(block.lines):
                found[Line(block.number, False, n)] = y
                y += line_px
            y -= line_px / 2 + 2
            for n in range(tracks.get(block.number, 0)):
                y += _TRACK_PX
                found[Line(block.number, True, n)] = y
            y += _GAP_PX
            mine = [states[o] for o in block.owners if o in states]
            state = next((s for s in ("stop", "caution") if any(c.count(s) for c in mine)), "")
            state = state or ("ready" if mine else "")
            blocks.append(
                SheetBlock(
                    owner=block.owner,
                    owners=block.owners,
                    name=block.name,
                    state=state,
                    y=top,
                    height=y - top,
                    feed=_feed(mine),
                )
            )
        self.height = y + _FOOT_PX
        return found, blocks

    def _lane_x(self, gutter: int, lane: int) -> float:
        half_px = self.spacing.gutter_px / 2
        return self.gutter_x[gutter] + half_px + _LANE_PX * (lane - self.first_lane[gutter])

    def _port(self, port: Port, towards_x: float, y: float) -> Point:
        """Where a wire meets a port: a bar's middle, or the edge of the device's frame."""
        x = self.column_x[port.column]
        if port.is_bar:
            return (x, y)
        half = self._half(port)
        return (
            (x + half if towards_x > x else x - half, self.line_y[port.line])
            if port.line
            else (x, y)
        )

    def _half(self, port: Port) -> float:
        cell = self.cell_of[(port.node, port.column)]
        return self._frame_px(cell) / 2

    def _symbol_px(self, kind: str) -> float:
        return _FIXED_PX.get(kind) or _SYMBOL_PX.get(kind, _BOX_PX) * self.spacing.symbol

    def _frame_px(self, cell: Cell) -> float:
        """Width of the frame that wires meet; a joint is a dot."""
        if _FIXED_PX.get(cell.kind):
            return 0.0
        return min(self.widths[cell.column], self._symbol_px(cell.kind))

    def _path(self, route: Route) -> tuple[Point, ...]:
        """The corners of a route from port to port."""
        corners: list[Point] = []
        x, y = self.column_x[route.a.column], 0.0
        pieces = route.pieces
        if route.a.line is not None:
            y = self.line_y[route.a.line]
        elif isinstance(pieces[0], Run):
            y = self.line_y[pieces[0].line]
        for at, piece in enumerate(pieces):
            if isinstance(piece, Run):
                y = self.line_y[piece.line]
                if corners:
                    corners.append((corners[-1][0], y))
            else:
                x = self._lane_x(piece.gutter, piece.lane)
                corners.append((x, y))
                last = at == len(pieces) - 1
                if last and route.b.line is not None:
                    y = self.line_y[route.b.line]
                    corners.append((x, y))
        end_y = self.line_y[route.b.line] if route.b.line is not None else y
        start_y = (
            self.line_y[route.a.line]
            if route.a.line is not None
            else (corners[0][1] if corners else y)
        )
        after_x = corners[0][0] if corners else self.column_x[route.b.column]
        before_x = corners[-1][0] if corners else self.column_x[route.a.column]
        first = self._port(route.a, after_x, start_y)
        final = self._port(route.b, before_x, end_y)
        return _clean((first, *corners, final))

    def scene(self) -> SheetScene:
        """Return everything in pixels."""
        paths = {r.name: self._path(r) for r in self.routes}
        bars = tuple(self._bars(paths))
        devices = tuple(self._device(c) for c in self.grid.cells)
        names_x = self.gutter_x[self.grid.columns.index("f")] + 4
        reach = [
            self.width,
            *(b.x + _SLANT_PX * len(b.name) + 10 for b in bars if not b.is_negative),
        ]
        reach += [names_x + _NAME_PX * len(b.name) + 10 for b in self.blocks]
        return SheetScene(
            width=max(reach),
            height=self.height,
            title=f"{self.design.job.name}: the whole job",
            wires=tuple(self._wires(paths, devices)),
            devices=devices,
            bars=bars,
            blocks=tuple(self.blocks),
            links=tuple(self._path(r) for r in self.links),
            link_dots=tuple(self._path(r)[0] for r in self.links),
            top=self.spacing.top_px,
            names_x=names_x,
            missing=tuple(
                f"{c.circuit.name} cannot be drawn: {_why_not(c)}"
                for c in self.design.circuits
                if c.planned.parts is None
            ),
        )

    def _wires(
        self, paths: dict[str, tuple[Point, ...]], devices: tuple[SheetDevice, ...]
    ) -> Iterable[SheetWire]:
        words = _Words(paths.values())
        for spot in (s for d in devices for s in d.spots if s.words):
            words.take(spot.x, spot.y, spot.anchor, len(spot.words) * self.spacing.char_px)
        shared = _shared(self.routes, paths)
        for route in self.routes:
            wire = self.design.installation.wires[route.name]
            points = paths[route.name]
            base, tracer = split_colour(wire.colour)
            thin = wire.role in ("control", "control_return", "function")
            stroke = 2.2 if thin else min(6.5, 2.6 + 0.55 * wire.conductor.area_mm2**0.5)
            said = f"{route.name.split('-')[-1]} {wire.conductor.size}"
            at = words.room(points, len(said) * self.spacing.char_px)
            title = (
                f"{wire.label}: {self.design.installation.words(wire.start)} to "
                f"{self.design.installation.words(wire.end)}, {wire.conductor.label}, "
                f"{wire.colour}, {wire.length_m:.2f} m"
            )
            yield SheetWire(
                label=wire.label,
                owner=wire.owner,
                points=points,
                dots=(*self._dots(route, points), *shared.get(route.name, ())),
                stroke=stroke,
                base=base,
                tracer=tracer,
                title=title,
                words=said if at is not None else "",
                at=at or (0.0, 0.0),
            )

    def _dots(self, route: Route, points: tuple[Point, ...]) -> tuple[Point, ...]:
        """Joints as dots: where a wire meets a bar, or a way that another wire of its node took."""
        return tuple(
            point for port, point in ((route.a, points[0]), (route.b, points[-1])) if port.is_bar
        )

    def _bars(self, paths: dict[str, tuple[Point, ...]]) -> Iterable[SheetBar]:
        touched: dict[int, list[float]] = {}
        pairs = [(r, paths[r.name]) for r in self.routes] + [(r, self._path(r)) for r in self.links]
        for route, points in pairs:
            for port, point in ((route.a, points[0]), (route.b, points[-1])):
                if port.is_bar:
                    touched.setdefault(port.column, []).append(point[1])
        for bar in self.grid.bars:
            ys = touched.get(bar.column, [])
            if not ys:
                continue
            yield SheetBar(
                node=bar.node,
                ref=bar.ref,
                kind=bar.kind,
                x=self.column_x[bar.column],
                top=min(ys) - 8,
                bottom=max(ys) + 8,
                name=bar.name,
                title=_bar_title(bar),
            )

    def _device(self, cell: Cell) -> SheetDevice:
        x, y = self.column_x[cell.column], self.line_y[cell.line]
        frame = self._frame_px(cell)
        spec = self.design.installation.devices[cell.ref].spec
        bus = spec.on_bus if isinstance(spec, FuseSpec) else ""
        spots = []
        for port in cell.ports:
            if port.line is None:
                continue
            side = -1 if port.side == "left" else 1 if port.side == "right" else 0
            spots.append(
                Spot(
                    node=bus if bus and port.terminal == "1" else port.node,
                    number=port.terminal,
                    x=x + side * frame / 2,
                    y=self.line_y[port.line],
                    anchor={-1: "end", 1: "start", 0: "middle"}[side],
                )
            )
        most = max(4, int(max(self.widths[cell.column], frame) / self.spacing.char_px))
        above, under = self.said[(cell.ref, cell.part)]
        height = self.spacing.line_px * (cell.lines - 1)
        return SheetDevice(
            ref=cell.ref,
            part=cell.part,
            kind=cell.kind,
            symbol=self._symbol(cell),
            x=x,
            y=y,
            width=frame,
            height=height,
            words=() if spec.is_earth else tuple(_short(w, most) for w in above),
            under="" if spec.is_earth or height else _short(under, most),
            title=cell.title,
            spots=tuple(spots),
            shape=_shape(cell, spec, height),
            words_y=_words_y(cell, spec),
            finding=self.found.get(cell.ref, "") if cell.part in ("power", "point") else "",
        )

    def _symbol(self, cell: Cell) -> str:
        spec = self.design.installation.devices[cell.ref].spec
        if not isinstance(spec, LoadSpec):
            return cell.kind
        model = spec.loads[0].load.model if spec.loads else ""
        return {
            "filament": "lamp",
            "constant_power": "driver",
            "motor": "motor",
            "winch": "motor",
            "resistive": "heater",
        }.get(model, "box")


def _findings(design: Design) -> dict[str, str]:
    """The worst open stop or caution by the device at which it sits."""
    found: dict[str, str] = {}
    for circuit in design.circuits:
        for finding in circuit.findings:  # worst first
            if finding.is_open and finding.severity != "note":
                found.setdefault(finding.place, finding.severity)
    return found


def _feed(circuits: list[CircuitDesign]) -> str:
    """Where a row starts, in words; a band of feeders says so itself."""
    if len(circuits) != 1:
        return ""
    (made,) = circuits
    start = made.circuit.start
    point = next((p for p in made.job.points if p.id == start.point), None)
    return "the battery" if point is None else f"{point.name} {start.position}".strip()


def _why_not(circuit: CircuitDesign) -> str:
    return circuit.planned.trouble or circuit.planned.refusal or "it has no scheme"


def _shape(cell: Cell, spec: DeviceKind, height: float) -> str:
    """Which shape stands for one part of a device; its kind's own where none is told."""
    if cell.part == COIL:
        return "coil"
    if spec.coil_apart:
        return "break_contact" if spec.opens_by_coil else "contact"
    if spec.is_switch or spec.is_isolator:
        return "blade" if not height else "frame"
    return cell.kind


def _words_y(cell: Cell, spec: DeviceKind) -> float:
    """How far over its line the first word of a shape stands; a coil's stand beneath."""
    if cell.part == COIL:
        return 23.0
    return -12.0 if spec.protects or spec.is_joint else -21.0 if spec.coil_apart else -20.0


def _said(cell: Cell, spacing: Spacing) -> tuple[tuple[str, ...], str]:
    """The lines above a device, and what stands under it. The lines beneath a coil are one."""
    first, second = (*cell.words, "", "")[:2]
    under = second if spacing.under and cell.lines == 1 else ""
    if cell.part == COIL or spacing.rows == 1:
        return ((first,) if first else ()), under
    most = int((_FUSE_WORDS_PX if cell.protects else spacing.widest_px) / spacing.char_px)
    lines = wrap(first, most)
    if len(lines) > spacing.rows:
        lines = [*lines[: spacing.rows - 1], " ".join(lines[spacing.rows - 1 :])]
    return tuple(lines), under


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _clean(points: tuple[Point, ...]) -> tuple[Point, ...]:
    """Corners without repeats, and without those on a straight line."""
    found: list[Point] = []
    for point in points:
        if found and point == found[-1]:
            continue
        if len(found) > 1 and (
            found[-2][0] == found[-1][0] == point[0] or found[-2][1] == found[-1][1] == point[1]
        ):
            found[-1] = point
            continue
        found.append(point)
    return tuple(found)


def _shared(
    routes: tuple[Route, ...], paths: dict[str, tuple[Point, ...]]
) -> dict[str, tuple[Point, ...]]:
    """Where a wire leaves the way of another that meets the same terminal: a dot."""
    firsts: dict[str, list[tuple[str, Point, Point]]] = {}
    for route in routes:
        points = paths[route.name]
        if len(points) > 1:
            for port, near, after in (
                (route.a, points[0], points[1]),
                (route.b, points[-1], points[-2]),
            ):
                if not port.is_bar:
                    firsts.setdefault(port.node, []).append((route.name, near, after))
    found: dict[str, tuple[Point, ...]] = {}
    for ways in firsts.values():
        for name, near, after in ways:
            for other, _, beyond in ways:
                same = near[1] == after[1] == beyond[1]
                if (
                    other != name
                    and same
                    and abs(beyond[0] - near[0]) >= abs(after[0] - near[0])
                    and (beyond[0] - near[0]) * (after[0] - near[0]) > 0
                ):
                    found[name] = (*found.get(name, ()), after)
                    break
    return found


class _Words:
    """Room for wires' words: on a level stretch, where no other wire and no words pass."""

    def __init__(self, paths: Iterable[tuple[Point, ...]]) -> None:
        self._upright: list[tuple[float, float, float]] = []
        self._words: dict[float, list[tuple[float, float]]] = {}
        for points in paths:
            for (x0, y0), (x1, y1) in pairwise(points):
                if x0 == x1:
                    self._upright.append((x0, min(y0, y1), max(y0, y1)))

    def take(self, x: float, y: float, anchor: str, width: float) -> None:
        """Keep the room of a terminal's number."""
        start = x - width - 3 if anchor == "end" else x + 3
        self._words.setdefault(y, []).append((start, start + width))

    def room(self, points: tuple[Point, ...], width: float) -> Point | None:
        """Return the middle of the words on the longest stretch that has room for them."""
        level = [(a, b) for a, b in pairwise(points) if a[1] == b[1]]
        for (x0, y), (x1, _) in sorted(level, key=lambda s: -abs(s[1][0] - s[0][0])):
            low, high = min(x0, x1) + _NUMBER_PX, max(x0, x1) - _NUMBER_PX
            steps = (0.5, 0.3, 0.7, 0.15, 0.85)
            for share in steps if high - low >= width else ():
                start = low + (high - low - width) * share
                if self._is_free(start, start + width, y):
                    self._words.setdefault(y, []).append((start, start + width))
                    return (start + width / 2, y - 4)
        return None

    def _is_free(self, start: float, end: float, y: float) -> bool:
        crossed = any(
            start - 2 < x < end + 2 and top < y and bottom > y - 13
            for x, top, bottom in self._upright
        )
        return not crossed and all(end + 4 < a or b + 4 < start for a, b in self._words.get(y, ()))


def _bar_title(bar: Bar) -> str:
    return f"{bar.name}: {bar.detail}" if bar.detail else bar.name
