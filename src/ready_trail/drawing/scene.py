"""Shapes of the trail sheet: plain numbers and words, no markup."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ready_trail.drawing.labels import Label

Point = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneBand:
    """The background of one zone."""

    zone: str
    label: str
    ambient_c: float
    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WireRun:
    """One piece of wire, drawn as a straight run in its own colours."""

    label: str
    title: str
    x0: float
    x1: float
    y: float
    stroke: float
    base: str
    tracer: str
    is_live: bool
    caption: str = ""
    length: str = ""
    drop: str = ""
    note_x: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A device: its symbol's name, its box, its words and terminal numbers."""

    ref: str
    kind: str
    title: str
    x: float
    y: float
    width: float
    lines: tuple[str, ...] = ()
    left_terminal: str = ""
    right_terminal: str = ""
    is_live: bool = False
    symbol: str = ""
    frame: Literal["inline", "stub", "dot", "source", "end"] = "inline"
    """How it stands in the band: on the line, hanging, as a dot, or at either end of it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hole:
    """Sheet metal that is passed."""

    x: float
    y: float
    label: str
    grommet: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """The band: outward path on top, return beneath."""

    width: float
    height: float
    out_y: float
    back_y: float
    zones: tuple[ZoneBand, ...]
    wires: tuple[WireRun, ...]
    parts: tuple[Part, ...]
    holes: tuple[Hole, ...]
    labels: tuple[Label, ...]
    body: tuple[float, float] | None
    body_note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A grid line with its figure."""

    y: float
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileShape:
    """The voltage ridge on the band's axis, with the return side beneath."""

    width: float
    height: float
    x0: float
    x1: float
    ridge: tuple[Point, ...]
    floor_y: float
    ticks: tuple[Tick, ...]
    limit_y: float
    limit_label: str
    holds: bool
    steepest: Point
    steepest_label: str
    steepest_words_at: Point
    steepest_anchor: str
    end_label: str
    marks: tuple[tuple[float, str], ...]
    back: tuple[Point, ...]
    back_y: float
    back_label: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LaneWire:
    """One control wire in the lane."""

    label: str
    title: str
    x0: float
    x1: float
    base: str
    tracer: str
    is_live: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """The control lane: what energises the relay."""

    width: float
    height: float
    y: float
    wires: tuple[LaneWire, ...]
    parts: tuple[Part, ...]
    labels: tuple[Label, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pin:
    """One blade of the relay's base."""

    terminal: str
    x: float
    y: float
    upright: bool
    wire: str
    used: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Trail:
    """Everything drawn on one trail sheet."""

    drawing_id: str
    band: Band
    profile: ProfileShape
    lane: Lane | None
    side_lane: Lane | None
    pins: tuple[Pin, ...]
