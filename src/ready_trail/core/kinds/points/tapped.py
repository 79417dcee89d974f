"""A circuit of the vehicle that others hang on already."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_SPLICE = Seat()

KIND = PointKind(
    key="tapped",
    letter="W",
    words="tapped circuit",
    needs={"fuse_a": "the factory fuse that feeds it"},
    fed_by_vehicle=True,
    taps_a_circuit=True,
    bus=_SPLICE,
    position=_SPLICE,
    gets_label=False,
    asks=(
        Asked(path="fuse_a", title="Factory fuse", unit="A"),
        Asked(path="carries_a", title="Carries already", unit="A"),
    ),
)
