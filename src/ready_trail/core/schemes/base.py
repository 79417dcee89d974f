"""What a switching scheme is, and the bench on which it builds a circuit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor
from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.relays import Relay
from ready_trail.core.sizing import FuseChoice, Sizing
from ready_trail.core.wiring import Device, Piece, Wiring


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """One sized circuit, ready to be wired.

    ``run`` is the outward run in pieces at working temperature; ``back`` the return wire or
    stub. ``supply`` holds the devices up to where the circuit starts (battery, or feeder and
    block).
    """

    job: Job
    circuit: Circuit
    accessories: tuple[Accessory, ...]
    catalogue: Catalogue
    sizing: Sizing
    fuse: FuseChoice
    conductor: Conductor
    control_conductor: Conductor
    colour: str
    control_colour: str
    run: tuple[Piece, ...]
    back: tuple[Piece, ...]
    relay_c: float
    load_currents_a: tuple[float, ...]
    supply: Wiring

    @property
    def relay(self) -> Relay:
        """The sized relay; only schemes with a relay may ask."""
        if self.sizing.relay is None:
            raise ValueError(f"circuit {self.circuit.id} was sized without a relay")
        return self.sizing.relay

    @property
    def number(self) -> int:
        """The circuit's number, part of every reference."""
        return self.circuit.number


class Scheme(Protocol):
    """One way to switch a circuit; one module each, listed in ``schemes.ALL``."""

    @property
    def key(self) -> str:
        """Stable name in files."""

    @property
    def label(self) -> str:
        """Name on screen and paper."""

    @property
    def when(self) -> str:
        """One sentence: when it is the fitting scheme."""

    @property
    def has_relay(self) -> bool:
        """Whether a relay contact carries the load."""

    @property
    def switch_in_path(self) -> bool:
        """Whether the hand switch itself carries the load."""

    @property
    def sizing_rule(self) -> str:
        """``circuit``, or the name of a rule of its own."""

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Return why this scheme cannot serve the circuit, or an empty text."""

    def wiring(self, bench: Bench) -> Wiring:
        """Return devices and wires."""


def switch_device_label(accessory: Accessory) -> str:
    """Name of the accessory's hand switch, as stated or a plain one."""
    return accessory.use.switch or "Switch"


__all__ = ["Bench", "Device", "Scheme", "switch_device_label"]
