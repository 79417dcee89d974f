"""A charger from one battery to the next."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import CHARGER_SET_V, MAKES_VOLTS, OUTPUT, PointKind

KIND = PointKind(
    key="charger",
    letter="V",
    words="charger",
    needs=OUTPUT,
    output_12_v=CHARGER_SET_V,
    charges=True,
    asks=MAKES_VOLTS,
)
