"""A block of fuses on a bus."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import BLOCK_BUS, BLOCK_POSITION, PointKind

KIND = PointKind(
    key="fuse_block",
    letter="B",
    words="fuse block",
    holds_fuses=True,
    blades_only=True,
    may_have_earth=True,
    bus=BLOCK_BUS,
    position=BLOCK_POSITION,
    earth=BLOCK_POSITION,
)
