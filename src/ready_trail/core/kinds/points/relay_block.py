"""A block of fuses and relays."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import BLOCK_BUS, BLOCK_POSITION, PointKind

KIND = PointKind(
    key="relay_block",
    letter="B",
    words="fuse and relay block",
    holds_fuses=True,
    holds_relays=True,
    blades_only=True,
    may_have_earth=True,
    bus=BLOCK_BUS,
    position=BLOCK_POSITION,
    earth=BLOCK_POSITION,
)
