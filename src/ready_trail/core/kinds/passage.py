"""The vehicle's own lead from the engine bay into the cabin: a factory bank's pass-through."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.kinds.base import At, DeviceKind
from ready_trail.core.netlist import Element, Resistor


@dataclass(frozen=True, slots=True, kw_only=True)
class PassageSpec(DeviceKind):
    """A lead with an end in the bay and one in the cabin."""

    ohm: float
    kind: str = "passage"
    is_passage: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its two ends."""
        return ("bay", "cabin")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its one way."""
        return (("bay", "cabin"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield its resistance."""
        yield Resistor(
            name=f"{name}_lead", a=at("bay"), b=at("cabin"), ohm=self.ohm, kind="vehicle"
        )
