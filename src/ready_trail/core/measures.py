"""Figures as people type them: "150 cm", 5' 3 1/2", "0,28 kW", "158 °F". One parser for all.

What a field holds follows from its name (``run_m``, ``fuse_a``, ``ambient_c``); a figure without
a unit is in that field's own.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

FOOT_M, INCH_M = 0.3048, 0.0254
SIXTEENTH_M = INCH_M / 16


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """A quantity: the factor of each unit that may be typed, and an example for a refusal."""

    units: Mapping[str, float]
    example: str


def _measure(example: str, **units: float) -> Measure:
    return Measure(units=units, example=example)


_LENGTH = {
    "m": 1.0,
    "metre": 1.0,
    "metres": 1.0,
    "meter": 1.0,
    "meters": 1.0,
    "cm": 0.01,
    "mm": 0.001,
    "ft": FOOT_M,
    "foot": FOOT_M,
    "feet": FOOT_M,
    "'": FOOT_M,
    "in": INCH_M,
    "inch": INCH_M,
    "inches": INCH_M,
    '"': INCH_M,
}
_AMPS = {"a": 1.0, "amp": 1.0, "amps": 1.0, "ma": 0.001, "ka": 1000.0}
_TIME = {"s": 1.0, "sec": 1.0, "second": 1.0, "seconds": 1.0, "ms": 0.001, "min": 60.0, "h": 3600.0}
_TURN = {
    "n·m": 1.0,
    "nm": 1.0,
    "n m": 1.0,
    "n*m": 1.0,
    "ft-lb": 1.35582,
    "lb-ft": 1.35582,
    "in-lb": 0.112985,
    "lb-in": 0.112985,
}


def _scaled(units: Mapping[str, float], by: float) -> dict[str, float]:
    return {name: factor * by for name, factor in units.items()}


MEASURES: Mapping[str, Measure] = {
    "m": Measure(units=_LENGTH, example="1.5 m, 150 cm or 5' 3\""),
    "mm": Measure(units=_scaled(_LENGTH, 1000.0), example='25, 25 mm or 1"'),
    "a": Measure(units=_AMPS, example="2.4 or 2.4 A"),
    "ma": Measure(units=_scaled(_AMPS, 1000.0), example="20 or 20 mA"),
    "v": _measure("2.4 or 2.4 V", v=1, volt=1, volts=1, mv=0.001),
    "mv": _measure("20 or 20 mV", mv=1, v=1000, volt=1000, volts=1000),
    "w": _measure("2.4 or 2.4 W", w=1, watt=1, watts=1, kw=1000, mw=0.001),
    "mm2": Measure(units={"mm²": 1.0, "mm2": 1.0, "sq mm": 1.0}, example="4 or 4 mm²"),
    "mohm": Measure(
        units={"mω": 1.0, "mohm": 1.0, "ω": 1000.0, "ohm": 1000.0}, example="5 or 5 mΩ"
    ),
    "ohm": Measure(units={"ω": 1.0, "ohm": 1.0, "mω": 0.001, "mohm": 0.001}, example="80 or 80 Ω"),
    "nm": Measure(units=_TURN, example="8 or 8 N·m"),
    "s": Measure(units=_TIME, example="2.4 or 2.4 s"),
    "minutes": Measure(units=_scaled(_TIME, 1 / 60.0), example="90 or 1.5 h"),
    "h": Measure(units=_scaled(_TIME, 1 / 3600.0), example="2.4 or 2.4 h"),
    "days": _measure("7 or 7 days", d=1, day=1, days=1),
    "ah": Measure(units={"ah": 1.0, "a h": 1.0}, example="70 or 70 Ah"),
    "x": Measure(units={"x": 1.0, "×": 1.0}, example="2.4"),
    "ratio": Measure(units={"%": 0.01}, example="0.8 or 80 %"),
    "share": Measure(
        units={"w": 1.0, "watt": 1.0, "watts": 1.0, "a": 1.0, "amps": 1.0}, example="2.4"
    ),
    "c": Measure(units={}, example="70, 70 °C or 158 °F"),
}
"""By the end of a field's name."""

_BY_NAME = {
    "watts": "w",
    "amps": "a",
    "seconds": "s",
    "minutes": "minutes",
    "k_cont": "ratio",
    "value": "share",
    "parked_days": "days",
}
"""Fields whose names do not end in their unit."""

