"""An earth point on the body, with the body's resistance back to the battery."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import GROUND, Element, Resistor

CHASSIS_OHM = {"bonded": 0.002, "poor": 0.010}
"""The body on the way back: bonded steel, and a poor one (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EarthSpec:
    """A chassis point; a measured one has its own figure."""

    ohm: float
    kind: str = "earth"

    def terminals(self) -> tuple[str, ...]:
        """Return its one stud."""
        return ("1",)

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return nothing: the body goes on from here."""
        return ()

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the body."""
        yield Resistor(name=f"{name}_body", a=at("1"), b=GROUND, ohm=self.ohm, kind="chassis")

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None."""
        return None
