"""Sizing of one circuit: fuse, relay and wire, with what governs and the ways out."""

from ready_trail.core.sizing.records import (
    DROP_LIMIT_RATIO,
    DROP_SCHOOLS,
    BranchSizing,
    Ceiling,
    FuseChoice,
    Held,
    Leg,
    Rung,
    Sizing,
    SizingRequest,
    Stretch,
    Upstream,
    WayOut,
    WinchDuty,
)
from ready_trail.core.sizing.size import size
from ready_trail.core.sizing.ways_out import ways_out

__all__ = [
    "DROP_LIMIT_RATIO",
    "DROP_SCHOOLS",
    "BranchSizing",
    "Ceiling",
    "FuseChoice",
    "Held",
    "Leg",
    "Rung",
    "Sizing",
    "SizingRequest",
    "Stretch",
    "Upstream",
    "WayOut",
    "WinchDuty",
    "size",
    "ways_out",
]
