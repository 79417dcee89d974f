"""A voltage-sensing relay: it joins two batteries while one of them is being charged."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.network import Coil, Element, RelayContact
from ready_trail.core.relays import Relay, contact_rating_a

JOINS_V, PARTS_V = 13.3, 12.8
"""It joins from this voltage at its 30 on, and parts under the other (typical, 12 V)."""

_SENSE_OHM = 1_000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SensingSpec:
    """Studs 30 and 87, and its earth 85; it senses at 30."""

    relay: Relay
    nominal_v: float
    kind: str = "relay"

    def terminals(self) -> tuple[str, ...]:
        """Return its studs and its earth."""
        return ("30", "85", "87")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its contact."""
        return (("30", "87"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the contact, and the sensing as a coil that needs a charging voltage."""
        coil, ratio = f"{name}_coil", self.nominal_v / 12.0
        yield RelayContact(name=f"{name}_30_87", a=at("30"), b=at("87"),
                           ohm=self.relay.contact_mohm * 1e-3, coil=coil)  # fmt: skip
        yield Coil(name=coil, a=at("30"), b=at("85"), ohm=_SENSE_OHM * ratio**2,
                   pull_in_v=JOINS_V * ratio, release_v=PARTS_V * ratio)  # fmt: skip

    def limit_a(self, ambient_c: float) -> float | None:
        """Return what its contact carries in that air."""
        return contact_rating_a(self.relay, ambient_c)
