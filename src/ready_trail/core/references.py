"""Names in a job that must stand in the catalogue: zones, relays, families, sizes, schemes."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import sold_as
from ready_trail.core.job.document import Job
from ready_trail.core.schemes import BY_KEY


def unknown_references(job: Job, catalogue: Catalogue) -> Iterator[tuple[str, str]]:
    """Yield ``(path, message)`` for each name that the catalogue does not have."""
    ratings = {r for f in catalogue.fuse_families.values() for r in f.ratings_a}
    for at, point in enumerate(job.points):
        yield from _zones(f"points.{at}", [point.zone], catalogue)
    for at, leg in enumerate(job.layout.legs if job.layout is not None else ()):
        if leg.zone not in catalogue.zones:
            yield f"layout.legs.{at}.zone", f"no zone {leg.zone!r}"
    for at, circuit in enumerate(job.circuits):
        path, held, kept = f"circuits.{at}", circuit.held, circuit.kept
        system = (kept and kept.system) or job.rules.system
        kind = (kept and kept.wire_kind) or job.rules.wire_kind
        sizes = {c.size for c in catalogue.cables(system, kind)}
        yield from _zones(f"{path}.run", [s.zone for s in circuit.run], catalogue)
        checks = (
            ("scheme", held.scheme, BY_KEY, "no scheme"),
            ("family", held.family, catalogue.fuse_families, "no fuse family"),
            ("relay", held.relay, catalogue.relays, "no relay"),
            ("size", held.size, sizes, f"no {system} size"),
        )
        for name, value, known, words in checks:
            if value is not None and value not in known:
                yield f"{path}.held.{name}", f"{words} {value!r} in the catalogue"
        if circuit.kit is not None:
            if circuit.kit.relay is not None and circuit.kit.relay not in catalogue.relays:
                yield f"{path}.kit.relay", f"no relay {circuit.kit.relay!r} in the catalogue"
            for number, lead in enumerate(circuit.kit.leads):
                kind = sold_as(lead.system, lead.wire_kind)
                if lead.size not in {c.size for c in catalogue.wires(lead.system, kind)}:
                    yield f"{path}.kit.leads.{number}.size", f"no {lead.system} size {lead.size!r}"
        if held.colour is not None:
            for code in held.colour.split("/"):
                if code not in catalogue.wire_colours:
                    yield f"{path}.held.colour", f"no wire colour {code!r}"
        if held.fuse_a is not None and held.fuse_a not in ratings:
            yield f"{path}.held.fuse_a", f"no fuse of {held.fuse_a:g} A in the catalogue"


def _zones(path: str, zones: list[str], catalogue: Catalogue) -> Iterator[tuple[str, str]]:
    for at, zone in enumerate(zones):
        if zone not in catalogue.zones:
            yield f"{path}.{at}.zone", f"no zone {zone!r}; known: {', '.join(catalogue.zones)}"
