"""The vehicle's own switched outputs for accessories."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.points.base import CHANNEL_RATIO, PointKind

KIND = PointKind(
    key="factory_bank",
    letter="A",
    words="factory bank",
    fed_by_vehicle=True,
    switches_its_positions=True,
    has_channel_bank=True,
    gets_label=False,
    asks=(
        Asked(path="continuous_a", title="Continuous loads, at most", unit="A"),
        Asked(path="fuse_a", title="Fuses, at most", unit="A"),
        CHANNEL_RATIO,
        Asked(
            path="pass_through_mohm",
            title="Spare wire into the cabin",
            unit="mΩ",
            hint="blank: it has none; about 15 for a usual one",
        ),
        Asked(path="pass_wires", title="Spare wires proved", usual=1),
        Asked(path="pass_mm2", title="Area of each", unit="mm²", blank="not stated"),
    ),
)
