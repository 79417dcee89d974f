"""A digital meter on ohms: with the power away only."""

from __future__ import annotations

import math
from typing import ClassVar

from ready_trail.core.instruments.base import Instrument

OPEN_OHM = 10e6
_LEADS_OHM = 0.3


class Ohmmeter(Instrument):
    """Ohms between two points. Its scale is logarithmic above what the leads have."""

    key: ClassVar[str] = "ohms"
    words: ClassVar[str] = "meter on ohms"
    unit: ClassVar[str] = "Ω"
    most: ClassVar[float] = 100e6
    with_power: ClassVar[bool] = False
    trap: ClassVar[str] = (
        "Its tenths are too coarse for a thick cable: one strand left reads like a whole one. "
        "There only volts under load tell."
    )

    def scale(self, value: float) -> float:
        """Return decades above what leads and contacts leave unsure."""
        return math.log10(_LEADS_OHM + min(max(value, 0.0), OPEN_OHM))

    def value(self, place: float) -> float:
        """Return ohms; infinity where nothing joins the points."""
        found: float = max(0.0, 10.0**place - _LEADS_OHM)
        return math.inf if found > OPEN_OHM / 1.2 else found

    def sigma(self, place: float) -> float:
        """Return 0.1 Ω of leads zeroed by hand and 2 % (house)."""
        shown: float = 10.0**place
        return (0.1 / shown + 0.02) / math.log(10)

    def shown(self, value: float) -> str:
        """Return ohms, kilohms or open."""
        if math.isinf(value) or value >= OPEN_OHM:
            return "open"
        if value < 100:
            return f"{value:.1f} Ω"
        return f"{value:.0f} Ω" if value < 1000 else f"{value / 1000:.2g} kΩ"
