"""The single faults of a design, with plain names: what can break, one at a time."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

from ready_trail.core.faults import (
    Backwards,
    Fault,
    Open,
    Series,
    Short,
    Stuck,
    Swapped,
    Tapped,
    Weak,
)
from ready_trail.core.installation import Device, Installation, Wire
from ready_trail.core.kinds.base import node_of
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.kinds.vehicle import FeedSpec
from ready_trail.core.netlist import (
    GROUND,
    Coil,
    Diode,
    Element,
    LoadElement,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.outcome import Design
from ready_trail.core.states import WITH_ACCESSORY, WITH_IGNITION, WITH_SIDE, Closed

TOUCH = "touch:"
CORRODED_OHM = 0.5
OTHER_JOINTS_OHM = (0.05, 1.0, 1000.0)
"""A joint that is tired, one that is bad, and one that hardly touches (trade)."""
TIRED_OHM = 0.05
TIRED_V = 11.0
"""A bad joint, and a worn battery (house, 12 V): enough to be felt, not enough to be obvious."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedFault:
    """One fault: its key, the wire or device that has it, whose it is, in words, and itself.

    Those of one ``kind`` at one element differ in nothing but how bad they are.
    """

    key: str
    kind: str
    subject: str
    owner: str
    words: str
    faults: tuple[Fault, ...]


def single_faults(design: Design) -> tuple[NamedFault, ...]:
    """Return every single fault of a design, wires first, each with a key that stays."""
    found: list[NamedFault] = []
    nodes = {n for e in _elements(design.installation) for n in (e.a, e.b)}
    for wire in design.installation.wires.values():
        found += _of_wire(wire, design.installation, nodes)
    for device in design.installation.devices.values():
        found += _of_device(device, design.installation, float(design.job.vehicle.nominal_v))
    return tuple(found)


def touching(design: Design, a: str, b: str) -> NamedFault | None:
    """Return two nodes that touch, as wires of one loom may; None where one is not there."""
    nodes = {n for e in _elements(design.installation) for n in (e.a, e.b)}
    if a == b or not {a, b} <= nodes:
        return None
    names = {
        t.node: design.installation.words(t)
        for w in design.installation.wires.values()
        for t in (w.start, w.end)
    }
    words = [names.get(n, "battery negative" if n == GROUND else n) for n in (a, b)]
    return NamedFault(
        key=f"{TOUCH}{a}:{b}",
        kind="touch",
        subject="",
        owner="",
        faults=(Short(a, b),),
        words=f"{words[0]} and {words[1]} touch",
    )


def faults_of(design: Design, keys: Iterable[str]) -> tuple[NamedFault, ...]:
    """Return the faults of some keys, without those that the design does not have."""
    keys = tuple(keys)
    known = {f.key: f for f in single_faults(design)} if keys else {}
    for key in keys:
        if key.startswith(TOUCH):
            a, _, b = key.removeprefix(TOUCH).partition(":")
            made = touching(design, a, b)
            known |= {key: made} if made is not None else {}
    return tuple(known[key] for key in keys if key in known)


def _elements(installation: Installation) -> Iterator[Element]:
    for name in (*installation.wires, *installation.devices):
        yield from installation.elements_of(name)


def _of_wire(wire: Wire, installation: Installation, nodes: set[str]) -> Iterator[NamedFault]:
    links = installation.elements_of(wire.label)
    if not links:
        return
    start, end = installation.words(wire.start), installation.words(wire.end)
    way = f"{wire.label} from {start} to {end}"

    def named(kind: str, words: str, *faults: Fault) -> NamedFault:
        return NamedFault(
            key=f"{kind}:{wire.label}",
            kind="bad" if kind.startswith("bad") else kind,
            subject=wire.label,
            owner=wire.owner,
            words=words,
            faults=faults,
        )

    yield named("open", f"{way} is cut", Open(links[0].name))
    yield named("bad", f"{way} has a bad joint", Series(links[-1].name, CORRODED_OHM))
    for ohm in OTHER_JOINTS_OHM:
        told = f"{ohm:g} Ω" if ohm < 1000 else f"{ohm / 1000:g} kΩ"
        yield named(f"bad{ohm:g}", f"{way} has a joint of {told}", Series(links[-1].name, ohm))
    yield from _wrong_beam(wire, named, nodes)
    middle = links[0].b if len(links) > 1 else wire.end.node
    if middle != GROUND and middle in nodes and wire.role not in ("return", "control_return"):
        yield named("body", f"{way} touches the body", Short(middle, GROUND))


