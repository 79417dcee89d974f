"""Faults as typed changes of a network: what breaks, in terms of its elements and nodes.

A fault never touches the job. ``faulted`` gives the network as it would be; several faults add
up, in their order.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from ready_trail.core.errors import CoreError
from ready_trail.core.netlist import (
    Coil,
    Diode,
    Element,
    Network,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.states import Closed

BROKEN_OHM = 1e9
SHORT_OHM = 0.005
"""Bare metal on bare metal (house)."""


class FaultError(CoreError):
    """A fault names what the network does not have, or cannot happen there."""


@dataclass(frozen=True, slots=True)
class Open:
    """An element no longer conducts: a cut wire, a blown fuse, a dead coil."""

    element: str


@dataclass(frozen=True, slots=True)
class Series:
    """Resistance added in series: corrosion, a loose lug, a tired battery. [Ω]"""

    element: str
    ohm: float


@dataclass(frozen=True, slots=True)
class Short:
    """Two nodes touch: a wire on the body, or on its neighbour. [Ω]"""

    a: str
    b: str
    ohm: float = SHORT_OHM


@dataclass(frozen=True, slots=True)
class Stuck:
    """A contact that stays closed, or open, whatever works it."""

    contact: str
    closed: bool


@dataclass(frozen=True, slots=True)
class Swapped:
    """Two pins of one device are exchanged: its elements meet the other's node."""

    elements: tuple[str, ...]
    a: str
    b: str


@dataclass(frozen=True, slots=True)
class Backwards:
    """A diode the wrong way round."""

    diode: str


@dataclass(frozen=True, slots=True)
class Weak:
    """A source of another voltage. [V]"""

    source: str
    set_v: float


@dataclass(frozen=True, slots=True)
class Tapped:
    """A wire of the vehicle that is not the one it was taken for: it lives in other states."""

    contact: str
    closed: Closed


Fault = Open | Series | Short | Stuck | Swapped | Backwards | Weak | Tapped


def faulted(network: Network, faults: Iterable[Fault]) -> Network:
    """Return the network with these faults.

    Raises FaultError when a fault names an element or node that is not there, or asks of one
    what it cannot do.
    """
    elements = list(network.elements)
    nodes = {node for e in elements for node in (e.a, e.b)}
    for number, fault in enumerate(faults, start=1):
        if isinstance(fault, Short):
            if fault.a == fault.b or not {fault.a, fault.b} <= nodes:
                raise FaultError(f"nothing can touch between {fault.a} and {fault.b}")
            elements.append(
                Resistor(name=f"fault{number}", a=fault.a, b=fault.b, ohm=fault.ohm, kind="wire")
            )
            continue
        named = set(fault.elements) if isinstance(fault, Swapped) else {_subject(fault)}
        if not named <= {e.name for e in elements}:
            raise FaultError(f"there is no {', '.join(sorted(named))} any more")
        elements = [
            made
            for e in elements
            for made in (_changed(e, fault, number) if e.name in named else (e,))
        ]
    return Network(nominal_v=network.nominal_v, elements=tuple(elements))


def _subject(fault: Open | Series | Stuck | Backwards | Weak | Tapped) -> str:
    match fault:
        case Open(name) | Series(name, _) | Stuck(name, _) | Backwards(name) | Weak(name, _):
            return name
        case Tapped(name, _):
            return name


def _changed(element: Element, fault: Fault, number: int) -> Iterator[Element]:
    """The element under its fault; nothing where it is gone."""
    match fault:
        case Open():
            if isinstance(element, Coil):  # its contacts still ask for it
                yield replace(element, ohm=BROKEN_OHM, wound_ohm=element.wound_ohm or element.ohm)
        case Series(ohm=ohm):
            between = f"fault{number}_{element.name}"
            yield Resistor(name=f"fault{number}", a=element.a, b=between, ohm=ohm, kind="joint")
            yield replace(element, a=between)
        case Stuck(closed=closed):
            if not isinstance(element, SwitchContact | RelayContact):
                raise FaultError(f"{element.name} is no contact")
            if closed:
                yield Resistor(
                    name=element.name, a=element.a, b=element.b, ohm=element.ohm, kind="wire"
                )
        case Backwards():
            if not isinstance(element, Diode):
                raise FaultError(f"{element.name} is no diode")
            yield replace(element, a=element.b, b=element.a)
        case Weak(set_v=set_v):
            if not isinstance(element, Source):
                raise FaultError(f"{element.name} is no source")
            yield replace(element, set_v=set_v)
        case Tapped(closed=closed):
            if not isinstance(element, SwitchContact):
                raise FaultError(f"{element.name} is no feed of the vehicle")
            yield replace(element, closed=closed)
        case Swapped(a=a, b=b):
            other = {a: b, b: a}
            yield replace(
                element, a=other.get(element.a, element.a), b=other.get(element.b, element.b)
            )
        case _:
            raise FaultError(f"{fault} changes no element")
