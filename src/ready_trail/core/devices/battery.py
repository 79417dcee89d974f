"""A battery: a voltage behind its resistance, with two posts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Element, Source


@dataclass(frozen=True, slots=True, kw_only=True)
class BatterySpec:
    """The vehicle's battery has the state's voltage; a second one its own ``set_v``."""

    ohm: float
    set_v: float | None = None
    kind: str = "battery"

    def terminals(self) -> tuple[str, ...]:
        """Return both posts."""
        return ("+", "-")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return nothing: current starts here."""
        return ()

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the source."""
        yield Source(name=name, a=at("+"), b=at("-"), ohm=self.ohm, set_v=self.set_v)

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None: it limits nothing by itself."""
        return None
