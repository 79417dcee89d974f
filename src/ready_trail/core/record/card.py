"""The glove-box card: what each fuse feeds, where things are, and what to check first."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ready_trail.core.build.bill import Line
from ready_trail.core.build.cuts import owner_name
from ready_trail.core.build.sites import Sites
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.kinds.around import FUSES, RELAYS
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design, Planned
from ready_trail.core.prove.faults_table import fault_kinds

CAUSES_MOST = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class CardRow:
    """A fuse: where it sits, its rating with its colour, and what it feeds."""

    at: str
    rating: str
    colour: str
    feeds: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """Everything on the card. ``checks`` tells of each circuit what to look at first when its
    accessory does not work.
    """

    blocks: tuple[tuple[str, tuple[CardRow, ...]], ...]
    relays: tuple[tuple[str, str, str], ...]
    isolators: tuple[tuple[str, str], ...]
    spares: tuple[str, ...]
    checks: tuple[tuple[str, tuple[str, ...]], ...]


def card_of(made: Design, parts: Sequence[Line], catalogue: Catalogue) -> Card:
    """Return the card of a job."""
    sites = Sites(made, catalogue)
    refs = {made.plan.refs[p.id]: p for p in made.job.points}
    by_place: dict[str, list[CardRow]] = {}
    relays, isolators = [], []
    for device in made.installation.devices.values():
        planned = made.plan.circuits.get(device.owner)
        name = planned.circuit.name if planned is not None else owner_name(device.owner, made)
        spec = device.spec
        if isinstance(spec, FuseSpec):
            start = planned.circuit.start if planned is not None else None
            point = next((p for p in made.job.points if start and p.id == start.point), None)
            inside = spec.on_bus and point is not None
            place = point.name if inside and point is not None else sites.of(device.ref).name
            at = (start.position if inside and start is not None else "") or device.ref
            colour = spec.family.colours.get(spec.rating_a, "")
            coil = f"{name}, coil" if spec.is_control and planned is not None else name
            rating = f"{spec.rating_a:g} A"
            by_place.setdefault(place, []).append(
                CardRow(at=at, rating=rating, colour=colour, feeds=coil)
            )
        elif spec.is_relay:
            relays.append((device.ref, name, sites.of(device.ref).name))
        elif spec.is_isolator or (device.ref in refs and refs[device.ref].is_a.parts_battery):
            isolators.append((device.title, sites.of(device.ref).name))
    spares = [
        f"{line.spare:g} × {line.label}"
        for line in parts
        if line.group in (FUSES, RELAYS) and line.spare
    ]
    return Card(
        blocks=tuple(
            (place, tuple(sorted(rows, key=lambda r: _natural(r.at))))
            for place, rows in by_place.items()
        ),
        relays=tuple(relays),
        isolators=tuple(isolators),
        spares=tuple(spares),
        checks=tuple(
            (c.circuit.name, tuple(_checks(c.planned, sites)))
            for c in made.circuits
            if not c.circuit.is_feeder and c.planned.parts is not None
        ),
    )


def _natural(at: str) -> tuple[object, ...]:
    """Positions in the order in which they are counted."""
    return tuple(
        (0, int(part), "") if part.isdigit() else (1, 0, part)
        for part in re.split(r"(\d+)", at)
        if part
    )


def _checks(planned: Planned, sites: Sites) -> Iterator[str]:
    """What to look at first: an earth, the fuse, the relay, what fails most often first."""
    devices = planned.parts.devices if planned.parts is not None else ()
    weights = {kind.kind: kind.weight for kind in fault_kinds().values()}
    found: dict[str, tuple[float, str]] = {}
    for device in devices:
        spec, place = device.spec, f"{device.ref}, {sites.of(device.ref).name}"
        if spec.is_earth:
            words = f"Earth {place}: bare, tight? Read it to body, switched on"
            found.setdefault("earth", (weights["rusty"], words))
        elif isinstance(spec, FuseSpec) and not spec.is_control:
            words = f"Fuse {place}: pull it and look; find why before a new one"
            found.setdefault("fuse", (weights["blown"], words))
        elif spec.is_relay:
            words = f"Relay {place}: does it click? Swap it with an equal one"
            found.setdefault("relay", (weights["dead"], words))
    yield from (words for _, words in sorted(found.values(), key=lambda x: -x[0])[:CAUSES_MOST])
