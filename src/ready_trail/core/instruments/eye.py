"""Looking and listening: does it run, weakly, or not at all."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument


class Eye(Instrument):
    """Whether an accessory runs, as a share of the volts that it has when all is sound."""

    key: ClassVar[str] = "eye"
    words: ClassVar[str] = "your eyes"
    unit: ClassVar[str] = ""
    most: ClassVar[float] = 1.0
    choices: ClassVar[tuple[tuple[str, float], ...]] = (("on", 1.0), ("weak", 0.6), ("off", 0.0))

    def sigma(self, place: float) -> float:
        """Return what an eye makes of a brightness (house)."""
        return 0.07
