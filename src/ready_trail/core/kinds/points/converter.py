"""A converter to another voltage."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import CONVERTER_SET_V, MAKES_VOLTS, OUTPUT, PointKind

KIND = PointKind(
    key="converter",
    letter="V",
    words="converter",
    needs={**OUTPUT, "output_v": "the voltage that it gives"},
    output_12_v=CONVERTER_SET_V,
    keeps_output_v=True,
    asks=MAKES_VOLTS,
)
