"""The post where the battery stood before it was moved; the vehicle hangs on it."""

from __future__ import annotations

from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_STUD = Seat(kind="ring", stud="M10")

KIND = PointKind(
    key="main_post",
    letter="T",
    words="main post, battery moved away",
    holds_vehicle=True,
    bus_words="main post",
    is_one_stud=True,
    bus=_STUD,
    position=_STUD,
)
