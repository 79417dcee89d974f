"""A joint: splice, junction box, double lug, double 87 or bus. Wires meet at its two sides."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Element

JOINT_WORDS = {
    "splice": "splice",
    "junction_box": "junction box",
    "double_lug": "double lug",
    "double_87": "double 87",
    "bus": "bus bar",
}
"""What each kind of joint is called."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JointSpec:
    """Where branches meet: "+" for the feed, "-" for returns that are shared.

    Its contacts are counted at the wires' ends, so it has no element of its own.
    """

    kind: str = "joint"

    def terminals(self) -> tuple[str, ...]:
        """Return its two sides."""
        return ("+", "-")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return nothing: it ends wires, current does not pass from side to side."""
        return ()

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield nothing."""
        return iter(())

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None: a joint made right carries what its wires carry."""
        return None
