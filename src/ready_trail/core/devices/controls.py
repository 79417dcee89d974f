"""Small parts of function wires: blocking diode, controller output."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import GROUND, Diode, Element, Resistor

_REST_OHM = 100.0
"""A controller output that rests at ground pulls down through about this (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DiodeSpec:
    """A blocking diode: anode A, cathode K."""

    kind: str = "diode"

    def terminals(self) -> tuple[str, ...]:
        """Return anode and cathode."""
        return ("A", "K")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its one direction."""
        return (("A", "K"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the diode."""
        yield Diode(name=name, a=at("A"), b=at("K"))

    def limit_a(self, ambient_c: float) -> float | None:
        """Return a typical small diode's amp."""
        return 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ControllerSpec:
    """A controller's outputs at rest: open, or pulled to ground."""

    outputs: tuple[str, ...]
    grounded: tuple[str, ...]
    kind: str = "controller"

    def terminals(self) -> tuple[str, ...]:
        """Return its outputs."""
        return self.outputs

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return nothing."""
        return ()

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the pull-down of each output that rests at ground."""
        for number, output in enumerate(self.outputs, start=1):
            if output in self.grounded:
                yield Resistor(name=f"{name}_rest{number}", a=at(output), b=GROUND, ohm=_REST_OHM,
                               kind="vehicle")  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None."""
        return None
