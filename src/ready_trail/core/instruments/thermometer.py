"""The back of a hand or an infrared thermometer: what has got warm."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument


class Thermometer(Instrument):
    """Kelvin above the air around."""

    key: ClassVar[str] = "warmth"
    words: ClassVar[str] = "thermometer"
    unit: ClassVar[str] = "K"
    most: ClassVar[float] = 250.0
    least: ClassVar[float] = -20.0
    trap: ClassVar[str] = "Bright metal reads cold on infrared: aim at insulation or tape."

    def sigma(self, place: float) -> float:
        """Return 2 K (house)."""
        return 2.0
