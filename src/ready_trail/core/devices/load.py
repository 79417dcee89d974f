"""An accessory, or what hangs on a distribution point, as one device with + and -."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.loads import Load
from ready_trail.core.network import Element, LoadElement, Resistor

_INPUT_OHM = 47_000.0
"""A function input or memory wire barely loads what feeds it (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadSpec:
    """Loads by id; ``inputs`` are the terminals of its function and memory wires."""

    loads: tuple[tuple[str, Load], ...]
    inputs: tuple[str, ...] = ()
    kind: str = "load"

    def terminals(self) -> tuple[str, ...]:
        """Return plus, minus and the function wires."""
        return ("+", "-", *self.inputs)

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the way through the accessory."""
        return (("+", "-"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield each accessory, and the input of each function wire."""
        for key, load in self.loads:
            yield LoadElement(name=f"{name}_{key}", a=at("+"), b=at("-"), load=load)
        for number, terminal in enumerate(self.inputs, start=1):
            yield Resistor(name=f"{name}_in{number}", a=at(terminal), b=at("-"), ohm=_INPUT_OHM,
                           kind="vehicle")  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None: the maker's largest fuse is a ceiling of its own."""
        return None
