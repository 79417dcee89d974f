"""The installation: devices and wires joined at terminals, and the netlist that follows.

A terminal is a node. Texts such as "K7 30" are made from it for people and read by nobody.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from ready_trail.core.conductors import (
    COPPER_DENSITY_G_PER_CM3,
    Conductor,
    ampacity_a,
    wire_resistance_ohm,
)
from ready_trail.core.kinds.base import BATTERY_DEVICE, DeviceKind, node_of
from ready_trail.core.netlist import (
    BATTERY_POSITIVE,
    VEHICLE_POSITIVE,
    Element,
    Network,
    Resistor,
)
from ready_trail.core.sizing.records import CONNECTOR_PAIR_OHM, CRIMP_OHM, LUG_OHM

SLACK_RATIO = 0.08
SLACK_END_M = 0.15
SERVICE_LOOP_M = 0.10
"""Slack on a cut length: 8 %, 150 mm per end, 100 mm at a service connector (house)."""

Duty = Literal["feed", "power", "return", "control", "control_return", "function"]
Joint = Literal["lug", "crimp", "sealed"]
_JOINT_OHM: dict[Joint, float] = {
    "lug": LUG_OHM,
    "crimp": CRIMP_OHM,
    "sealed": CRIMP_OHM + CONNECTOR_PAIR_OHM,
}
CONTROL_DUTIES = ("control", "control_return")


def lamps_owner(panel_ref: str) -> str:
    """Return what owns the lamps of a lit panel with their wires, by the panel's reference."""
    return f"{panel_ref}L"


