"""What follows for each leg: its wires, bundle, sleeve, clips and how full its hole is."""

from __future__ import annotations

import csv
import math
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.installation import Wire
from ready_trail.core.job.branch import AT_DEVICE
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.layout import LoomLeg
from ready_trail.core.layout.loom_network import HOT_ZONE_C, LoomNetwork, Way
from ready_trail.core.layout.packing import bundle_diameter_mm
from ready_trail.core.outcome import CircuitDesign, Design

HOLE_FILL_MOST_RATIO = 0.60
CLIP_EVERY_M = 0.25
_BESIDE_M = 0.15
CLIP_EVERY_MOTORCYCLE_M = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class Sleeve:
    """One size of sleeve of the catalogue."""

    kind: str
    size_mm: float
    bundle_min_mm: float
    bundle_max_mm: float
    temperature_max_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LoomWire:
    """One wire in a leg."""

    label: str
    circuit_id: str
    circuit_name: str
    colour: str
    size: str
    diameter_mm: float
    is_loaded: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Loom:
    """One leg with what runs in it."""

    leg: LoomLeg
    length_m: float
    ambient_c: float
    wires: tuple[LoomWire, ...]
    loaded_conductors: int
    bundle_mm: float
    sleeve: Sleeve | None
    clips: int
    hole_fill_ratio: float | None

    @property
    def hole_is_too_full(self) -> bool:
        """Whether the wires take more of the hole than they may."""
        return self.hole_fill_ratio is not None and self.hole_fill_ratio > HOLE_FILL_MOST_RATIO


@dataclass(frozen=True, slots=True, kw_only=True)
class EarthLoad:
    """An earth point with the circuits that return there."""

    point_id: str
    name: str
    circuits: tuple[str, ...]
    current_a: float


def looms(design: Design, catalogue: Catalogue) -> tuple[Loom, ...]:
    """Return every leg of the layout with its wires, in the layout's order."""
    layout = design.job.layout
    if layout is None:
        return ()
    network = LoomNetwork(layout, catalogue)
    members = _members(design)
    motorcycle = not design.job.vehicle.has_cabin
    return tuple(
        _loom(leg, network, members.get(leg.id, []), design, catalogue, motorcycle=motorcycle)
        for leg in layout.legs
    )


def earth_loads(design: Design) -> tuple[EarthLoad, ...]:
    """Return the earth points that are used, with the current that meets there."""
    layout = design.job.layout
    if layout is None:
        return ()
    at: dict[str, list[tuple[str, float]]] = {}
    for circuit in design.circuits:
        route = design.routes.get(circuit.circuit.id)
        for branch_id, way in route.branches.items() if route is not None else ():
            sized = circuit.sizing.branches.get(branch_id)
            if way.back is not None and sized is not None:
                at.setdefault(way.back.points[-1], []).append(
                    (circuit.circuit.name, sized.stretch.returns_a)
                )
        if route is not None and route.back is not None and circuit.circuit.back.on_body:
            at.setdefault(route.back.points[-1], []).append(
                (circuit.circuit.name, circuit.sizing.request.returns_a)
            )
    return tuple(
        EarthLoad(
            point_id=point.id,
            name=point.name,
            circuits=tuple(dict.fromkeys(name for name, _ in at[point.id])),
            current_a=sum(a for _, a in at[point.id]),
        )
        for point in layout.points
        if point.id in at
    )


def choose_sleeve(bundle_mm: float, ambient_c: float) -> Sleeve | None:
    """Return the smallest sleeve that takes the bundle and bears the zone; glass where hot."""
    wanted = "glass sleeve" if ambient_c >= HOT_ZONE_C else "split tube"
    for sleeve in sleeves():
        if sleeve.kind == wanted and sleeve.bundle_min_mm <= bundle_mm <= sleeve.bundle_max_mm:
            return sleeve
    return None


@lru_cache(maxsize=1)
def sleeves() -> tuple[Sleeve, ...]:
    """Return the table of sleeves, small to large within a kind."""
    path = files("ready_trail").joinpath("data", "tables", "sleeves.csv")
    with path.open(encoding="utf-8") as lines:
        return tuple(
            Sleeve(
                kind=row["kind"],
                size_mm=float(row["size_mm"]),
                bundle_min_mm=float(row["bundle_min_mm"]),
                bundle_max_mm=float(row["bundle_max_mm"]),
                temperature_max_c=float(row["temperature_max_c"]),
            )
            for row in csv.DictReader(lines)
        )


