"""One bolt at which several circuits start."""

from __future__ import annotations

from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_STUD = Seat(kind="ring", stud="M8", usual_torque=True)

KIND = PointKind(
    key="stud",
    letter="T",
    words="stud",
    is_one_stud=True,
    may_have_earth=True,
    bus=_STUD,
    position=_STUD,
)