def _wrong_beam(
    wire: Wire, named: Callable[..., NamedFault], nodes: set[str]
) -> Iterator[NamedFault]:
    """A tap on the other beam's wire: they lie side by side."""
    beams = {node_of("HL", "low"): "low", node_of("HL", "high"): "high"}
    for terminal, link in ((wire.start, 0), (wire.end, -1)):
        if terminal.node not in beams:
            continue
        other = next(n for n in beams if n != terminal.node)
        if other in nodes:
            first = tuple(wire.resistors())[link].name
            yield named(
                "wrong",
                f"{wire.label} is joined to the {beams[other]}-beam wire",
                Swapped((first,), terminal.node, other),
            )


_FEEDS: tuple[tuple[str, Closed], ...] = (
    ("a constant feed", Closed()),
    ("the accessory feed", WITH_ACCESSORY),
    ("the ignition feed", WITH_IGNITION),
    ("the side-light feed", WITH_SIDE),
)


def _wrong_feed(device: Device, named: Callable[..., NamedFault]) -> Iterator[NamedFault]:
    """What a feed of the vehicle may turn out to be: the wire beside it."""
    spec = device.spec
    if not isinstance(spec, FeedSpec):
        return
    contact = device.elements()[0].name
    for words, closed in _FEEDS:
        if closed != spec.closed:
            yield named(
                f"wrong{words.split()[1]}.{contact}",
                f"is in truth {words}",
                Tapped(contact, closed),
            )


def _exchanged(coil: Coil, elements: Sequence[Element]) -> Iterator[tuple[str, str, Fault]]:
    """Two pins of a relay's socket, exchanged: what each pair is called, and what it does."""
    contacts = [e for e in elements if isinstance(e, RelayContact)]
    if not contacts:
        return
    contact, own = contacts[0], tuple(e.name for e in elements)
    yield "pins", "has 30 and 86 exchanged", Swapped(own, contact.a, coil.a)
    pin = "87" if contact.makes else "87a"
    yield "pins85", f"has 85 and {pin} exchanged", Swapped(own, contact.b, coil.b)
    rest = next((e for e in contacts if not e.makes), None)
    if rest is not None and contact.a == rest.a:
        both = (contact.name, rest.name)
        yield "pins87a", "has 87 and 87a exchanged", Swapped(both, contact.b, rest.b)


def _of_device(
    device: Device, installation: Installation, nominal_v: float
) -> Iterator[NamedFault]:
    elements = installation.elements_of(device.ref)
    called = f"{device.ref} {device.name}" if device.name not in ("", device.ref) else device.ref

    def named(kind: str, words: str, *faults: Fault) -> NamedFault:
        return NamedFault(
            key=f"{kind}:{device.ref}",
            kind="wrong" if kind.startswith("wrong") else kind.partition(".")[0],
            subject=device.ref,
            owner=device.owner,
            words=f"{called} {words}",
            faults=faults,
        )

    yield from _wrong_feed(device, named)
    for element in elements:
        part = element.name
        which = _output(device, part)
        match element:
            case Resistor(kind="fuse"):
                yield named(f"blown.{part}", f"{which}is open", Open(part))
            case Resistor(kind="chassis"):
                yield named(f"lost.{part}", "has come off", Open(part))
                yield named(f"rusty.{part}", "is rusty", Series(part, CORRODED_OHM))
            case SwitchContact() | RelayContact():
                which = which or _contact(element)
                yield named(f"welded.{part}", f"{which}stays closed", Stuck(part, True))
                yield named(f"dead.{part}", f"{which}never closes", Stuck(part, False))
            case Coil():
                yield named(f"coil.{part}", "has a broken coil", Open(part))
                for key, words, fault in _exchanged(element, elements):
                    yield named(f"{key}.{part}", words, fault)
            case Diode():
                yield named(f"backwards.{part}", "is the wrong way round", Backwards(part))
                yield named(f"through.{part}", "conducts both ways", Short(element.a, element.b))
                yield named(f"open.{part}", "conducts no longer", Open(part))
            case LoadElement():
                yield named(f"dead.{part}", "draws nothing", Open(part))
                yield named(f"short.{part}", "is shorted inside", Short(element.a, element.b))
            case Source(set_v=None):
                yield named(
                    f"tired.{part}",
                    "is worn and half flat",
                    Series(part, TIRED_OHM),
                    Weak(part, TIRED_V * nominal_v / 12.0),
                )
            case _:
                continue


def _output(device: Device, part: str) -> str:
    """Which output of a point an element belongs to, in words; empty for anything else."""
    found = re.search(r"_ch(\d+)(_f)?$", part)
    if found is None or not isinstance(device.spec, PointSpec):
        return ""
    own = " own fuse" if found[2] else ""
    return f"output {device.spec.channels[int(found[1]) - 1].position}{own} "


def _contact(element: SwitchContact | RelayContact) -> str:
    if isinstance(element, RelayContact) and not element.makes:
        return "rest contact "
    return "contact " if isinstance(element, RelayContact) else ""
