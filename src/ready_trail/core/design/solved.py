"""Solving one circuit: its own part of the job, with everything ahead of it, in its working state.

The rest of the vehicle draws what runs together with it, as one current at each point on the
way, so that the profile agrees with what was sized.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.installation import Installation, Parts
from ready_trail.core.job import BATTERY, Circuit
from ready_trail.core.kinds.base import node_of
from ready_trail.core.kinds.point import BUS, EARTH
from ready_trail.core.loads import Load
from ready_trail.core.netlist import GROUND, Element, LoadElement, Network, Source
from ready_trail.core.outcome import CircuitDesign, OutletDesign, Plan, Planned
from ready_trail.core.profile import read_profile
from ready_trail.core.solver import solve
from ready_trail.core.working import beside, working_state


def design_planned(plan: Plan, circuit_id: str, *, emf_v: float | None = None) -> CircuitDesign:
    """Return one circuit's design, solved where it could be wired; without its findings.

    ``emf_v`` asks how it runs on another supply: its loads then draw what their models say at
    that voltage, instead of the design current. [V]
    """
    planned = plan.circuits[circuit_id]
    circuit = planned.circuit
    feeds = plan.tree.points.get(circuit.feeds or "")
    load_ref = plan.refs[circuit.feeds] if circuit.feeds else plan.refs[circuit.id]
    made = CircuitDesign(
        job=plan.job,
        planned=planned,
        feeds=feeds,
        load_ref=load_ref,
        ahead=plan.tree.parts_needed(circuit),
    )
    if planned.parts is None:
        return made
    owners = needed_owners(plan, circuit)
    every = [_parts(plan, owner) for owner in owners]
    installation = Installation.of_parts(p for p in every if p is not None)
    network = _with_rests(plan, installation, owners, planned)
    ends = outlet_ways(plan, planned)
    made = replace(
        made,
        installation=installation,
        network=network,
        out=ends[0].out,
        back=ends[0].back,
        outlets=ends,
    )
    fixed = emf_v is None
    state = working_state(plan, circuit, emf_v=emf_v)
    solved = at_design_currents(plan, network, owners) if fixed else network
    if feeds is not None and feeds.is_a.stores:
        charge_a = planned.current_a - plan.currents.total_a(feeds)
        solved = _charging(solved, load_ref, max(0.1, charge_a))
    try:
        point = solve(solved, state)
    except NotConvergedError as error:
        return replace(made, unsolved=str(error))
    root = root_nodes(plan, circuit)
    ends = tuple(
        replace(
            end, profile=read_profile(installation, made, end, point, root, at_design_current=fixed)
        )
        for end in ends
    )
    return choose_outlet(replace(made, operating=point, outlets=ends))


def choose_outlet(made: CircuitDesign, branch: str = "") -> CircuitDesign:
    """Return a design whose way and profile lead to one branch, or to the one that loses most of
    what it may. KeyError when there is no such branch.
    """
    ends = {end.outlet.branch: end for end in made.outlets}
    end = ends[branch] if branch else max(made.outlets, key=_used_share)
    return replace(made, out=end.out, back=end.back, profile=end.profile)


def _used_share(end: OutletDesign) -> float:
    lost_v = end.profile.conductor_drop_v if end.profile is not None else 0.0
    return lost_v / end.limit_v


def needed_owners(plan: Plan, circuit: Circuit) -> tuple[str, ...]:
    """Return every circuit, point and switch without which this one cannot be solved."""
    found: dict[str, None] = {"": None}
    queue = [circuit.id]
    while queue:
        owner = queue.pop(0)
        if owner in found:
            continue
        found[owner] = None
        parts = _parts(plan, owner)
        if parts is not None:
            queue += parts.needs
        planned = plan.circuits.get(owner)
        if planned is not None:
            start = planned.circuit.start.point
            queue += [start] if start != BATTERY else []
            queue += [planned.circuit.feeds] if planned.circuit.feeds else []
            queue += [c.id for c in beside(plan.job, planned.circuit)]
    return tuple(found)


def outlet_ways(plan: Plan, planned: Planned) -> tuple[OutletDesign, ...]:
    """Return each end of a circuit with the way to it from its source, through every point."""
    out, back = _ways(plan, planned)
    own = planned.parts
    limits = {b.stretch.id: b.stretch.drop_limit_v for b in planned.sizing.branches.values()}
    names = {b.id: b.name for b in planned.circuit.branches}
    if own is None or not own.ways:
        limit_v = planned.sizing.request.drop_limit_v
        end = OutletDesign(
            outlet=planned.outlets[0],
            name=planned.circuit.name,
            out=out,
            back=back,
            limit_v=limit_v,
        )
        return (end,)
    to_trunk = len(out) - len(own.out)
    after = back[len(own.back) :]
    by_branch = {o.branch: o for o in planned.outlets}
    return tuple(
        OutletDesign(
            outlet=by_branch[way.branch],
            name=names[way.branch],
            out=(*out[:to_trunk], *way.out),
            back=(*way.back, *after),
            limit_v=limits[way.branch],
        )
        for way in own.ways
    )


def _ways(plan: Plan, planned: Planned) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What the load current takes out and back, with branches as far as the trunk."""
    out: list[str] = []
    circuit = planned.circuit
    for feeder in plan.tree.chain(circuit):
        parts = plan.circuits[feeder.id].parts
        out += _passed(plan, feeder)
        out += parts.out if parts is not None else ()
    own = planned.parts
    out += _passed(plan, circuit)
    out += own.out if own is not None else ()
    back = list(own.back) if own is not None else []
    leader = plan.circuits.get(plan.job.leader(circuit).id)
    if leader is not None and leader.circuit.id != circuit.id and leader.parts is not None:
        back = list(leader.parts.back)
    if circuit.back.by_bus:
        for feeder in reversed(plan.tree.chain(circuit)):
            parts = plan.circuits[feeder.id].parts
            back += parts.back if parts is not None else ()
    return tuple(out), tuple(back)


