"""The netlist: elements between named nodes, the one electrical truth of a design.

Node names are made of a device's id and a terminal (``k1_87``); nobody takes them apart.
``0`` is the battery's negative post.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from ready_trail.core.loads import Load
from ready_trail.core.states import Closed

GROUND = "0"
BATTERY_POSITIVE = "bat_pos"
VEHICLE_POSITIVE = "veh_pos"
"""Where the vehicle's own wiring takes its current: the battery's post, or behind a disconnect."""


ResistorKind = Literal["wire", "fuse", "joint", "chassis", "vehicle"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Resistor:
    """A plain resistance: a piece of wire, a fuse, a joint, the body."""

    name: str
    a: str
    b: str
    ohm: float
    kind: ResistorKind

    @property
    def is_wire(self) -> bool:
        """Whether it is copper of a wire."""
        return self.kind == "wire"

    @property
    def is_fuse(self) -> bool:
        """Whether it is what melts in a fuse."""
        return self.kind == "fuse"

    @property
    def is_joint(self) -> bool:
        """Whether it is a crimp, lug or connector."""
        return self.kind == "joint"

    @property
    def is_body(self) -> bool:
        """Whether it is the vehicle's body."""
        return self.kind == "chassis"


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchContact:
    """A contact worked by a hand or by the vehicle; open means no connection."""

    name: str
    a: str
    b: str
    ohm: float
    closed: Closed


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayContact:
    """A contact worked by a coil; ``makes`` is False for the rest contact 87a."""

    name: str
    a: str
    b: str
    ohm: float
    coil: str
    makes: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Coil:
    """A relay coil at its working temperature.

    What pulls is its current: ``pull_in_v`` and ``release_v`` hold at ``wound_ohm``, the
    resistance that it was made with; a broken one has its volts and pulls nothing.
    """

    name: str
    a: str
    b: str
    ohm: float
    pull_in_v: float
    release_v: float
    wound_ohm: float | None = None

    def pull_v(self, across_v: float) -> float:
        """Return the voltage that would drive the same current through a sound coil. [V]"""
        return abs(across_v) * (1.0 if self.wound_ohm is None else self.wound_ohm / self.ohm)


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadElement:
    """An accessory, or a lamp of the vehicle."""

    name: str
    a: str
    b: str
    load: Load


@dataclass(frozen=True, slots=True, kw_only=True)
class Diode:
    """A blocking diode: conducts from ``a`` to ``b``, 0.7 V and a little resistance."""

    name: str
    a: str
    b: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A voltage behind its resistance, positive at ``a``.

    ``set_v`` is None for the vehicle's battery, whose voltage is the state's. A source with
    ``limit_a`` gives no more and takes nothing back; one that is ``fed_by`` a converter input
    gives nothing while that lies under its cut-in voltage.
    """

    name: str
    a: str
    b: str
    ohm: float
    set_v: float | None = None
    limit_a: float | None = None
    fed_by: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ConverterInput:
    """What a converter takes: the power of its output over its efficiency, above cut-in.

    ``enabled`` tells in which states it runs.
    """

    name: str
    a: str
    b: str
    efficiency_ratio: float
    cut_in_v: float
    enabled: Closed


Element = (
    Resistor | SwitchContact | RelayContact | Coil | LoadElement | Diode | Source | ConverterInput
)


@dataclass(frozen=True, kw_only=True)
class Network:
    """All elements, in a fixed order; node order follows first use."""

    nominal_v: float
    elements: tuple[Element, ...]

    @cached_property
    def nodes(self) -> tuple[str, ...]:
        """Every node but ground, in order of first use."""
        seen: dict[str, None] = {}
        for element in self.elements:
            seen.setdefault(element.a)
            seen.setdefault(element.b)
        seen.pop(GROUND, None)
        return tuple(seen)

    @cached_property
    def switches(self) -> frozenset[str]:
        """Names of the hand switches in this network."""
        return frozenset(
            e.closed.switch
            for e in self.elements
            if isinstance(e, SwitchContact) and e.closed.switch
        )

    @cached_property
    def opened(self) -> frozenset[str]:
        """Names of what opens a contact that is closed by itself: disconnects."""
        return frozenset(
            e.closed.unless
            for e in self.elements
            if isinstance(e, SwitchContact) and e.closed.unless
        )

    @cached_property
    def signals(self) -> frozenset[str]:
        """Names of the vehicle's lamp signals that switch something in this network."""
        return frozenset(
            e.closed.signal
            for e in self.elements
            if isinstance(e, SwitchContact) and e.closed.signal
        )
