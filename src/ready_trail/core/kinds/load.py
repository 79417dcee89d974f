"""An accessory, or what hangs on a distribution point, as one device with + and -."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import ACCESSORIES, ON_VEHICLE, Around, Part, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.loads import Load
from ready_trail.core.netlist import (
    GROUND,
    VEHICLE_POSITIVE,
    Element,
    LoadElement,
    Resistor,
    SwitchContact,
)
from ready_trail.core.states import Closed

_OWN_FEED_OHM, _OWN_EARTH_OHM = 0.030, 0.005
"""The vehicle's own wire to something that it feeds too, and its earth (house). [Ω]"""

_FLOAT_OHM = 22_000.0
"""To either side of an input that must float: inside, it rests half way (house)."""

_POWERED_V = 12.0
"""A function that its wire feeds is taken at this. [V]"""

_INPUT_OHM = 47_000.0
"""A function input or memory wire barely loads what feeds it (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PartLoad:
    """One load of the device, and the terminal that feeds it: "+", or an output's own lead."""

    key: str
    load: Load
    plus: str = "+"


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadSpec(DeviceKind):
    """Loads by key, with one way back for all; ``inputs`` are its function and memory wires.

    ``powered`` tells which of them feed their function, and its watts. Those that must float at
    rest lie half way inside, so that a pull to either side shows. With ``own_feed`` the vehicle
    feeds and earths it too; ``both_ways`` marks a motor that turns both ways; ``stated`` tells
    what its own terminals take, as its maker says.
    """

    loads: tuple[PartLoad, ...]
    inputs: tuple[str, ...] = ()
    floats: tuple[str, ...] = ()
    powered: tuple[tuple[str, float], ...] = ()
    own_feed: Closed | None = None
    both_ways: bool = False
    stated: Seat | None = None
    kind: str = "load"
    is_load: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return plus, minus and the function wires."""
        return (*dict.fromkeys(part.plus for part in self.loads), "-", *self.inputs)

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the way through the accessory."""
        return tuple((plus, "-") for plus in dict.fromkeys(p.plus for p in self.loads))

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield each accessory, and the input of each function wire."""
        for part in self.loads:
            yield LoadElement(
                name=element_name(name, part.key), a=at(part.plus), b=at("-"), load=part.load
            )
            if self.both_ways:
                yield LoadElement(
                    name=f"{element_name(name, part.key)}_back",
                    a=at("-"),
                    b=at(part.plus),
                    load=part.load,
                )
        if self.own_feed is not None:
            yield SwitchContact(
                name=f"{name}_own",
                a=VEHICLE_POSITIVE,
                b=at(self.loads[0].plus),
                ohm=_OWN_FEED_OHM,
                closed=self.own_feed,
            )
            yield Resistor(
                name=f"{name}_own_earth", a=at("-"), b=GROUND, ohm=_OWN_EARTH_OHM, kind="vehicle"
            )
        powered = dict(self.powered)
        for number, terminal in enumerate(self.inputs, start=1):
            if terminal in powered:
                amps = powered[terminal] / _POWERED_V
                load = Load(model="electronics", rated_a=amps, rated_v=_POWERED_V, cut_in_v=6.0)
                yield LoadElement(name=f"{name}_in{number}", a=at(terminal), b=at("-"), load=load)
                continue
            floats = terminal in self.floats and bool(self.loads)
            if floats:
                yield Resistor(
                    name=f"{name}_in{number}_up",
                    a=at(self.loads[0].plus),
                    b=at(terminal),
                    ohm=_FLOAT_OHM,
                    kind="vehicle",
                )
            yield Resistor(
                name=f"{name}_in{number}",
                a=at(terminal),
                b=at("-"),
                ohm=_FLOAT_OHM if floats else _INPUT_OHM,
                kind="vehicle",
            )

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return what its maker says; else the splice to its own lead, or a motor's studs."""
        if self.stated is not None:
            return self.stated
        return Seat(kind="ring", stud="M8") if conductor.lug_mm2 > 25 else Seat()

    def spot(self, terminal: str) -> str:
        """Return plus or minus."""
        return "minus" if terminal == "-" else "plus"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield each accessory; what the vehicle feeds too is there already."""
        for unit in around.units:
            yield Part(
                key=unit.key,
                group=ON_VEHICLE if unit.of_vehicle else ACCESSORIES,
                label=unit.name,
                quantity=unit.quantity,
            )
        if not around.units:
            yield Part(key=f"load-{slug(around.ref)}", group=ON_VEHICLE, label=around.title)


def part_key(accessory_id: str, plus: str) -> str:
    """Return the key of an accessory's load, or of one output's."""
    return accessory_id if plus == "+" else f"{accessory_id}_{plus}"


def element_name(ref: str, key: str) -> str:
    """Return the name of a load's element in the netlist, by its device and key."""
    return f"{ref}_{key}".lower().replace(" ", "")
