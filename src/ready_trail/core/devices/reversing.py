"""A winch's box: two contactors that turn the motor either way, and short it at rest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Coil, Element, RelayContact, Resistor
from ready_trail.core.relays import Relay, coil_resistance_ohm, contact_rating_a, pull_in_v


@dataclass(frozen=True, slots=True, kw_only=True)
class ReversingSpec:
    """Posts + and -, motor posts M1 and M2, coil terminals in and out (earthed inside)."""

    relay: Relay
    ambient_c: float
    kind: str = "reversing"

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
            yield RelayContact(name=f"{name}_{way}_rest", a=at(motor), b=at("-"), ohm=ohm,
                               coil=coil, makes=False)  # fmt: skip
            yield Coil(
                name=coil, a=at(way), b=at("-"),
                ohm=coil_resistance_ohm(self.relay, self.ambient_c),
                pull_in_v=pull_in_v(self.relay, self.ambient_c), release_v=self.relay.release_v,
            )  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its contacts carry for a pull."""
        return contact_rating_a(self.relay, ambient_c)


@dataclass(frozen=True, slots=True, kw_only=True)
class IsolatorSpec:
    """A hand isolator that is closed while one works, and taken out when not."""

    kind: str = "isolator"

    def terminals(self) -> tuple[str, ...]:
        """Return its two posts."""
        return ("1", "2")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its one way."""
        return (("1", "2"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield its closed contact."""
        yield Resistor(name=f"{name}_closed", a=at("1"), b=at("2"), ohm=_ISOLATOR_OHM,
                       kind="vehicle")  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return None: it is chosen for the winch."""
        return None


_ISOLATOR_OHM = 0.0002
