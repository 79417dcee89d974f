"""The vehicle in a state, with faults: what carries current, pulls in, blows, sags, chatters."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ready_trail.core.design import job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fault_list import NamedFault
from ready_trail.core.faults import Open, faulted
from ready_trail.core.heating import Heating, heating
from ready_trail.core.installation import Device, Wire
from ready_trail.core.kinds.base import node_of
from ready_trail.core.netlist import BATTERY_POSITIVE, Coil, LoadElement, Network, Source
from ready_trail.core.opening import FuseReading, protections
from ready_trail.core.outcome import Design
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import VehicleState

FLOWS_A = 0.005
"""Under this a wire does not count as carrying: leaks, diodes backwards. [A]"""

UNDER_SUPPLIED_RATIO = 0.85


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadReading:
    """What an accessory gets: volts across it, amps, and whether that is enough to work."""

    ref: str
    name: str
    volts: float
    amps: float
    is_on: bool
    lacks: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceReading:
    """What a battery, alternator or converter gives: volts at its posts, amps out of it."""

    name: str
    volts: float
    amps: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Live:
    """One solved state. ``point`` is None where there is no steady one; ``trouble`` says why.

    Currents count along a wire, from its start to its end. [A]
    """

    state: VehicleState
    point: OperatingPoint | None
    trouble: str = ""
    wires_a: Mapping[str, float]
    loads: tuple[LoadReading, ...]
    relays: Mapping[str, bool]
    fuses: tuple[FuseReading, ...]
    chatter: tuple[str, ...]
    source_v: float
    total_a: float
    sources: tuple[SourceReading, ...] = ()
    """Every source, the vehicle's battery first."""
    network: Network | None = None
    """What was solved: the job's network with its faults."""


def live(
    design: Design,
    state: VehicleState,
    faults: Sequence[NamedFault] = (),
    blown: Sequence[str] = (),
    network: Network | None = None,
) -> Live:
    """Return the whole job in one state, with faults, and with fuses that have opened.

    ``network`` may be the job's own, where the caller keeps it. Raises FaultError for a fault
    that the job does not have.
    """
    base = network if network is not None else job_network(design)
    changes = [change for named in faults for change in named.faults]
    own = {p.ref: p.element for p in protections(design.installation)} if blown else {}
    changes += [Open(own[ref]) for ref in blown]
    changed = faulted(base, changes) if changes else base
    try:
        point = solve(changed, state)
    except NotConvergedError as error:
        return Live(
            state=state,
            point=None,
            trouble=f"{error}",
            wires_a={},
            loads=(),
            relays={},
            fuses=(),
            chatter=(),
            source_v=0.0,
            total_a=0.0,
        )
    return _read(design, changed, point)


def _read(design: Design, network: Network, point: OperatingPoint) -> Live:
    installed = design.installation
    wires_a = {
        label: wire_current_a(design, wire, point) for label, wire in installed.wires.items()
    }
    loads: list[LoadReading] = []
    relays: dict[str, bool] = {}
    chatter: list[str] = []
    sources: list[SourceReading] = []
    for ref, device in installed.devices.items():
        for element in installed.elements_of(ref):
            if isinstance(element, LoadElement):
                loads += _load(ref, device, element, point)
            elif isinstance(element, Source):
                sources.append(_source(device, element, point))
            elif isinstance(element, Coil) and element.name in point.energised:
                relays[ref] = relays.get(ref, False) or point.energised[element.name]
                if element.name in point.chatter:
                    chatter.append(ref)
    battery = next((e for e in network.elements if isinstance(e, Source)), None)
    total_a = -point.branch_a.get(battery.name, 0.0) if battery is not None else 0.0
    source_v = point.node_v.get(BATTERY_POSITIVE, 0.0)  # at the posts, whatever is wrong inside
    return Live(
        state=point.state,
        point=point,
        wires_a=wires_a,
        loads=tuple(loads),
        relays=relays,
        fuses=tuple(p.read(point) for p in protections(installed)),
        chatter=tuple(chatter),
        source_v=source_v,
        total_a=total_a,
        sources=tuple(sources),
        network=network,
    )


def wire_current_a(design: Design, wire: Wire, point: OperatingPoint) -> float:
    """Return what a wire carries from its start to its end; the larger at a short in it. [A]"""
    found = [
        point.branch_a[e.name]
        for e in design.installation.elements_of(wire.label)
        if e.name in point.branch_a
    ]
    return max(found, key=abs, default=0.0)


def _load(
    ref: str, device: Device, element: LoadElement, point: OperatingPoint
) -> list[LoadReading]:
    amps = point.branch_a.get(element.name)
    name = _load_name(device, element)
    if amps is None:
        return [LoadReading(ref=ref, name=name, volts=0.0, amps=0.0, is_on=False, lacks=False)]
    volts = point.between_v(element.a, element.b)
    is_on = abs(amps) >= min(FLOWS_A, 0.2 * element.load.rated_a)
    lacks = is_on and abs(volts) < UNDER_SUPPLIED_RATIO * element.load.rated_v
    lacks = lacks or element.name in point.cut_out
    return [LoadReading(ref=ref, name=name, volts=volts, amps=amps, is_on=is_on, lacks=lacks)]


def _load_name(device: Device, element: LoadElement) -> str:
    """Name a load; of several in one device also by the terminal that is its own."""
    every = [e for e in device.elements() if isinstance(e, LoadElement)]
    if len(every) < 2:
        return device.title
    for terminal in device.terminals:
        node = node_of(device.ref, terminal)
        if [e.name for e in every if node in (e.a, e.b)] == [element.name]:
            return f"{device.title}, {device.spec.terminal_words(terminal)}"
    return f"{device.title} {1 + [e.name for e in every].index(element.name)}"


def _source(device: Device, element: Source, point: OperatingPoint) -> SourceReading:
    volts = abs(point.between_v(element.a, element.b))
    amps = -point.branch_a.get(element.name, 0.0)
    return SourceReading(name=device.title, volts=volts, amps=amps)


def first_to_open(reading: Live) -> FuseReading | None:
    """Return the fuse that opens first at these currents, by its slow edge."""
    return min((f for f in reading.fuses if f.opens), key=lambda f: f.slowest_s, default=None)


def heats(design: Design, reading: Live, label: str) -> tuple[Heating, FuseReading | None] | None:
    """Return how a wire heats at what it carries now, and the fuse on its way that opens first.

    A fuse counts only where it belongs to the wire's circuit or to a feeder ahead of it: one
    that opens elsewhere protects nothing here. None where there is no such wire or no current.
    """
    wire = design.installation.wires.get(label)
    if wire is None or not wire.pieces or reading.point is None:
        return None
    made = next((c for c in design.circuits if c.circuit.id == wire.owner), None)
    owners = {wire.owner, *(made.ahead if made is not None else ())}
    devices = design.installation.devices
    near = [f for f in reading.fuses if f.opens and devices[f.device].owner in owners]
    fuse = min(near, key=lambda f: f.slowest_s, default=None)
    hottest = max(wire.pieces, key=lambda p: p.ambient_c)
    found = heating(
        current_a=abs(reading.wires_a.get(label, 0.0)),
        area_mm2=wire.conductor.area_mm2,
        insulation_c=wire.insulation_c,
        start_c=hottest.conductor_c,
        ambient_c=hottest.ambient_c,
        opens_fastest_s=fuse.fastest_s if fuse is not None else math.inf,
        opens_slowest_s=fuse.slowest_s if fuse is not None else math.inf,
    )
    return found, fuse
