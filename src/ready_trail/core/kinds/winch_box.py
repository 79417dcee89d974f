"""A winch's box that brings its own remote, and the series motor with three posts that it turns."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import ACCESSORIES, Around, Part, slug
from ready_trail.core.kinds.base import At, Seat
from ready_trail.core.kinds.load import LoadSpec, element_name
from ready_trail.core.kinds.reversing import ReversingSpec
from ready_trail.core.netlist import (
    Coil,
    Element,
    LoadElement,
    RelayContact,
    Resistor,
    SwitchContact,
)
from ready_trail.core.relays import coil_resistance_ohm, pull_in_v
from ready_trail.core.states import Closed

WAYS = ("in", "out")
FIELD_POSTS = ("F1", "F2", "A")
KEY = "key"
"""Where the remote's own wire takes a keyed feed."""

_REMOTE_OHM, _FIELD_OHM = 0.05, 0.0002
"""The remote's key; a series field, whose loss is part of the motor's own figures (house). [Ω]"""


def remote_contact(name: str, way: str) -> str:
    """Return the name under which a winch's own remote is pressed."""
    return f"{name} remote {way}"


@dataclass(frozen=True, slots=True, kw_only=True)
class WinchBoxSpec(ReversingSpec):
    """A box with two contactors and a remote of its own, plugged in or wireless.

    With ``field`` it turns a series motor by its field: post A goes on to the armature.
    ``keyed`` tells that a thin wire of its own must be live before the remote does anything.
    """

    name: str
    field: bool = False
    keyed: bool = False

    @property
    def posts(self) -> tuple[str, ...]:
        """Its posts towards the motor."""
        return FIELD_POSTS if self.field else ("M1", "M2")

    def terminals(self) -> tuple[str, ...]:
        """Return its posts, and the remote's own wire."""
        return ("+", *self.posts, "-", *((KEY,) if self.keyed else ()))

    def gives(self, terminal: str) -> bool:
        """Return whether it is a post towards the motor, or the way back."""
        return terminal in (*self.posts, "-")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the way of the motor's current, winding in."""
        return (("+", "F1"), ("F2", "A")) if self.field else (("+", "M1"), ("M2", "-"))

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the remote's keys, the coils, and the contacts that they close."""
        ohm = self.relay.contact_mohm * 1e-3
        for way in WAYS:
            yield SwitchContact(
                name=f"{name}_key_{way}",
                a=at(KEY if self.keyed else "+"),
                b=at(way),
                ohm=_REMOTE_OHM,
                closed=Closed(switch=remote_contact(self.name, way)),
            )
            yield Coil(
                name=f"{name}_{way}_coil",
                a=at(way),
                b=at("-"),
                ohm=coil_resistance_ohm(self.relay, self.ambient_c),
                pull_in_v=pull_in_v(self.relay, self.ambient_c),
                release_v=self.relay.release_v,
            )
        pairs = (("in", "F1", "F2"), ("out", "F2", "F1"))
        if not self.field:
            pairs = (("in", "M1", "M2"), ("out", "M2", "M1"))
        for way, first, second in pairs:
            coil = f"{name}_{way}_coil"
            yield RelayContact(name=f"{name}_{way}_on", a=at("+"), b=at(first), ohm=ohm, coil=coil)
            if self.field:
                yield RelayContact(
                    name=f"{name}_{way}_to_a", a=at(second), b=at("A"), ohm=ohm, coil=coil
                )
            else:
                yield RelayContact(
                    name=f"{name}_{way}_rest",
                    a=at(first),
                    b=at("-"),
                    ohm=ohm,
                    coil=coil,
                    makes=False,
                )

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the box, which comes with the winch."""
        yield Part(
            key=f"winch-box-{slug(self.name)}",
            group=ACCESSORIES,
            label=f"Box and remote of {self.name}: come with it",
        )

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on its posts, a splice to the remote's own wire."""
        return Seat() if terminal == KEY else Seat(kind="ring", stud="M8")


@dataclass(frozen=True, slots=True, kw_only=True)
class SeriesMotorSpec(LoadSpec):
    """A series motor: two posts to its field, one to its armature, its body's own earth stud."""

    is_load: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its posts and the earth stud."""
        return (*FIELD_POSTS, "-")

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield field and armature: the armature turns by the field's sense, not by its own."""
        yield Resistor(name=f"{name}_field", a=at("F1"), b=at("F2"), ohm=_FIELD_OHM, kind="vehicle")
        for part in self.loads:
            yield LoadElement(
                name=element_name(name, part.key), a=at("A"), b=at("-"), load=part.load
            )

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on a stud."""
        return Seat(kind="ring", stud="M8")
