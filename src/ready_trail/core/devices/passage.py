"""The vehicle's own lead from the engine bay into the cabin: a factory bank's pass-through."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Element, Resistor


@dataclass(frozen=True, slots=True, kw_only=True)
class PassageSpec:
    """A lead with an end in the bay and one in the cabin."""

    ohm: float
    kind: str = "passage"

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

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None: the bank's own fuse protects it."""
        return None
