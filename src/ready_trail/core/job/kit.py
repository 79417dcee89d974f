"""What is there before work begins: a bought harness by its leads, or a circuit as found."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from ready_trail.core.conductors import WireKind, WireSystem
from ready_trail.core.job.parts import ColourCode, Ident, InsulationClass, Name, Note, Stated

Spot = Literal[
    "source",
    "channel",
    "converter",
    "fuse",
    "relay_30",
    "relay_87",
    "relay_87a",
    "relay_86",
    "relay_85",
    "switch_in",
    "switch_out",
    "switch_lamp",
    "plus",
    "plus_1",
    "plus_2",
    "minus",
    "minus_1",
    "minus_2",
    "earth",
    "trigger",
    "joint",
    "nowhere",
]
SPOT_WORDS: dict[str, str] = {
    "source": "source (battery, block)",
    "channel": "channel of a module",
    "converter": "converter's output",
    "fuse": "fuse holder",
    "relay_30": "relay 30",
    "relay_87": "relay 87",
    "relay_87a": "relay 87a",
    "relay_86": "relay 86",
    "relay_85": "relay 85",
    "switch_in": "switch, feed side",
    "switch_out": "switch, output side",
    "switch_lamp": "switch, its lamp",
    "plus": "accessory +",
    "plus_1": "unit 1 +",
    "plus_2": "unit 2 +",
    "minus": "accessory −",
    "minus_1": "unit 1 −",
    "minus_2": "unit 2 −",
    "earth": "earth",
    "trigger": "a wire of the vehicle",
    "joint": "joint of the branches",
    "nowhere": "nowhere",
}
"""What each end of a lead is called."""

Size = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=8)]
Rating = Annotated[float, Field(gt=0, le=1000)]


class KitLead(Stated):
    """One lead of a bought harness: from where to where, how thick, how long. [m]

    ``fuse_a`` tells that a fuse holder sits in it. [A] ``insulation_c`` is its class, counted as
    80 °C where nothing on it tells; ``wire_kind`` is what its gauge is of.
    """

    name: Name
    start: Spot
    end: Spot
    system: Literal["awg", "metric"] = "awg"
    size: Size
    wire_kind: WireKind = "copper"
    length_m: Annotated[float, Field(gt=0, le=30)]
    fuse_a: Rating | None = None
    insulation_c: InsulationClass | None = None


class Kit(Stated):
    """A bought harness. ``relay`` names the catalogue's nearest type; ``also`` the circuits that
    its leads serve besides the one at which it is stated.
    """

    leads: Annotated[tuple[KitLead, ...], Field(min_length=1, max_length=40)]
    relay: str | None = None
    also: Annotated[tuple[Ident, ...], Field(max_length=12)] = ()
    note: Note = ""


class Found(Stated):
    """A circuit that is in the vehicle already, as it was found; nothing known is left out.

    ``unfused`` tells that it has no fuse at all, ``fit_fuse`` that one will be fitted. Its size
    is one of the house's system and kind of wire unless ``system`` or ``wire_kind`` tell another.
    """

    size: Size | None = None
    system: WireSystem | None = None
    wire_kind: WireKind | None = None
    fuse_a: Rating | None = None
    unfused: bool = False
    fit_fuse: bool = False
    family: str | None = None
    relay: str | None = None
    colour: ColourCode | None = None
    insulation_c: InsulationClass | None = None
    note: Note = ""
