"""What was picked on the drawing: its words, where else it is, what can break in it."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.fault_list import NamedFault, single_faults
from ready_trail.core.kinds.base import node_of
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.outcome import Design, Finding
from ready_trail.drawing.band import split_colour
from ready_trail.drawing.lane import draw_pins
from ready_trail.drawing.scene import Pin
from ready_trail.drawing.words import metres

Link = tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """One place of a panel's front: what is printed there, and the switch that sits in it."""

    name: str
    legend: str
    ref: str
    switch: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Picked:
    """One wire or device: facts, links into the job, faults, terminals for the probes."""

    ref: str
    kicker: str
    heading: str
    facts: tuple[tuple[str, str], ...]
    links: tuple[Link, ...]
    faults: tuple[NamedFault, ...]
    ends: tuple[tuple[str, str], ...]
    is_wire: bool
    pins: tuple[Pin, ...] = ()
    front: tuple[Place, ...] = ()
    """Of a panel: its places as they are laid out."""
    findings: tuple[Finding, ...] = ()
    base: str = ""
    tracer: str = ""


def picked_of(design: Design, ref: str, catalogue: Catalogue) -> Picked | None:
    """Return what is known of a wire or device; None where the job has none of that name."""
    installed = design.installation
    faults = tuple(f for f in single_faults(design) if f.subject == ref)
    wire = installed.wires.get(ref)
    if wire is not None:
        base, tracer = split_colour(wire.colour)
        zones = dict.fromkeys(
            catalogue.zones[p.zone].label for p in wire.pieces if p.zone in catalogue.zones
        )
        facts = [
            ("Size", wire.conductor.label),
            ("Colour", wire.colour),
            ("Length", metres(wire.length_m)),
            ("Cut", metres(wire.cut_length_m)),
        ]
        if zones:
            facts.append(("Runs through", ", ".join(zones)))
        return Picked(
            ref=ref,
            kicker=f"{ref} · {wire.role.replace('_', ' ')}",
            heading=f"{installed.words(wire.start)} to {installed.words(wire.end)}",
            facts=tuple(facts),
            links=_links(design, wire.owner, ref),
            faults=faults,
            ends=((str(wire.start), wire.start.node), (str(wire.end), wire.end.node)),
            is_wire=True,
            base=base,
            tracer=tracer,
            findings=_found(design, ref),
        )
    device = installed.devices.get(ref)
    if device is None:
        return None
    facts = [("What", device.label)] if device.label != device.title else []
    if device.detail:
        facts.append(("Is", device.detail))
    if device.zone in catalogue.zones:
        facts.append(("Sits in", catalogue.zones[device.zone].label))
    own = next((c for c in design.circuits if c.circuit.id == device.owner), None)
    return Picked(
        ref=ref,
        kicker=f"{ref} · {device.kind.replace('_', ' ')}",
        heading=device.title,
        facts=tuple(facts),
        links=_links(design, device.owner, ref),
        faults=faults,
        ends=tuple((f"{ref} {t}", node_of(ref, t)) for t in device.terminals),
        is_wire=False,
        pins=draw_pins(own) if own is not None and device.spec.is_relay else (),
        front=_front(design, ref),
        findings=_found(design, ref),
    )


def _found(design: Design, ref: str) -> tuple[Finding, ...]:
    """Open stops and cautions that sit there."""
    return tuple(
        f
        for c in design.circuits
        for f in c.findings
        if f.place == ref and f.is_open and f.severity != "note"
    )


def _front(design: Design, ref: str) -> tuple[Place, ...]:
    """A panel as one sees it, place by place."""
    view = next((v for v in design.points.values() if v.ref == ref), None)
    if view is None or not view.point.is_a.has_legends:
        return ()
    sits = {s.position: s for s in design.job.switches if s.panel == view.point.id}
    found = []
    for position in view.point.positions:
        switch = sits.get(position.name)
        found.append(
            Place(
                name=position.name,
                legend=position.legend,
                ref=f"S{switch.number}" if switch is not None else "",
                switch=switch.name if switch is not None else "",
            )
        )
    return tuple(found)


def _links(design: Design, owner: str, ref: str) -> tuple[Link, ...]:
    """Ways from the drawing to the same thing elsewhere, relative to the job's address."""
    found: list[Link] = []
    device = design.installation.devices.get(ref)
    circuit = next((c for c in design.circuits if c.circuit.id == owner), None)
    if circuit is None:  # what several share: the first circuit that needs it
        circuit = next(
            (
                c
                for c in design.circuits
                if c.planned.parts is not None and owner in c.planned.parts.needs
            ),
            None,
        )
    if circuit is not None:
        found.append((f"/circuits/{circuit.circuit.id}?at={ref}", "On its trail sheet"))
    if device is not None and isinstance(device.spec, PointSpec):
        point = next((p for p, v in design.points.items() if v.ref == ref), "")
        found.append((f"/supply?point={point}#point", "In the supply"))
    if circuit is not None and device is not None and device.spec.is_load:
        accessory = circuit.accessories[0].id if circuit.accessories else ""
        if accessory:
            found.append((f"/accessories/{accessory}", "The accessory"))
    place = circuit.circuit.place if circuit is not None else None
    if place is not None and design.job.layout is not None:
        kind = device.kind if device is not None else ""
        spots = {"relay": place.switching, "load": place.load, "earth": place.earth}
        spot = spots.get(kind)
        found.append((f"/layout?point={spot}" if spot else "/layout", "On the plan"))
    return tuple(found)
