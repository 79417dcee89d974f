"""A second battery."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_POST = Seat(kind="ring", stud="M8")

KIND = PointKind(
    key="battery",
    letter="BB",
    words="second battery",
    needs={"battery": "its capacity and resistance"},
    stores=True,
    bus=_POST,
    position=_POST,
    asks=(
        Asked(path="battery.capacity_ah", title="Capacity", unit="Ah"),
        Asked(path="battery.resistance_mohm", title="Resistance", unit="mΩ"),
        Asked(
            path="battery.chemistry",
            title="Type",
            usual="agm",
            choices=(
                ("agm", "AGM (glass mat, sealed)"),
                ("flooded", "flooded"),
                ("lithium", "lithium"),
            ),
        ),
        Asked(path="output_a", title="Link carries", unit="A"),
    ),
)
