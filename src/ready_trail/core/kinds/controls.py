"""Small parts of function wires: blocking diode, controller output."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.kinds.around import RELAYS, Around, Part
from ready_trail.core.kinds.base import At, DeviceKind
from ready_trail.core.netlist import (
    BATTERY_POSITIVE,
    GROUND,
    Diode,
    Element,
    Resistor,
    SwitchContact,
)
from ready_trail.core.states import Closed

_DRIVE_OHM = 0.5
_REST_OHM = 100.0
"""A controller output that rests at ground pulls down through about this, and drives
through much less when on (house). [Ω]"""


@dataclass(frozen=True, slots=True, kw_only=True)
class DiodeSpec(DeviceKind):
    """A blocking diode: anode A, cathode K."""

    kind: str = "diode"
    blocks: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

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

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the diode and a spare."""
        yield Part(
            key="diode-1a", group=RELAYS, label=f"{around.label}, {around.detail}", spare=1.0
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class ControllerSpec(DeviceKind):
    """A controller's outputs: at rest open, pulled to ground or up to the supply; on, driven.

    ``supply`` is the node that feeds it, the battery's where it is empty.
    ``low`` lists outputs that go to ground when on. ``contacts`` names what turns each one on.
    """

    outputs: tuple[str, ...]
    grounded: tuple[str, ...]
    lifted: tuple[str, ...] = ()
    low: tuple[str, ...] = ()
    contacts: tuple[str, ...] = ()
    supply: str = ""
    kind: str = "controller"
    drives: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its outputs."""
        return self.outputs

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the pull-down of each output that rests at ground."""
        supply = self.supply or BATTERY_POSITIVE
        for number, output in enumerate(self.outputs, start=1):
            if output in self.grounded or output in self.lifted:
                rest = GROUND if output in self.grounded else supply
                yield Resistor(
                    name=f"{name}_rest{number}", a=at(output), b=rest, ohm=_REST_OHM, kind="vehicle"
                )
            if self.contacts:
                driven = GROUND if output in self.low else supply
                yield SwitchContact(
                    name=f"{name}_on{number}",
                    a=driven,
                    b=at(output),
                    ohm=_DRIVE_OHM,
                    closed=Closed(switch=self.contacts[number - 1]),
                )