_NUMBER = r"[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)"
_PLAIN = re.compile(_NUMBER)
_FRACTION = re.compile(r"(?:(\d+)\s+)?(\d{1,3})\s*/\s*(\d{1,3})")
_PART = re.compile(
    rf"\s*((?:\d+\s+)?\d{{1,3}}\s*/\s*\d{{1,3}}|{_NUMBER})\s*([^\d\s.,+-][^\d.,+]*?)?\s*(?=[\d.]|$)"
)
_SIGNS = str.maketrans(
    {
        "′": "'",
        "’": "'",
        "‘": "'",
        "ʹ": "'",
        "″": '"',
        "”": '"',
        "“": '"',
        "−": "-",
        "\u00a0": " ",
        "\u202f": " ",
        "\u2126": "ω",
    }
)
_DEGREES = re.compile(rf"({_NUMBER})\s*(?:°|deg|º)?\s*([cfCF])?")


def measure_of(name: str) -> Measure | None:
    """Return what a field of this name holds, or None where that is no figure with a unit."""
    last = name.rpartition(".")[2]
    key = _BY_NAME.get(last) or (last.rpartition("_")[2] if "_" in last else "")
    return MEASURES.get(key)


def as_figure(name: str, text: str) -> str:
    """Return what was typed as a plain number in the field's own unit.

    What is no such figure is returned as it was typed, for the field to refuse.
    """
    measure = measure_of(name)
    text = text.strip()
    if measure is None:
        return text
    number = _decimal(text)
    if number is not None:
        return number
    value = (_celsius if not measure.units else _sum_of(measure.units))(text.translate(_SIGNS))
    return text if value is None else f"{value:.9g}"


def _decimal(text: str) -> str | None:
    """A plain number, its decimal comma as a point."""
    if not _PLAIN.fullmatch(text):
        return None
    return text.replace(",", ".")


def _celsius(text: str) -> float | None:
    found = _DEGREES.fullmatch(text)
    if found is None:
        return None
    value = float(found[1].replace(",", "."))
    return value if (found[2] or "c").lower() == "c" else round((value - 32) / 1.8, 6)


def _sum_of(units: Mapping[str, float]) -> Callable[[str], float | None]:
    def read(text: str) -> float | None:
        if text.startswith("-"):  # the whole of it: -5' 3"
            rest = read(text[1:].lstrip()) if not text[1:].lstrip().startswith("-") else None
            return None if rest is None else -rest
        at, total, least = 0, 0.0, float("inf")
        while at < len(text):
            found = _PART.match(text, at)
            if found is None:
                return None
            at = found.end()
            word = (found[2] or "").strip().lower().replace("''", '"').rstrip(".")
            if not word and least == FOOT_M:
                word = '"'  # 5' 3: inches
            factor = units.get(word)
            if factor is None or factor >= least:  # each part smaller than the one before
                return None
            if total and not {word, *_FEET} <= {*_FEET, *_INCHES}:
                return None  # only feet and inches are said together
            total += _value(found[1]) * factor
            least = factor
        return total if least < float("inf") else None

    return read


_FEET = frozenset({"'", "ft", "foot", "feet"})
_INCHES = frozenset({'"', "in", "inch", "inches"})


def _value(text: str) -> float:
    fraction = _FRACTION.fullmatch(text)
    if fraction is None:
        return float(text.replace(",", "."))
    over = int(fraction[3])
    return int(fraction[1] or 0) + (int(fraction[2]) / over if over else float("nan"))


def feet_and_inches(length_m: float) -> str:
    r"""Return a length as a tape in inches shows it, to a sixteenth: ``5' 3 1/2"``. [m]

    Examples
    --------
    >>> feet_and_inches(1.6129)
    '5\' 3 1/2"'
    """
    sign = "-" if length_m < 0 else ""
    whole = round(abs(length_m) / SIXTEENTH_M)
    feet, rest = divmod(whole, 12 * 16)
    inches, sixteenths = divmod(rest, 16)
    over = 16
    while sixteenths and sixteenths % 2 == 0:
        sixteenths, over = sixteenths // 2, over // 2
    parts = [f"{feet}'"] if feet else []
    fraction = f"{sixteenths}/{over}" if sixteenths else ""
    told = " ".join(p for p in (str(inches) if inches or not fraction else "", fraction) if p)
    if inches or sixteenths or not feet:
        parts.append(f'{told}"')
    return sign + " ".join(parts)


def fahrenheit_of(temperature_c: float) -> float:
    """Return a temperature in °F. [°C]"""
    return temperature_c * 1.8 + 32
