"""A digital meter on volts: 10 MΩ between its probes, so it loads nothing."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument


class Voltmeter(Instrument):
    """Volts between two points."""

    key: ClassVar[str] = "volts"
    words: ClassVar[str] = "meter on volts"
    unit: ClassVar[str] = "V"
    most: ClassVar[float] = 70.0
    least: ClassVar[float] = -70.0
    trap: ClassVar[str] = (
        "It draws nothing, so it shows full volts behind a bad joint and on a wire that hangs in "
        "the air. Read with the circuit under load."
    )

    def sigma(self, place: float) -> float:
        """Return 2 mV and 0.5 % of the reading (house, of a handheld meter)."""
        return 0.002 + 0.005 * abs(place)
