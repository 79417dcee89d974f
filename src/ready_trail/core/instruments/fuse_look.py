"""A fuse pulled and held against the light: whole, or blown."""

from __future__ import annotations

from typing import ClassVar

from ready_trail.core.instruments.base import Instrument


class FuseLook(Instrument):
    """Whether a fuse's link is whole: that tells nothing of its holder."""

    key: ClassVar[str] = "fuse"
    words: ClassVar[str] = "the fuse, pulled"
    unit: ClassVar[str] = ""
    most: ClassVar[float] = 1.0
    choices: ClassVar[tuple[tuple[str, float], ...]] = (("whole", 1.0), ("blown", 0.0))
    trap: ClassVar[str] = "Find why it blew before another goes in, of the same rating."

    def sigma(self, place: float) -> float:
        """Return what an eye makes of a link (house)."""
        return 0.07
