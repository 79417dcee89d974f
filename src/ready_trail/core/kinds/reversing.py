"""A winch's box: two contactors that turn the motor either way, and short it at rest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import RELAYS, SWITCHES, Around, Part, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Coil, Element, RelayContact, Resistor
from ready_trail.core.relays import Relay, coil_resistance_ohm, contact_rating_a, pull_in_v


@dataclass(frozen=True, slots=True, kw_only=True)
class ReversingSpec(DeviceKind):
    """Posts + and -, motor posts M1 and M2, coil terminals in and out (earthed inside)."""

    relay: Relay
    ambient_c: float
    kind: str = "reversing"
    coil: ClassVar[str] = "in"
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its posts and coil terminals."""
        return ("+", "-", "M1", "M2", "in", "out")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the way of the motor's current, winding in."""
        return (("+", "M1"), ("M2", "-"))

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield two changeover contacts, each with its coil."""
        ohm = self.relay.contact_mohm * 1e-3
        for way, motor in (("in", "M1"), ("out", "M2")):
            coil = f"{name}_{way}_coil"
            yield RelayContact(name=f"{name}_{way}_on", a=at("+"), b=at(motor), ohm=ohm, coil=coil)
            yield RelayContact(
                name=f"{name}_{way}_rest", a=at(motor), b=at("-"), ohm=ohm, coil=coil, makes=False
            )
            yield Coil(
                name=coil,
                a=at(way),
                b=at("-"),
                ohm=coil_resistance_ohm(self.relay, self.ambient_c),
                pull_in_v=pull_in_v(self.relay, self.ambient_c),
                release_v=self.relay.release_v,
            )

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its contacts carry for a pull."""
        return contact_rating_a(self.relay, ambient_c)

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on its posts, a blade for its coils."""
        heavy = terminal in ("+", "-", "M1", "M2")
        return Seat(kind="ring", stud="M8") if heavy else Seat(kind="blade_6_3")

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the box."""
        key = f"contactor-{slug(around.label)}"
        yield Part(key=key, group=RELAYS, label=around.label)


@dataclass(frozen=True, slots=True, kw_only=True)
class IsolatorSpec(DeviceKind):
    """A hand isolator that is closed while one works, and taken out when not."""

    kind: str = "isolator"
    is_isolator: ClassVar[bool] = True
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its two posts."""
        return ("1", "2")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its one way."""
        return (("1", "2"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield its closed contact."""
        yield Resistor(
            name=f"{name}_closed", a=at("1"), b=at("2"), ohm=_ISOLATOR_OHM, kind="vehicle"
        )

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on its post."""
        return Seat(kind="ring", stud="M10")

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the isolator."""
        yield Part(key="isolator-hand", group=SWITCHES, label="Battery isolator by hand, two posts")


_ISOLATOR_OHM = 0.0002