@dataclass(frozen=True, slots=True, kw_only=True)
class Terminal:
    """A numbered terminal of a device: one end of a wire."""

    device: str
    terminal: str

    @property
    def node(self) -> str:
        """Name of this terminal's node in the netlist."""
        return node_of(self.device, self.terminal)

    def __str__(self) -> str:
        return f"{self.device} {self.terminal}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """A device of the job. ``owner`` is the circuit or point that brought it, "" the vehicle.

    ``name`` is what people call it; where it has none of its own, its reference serves.
    """

    ref: str
    spec: DeviceKind
    owner: str
    label: str
    detail: str
    name: str = ""
    zone: str = ""
    at_m: float | None = None
    branch: str = ""
    """The branch at whose end it stands; empty on the trunk."""
    of_coil: bool = False
    """Whether it stands beside the relay, for its coil alone."""

    @property
    def kind(self) -> str:
        """Its kind, by which drawings look up a symbol."""
        return self.spec.kind

    @property
    def terminals(self) -> tuple[str, ...]:
        """Names of its terminals."""
        return self.spec.terminals()

    @property
    def title(self) -> str:
        """What people call it."""
        return self.name or self.ref

    def elements(self) -> tuple[Element, ...]:
        """Return what it is electrically."""
        return tuple(self.spec.elements(lambda t: node_of(self.ref, t), self.ref.lower()))


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """The part of one wire inside one zone; ``passes`` names the metal at its far end."""

    zone: str
    ambient_c: float
    conductor_c: float
    length_m: float
    loaded_conductors: int
    passes: str = ""
    grommet: bool = True
    taped: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Wire:
    """One wire from terminal to terminal; its label tells it from every other of the job."""

    label: str
    owner: str
    role: Duty
    start: Terminal
    end: Terminal
    conductor: Conductor
    insulation_c: int
    colour: str
    pieces: tuple[Piece, ...]
    start_joint: Joint | None = None
    end_joint: Joint | None = None
    mark: str = ""
    branch: str = ""
    tail_m: float = 0.0
    """What the accessory's own cable covers of this way: it is not cut from the reel. [m]"""
    supplied: bool = False
    """Whether it comes with what it joins, ends and all."""

    @property
    def is_control(self) -> bool:
        """Whether it feeds or earths a coil."""
        return self.role in CONTROL_DUTIES

    @property
    def length_m(self) -> float:
        """Length along the route, one way. [m]"""
        return sum(piece.length_m for piece in self.pieces)

    @property
    def taped(self) -> bool:
        """Whether every piece of this length was measured."""
        return all(piece.taped for piece in self.pieces)

    @property
    def cut_length_m(self) -> float:
        """Length to cut, rounded up to the centimetre. [m]

        The lead between source and fuse is unprotected, so it gets ends but no slack.
        """
        if self.role == "feed":
            length_m = self.length_m + 0.04
        else:
            own_m = max(0.0, self.length_m - self.tail_m)
            length_m = own_m * (1 + SLACK_RATIO) + 2 * SLACK_END_M
            if "sealed" in (self.start_joint, self.end_joint):
                length_m += SERVICE_LOOP_M
        return -(-round(length_m * 1000) // 10) / 100

    @property
    def mass_g(self) -> float:
        """Copper in the cut length. [g]"""
        return self.conductor.area_mm2 * self.cut_length_m * COPPER_DENSITY_G_PER_CM3

    def bears_a(self, insulation_c: int | None = None) -> float:
        """Return what it carries where it carries least, of another class if one is named. [A]"""
        class_c = self.insulation_c if insulation_c is None else insulation_c
        return min(
            (
                ampacity_a(
                    self.conductor,
                    insulation_c=class_c,
                    ambient_c=piece.ambient_c,
                    loaded_conductors=piece.loaded_conductors,
                )
                for piece in self.pieces
            ),
            default=math.inf,
        )

    def resistors(self) -> Iterator[Resistor]:
        """Yield the wire as resistors: joint, pieces, joint, from start to end."""
        name = self.label.lower().replace("-", "_")
        links: list[tuple[str, float, Literal["wire", "joint"]]] = []
        if self.start_joint:
            links.append((f"{name}_j1", _JOINT_OHM[self.start_joint], "joint"))
        for at, piece in enumerate(self.pieces, start=1):
            ohm = wire_resistance_ohm(
                r20_mohm_per_m=self.conductor.r20_mohm_per_m,
                length_m=piece.length_m,
                conductor_c=piece.conductor_c,
            )
            links.append((f"{name}_p{at}", ohm, "wire"))
        if self.end_joint:
            links.append((f"{name}_j2", _JOINT_OHM[self.end_joint], "joint"))
        node = self.start.node
        for at, (link, ohm, kind) in enumerate(links, start=1):
            after = self.end.node if at == len(links) else f"{name}_{at}"
            yield Resistor(name=link, a=node, b=after, ohm=ohm, kind=kind)
            node = after


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """The way of the load current to one branch's units, by reference ``ref``, and back."""

    ref: str
    branch: str
    out: tuple[str, ...]
    back: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Parts:
    """What one circuit, or the vehicle, brings: devices, wires, and the way of its load current.

    ``out`` and ``back`` hold labels of wires and references of devices in the order in which
    current meets them, with branches as far as the trunk; ``ways`` go on to each branch's units.
    ``needs`` names the circuits without which it cannot be solved.
    """

    owner: str
    devices: tuple[Device, ...] = ()
    wires: tuple[Wire, ...] = ()
    out: tuple[str, ...] = ()
    back: tuple[str, ...] = ()
    ways: tuple[Way, ...] = ()
    needs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Installation:
    """Devices and wires by reference and label; several circuits joined where they touch."""

    devices: Mapping[str, Device]
    wires: Mapping[str, Wire]
    vehicle_node: str = BATTERY_POSITIVE
    """Where the vehicle's own wiring takes its current."""
    _elements: dict[str, tuple[Element, ...]] = field(
        default_factory=dict, repr=False, compare=False
    )
    _networks: dict[float, Network] = field(default_factory=dict, repr=False, compare=False)

    @classmethod
    def of_parts(cls, every: Iterable[Parts]) -> Installation:
        """Join parts; what they share counts once."""
        devices: dict[str, Device] = {}
        wires: dict[str, Wire] = {}
        for parts in every:
            for device in parts.devices:
                devices.setdefault(device.ref, device)
            for wire in parts.wires:
                wires.setdefault(wire.label, wire)
        parting = (r for r, d in devices.items() if d.spec.carries_vehicle)
        node = next((node_of(ref, "bus") for ref in parting), BATTERY_POSITIVE)
        return cls(devices=devices, wires=wires, vehicle_node=node)

    def of(self, owner: str) -> tuple[Wire, ...]:
        """Return the wires that one circuit brought."""
        return tuple(wire for wire in self.wires.values() if wire.owner == owner)

    def elements_of(self, name: str) -> tuple[Element, ...]:
        """Return what a wire or device is electrically, in the order of its current."""
        if name not in self._elements:
            if name in self.wires:
                self._elements[name] = tuple(self.wires[name].resistors())
            else:
                self._elements[name] = tuple(
                    replace(e, a=self.vehicle_node) if e.a == VEHICLE_POSITIVE else e
                    for e in self.devices[name].elements()
                )
        return self._elements[name]

    def words(self, terminal: Terminal) -> str:
        """Return a terminal as people say it: the device's name and the number."""
        device = self.devices.get(terminal.device)
        if device is None or not device.name:
            return str(terminal)
        return f"{device.name} {device.spec.terminal_words(terminal.terminal)}".strip()

    def netlist(self, nominal_v: float) -> Network:
        """Return the network; every element belongs to one wire or device. Made once."""
        if nominal_v in self._networks:
            return self._networks[nominal_v]
        elements: dict[str, Element] = {}
        for name in (*self.devices, *self.wires):
            for element in self.elements_of(name):
                elements.setdefault(element.name, element)
        made = Network(nominal_v=nominal_v, elements=tuple(elements.values()))
        self._networks[nominal_v] = made
        return made


__all__ = [
    "BATTERY_DEVICE",
    "Device",
    "Installation",
    "Joint",
    "Parts",
    "Piece",
    "Terminal",
    "Wire",
]
