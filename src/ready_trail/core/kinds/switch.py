"""A hand switch: one contact, or two sides of an off-I-II switch."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import POINTS, SWITCHES, Around, Part, point_key, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Element, Resistor, SwitchContact
from ready_trail.core.states import Closed

SWITCH_CONTACT_OHM = 0.010
LAMP = "lamp"
"""Terminal of a switch's own lamp that goes to earth."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchSpec(DeviceKind):
    """A switch by its name; ``throws`` 2 gives the outputs I and II.

    With ``lamp_ohm`` a lamp inside burns with its (first) output, and wants an earth.
    """

    name: str
    rating_a: float
    throws: int = 1
    lamp_ohm: float | None = None
    kind: str = "switch"
    is_switch: ClassVar[bool] = True
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return the feed and the output or outputs."""
        outputs = ("1", "2") if self.throws == 1 else ("1", "I", "II")
        return outputs if self.lamp_ohm is None else (*outputs, LAMP)

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return feed to each output."""
        return tuple(("1", out) for out in self.outputs)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield a contact for each output."""
        for out in self.outputs:
            single = self.throws == 1
            yield SwitchContact(
                name=name if single else f"{name}_{out.lower()}",
                a=at("1"),
                b=at(out),
                ohm=SWITCH_CONTACT_OHM,
                closed=Closed(switch=self.name if single else f"{self.name} {out}"),
            )

        if self.lamp_ohm is not None:
            yield Resistor(
                name=f"{name}_lamp",
                a=at(self.outputs[0]),
                b=at(LAMP),
                ohm=self.lamp_ohm,
                kind="vehicle",
            )

    @property
    def outputs(self) -> tuple[str, ...]:
        """Its output, or both of an off-I-II switch."""
        return ("2",) if self.throws == 1 else ("I", "II")

    def limit_a(self, ambient_c: float) -> float | None:
        """Return its rating."""
        return self.rating_a

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a blade."""
        return Seat(kind="blade_6_3")

    def spot(self, terminal: str) -> str:
        """Return its way in or out, or its lamp."""
        if terminal == LAMP:
            return "switch_lamp"
        return "switch_in" if terminal == "1" else "switch_out"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the switch; one that sits in a panel comes with it."""
        if around.panel is None:
            yield Part(
                key=f"switch-{slug(around.detail)}",
                group=SWITCHES,
                label=f"Switch, {around.detail}",
            )
            return
        name, ref = around.panel
        yield Part(
            key=point_key(name),
            group=POINTS,
            label=f"{name}, with its switches",
            quantity=0.0,
            keeps=ref,
        )


def output_of(throws: int, throw: str) -> str:
    """Return the output terminal that a use takes."""
    return "2" if throws == 1 else (throw or "I")
