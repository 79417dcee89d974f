"""What a wire must be, whatever it carries."""

from __future__ import annotations

from ready_trail.core.conductors import Conductor


def is_sturdy(conductor: Conductor, minimum_mm2: float) -> bool:
    """Mechanical minimum; 22 AWG (0.326 mm²) is the pair of 0.35 mm² and counts as such,
    and a gauge counts by its name, though SAE is a little thinner.
    """
    area_mm2 = 0.35 if conductor.label == "22 AWG" else conductor.area_mm2
    return max(area_mm2, conductor.gauge_mm2) >= minimum_mm2
