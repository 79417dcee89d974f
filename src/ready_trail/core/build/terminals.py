"""The terminal, strip length, die and shrink for the end of a wire, from tables.

Barrels go by the wire's copper area, rings by the stud as well; a wire thicker than a terminal
takes is stepped down through a splice to a short pigtail.
"""

from __future__ import annotations

import csv
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import TypeVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.errors import TableError
from ready_trail.core.looms import Sleeve, sleeves

SHRINK_M = 0.05
"""Shrink over one crimp (house). [m]"""

SHRINK_KIND = "shrink 3:1 lined"


@dataclass(frozen=True, slots=True, kw_only=True)
class Barrel:
    """One size of crimp: which copper it takes, how far to strip, with which die."""

    name: str
    mm2_from: float
    mm2_to: float
    strip_mm: float
    die: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TerminalKind:
    """A kind of terminal. ``joins`` marks one piece that ends two wires."""

    kind: str
    label: str
    mm2_max: float
    joins: bool
    shrink: bool
    takes_one: bool
    when_wet: str
    """The kind that takes its place where it gets wet; itself where nothing is told."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lug:
    """A stud with the torque that it usually wants."""

    stud: str
    fits_mm2_max: float
    torque_nm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class End:
    """What goes on one end of a wire. ``shrink`` is None where none is wanted.

    ``key`` tells equal terminals; ``count`` is 2 for a pair of cables. ``step_down`` tells that
    the wire is thicker than what it goes into takes.
    """

    key: str
    label: str
    strip_mm: float
    die: str
    stud: str = ""
    torque_nm: float | None = None
    shrink: Sleeve | None = None
    count: int = 1
    joins: bool = False
    step_down: bool = False
    kind: str = ""
    most_mm2: float = 0.0
    """The thickest wire that it takes. [mm²]"""
    takes_one: bool = False
    """Whether its pin takes one crimp: wires that meet there share it."""


def terminal_end(
    conductor: Conductor,
    kind: str,
    *,
    stud: str = "",
    wet: bool = False,
    with_mm2: float = 0.0,
    torque_nm: float | None = None,
    usual_torque: bool = True,
    most_mm2: float | None = None,
) -> End:
    """Return the terminal of a kind that takes a wire, and ``with_mm2`` of others beside it.

    ``wet`` asks for shrink or a sealed splice. ``torque_nm`` is what the maker of the stud states;
    without it the stud's usual torque is told where it has one (``usual_torque``). ``most_mm2`` is
    what its maker says that it takes, where that is less than its kind takes. Raises TableError
    for a kind or stud that the tables lack.
    """
    wanted = terminal = _known(terminal_kinds(), kind, "terminal")
    if wet and wanted.when_wet:
        wanted = terminal = terminal_kinds()[wanted.when_wet]
    area_mm2 = conductor.lug_mm2 + with_mm2
    takes_mm2 = min(terminal.mm2_max, most_mm2 or terminal.mm2_max)
    too_thick = area_mm2 > takes_mm2
    if too_thick and not terminal.joins:
        terminal = terminal_kinds()["butt_sealed" if wet else "butt"]
    barrel = barrel_for(area_mm2)
    words = [terminal.label]
    if stud and not too_thick:
        lug = _known(lugs(), stud, "stud")
        words = [f"Ring {lug.stud}"]
        if torque_nm is None and usual_torque:
            torque_nm = lug.torque_nm
    tube = terminal.joins and area_mm2 > _LARGEST_INSULATED_MM2
    label = f"{'Tube splice' if tube else words[0]}, {barrel.name}"
    shrink = None
    if terminal.shrink or tube:
        shrink = shrink_over(conductor.outside_diameter_mm / conductor.count**0.5)
    name = "tube" if tube else terminal.kind
    key = f"terminal-{name}{'-' + stud if stud and not too_thick else ''}-{barrel.name}"
    return End(
        key=_slug(key),
        label=label,
        strip_mm=barrel.strip_mm,
        die=barrel.die,
        stud=stud if not too_thick else "",
        torque_nm=torque_nm,
        shrink=shrink,
        count=conductor.count,
        joins=terminal.joins,
        step_down=too_thick and not wanted.joins,
        kind=wanted.kind,
        most_mm2=min(wanted.mm2_max, takes_mm2),
        takes_one=wanted.takes_one,
    )


def end_without(conductor: Conductor, words: str) -> End:
    """Return an end that goes bare into something that others bring, with the strip length."""
    barrel = barrel_for(conductor.lug_mm2)
    return End(key="", label=words, strip_mm=barrel.strip_mm, die=barrel.die, count=0)


def barrel_for(area_mm2: float) -> Barrel:
    """Return the crimp barrel for a copper area; the largest where the table ends. [mm²]"""
    return next((b for b in barrels() if b.mm2_from <= area_mm2 < b.mm2_to), barrels()[-1])


def shrink_over(diameter_mm: float) -> Sleeve | None:
    """Return the smallest lined shrink that goes over and holds a diameter, or None. [mm]"""
    for sleeve in sleeves():
        if sleeve.kind == SHRINK_KIND and sleeve.bundle_min_mm <= diameter_mm < sleeve.size_mm:
            return sleeve
    return None


@lru_cache(maxsize=1)
def barrels() -> tuple[Barrel, ...]:
    """Return the table of crimp barrels, small to large."""
    return tuple(
        Barrel(
            name=r["barrel"],
            mm2_from=float(r["mm2_from"]),
            mm2_to=float(r["mm2_to"]),
            strip_mm=float(r["strip_mm"]),
            die=r["die"],
        )
        for r in _rows("barrels")
    )


@lru_cache(maxsize=1)
def terminal_kinds() -> Mapping[str, TerminalKind]:
    """Return the table of terminals by kind."""
    return {
        r["kind"]: TerminalKind(
            kind=r["kind"],
            label=r["label"],
            mm2_max=float(r["mm2_max"]),
            joins=r["joins"] == "yes",
            shrink=r["shrink"] == "yes",
            takes_one=r["takes_one"] == "yes",
            when_wet=r["when_wet"],
        )
        for r in _rows("terminals")
    }


@lru_cache(maxsize=1)
def lugs() -> Mapping[str, Lug]:
    """Return the table of studs."""
    return {
        r["stud"]: Lug(
            stud=r["stud"],
            fits_mm2_max=float(r["fits_mm2_max"]),
            torque_nm=float(r["torque_nm_typical"]),
        )
        for r in _rows("lugs")
    }


_LARGEST_INSULATED_MM2 = 6.7
T = TypeVar("T")


def _rows(table: str) -> Iterator[dict[str, str]]:
    path = files("ready_trail").joinpath("data", "tables", f"{table}.csv")
    with path.open(encoding="utf-8") as lines:
        yield from csv.DictReader(lines)


def _known(table: Mapping[str, T], key: str, what: str) -> T:
    if key not in table:
        raise TableError(f"no {what} {key!r} in the tables")
    return table[key]


def _slug(text: str) -> str:
    return text.lower().replace(" mm²", "").replace(" ", "-").replace("_", "-")
