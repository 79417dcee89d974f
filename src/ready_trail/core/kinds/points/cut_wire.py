"""A wire of the vehicle that is cut, so that a relay of ours stands in front of what it feeds."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import WAKE_CHOICES, PointKind

_SPLICE = Seat()

KIND = PointKind(
    key="cut_wire",
    letter="W",
    words="cut wire of the vehicle",
    needs={"fuse_a": "the factory fuse that feeds it"},
    fed_by_vehicle=True,
    switches_its_positions=True,
    is_cut=True,
    bus=_SPLICE,
    position=_SPLICE,
    gets_label=False,
    asks=(
        Asked(path="fuse_a", title="Factory fuse", unit="A"),
        Asked(path="key", title="The vehicle feeds it", choices=WAKE_CHOICES),
        Asked(
            path="lights",
            title="and with",
            choices=(
                ("any", "any lights"),
                ("side", "side lights"),
                ("low", "low beam"),
                ("high", "high beam"),
            ),
        ),
    ),
)
