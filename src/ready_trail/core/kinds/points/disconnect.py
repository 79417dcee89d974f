"""A battery disconnect in the main cable: by hand, or latching by a pulse from a switch."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_STUD = Seat(kind="ring", stud="M10")

KIND = PointKind(
    key="disconnect",
    letter="Q",
    words="battery disconnect",
    fed_by_vehicle=True,
    parts_battery=True,
    feed_ohm=0.0006,
    bus_words="battery cable",
    is_one_stud=True,
    bus=_STUD,
    position=_STUD,
    asks=(
        Asked(
            path="pulse_switch",
            title="Worked by a pulse from the switch",
            blank="by hand, no switch",
        ),
        Asked(
            path="vehicle_behind",
            title="The vehicle itself",
            usual=True,
            choices=(("true", "dies with it"), ("false", "stays on the battery")),
        ),
        Asked(path="cranking_a", title="Bears while cranking", unit="A", blank="not stated"),
        Asked(path="surge_a", title="Bears for a minute", unit="A", blank="not stated"),
        Asked(
            path="upright",
            title="Its maker wants it",
            usual=False,
            choices=(("false", "any way up"), ("true", "upright")),
        ),
    ),
)
