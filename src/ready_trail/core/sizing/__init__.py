"""Sizing of one circuit: fuse, relay and wire, with what governs and the ways out."""

from ready_trail.core.sizing.records import (
    DROP_LIMIT_RATIO,
    DROP_SCHOOLS,
    BranchSizing,
    Ceiling,
    FuseChoice,
    FuseRule,
    Fusing,
    Held,
    Leg,
    Path,
    Rung,
    Sizing,
    SizingRequest,
    Stretch,
    Supply,
    Switching,
    Upstream,
    WayOut,
    WireAsked,
)
from ready_trail.core.sizing.rules import Steady, WinchPull
from ready_trail.core.sizing.size import size
from ready_trail.core.sizing.ways_out import ways_out

__all__ = [
    "BranchSizing",
    "Ceiling",
    "DROP_LIMIT_RATIO",
    "DROP_SCHOOLS",
    "FuseChoice",
    "FuseRule",
    "Fusing",
    "Held",
    "Leg",
    "Path",
    "Rung",
    "Sizing",
    "SizingRequest",
    "Steady",
    "Stretch",
    "Supply",
    "Switching",
    "Upstream",
    "WayOut",
    "WinchPull",
    "WireAsked",
    "size",
    "ways_out",
]
