"""The alternator, by its charging lead: it gives back to where its lead begins."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import Seat
from ready_trail.core.kinds.points.base import PointKind

_POST = Seat(kind="ring", stud="M8")

KIND = PointKind(
    key="alternator",
    letter="AL",
    words="alternator",
    gives_back=True,
    is_one_stud=True,
    gets_label=False,
    is_fitted=True,
    bus=_POST,
    position=_POST,
    asks=(
        Asked(path="output_a", title="Gives at most", unit="A", blank="as the brief says"),
        Asked(
            path="doubled",
            title="The factory's lead",
            usual=False,
            choices=(("false", "is replaced by this one"), ("true", "stays: this one beside it")),
        ),
    ),
)
