"""What a device may ask of the job around it, and the parts that it answers with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from ready_trail.core.catalogue import Catalogue

WIRE, TERMINALS, SHRINK = "Wire", "Terminals and splices", "Shrink and sleeves"
FUSES, RELAYS, SWITCHES = "Fuses and holders", "Relays and sockets", "Switches and panels"
POINTS, FIXINGS, LABELS = "Points", "Fixings", "Labels"
ACCESSORIES, ON_VEHICLE = "Accessories", "On the vehicle already"
GROUPS = (
    WIRE,
    TERMINALS,
    SHRINK,
    FUSES,
    RELAYS,
    SWITCHES,
    POINTS,
    FIXINGS,
    LABELS,
    ACCESSORIES,
    ON_VEHICLE,
)
"""The groups of a parts list, in their order."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One part of a device: how many, and how many more as spares.

    ``keeps`` names who gets a line in what each circuit takes, though the part counts elsewhere.
    """

    key: str
    group: str
    label: str
    quantity: float = 1.0
    spare: float = 0.0
    catalogue_key: str = ""
    keeps: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """What a load stands for on the bill: an accessory, or something of the vehicle's own."""

    key: str
    name: str
    quantity: float
    of_vehicle: bool


class Around(Protocol):
    """One device where it is fitted."""

    @property
    def ref(self) -> str:
        """Its reference."""

    @property
    def label(self) -> str:
        """What it is, as a part."""

    @property
    def detail(self) -> str:
        """What else is said of it."""

    @property
    def title(self) -> str:
        """What people call it."""

    @property
    def catalogue(self) -> Catalogue:
        """The tables."""

    @property
    def units(self) -> tuple[Unit, ...]:
        """What a load powers."""

    @property
    def panel(self) -> tuple[str, str] | None:
        """Name and reference of the panel in which a switch sits, or None."""

    @property
    def point(self) -> tuple[str, str] | None:
        """Name of the point that it is, and what it is; None where the vehicle brought it."""

    @property
    def thickest_mm2(self) -> float:
        """The thickest single wire that ends at it. [mm²]"""

    @property
    def used(self) -> tuple[str, ...]:
        """Its terminals at which wires end, in order."""

    def on_vehicle(self) -> Part:
        """Return the line of something that is on the vehicle already."""


def point_key(name: str) -> str:
    """Return the key under which a distribution point is bought."""
    return f"point-{slug(name)}"


def slug(text: str) -> str:
    """Return a text as part of a key."""
    kept = (c if c.isalnum() or c == "." else "-" for c in text.lower())
    return "-".join(part for part in "".join(kept).split("-") if part)
