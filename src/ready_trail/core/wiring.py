"""Devices and wires of a circuit, and the netlist that follows from them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.conductors import Conductor, wire_resistance_ohm
from ready_trail.core.network import BATTERY_POSITIVE, GROUND, Element, Network, Resistor
from ready_trail.core.sizing.records import CONNECTOR_PAIR_OHM, CRIMP_OHM, LUG_OHM

SLACK_RATIO = 0.08
SLACK_END_M = 0.15
SERVICE_LOOP_M = 0.10
"""Slack on a cut length: 8 %, 150 mm per end, 100 mm at a service connector (house)."""

DeviceKind = Literal[
    "battery", "block", "fuse", "relay", "switch", "load", "earth", "feed", "headlamps"
]
WireRole = Literal["feed", "power", "return", "control", "control_return"]
Joint = Literal["lug", "crimp", "sealed"]
_NODE_WORDS = {"+": "pos", "-": "neg"}  # signs mean something else in a SPICE deck
_JOINT_OHM: dict[Joint, float] = {
    "lug": LUG_OHM,
    "crimp": CRIMP_OHM,
    "sealed": CRIMP_OHM + CONNECTOR_PAIR_OHM,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class End:
    """One end of a wire: a numbered terminal of a device."""

    device: str
    terminal: str

    @property
    def node(self) -> str:
        """Name of this terminal's node in the netlist."""
        if self.device == "BAT":
            return BATTERY_POSITIVE if self.terminal == "+" else GROUND
        terminal = _NODE_WORDS.get(self.terminal, self.terminal)
        return f"{self.device}_{terminal}".lower()

    def __str__(self) -> str:
        return f"{self.device} {self.terminal}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """Fuse, relay, switch, accessory, earth point or a part of the vehicle.

    ``elements`` is what it is electrically, between its own terminals' nodes.
    """

    ref: str
    kind: DeviceKind
    label: str
    detail: str
    terminals: tuple[str, ...]
    zone: str = ""
    at_m: float | None = None
    elements: tuple[Element, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """The part of one wire inside one zone; ``passes`` names the panel at its far end."""

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
    """One wire from terminal to terminal."""

    label: str
    role: WireRole
    start: End
    end: End
    conductor: Conductor
    insulation_c: int
    colour: str
    pieces: tuple[Piece, ...]
    start_joint: Joint | None = None
    end_joint: Joint | None = None

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
            length_m = self.length_m * (1 + SLACK_RATIO) + 2 * SLACK_END_M
            if "sealed" in (self.start_joint, self.end_joint):
                length_m += SERVICE_LOOP_M
        return -(-round(length_m * 1000) // 10) / 100

    @property
    def mass_g(self) -> float:
        """Copper in the cut length. [g]"""
        return self.conductor.area_mm2 * self.cut_length_m * 8.89

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
                conductor_c=min(250.0, piece.conductor_c),
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
class Wiring:
    """Devices and wires of one circuit, in the order in which current meets them."""

    devices: tuple[Device, ...]
    wires: tuple[Wire, ...]


def network_of(nominal_v: float, wirings: Iterable[Wiring]) -> Network:
    """Return the netlist of one or more circuits; what they share counts once."""
    elements: dict[str, Element] = {}
    for wiring in wirings:
        for device in wiring.devices:
            for element in device.elements:
                elements.setdefault(element.name, element)
        for wire in wiring.wires:
            for resistor in wire.resistors():
                elements.setdefault(resistor.name, resistor)
    return Network(nominal_v=nominal_v, elements=tuple(elements.values()))
