"""A battery: a voltage behind its resistance, with two posts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Element, Source


@dataclass(frozen=True, slots=True, kw_only=True)
class BatterySpec(DeviceKind):
    """The vehicle's battery has the state's voltage; a second one its own ``set_v``."""

    ohm: float
    set_v: float | None = None
    stud: str = "M8"
    kind: str = "battery"
    is_post: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return both posts."""
        return ("+", "-")

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the source."""
        yield Source(name=name, a=at("+"), b=at("-"), ohm=self.ohm, set_v=self.set_v)

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on its post."""
        return Seat(kind="ring", stud=self.stud)

    def spot(self, terminal: str) -> str:
        """Return source or earth."""
        return "earth" if terminal == "-" else "source"
