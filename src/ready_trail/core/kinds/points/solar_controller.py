"""A solar panel by its controller: it gives to the battery at which its lead begins."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.points.base import PointKind

KIND = PointKind(
    key="solar_controller",
    letter="V",
    words="solar controller",
    needs={"output_a": "what it gives at most"},
    gives_back=True,
    gives_by="sun",
    asks=(Asked(path="output_a", title="Gives at most", unit="A"),),
)
