"""A clamp for direct current round one wire."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument


class Clamp(Instrument):
    """Amperes through one wire, in its own direction."""

    key: ClassVar[str] = "clamp"
    words: ClassVar[str] = "clamp meter"
    unit: ClassVar[str] = "A"
    most: ClassVar[float] = 2000.0
    least: ClassVar[float] = -2000.0
    on_wire: ClassVar[bool] = True
    trap: ClassVar[str] = "Zero it away from the wire; round one wire alone, not the pair."

    def sigma(self, place: float) -> float:
        """Return 0.1 A and 2 % (house)."""
        return 0.1 + 0.02 * abs(place)
