"""How a page says things: metres or feet, °C or °F, earth or ground, as the house does.

Everything is reckoned and written in metres, °C and "earth"; where a house says it otherwise, the
finished page, drawing or list is put into its words. What people typed stays as they typed it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import lru_cache
from html import escape

from ready_trail.core.job import HouseRules, Job
from ready_trail.core.layout.templates import offered_layout
from ready_trail.core.measures import FOOT_M, as_figure, fahrenheit_of, feet_and_inches

_TOKEN = re.compile(
    r"(?s)<(script|style|textarea|title)\b[^>]*>.*?</\1>"
    r"|<(?:\"[^\"]*\"|'[^']*'|[^'\">])*>|[^<]+"
)
_SAID_ATTRIBUTE = re.compile(r'\b(aria-label|title|placeholder|alt|data-label)="([^"]*)"')
_EARTH = re.compile(r"\b(?:(an)(\s+))?(earth)(ed|ing|s)?\b", re.IGNORECASE)
_METRES = re.compile(
    r"(?<![\w.,])((?:[-−]?\d+(?:\.\d+)?, )*)([-−]?\d+(?:\.\d+)?)[ \u00a0]m(?![\w·/²])"
)
_TWICE = re.compile(r"\s*\(\d+(?:\.\d+)?[ \u00a0]ft\)")
_CELSIUS = re.compile(r"(?<![\w.])([-−]?\d+(?:\.\d+)?)[ \u00a0]°C")
_CLASSES = frozenset({"80", "90", "105", "125"})
"""Insulation classes are printed on wires in °C: those are said in both."""

_HELD = "\ue000{}\ue001"
_HELD_BACK = re.compile("\ue000(\\d+)\ue001")


@dataclass(frozen=True, slots=True, kw_only=True)
class Saying:
    """One house's way of saying things; ``kept`` are texts of people that hold our words."""

    feet: bool = False
    fahrenheit: bool = False
    ground: bool = False
    kept: tuple[str, ...] = ()

    @property
    def is_plain(self) -> bool:
        """Whether nothing is said otherwise than it is written."""
        return not (self.feet or self.fahrenheit or self.ground)

    def html(self, text: str) -> str:
        """Return a page or drawing with its words, not its markup, put into the house's."""
        if self.is_plain:
            return text
        return _TOKEN.sub(self._token, text)

    def _token(self, found: re.Match[str]) -> str:
        token = found[0]
        if found[1] and found[1] != "title":
            return token
        if found[1]:
            opened, _, rest = token.partition(">")
            inner, closed = rest.rsplit("<", 1)
            return f"{opened}>{self.words(inner)}<{closed}"
        if not token.startswith("<"):
            return self.words(token)
        return _SAID_ATTRIBUTE.sub(lambda a: f'{a[1]}="{self._quoted(a[2])}"', token)

    def _quoted(self, text: str) -> str:
        return self.words(text).replace('"', "&quot;")

    def words(self, text: str) -> str:
        """Return a plain text in the house's words."""
        if self.is_plain:
            return text
        held: list[str] = []
        for own in self.kept:
            if own in text:
                text = text.replace(own, _HELD.format(len(held)))
                held.append(own)
        if self.ground:
            text = _EARTH.sub(_grounded, text)
        if self.feet:
            text = _METRES.sub(_in_feet, _TWICE.sub("", text))
        if self.fahrenheit:
            text = _CELSIUS.sub(_in_fahrenheit, text)
        return _HELD_BACK.sub(lambda found: held[int(found[1])], text)

    def value(self, value: object, unit: str) -> str | None:
        """Return a figure for a form field in the house's unit, or None where that is not exact.

        A form that is saved untouched must store what was there.
        """
        if not isinstance(value, (int, float)) or isinstance(value, bool):
            return None
        if self.feet and unit == "m":
            return _if_exact("x_m", feet_and_inches(value), value) or f"{value:.10g} m"
        if self.fahrenheit and unit == "°C":
            text = f"{fahrenheit_of(value):.6g} °F"
            return _if_exact("x_c", text, value) or f"{value:.10g} °C"
        return None

    def unit(self, unit: str) -> str:
        """Return what stands beside a form field: what it is in unless something else is typed."""
        if self.feet and unit == "m":
            return "ft, in"
        return "°F" if self.fahrenheit and unit == "°C" else unit

    def rows(self, rows: Iterable[Iterable[str]]) -> Iterator[tuple[str, ...]]:
        """Return the rows of a list, headings first: lengths in feet under ``…_ft``."""
        header: tuple[str, ...] = ()
        for row in rows:
            cells = tuple(row)
            if not header:
                header = cells
                yield tuple(self._heading(name) for name in header)
            else:
                yield tuple(self._cell(n, c) for n, c in zip(header, cells, strict=True))

    def _heading(self, name: str) -> str:
        name = name.replace("earth", "ground") if self.ground else name
        return f"{name.removesuffix('_m')}_ft" if self.feet and name.endswith("_m") else name

    def _cell(self, name: str, cell: str) -> str:
        if self.feet and name.endswith("_m") and cell:
            return f"{float(cell) / FOOT_M:.2f}"
        return self.words(cell)


