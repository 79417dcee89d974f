"""Wire colours: a base and a tracer for each circuit, or the house's colour for each function."""

from __future__ import annotations

import csv
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.installation import Duty
from ready_trail.core.job import Job, Use

TRACERS = ("WH", "YE", "BU", "GN", "BK", "VT", "GY", "PK", "BN")
_POWER_BASES = ("RD", "OG")
_CONTROL_BASE = "VT"


def power_colour(number: int) -> str:
    """Return the colour of a circuit's switched wire: its base with a tracer of its own."""
    base = _POWER_BASES[((number - 1) // len(TRACERS)) % len(_POWER_BASES)]
    return f"{base}/{TRACERS[(number - 1) % len(TRACERS)]}"


def house_colour(job: Job, number: int, use: Use) -> str:
    """Return the colour of a circuit's switched wire by the house's school."""
    if job.rules.colours == "function":
        return function_colours()[use.follows]
    return power_colour(number)


@lru_cache(maxsize=1)
def function_colours() -> dict[str, str]:
    """Return the house's colour for each function: what a circuit follows."""
    path = files("ready_trail").joinpath("data", "tables", "function_colours.csv")
    with path.open(encoding="utf-8") as lines:
        return {row["function"]: row["colour"] for row in csv.DictReader(lines)}


def control_colour(number: int) -> str:
    """Return the colour of a circuit's coil wires, with the same tracer where it shows."""
    tracer = TRACERS[(number - 1) % len(TRACERS)]
    return "GY/VT" if tracer == _CONTROL_BASE else f"{_CONTROL_BASE}/{tracer}"


def dressed(job: Job, role: Duty, colour: str, *, held: bool = False) -> tuple[str, str]:
    """Return the colour that a wire is bought in, and the coloured sleeve on both its ends.

    With few colours on the shelf the tracer goes onto the ends; a held colour stays on the wire.
    """
    school = job.rules.colours
    if held or school not in ("few", "two"):
        return colour, ""
    if role in ("return", "control_return") or colour == "BK":
        plain = "BK"
    elif role in ("control", "function") and school == "few":
        plain = _CONTROL_BASE
    else:
        plain = "RD"
    return plain, "" if colour == plain else colour
