"""An earth point on the body, with the body's resistance back to the battery."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import Around, Part
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import GROUND, Element, Resistor

CHASSIS_OHM = {"bonded": 0.002, "poor": 0.010}
"""The body on the way back: bonded steel, and a poor one (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EarthSpec(DeviceKind):
    """A chassis point; a measured one has its own figure."""

    ohm: float
    kind: str = "earth"
    is_earth: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its one stud."""
        return ("1",)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the body."""
        yield Resistor(name=f"{name}_body", a=at("1"), b=GROUND, ohm=self.ohm, kind="chassis")

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on a bolt."""
        stud = "M8" if conductor.lug_mm2 > 35 else "M6"
        return Seat(kind="ring", stud=stud, usual_torque=True)

    def spot(self, terminal: str) -> str:
        """Return earth."""
        return "earth"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield nothing: earths of one place share bolts, which are counted by place."""
        return iter(())
