"""How each kind of duty chooses its fuse, and what it asks of wire and contact."""

from ready_trail.core.sizing.rules.steady import Steady
from ready_trail.core.sizing.rules.winch import WinchPull

__all__ = ["Steady", "WinchPull"]
