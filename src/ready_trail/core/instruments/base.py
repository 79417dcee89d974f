"""What an instrument is to a test: what it loads, how finely and how surely it reads."""

from __future__ import annotations

import math
import re
from abc import ABC, abstractmethod
from typing import ClassVar

from ready_trail.core.errors import CoreError


class NotReadableError(CoreError):
    """What was typed is no reading of this instrument; says why, in words for its field."""


_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)")


class Instrument(ABC):
    """One instrument.

    A value, in its unit, has a place on the instrument's own ``scale``, on which an error is about
    as large everywhere; ``sigma`` is that error.
    """

    key: ClassVar[str]
    words: ClassVar[str]
    unit: ClassVar[str]
    most: ClassVar[float]
    """No reading is larger; more was a slip of the finger. In its unit."""
    least: ClassVar[float] = 0.0
    with_power: ClassVar[bool] = True
    """Whether it reads while a source is connected; ohms would harm the meter."""
    on_wire: ClassVar[bool] = False
    """Whether it is put round a wire, not on two points."""
    choices: ClassVar[tuple[tuple[str, float], ...]] = ()
    """What there is to choose instead of a number."""
    trap: ClassVar[str] = ""
    """What fools people about it, where it bites."""

    def scale(self, value: float) -> float:
        """Return a value's place on the scale."""
        return value

    @abstractmethod
    def sigma(self, place: float) -> float:
        """Return the standard error of a reading there, on the scale: itself and the hand."""

    def value(self, place: float) -> float:
        """Return the value at a place on the scale."""
        return place

    def shown(self, value: float) -> str:
        """Return a value as the instrument shows it, with its unit."""
        if math.isinf(value):
            return "open"
        for words, at in self.choices:
            if at == value:
                return words
        return f"{value:.{2 if abs(value) < 100 else 0}f} {self.unit}"

    def read(self, typed: str) -> float:
        """Return the value of what was typed: a comma is a point, ``OL`` is open.

        Raises NotReadableError.
        """
        text = typed.strip().removesuffix(self.unit).strip()
        chosen = dict(self.choices)
        if self.choices:
            if text.lower() in chosen:
                return chosen[text.lower()]
            raise NotReadableError(f"Choose {' or '.join(chosen)}.")
        if text.lower() in ("ol", "o.l", "o.l.", "open", "∞", "inf") and not self.with_power:
            return math.inf
        if not _NUMBER.fullmatch(text):
            raise NotReadableError(f"A number in {self.unit} is expected, like 12.4.")
        found = float(text.replace(",", "."))
        if not self.least <= found <= self.most:
            raise NotReadableError(
                f"{found:g} {self.unit} cannot be: from {self.least:g} to {self.most:g} "
                f"{self.unit}. Was the point forgotten?"
            )
        return found