def _passed(plan: Plan, circuit: Circuit) -> list[str]:
    """The point at which a circuit starts, unless that is itself the source."""
    point = plan.tree.points.get(circuit.start.point)
    return [plan.refs[point.id]] if point is not None and not point.starts_a_system else []


def root_nodes(plan: Plan, circuit: Circuit) -> tuple[str, str]:
    """Return the positive and negative node of the source of a circuit's system."""
    root = plan.tree.root(circuit)
    if root is None or root.fed_by_vehicle or not root.starts_a_system:
        return node_of("BAT", "+"), GROUND
    ref = plan.refs[root.id]
    return node_of(ref, BUS), node_of(ref, EARTH)


def at_design_currents(plan: Plan, network: Network, owners: Iterable[str]) -> Network:
    """Return the netlist with every circuit in it drawing its design current, whatever the
    voltage: the case that sizing takes.
    """
    fixed: dict[str, float] = {}
    for owner in owners:
        planned = plan.circuits.get(owner)
        for outlet in planned.outlets if planned is not None else ():
            fixed |= outlet.amps
    elements: list[Element] = []
    for element in network.elements:
        if isinstance(element, LoadElement) and element.name in fixed:
            load = Load(
                model="electronics",
                rated_a=fixed[element.name],
                rated_v=element.load.rated_v,
                cut_in_v=1.0,
            )
            element = replace(element, load=load)
        elements.append(element)
    return Network(nominal_v=network.nominal_v, elements=tuple(elements))


def _charging(network: Network, ref: str, charge_a: float) -> Network:
    """The netlist of a charging link: the far battery takes its charge, and gives nothing."""
    bus = node_of(ref, BUS)
    load = Load(model="electronics", rated_a=charge_a, rated_v=network.nominal_v, cut_in_v=1.0)
    elements = tuple(
        LoadElement(name=e.name, a=e.a, b=e.b, load=load)
        if isinstance(e, Source) and e.a == bus
        else e
        for e in network.elements
    )
    return Network(nominal_v=network.nominal_v, elements=elements)


def _parts(plan: Plan, owner: str) -> Parts | None:
    if owner in plan.shared:
        return plan.shared[owner]
    planned = plan.circuits.get(owner)
    return planned.parts if planned is not None else None


def _with_rests(
    plan: Plan, installation: Installation, owners: tuple[str, ...], planned: Planned
) -> Network:
    """The netlist with one current at each point for what runs there besides."""
    network = installation.netlist(float(plan.job.vehicle.nominal_v))
    rests: list[Element] = []
    inside = set(owners)
    for owner in owners:
        point = plan.tree.points.get(owner)
        if point is None or (
            plan.tree.feeders.get(owner, None) is None and (not point.fed_by_vehicle)
        ):
            continue
        here = [c for c in plan.tree.starting.get(owner, ()) if c.id in inside]
        rest_a = plan.currents.total_a(point) - sum(plan.currents.circuit_a(c) for c in here)
        if planned.circuit.feeds == owner and not point.starts_a_system:
            rest_a = plan.currents.input_a(point) - sum(plan.currents.circuit_a(c) for c in here)
        if rest_a <= 1e-6:
            continue
        ref = plan.refs[owner]
        own = planned.circuit.feeds == owner
        negative = node_of(ref, EARTH) if _earthed_there(plan, owner, own=own) else GROUND
        load = Load(model="electronics", rated_a=rest_a, rated_v=network.nominal_v, cut_in_v=1.0)
        rests.append(
            LoadElement(name=f"{ref.lower()}_rest", a=node_of(ref, BUS), b=negative, load=load)
        )
    return replace(network, elements=(*network.elements, *rests)) if rests else network


def _earthed_there(plan: Plan, point_id: str, *, own: bool) -> bool:
    """Whether what else runs at a point returns to its earth: in its own sheet all of it."""
    point = plan.tree.points[point_id]
    if point.starts_a_system:
        return True
    return own and point.earth_bus
