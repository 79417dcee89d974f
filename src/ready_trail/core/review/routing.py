"""Review of the routes: no way, no earth, a long stub, a hole that is too full.

This area looks at the whole job, after every circuit has its wires.
"""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import ChangeLeg, PlaceCircuit, SetReturn
from ready_trail.core.looms import HOLE_FILL_MOST_RATIO, Loom, looms
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding
from ready_trail.core.review.base import WholeCheck

AREA = "routing"
STUB_MOST_M = 2.0
"""Beyond this an earth stub costs more than a point of its own, or a return wire (house)."""

_COMMON_HOLES_MM = (10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0)


def whole_routes(made: Design, catalogue: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Ways, earth stubs and holes of everything that is placed on the layout."""
    if not made.routes:
        return
    by_leg = {loom.leg.id: loom for loom in looms(made, catalogue)}
    for circuit in made.circuits:
        for check in (_check_way, _check_control_way, _check_stub):
            for finding in check(made, circuit):
                yield circuit.circuit.id, finding
        for finding in _check_holes(made, circuit, by_leg):
            yield circuit.circuit.id, finding


def _check_way(design: Design, circuit: CircuitDesign) -> Iterator[Finding]:
    route = design.routes.get(circuit.circuit.id)
    if route is None or not route.problem:
        return
    edit = PlaceCircuit(circuit_id=circuit.circuit.id, place=None)
    actions = (
        () if circuit.circuit.is_feeder else (Action(label="Type this run instead", edit=edit),)
    )
    yield Finding(
        code="no_way",
        area=AREA,
        place=f"C{circuit.circuit.number}",
        severity="stop",
        text=f"On the layout, {route.problem}.",
        why="Until there is a way, its typed run is used.",
        actions=actions,
    )


def _check_control_way(design: Design, circuit: CircuitDesign) -> Iterator[Finding]:
    route = design.routes.get(circuit.circuit.id)
    if route is None or not route.control_problem:
        return
    yield Finding(
        code="no_control_way",
        area=AREA,
        place=f"C{circuit.circuit.number}",
        severity="caution",
        text=f"On the layout, {route.control_problem}; add or allow a leg.",
        why="Until there is a way, its control wire keeps the typed length.",
    )


def _check_stub(design: Design, circuit: CircuitDesign) -> Iterator[Finding]:
    stated = circuit.circuit
    if not stated.back.on_body or not any(w.role == "return" for w in circuit.wires):
        return
    route = design.routes.get(stated.id)
    if route is None or route.back is None or stated.back.stub_m <= STUB_MOST_M:
        return
    actions: list[Action] = []
    nearest = route.nearest_earth
    place = next((c.place for c in design.job.circuits if c.id == stated.id), None)
    if nearest is not None and place is not None and nearest.length_m < route.back.length_m - 0.05:
        freed = place.model_copy(update={"earth": None})
        actions.append(
            Action(
                label=f"Earth it at the nearest point, {nearest.length_m:.2f} m away",
                edit=PlaceCircuit(circuit_id=stated.id, place=freed),
            )
        )
    actions.append(
        Action(
            label="Run a return wire instead",
            edit=SetReturn.turned(design.job, stated.id, "wire"),
        )
    )
    yield Finding(
        code="long_stub",
        area=AREA,
        place=f"G{stated.number}",
        severity="caution",
        text="The earth point is far from the accessory.",
        why="A long stub costs copper and volts; add an earth point near it, or run a return.",
        found=f"{stated.back.stub_m:.2f} m",
        allowed=f"{STUB_MOST_M:g} m",
        actions=tuple(actions),
    )


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
            edit = ChangeLeg(
                leg_id=leg_id,
                taped_m=loom.leg.taped_m,
                rule=loom.leg.rule,
                heat_sleeve=loom.leg.heat_sleeve,
                zone=loom.leg.zone,
                hole=bored,
            )
            actions = (Action(label=f"Make the hole {larger_mm:g} mm", edit=edit),)
        yield Finding(
            code="hole_full",
            area=AREA,
            place=hole.panel,
            severity="stop",
            text=f"The wires fill too much of the hole in {hole.panel}.",
            why="Squeezed wires chafe and cannot shed their heat.",
            found=f"{loom.hole_fill_ratio * 100:.0f} %",
            allowed=f"{HOLE_FILL_MOST_RATIO * 100:.0f} % of {hole.diameter_mm:g} mm",
            actions=actions,
        )


WHOLE: tuple[WholeCheck, ...] = (whole_routes,)
