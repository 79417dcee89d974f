"""A known load of ten amperes: earths and feeds under real current."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument

LOAD_A = 10.0


class KnownLoad(Instrument):
    """Millivolts lost between two points with 10 A through them."""

    key: ClassVar[str] = "load"
    words: ClassVar[str] = "10 A load and millivolts"
    unit: ClassVar[str] = "mV"
    most: ClassVar[float] = 70_000.0
    trap: ClassVar[str] = "It gets hot: ten seconds, and not on a wire for less than 10 A."

    def scale(self, value: float) -> float:
        """Return volts, at most what a battery gives."""
        return min(value * 1e-3, 12.0)

    def value(self, place: float) -> float:
        """Return millivolts."""
        return place * 1e3

    def sigma(self, place: float) -> float:
        """Return 1 mV and 5 %, as the load itself is known (house)."""
        return 0.001 + 0.05 * abs(place)

    def shown(self, value: float) -> str:
        """Return millivolts."""
        return f"{value:.0f} mV" if value < 1000 else f"{value / 1000:.1f} V"
