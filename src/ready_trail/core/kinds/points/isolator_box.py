"""A box that repeats lamp signals without loading them."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import PointKind

KIND = PointKind(
    key="isolator_box",
    letter="I",
    words="signal isolator",
    switches_its_positions=True,
    copies_signals=True,
    own_earth=True,
)
