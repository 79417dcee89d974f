"""What follows for each leg: its wires, bundle, sleeve, clips and how full its hole is."""

from __future__ import annotations

import csv
import math
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job.document import Circuit
from ready_trail.core.job.layout import LoomLeg
from ready_trail.core.layout.network import HOT_ZONE_C, LoomNetwork
from ready_trail.core.layout.packing import bundle_diameter_mm
from ready_trail.core.outcome import Design
from ready_trail.core.wiring import Wire

HOLE_FILL_MOST_RATIO = 0.60
CLIP_EVERY_M = 0.25
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
    motorcycle = design.job.vehicle.kind == "motorcycle"
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
        if route is not None and route.back is not None and circuit.circuit.back.kind == "chassis":
            at.setdefault(route.back.points[-1], []).append(
                (circuit.circuit.name, circuit.current_a)
            )
    return tuple(
        EarthLoad(
            point_id=point.id,
            name=point.name,
            circuits=tuple(name for name, _ in at[point.id]),
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

    Control wires carry a coil's fraction of an ampere: they fill the sleeve, but are not loaded.
    """
    members: dict[str, list[LoomWire]] = {}
    for circuit in design.circuits:
        route = design.routes.get(circuit.circuit.id)
        if route is None or route.out is None or circuit.wiring is None:
            continue
        own = [w for w in circuit.wiring.wires if w.label.startswith("C")]
        power = [w for w in own if w.role == "power"]
        back = [w for w in own if w.role == "return"]
        control = [w for w in own if w.role == "control"]
        light = circuit.circuit.id in design.lightly_loaded
        ways = [(route.out, power[-1:], light), (route.back, back[-1:], light)]
        for led, wire in zip(route.control, control[-len(route.control) :], strict=False):
            ways.append((led, [wire], True))
        for way, wires, lightly in ways:
            for leg in dict.fromkeys(way.legs if way else ()):
                members.setdefault(leg, []).extend(
                    _loom_wire(w, circuit.circuit, light=lightly) for w in wires
                )
    return members


def _loom_wire(wire: Wire, circuit: Circuit, *, light: bool) -> LoomWire:
    return LoomWire(
        label=wire.label, circuit_id=circuit.id, circuit_name=circuit.name, colour=wire.colour,
        size=wire.conductor.label, diameter_mm=wire.conductor.outside_diameter_mm,
        is_loaded=not light,
    )  # fmt: skip


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
        loaded_conductors=design.loaded.get(leg.id, 0),
        bundle_mm=bundle_mm,
        sleeve=choose_sleeve(bundle_mm, ambient_c) if wires else None,
        clips=math.ceil(length_m / every_m) if wires else 0,
        hole_fill_ratio=fill,
    )
