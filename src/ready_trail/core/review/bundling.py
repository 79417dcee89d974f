"""Review of typed runs: wires of one point through one zone that are stated to lie alone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import LIGHTLY_LOADED_RATIO, ambient_ratio, bundle_ratio
from ready_trail.core.edits import CountInLoom
from ready_trail.core.edits.looms import LOADED_MOST
from ready_trail.core.job import Segment
from ready_trail.core.job.zones import zone_ambient_c
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding
from ready_trail.core.review.base import WholeCheck, main_wire
from ready_trail.core.supply.apart import most_together, pairs_apart
from ready_trail.core.wording import lower_first

ALONE = 1
"""What a segment counts until somebody says how many wires lie there."""

_SHORT_M = 0.3
"""So short a stretch is a device's own tail, not a loom (house). [m]"""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Loom:
    """Circuits of one starting point whose typed runs pass one zone, and how many loaded wires."""

    zone: str
    circuits: tuple[CircuitDesign, ...]
    loaded: int


def whole_alone(made: Design, catalogue: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Wires that pass a zone together bear less: counted so, each still bears its fuse."""
    for loom in _looms(made):
        thin = [c for c in loom.circuits if not _bears(c, loom, catalogue)]
        if thin:
            hot = [c for c in thin if _runs_hot(c, loom, catalogue)]
            worst = max(hot or thin, key=lambda c: _over(c, loom, catalogue))
            yield worst.circuit.id, _finding(worst, loom, catalogue, is_hot=bool(hot))


def _finding(circuit: CircuitDesign, loom: _Loom, catalogue: Catalogue, *, is_hot: bool) -> Finding:
    chosen, fuse = circuit.sizing.chosen, circuit.sizing.fuse
    assert chosen is not None
    assert fuse is not None
    where = lower_first(catalogue.zones[loom.zone].label)
    count = CountInLoom(
        zone=loom.zone,
        circuit_ids=tuple(c.circuit.id for c in loom.circuits),
        loaded_conductors=min(loom.loaded, LOADED_MOST),
    )
    return Finding(
        code="laid_alone",
        area="wire",
        place=main_wire(circuit),
        severity="caution" if is_hot else "note",
        text=f"{loom.loaded} loaded wires pass {where}, and each is stated to lie alone.",
        why="In one loom they heat each other, and the fuse lets more through than the wire bears "
        "there. Count them, unless they lie apart.",
        found=f"{_ampacity_a(circuit, loom, catalogue):.1f} A in a loom",
        allowed=f"{fuse.rating_a:g} A, its fuse, or more",
        actions=(Action(label="Count them as one loom", edit=count, alters=("fuse",)),),
    )


def _looms(made: Design) -> Iterator[_Loom]:
    """Where so many loaded wires pass that they bear less, and some are stated to lie alone."""
    apart = pairs_apart(made.job)
    passing: dict[tuple[str, str], list[CircuitDesign]] = {}
    for circuit in made.circuits:
        if circuit.circuit.id in made.routes or not _is_loaded(circuit):
            continue
        for zone in dict.fromkeys(s.zone for s in circuit.circuit.run if s.length_m >= _SHORT_M):
            passing.setdefault((circuit.circuit.start.point, zone), []).append(circuit)
    for (_, zone), circuits in passing.items():
        wires = [(c.circuit.id, 1.0 + (not c.circuit.back.on_body)) for c in circuits]
        loaded = int(most_together(wires, apart))
        alone = tuple(c for c in circuits if any(_is_alone(s, zone) for s in c.circuit.run))
        if len(circuits) > 1 and bundle_ratio(loaded) < 1.0 and alone:
            yield _Loom(zone=zone, circuits=alone, loaded=loaded)


def _is_alone(segment: Segment, zone: str) -> bool:
    return segment.zone == zone and segment.loaded_conductors == ALONE


def _is_loaded(circuit: CircuitDesign) -> bool:
    """Whether a circuit's wire heats its neighbours."""
    chosen = circuit.sizing.chosen
    if chosen is None or circuit.sizing.fuse is None:
        return False
    amps = circuit.sizing.request.current_a
    return amps > LIGHTLY_LOADED_RATIO * chosen.single_ampacity_a


def _bears(circuit: CircuitDesign, loom: _Loom, catalogue: Catalogue) -> bool:
    """Whether a circuit's wire still bears its fuse, or its pull, counted in the loom."""
    request, fuse = circuit.sizing.request, circuit.sizing.fuse
    if fuse is None:
        return True
    return request.rule.carries(request, fuse, _ampacity_a(circuit, loom, catalogue))


def _runs_hot(circuit: CircuitDesign, loom: _Loom, catalogue: Catalogue) -> bool:
    """Whether what the circuit carries for long is more than its wire bears in the loom."""
    if any(a.duty != "continuous" for a in circuit.accessories):
        return False
    return circuit.sizing.request.current_a > _ampacity_a(circuit, loom, catalogue)


def _over(circuit: CircuitDesign, loom: _Loom, catalogue: Catalogue) -> float:
    """How much more the fuse lets through than the wire bears in the loom. [ratio]"""
    fuse, bears_a = circuit.sizing.fuse, _ampacity_a(circuit, loom, catalogue)
    return fuse.rating_a / bears_a if fuse is not None and bears_a > 0 else 0.0


def _ampacity_a(circuit: CircuitDesign, loom: _Loom, catalogue: Catalogue) -> float:
    """What a circuit's wire bears with the loom's wires beside it. [A]"""
    chosen = circuit.sizing.chosen
    if chosen is None:
        return 0.0
    class_c = circuit.sizing.request.wire.insulation_c
    ambients = [zone_ambient_c(s, catalogue) for s in circuit.circuit.run]
    hottest = ambient_ratio(insulation_c=class_c, ambient_c=max(ambients))
    if hottest <= 0.0:
        return chosen.ampacity_a  # that it may not lie there at all is told elsewhere
    table_a = chosen.single_ampacity_a / hottest
    beside = [
        ambient_ratio(insulation_c=class_c, ambient_c=zone_ambient_c(s, catalogue))
        * bundle_ratio(loom.loaded)
        for s in circuit.circuit.run
        if _is_alone(s, loom.zone)
    ]
    return min(chosen.ampacity_a, table_a * min(beside, default=1.0))


WHOLE: tuple[WholeCheck, ...] = (whole_alone,)
