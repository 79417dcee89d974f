"""A charger on the mains, a tender: it gives to the battery at which its lead begins."""

from __future__ import annotations

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.points.base import PointKind

KIND = PointKind(
    key="mains_charger",
    letter="V",
    words="charger on the mains",
    needs={"output_a": "what it gives at most"},
    gives_back=True,
    gives_by="mains",
    asks=(Asked(path="output_a", title="Gives at most", unit="A"),),
)
