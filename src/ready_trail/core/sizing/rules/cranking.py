"""The main cable of a battery that was moved: it cranks the engine and takes the charge."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.sizing.rules.winch import WinchPull

CRANK_DROP_RATIO = 0.04
"""What the cable to a moved battery may lose while the engine is cranked: 0.5 V of 12 (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cranking(WinchPull):
    """Half a minute of cranking in one go, the first turn of a cold engine for a moment."""

    on_s: float = 30.0
    stall_s: float = 2.0

    @property
    def duty(self) -> str:
        """The duty's word."""
        return "cranking"

    @property
    def contact_name(self) -> str:
        """No contact of ours is in it."""
        return "contact"