PLAIN = Saying()
_NOW: ContextVar[Saying] = ContextVar("saying", default=PLAIN)


def now() -> Saying:
    """Return how the page that is being made says things."""
    return _NOW.get()


@contextmanager
def said(saying: Saying) -> Iterator[None]:
    """Let what is rendered inside say things so."""
    token = _NOW.set(saying)
    try:
        yield
    finally:
        _NOW.reset(token)


def saying_of(rules: HouseRules, job: Job | None = None) -> Saying:
    """Return how a house says things, on pages of a job where one is named."""
    ground = rules.earth_word == "ground"
    return Saying(
        feet=rules.lengths == "feet",
        fahrenheit=rules.temperatures == "fahrenheit",
        ground=ground,
        kept=_kept(job) if ground and job is not None else (),
    )


@lru_cache(maxsize=16)
def _kept(job: Job) -> tuple[str, ...]:
    """Every text of a job in which somebody wrote of earth, the longest first, as pages have it."""
    found: set[str] = set()

    def look(value: object) -> None:
        if isinstance(value, str):
            if _EARTH.search(value) and value not in ("earth", "earth_point"):
                found.update((value, escape(value)))
        elif isinstance(value, dict):
            for inner in value.values():
                look(inner)
        elif isinstance(value, (list, tuple)):
            for inner in value:
                look(inner)

    look(job.model_dump(exclude={"rules", "vehicle", "accepted"}))
    offered = offered_layout(job.vehicle.kind, drive=job.vehicle.drive)
    found -= {p.name for p in offered.points}  # our words for it, which nobody typed
    return tuple(sorted(found, key=lambda text: (-len(text), text)))


def _grounded(found: re.Match[str]) -> str:
    word = "ground" + {"": "", "s": "s"}.get((found[4] or "").lower(), found[4] or "")
    if found[3].isupper() and len(found[3]) > 1:
        word = word.upper()
    elif found[3][0].isupper():
        word = word.capitalize()
    return f"{found[1][0]}{found[2]}{word}" if found[1] else word


def _in_feet(found: re.Match[str]) -> str:
    listed = [part for part in found[1].split(", ") if part]
    return ", ".join(_one_in_feet(part) for part in (*listed, found[2]))


def _one_in_feet(text: str) -> str:
    return feet_and_inches(float(text.replace("−", "-"))).replace("-", "−")


def _in_fahrenheit(found: re.Match[str]) -> str:
    told = f"{fahrenheit_of(float(found[1].replace('−', '-'))):.0f}".replace("-", "−")
    return f"{found[0]} ({told}\u00a0°F)" if found[1] in _CLASSES else f"{told}\u00a0°F"


def _if_exact(name: str, text: str, value: float) -> str:
    return text if float(as_figure(name, text)) == value else ""
