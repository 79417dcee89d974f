"""A voltage-sensing relay: it joins two batteries while one of them is being charged."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.kinds.around import RELAYS, Around, Part, slug
from ready_trail.core.kinds.base import At
from ready_trail.core.kinds.relay import RelayKind
from ready_trail.core.netlist import Coil, Element, RelayContact

JOINS_V, PARTS_V = 13.3, 12.8
"""It joins from this voltage at its 30 on, and parts under the other (typical, 12 V)."""

_SENSE_OHM = 1_000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SensingSpec(RelayKind):
    """Studs 30 and 87, and its earth 85; it senses at 30."""

    nominal_v: float

    def terminals(self) -> tuple[str, ...]:
        """Return its studs and its earth."""
        return ("30", "85", "87")

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the contact, and the sensing as a coil that needs a charging voltage."""
        coil, ratio = f"{name}_coil", self.nominal_v / 12.0
        yield RelayContact(
            name=f"{name}_30_87",
            a=at("30"),
            b=at("87"),
            ohm=self.relay.contact_mohm * 1e-3,
            coil=coil,
        )
        yield Coil(
            name=coil,
            a=at("30"),
            b=at("85"),
            ohm=_SENSE_OHM * ratio**2,
            pull_in_v=JOINS_V * ratio,
            release_v=PARTS_V * ratio,
        )

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the relay, which has a base of its own."""
        yield Part(key=f"relay-sensing-{slug(self.relay.key)}", group=RELAYS, label=around.label)
