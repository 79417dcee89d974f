"""A test lamp of about 3 W: it loads the wire a little, so a bad joint shows dark or dim."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument

LAMP_W = 3.0


class TestLamp(Instrument):
    """Lit, dim or dark between two points."""

    __test__ = False
    key: ClassVar[str] = "lamp"
    words: ClassVar[str] = "test lamp"
    unit: ClassVar[str] = ""
    most: ClassVar[float] = 1.0
    choices: ClassVar[tuple[tuple[str, float], ...]] = (("lit", 1.0), ("dim", 0.6), ("dark", 0.0))
    trap: ClassVar[str] = "Never on data, airbag or sensor wires: it draws a quarter of an ampere."

    def sigma(self, place: float) -> float:
        """Return what an eye makes of a brightness (house)."""
        return 0.12
