"""A panel whose module switches and protects each output."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import PointKind

KIND = PointKind(
    key="power_panel",
    letter="M",
    words="panel with power module",
    switches_its_positions=True,
    has_legends=True,
    may_have_earth=True,
)
