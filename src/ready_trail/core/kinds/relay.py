"""A relay or contactor: coil on 85 and 86, contact from 30 to 87, perhaps 87a at rest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import RELAYS, Around, Part, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Coil, Element, RelayContact
from ready_trail.core.relays import (
    Relay,
    coil_resistance_ohm,
    contact_rating_a,
    pull_in_v,
    rest_contact_rating_a,
)
from ready_trail.core.wording import lower_first


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayKind(DeviceKind):
    """What every relay has: a coil apart from a contact from 30 to 87."""

    relay: Relay
    kind: str = "relay"
    coil: ClassVar[str] = "86"
    coil_apart: ClassVar[bool] = True
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the make contact."""
        return (("30", "87"),)

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its contact carries in that air."""
        return contact_rating_a(self.relay, ambient_c)

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a blade of its base, or a ring on its stud."""
        return relay_seat(self.relay, terminal)

    def spot(self, terminal: str) -> str:
        """Return the pin."""
        return f"relay_{terminal}"


@dataclass(frozen=True, slots=True, kw_only=True)
class RelaySpec(RelayKind):
    """A relay of the catalogue at the ambient where it sits."""

    ambient_c: float
    in_block: bool = False
    """Whether it plugs into a block, which brings its socket."""

    def terminals(self) -> tuple[str, ...]:
        """Return the terminal numbers of DIN 72552."""
        made = ("87",) if self.relay.has_make_contact else ()
        return ("30", "85", "86", *made, *(("87a",) if self.relay.has_rest_contact else ()))

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield contact, rest contact and coil."""
        relay, coil = self.relay, f"{name}_coil"
        contact_ohm = relay.contact_mohm * 1e-3
        if relay.has_make_contact:
            yield RelayContact(
                name=f"{name}_30_87", a=at("30"), b=at("87"), ohm=contact_ohm, coil=coil
            )
        if relay.has_rest_contact:
            yield RelayContact(
                name=f"{name}_30_87a",
                a=at("30"),
                b=at("87a"),
                ohm=contact_ohm,
                coil=coil,
                makes=False,
            )
        yield Coil(
            name=coil,
            a=at("86"),
            b=at("85"),
            ohm=coil_resistance_ohm(relay, self.ambient_c),
            pull_in_v=pull_in_v(relay, self.ambient_c),
            release_v=relay.release_v,
        )

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield relay and socket, and what quenches its coil where it is fitted by hand."""
        found = relay_parts(self.relay, around)
        return (p for p in found if not (self.in_block and p.key.startswith("socket-")))


@dataclass(frozen=True, slots=True, kw_only=True)
class RestRelaySpec(RelaySpec):
    """The same where 87a carries the load, and the coil takes it off."""

    opens_by_coil: ClassVar[bool] = True

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the rest contact."""
        return (("30", "87a"),)

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its rest contact carries in that air."""
        return rest_contact_rating_a(self.relay, ambient_c)


_HEAVY_POSTS = frozenset({"30", "87", "87a"})
_WIDE_BLADE_A = 40.0
"""Contacts above this have 9.5 mm blades."""


def relay_seat(relay: Relay, terminal: str) -> Seat:
    """Return what a wire ends in at a relay's pin."""
    if relay.own_leads:
        return Seat()
    if relay.stud:
        by_ring = terminal in _HEAVY_POSTS
        return Seat(kind="ring", stud=relay.stud) if by_ring else Seat(kind="blade_6_3")
    wide = terminal in _HEAVY_POSTS and relay.contact_a_23c > _WIDE_BLADE_A
    return Seat(kind="base_9_5" if wide else "base_6_3")


def relay_parts(relay: Relay, around: Around) -> Iterator[Part]:
    """Yield a relay with its socket."""
    volts = "" if relay.coil_v == 12 else f"-{relay.coil_v:.0f}v"
    yield Part(
        key=f"relay-{slug(relay.key)}{volts}",
        group=RELAYS,
        label=around.label,
        spare=0.0 if relay.stud or relay.own_leads else 1.0,
        catalogue_key=f"relay:{relay.key}",
    )
    if not relay.stud and not relay.own_leads:
        yield Part(
            key=f"socket-{slug(relay.socket)}",
            group=RELAYS,
            label=f"Socket for {lower_first(relay.socket)} relay",
        )
    if relay.quenched_by_hand:
        yield Part(key="coil-resistor", group=RELAYS, label=f"Coil resistor, {relay.suppression}")
