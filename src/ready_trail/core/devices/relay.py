"""A relay or contactor: coil on 85 and 86, contact from 30 to 87, perhaps 87a at rest."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Coil, Element, RelayContact
from ready_trail.core.relays import Relay, coil_resistance_ohm, contact_rating_a, pull_in_v


@dataclass(frozen=True, slots=True, kw_only=True)
class RelaySpec:
    """A relay of the catalogue at the ambient where it sits."""

    relay: Relay
    ambient_c: float
    kind: str = "relay"

    def terminals(self) -> tuple[str, ...]:
        """Return the terminal numbers of DIN 72552."""
        plain = ("30", "85", "86", "87")
        return (*plain, "87a") if self.relay.has_rest_contact else plain

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the make contact."""
        return (("30", "87"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield contact, rest contact and coil."""
        relay, coil = self.relay, f"{name}_coil"
        contact_ohm = relay.contact_mohm * 1e-3
        yield RelayContact(name=f"{name}_30_87", a=at("30"), b=at("87"), ohm=contact_ohm, coil=coil)
        if relay.has_rest_contact:
            yield RelayContact(
                name=f"{name}_30_87a", a=at("30"), b=at("87a"), ohm=contact_ohm, coil=coil,
                makes=False,
            )  # fmt: skip
        yield Coil(
            name=coil, a=at("86"), b=at("85"),
            ohm=coil_resistance_ohm(relay, self.ambient_c),
            pull_in_v=pull_in_v(relay, self.ambient_c), release_v=relay.release_v,
        )  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its contact carries in that air."""
        return contact_rating_a(self.relay, ambient_c)