def _members(design: Design) -> dict[str, list[LoomWire]]:
    """Which wires run in which leg: power outward, return or stub back, control wires.

    Ahead of the relay runs its supply, behind it the switched wire. Control wires carry a coil's
    fraction of an ampere: they fill the sleeve, but are not loaded.
    """
    members: dict[str, list[LoomWire]] = {}

    def lay(legs: tuple[str, ...], wire: Wire | None, owner: Circuit, *, light: bool) -> None:
        for leg in dict.fromkeys(legs) if wire is not None else ():
            found = members.setdefault(leg, [])
            if wire is not None and all(w.label != wire.label for w in found):
                found.append(_loom_wire(wire, owner, light=light))

    for circuit in design.circuits:
        route = design.routes.get(circuit.circuit.id)
        if route is None or route.out is None or circuit.planned.parts is None:
            continue
        stated = circuit.circuit
        light = stated.id in design.lightly_loaded
        behind = []  # legs of the run behind a joint that sits on a device
        for leg, wire in _along(circuit, route.out):
            lay((leg,), wire, stated, light=light)
            behind += [leg] if wire is None else []
        lay(route.back.legs if route.back else (), circuit.wire_on("return"), stated, light=light)
        for branch_id, way in route.branches.items():
            own = [w for w in circuit.wires if w.branch == branch_id]
            power = next((w for w in own if w.role == "power"), None)
            back = next((w for w in own if w.role == "return"), None)
            first = next((not b.behind for b in stated.branches if b.id == branch_id), False)
            lay((*(behind if first else ()), *way.out.legs), power, stated, light=light)
            back_legs = way.back.legs if way.back is not None else way.out.legs
            lay(back_legs, back, stated, light=light)
        feeds, controls = _control_wires(design, circuit)
        for feed in feeds:
            lay(route.feed.legs if route.feed else (), feed, stated, light=True)
        for control in controls:
            lay(route.control.legs if route.control else (), control, stated, light=True)
    return members


def _along(circuit: CircuitDesign, way: Way) -> list[tuple[str, Wire | None]]:
    """The power wire that lies in each leg of the outward way, by the distance from the start."""
    power = [w for w in circuit.wires if w.role in ("feed", "power") and not w.branch]
    ends: list[float] = []
    for wire in power:
        ends.append((ends[-1] if ends else 0.0) + wire.length_m)
    run_m = sum(s.length_m for s in circuit.circuit.run)
    scale = run_m / sum(way.leg_m) if sum(way.leg_m) else 1.0
    found: list[tuple[str, Wire | None]] = []
    at_m = 0.0
    for leg_id, length_m in zip(way.legs, way.leg_m, strict=True):
        middle_m = at_m + length_m * scale / 2
        covers = (w for w, end in zip(power, ends, strict=True) if middle_m <= end + 1e-6)
        last = power[-1] if power and not _joins_at_device(circuit) else None
        found.append((leg_id, next(covers, last)))
        at_m += length_m * scale
    return found


def _joins_at_device(circuit: CircuitDesign) -> bool:
    stated = circuit.circuit
    return bool(stated.branches) and stated.joint in AT_DEVICE


def _control_wires(
    design: Design, circuit: CircuitDesign
) -> tuple[tuple[Wire, ...], tuple[Wire, ...]]:
    """The wires that bring the switch its feed, and those that go on to the coil."""
    relay = circuit.relay_device
    own = [w for w in circuit.wires if w.role == "control"]
    far = [w for w in own if w.length_m > _BESIDE_M]  # neither taps nor jumpers
    to_coil = tuple(
        w for w in far if relay is not None and relay.ref in (w.start.device, w.end.device)
    )
    feeds = [w for w in far if w not in to_coil]
    for owner in circuit.planned.parts.needs if circuit.planned.parts is not None else ():
        shared = design.shared.get(owner)
        if shared is not None:
            feeds += [w for w in shared.wires if w.role == "control"][-1:]
    return tuple(feeds), to_coil


def _loom_wire(wire: Wire, circuit: Circuit, *, light: bool) -> LoomWire:
    return LoomWire(
        label=wire.label,
        circuit_id=circuit.id,
        circuit_name=circuit.name,
        colour=wire.colour,
        size=wire.conductor.label,
        diameter_mm=wire.conductor.outside_diameter_mm,
        is_loaded=not light,
    )


def _loom(
    leg: LoomLeg,
    network: LoomNetwork,
    wires: list[LoomWire],
    design: Design,
    catalogue: Catalogue,
    *,
    motorcycle: bool,
) -> Loom:
    ambient_c = catalogue.zones[leg.zone].ambient_c
    length_m = network.length_m(leg.id)
    squares = sum(w.diameter_mm**2 for w in wires)
    bundle_mm = bundle_diameter_mm(tuple(w.diameter_mm for w in wires))
    every_m = CLIP_EVERY_MOTORCYCLE_M if motorcycle else CLIP_EVERY_M
    fill = None
    if leg.hole is not None and wires:
        already = leg.hole.already_mm2 * 4 / math.pi  # area to squared diameters
        fill = (squares + already) / leg.hole.diameter_mm**2
    return Loom(
        leg=leg,
        length_m=length_m,
        ambient_c=ambient_c,
        wires=tuple(wires),
        loaded_conductors=round(design.loaded.get(leg.id, 0)),
        bundle_mm=bundle_mm,
        sleeve=choose_sleeve(bundle_mm, ambient_c) if wires else None,
        clips=math.ceil(length_m / every_m) if wires else 0,
        hole_fill_ratio=fill,
    )
