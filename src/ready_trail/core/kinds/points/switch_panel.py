"""A panel of hand switches with their fuses."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import PointKind

KIND = PointKind(
    key="switch_panel",
    letter="P",
    words="switch panel",
    holds_fuses=True,
    blades_only=True,
    has_switches=True,
    has_legends=True,
)
