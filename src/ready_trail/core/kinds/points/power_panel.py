"""A power module with a keypad: it switches and protects each output."""

from __future__ import annotations

from ready_trail.core.kinds.points.base import CHANNEL_RATIO, PointKind

KIND = PointKind(
    key="power_panel",
    letter="M",
    words="power module with keypad",
    switches_its_positions=True,
    has_legends=True,
    may_have_earth=True,
    has_keypad=True,
    own_earth=True,
    asks=(CHANNEL_RATIO,),
)
