"""Review of the routes: no way, no earth, a hole that is too full, too hot a leg.

This area looks at the whole job, after every circuit has its wires.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import ChangeLeg, PlaceCircuit
from ready_trail.core.looms import HOLE_FILL_MOST_RATIO, Loom, looms
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding

AREA = "routing"
_COMMON_HOLES_MM = (10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0)


def review_routing(design: Design, catalogue: Catalogue) -> Design:
    """Return the design with the findings of this area added to its circuits."""
    if not design.routes:
        return design
    by_leg = {loom.leg.id: loom for loom in looms(design, catalogue)}
    circuits = []
    for circuit in design.circuits:
        reasons = {(a.code, a.place): a.reason for a in circuit.circuit.accepted}
        found = [
            replace(f, accepted_reason=reasons.get((f.code, f.place), ""))
            for f in (
                *_check_way(design, circuit),
                *_check_control_way(design, circuit),
                *_check_holes(design, circuit, by_leg),
            )
        ]
        circuits.append(
            replace(circuit, findings=(*found, *circuit.findings)) if found else circuit
        )
    return replace(design, circuits=tuple(circuits))


def without_routing(circuit: CircuitDesign) -> CircuitDesign:
    """Return a circuit as it was before this area looked at it."""
    kept = tuple(f for f in circuit.findings if f.area != AREA)
    return circuit if len(kept) == len(circuit.findings) else replace(circuit, findings=kept)


def _check_way(design: Design, circuit: CircuitDesign) -> Iterator[Finding]:
    route = design.routes.get(circuit.circuit.id)
    if route is None or not route.problem:
        return
    edit = PlaceCircuit(circuit_id=circuit.circuit.id, place=None)
    yield Finding(
        code="no_way", area=AREA, place=f"C{circuit.circuit.number}", severity="stop",
        text=f"On the layout, {route.problem}.",
        why="Until there is a way, its typed run is used.",
        actions=(Action(label="Type this run instead", edit=edit),),
    )  # fmt: skip


def _check_control_way(design: Design, circuit: CircuitDesign) -> Iterator[Finding]:
    place, route = circuit.circuit.place, design.routes.get(circuit.circuit.id)
    if place is None or place.control is None or route is None or route.control:
        return
    typed = place.model_copy(update={"control": None})
    yield Finding(
        code="no_control_way", area=AREA, place=f"C{circuit.circuit.number}", severity="caution",
        text="On the layout, no allowed way leads to the switch or signal; add or allow a leg.",
        why="Until there is a way, its control wire keeps the typed length.",
        actions=(Action(label="Type this length instead",
                        edit=PlaceCircuit(circuit_id=circuit.circuit.id, place=typed)),),
    )  # fmt: skip


def _check_holes(
    design: Design, circuit: CircuitDesign, by_leg: dict[str, Loom]
) -> Iterator[Finding]:
    route = design.routes.get(circuit.circuit.id)
    for leg_id in dict.fromkeys(route.out.legs) if route and route.out else ():
        loom = by_leg[leg_id]
        hole = loom.leg.hole
        if hole is None or loom.hole_fill_ratio is None or not loom.hole_is_too_full:
            continue
        least_mm = hole.diameter_mm * (loom.hole_fill_ratio / HOLE_FILL_MOST_RATIO) ** 0.5
        larger_mm = next((d for d in _COMMON_HOLES_MM if d >= least_mm), None)
        actions: tuple[Action, ...] = ()
        if larger_mm is not None:
            bored = hole.model_copy(update={"diameter_mm": larger_mm})
            edit = ChangeLeg(leg_id=leg_id, taped_m=loom.leg.taped_m, rule=loom.leg.rule,
                             zone=loom.leg.zone, hole=bored)  # fmt: skip
            actions = (Action(label=f"Make the hole {larger_mm:g} mm", edit=edit),)
        yield Finding(
            code="hole_full", area=AREA, place=hole.panel, severity="stop",
            text=f"The wires fill too much of the hole in {hole.panel}.",
            why="Squeezed wires chafe and cannot shed their heat.",
            found=f"{loom.hole_fill_ratio * 100:.0f} %",
            allowed=f"{HOLE_FILL_MOST_RATIO * 100:.0f} % of {hole.diameter_mm:g} mm",
            actions=actions,
        )  # fmt: skip
