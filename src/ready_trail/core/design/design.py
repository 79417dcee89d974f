"""``design(job, catalogue)``: the whole job as a pure, deterministic function."""

from __future__ import annotations

from ready_trail.core.budget import budget_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import LIGHTLY_LOADED_RATIO
from ready_trail.core.design.plan import plan_job
from ready_trail.core.design.solved import design_planned
from ready_trail.core.installation import Installation
from ready_trail.core.job import Job
from ready_trail.core.layout.routing import Routed, Ways, find_ways, route_job
from ready_trail.core.netlist import Network
from ready_trail.core.outcome import CircuitDesign, Design, Plan, Planned, PointDesign
from ready_trail.core.review import review_circuit, review_job

_ROUTING_ROUNDS = 4


def design(job: Job, catalogue: Catalogue) -> Design:
    """Return what follows from a job: same job and catalogue, same design.

    Raises TableError when the job names a zone, a size, a relay or a family that the catalogue
    does not have.

    Notes
    -----
    It is routed, planned, and routed again without the lightly loaded, until these stay the same.
    A wire that got thinner for want of neighbours may no longer be lightly loaded: such a circuit
    counts from then on, so the rounds end.
    """
    light: frozenset[str] = frozenset()
    barred: frozenset[str] = frozenset()
    in_path: frozenset[str] = frozenset()
    ways = find_ways(job, catalogue)

    def planned(now_light: frozenset[str]) -> tuple[Routed, Plan]:
        routed = route_job(ways, lightly_loaded=now_light, in_path=in_path)
        return routed, plan_job(routed.job, catalogue)

    routed, plan = planned(light)
    carrying = frozenset(i for i, p in plan.circuits.items() if _is_in_path(p, ways))
    if carrying:  # the load passes its hand switch: so do its wires
        in_path = carrying
        routed, plan = planned(light)
    for _ in range(_ROUTING_ROUNDS if routed.routes else 0):
        found = frozenset(i for i, p in plan.circuits.items() if i not in barred and _is_light(p))
        if found == light:
            break
        barred |= light - found
        light = found - barred
        routed, plan = planned(light)
    else:
        if routed.routes:  # not settled: let every wire count
            light = frozenset()
            routed, plan = planned(light)
    return _made(job, catalogue, routed, plan, light)


def what_if(
    routed: Job, circuit_id: str, catalogue: Catalogue, *, emf_v: float | None = None
) -> CircuitDesign:
    """Return one circuit as it would be in a changed job, with its own findings.

    ``routed`` is the routed job with the change; ``emf_v`` another supply. [V]
    """
    plan = plan_job(routed, catalogue)
    circuit = design_planned(plan, circuit_id, emf_v=emf_v)
    return review_circuit(circuit, plan, catalogue)


def job_network(made: Design) -> Network:
    """Return the netlist of the whole job, as far as it could be wired."""
    return made.installation.netlist(float(made.job.vehicle.nominal_v))


def _made(
    job: Job, catalogue: Catalogue, routed: Routed, plan: Plan, light: frozenset[str]
) -> Design:
    circuits = tuple(
        review_circuit(design_planned(plan, c.id), plan, catalogue) for c in routed.job.circuits
    )
    parts = list(plan.shared.values())
    parts += [c.planned.parts for c in circuits if c.planned.parts is not None]
    made = Design(
        job=job,
        routed=routed.job,
        circuits=circuits,
        points={p.id: _point(plan, p.id) for p in plan.job.points},
        shared=plan.shared,
        installation=Installation.of_parts(parts),
        routes=routed.routes,
        loaded=routed.loaded,
        lightly_loaded=light if routed.routes else frozenset(),
        budget=budget_of(job, plan.tree, plan.currents),
        plan=plan,
    )
    return review_job(made, catalogue)


def _is_in_path(planned: Planned, ways: Ways) -> bool:
    """Whether a hand switch that has a place of its own carries a circuit's load."""
    by_hand = planned.scheme.switch_role == "path" and bool(planned.use.switch)
    return by_hand and planned.circuit.id in ways.by_switch


def _is_light(planned: Planned) -> bool:
    chosen = planned.sizing.chosen
    if chosen is None:
        return False
    return planned.sizing.request.current_a <= LIGHTLY_LOADED_RATIO * chosen.single_ampacity_a


def _point(plan: Plan, point_id: str) -> PointDesign:
    point = plan.tree.points[point_id]
    feeder = plan.tree.feeders.get(point_id)
    worst, _ = plan.currents.worst(point)
    return PointDesign(
        point=point,
        ref=plan.refs[point_id],
        total_a=plan.currents.total_a(point),
        together_a=plan.currents.together_a(point),
        input_a=plan.currents.input_a(point),
        nominal_v=plan.tree.nominal_v(point_id),
        members=tuple(c.id for c in plan.tree.starting.get(point_id, ())),
        feeder_id=feeder.id if feeder is not None else None,
        is_fed=plan.tree.is_fed(point_id),
        worst=worst.name if worst is not None else "",
        possible_a=plan.currents.possible_a(point),
        by_scenario={s.id: plan.currents.scenario_a(point, s) for s in plan.job.scenarios},
    )
