"""Planning a job: the supply is walked from sources down, each circuit chosen, sized and wired.

Nothing is solved here.
"""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.colours import control_colour, house_colour
from ready_trail.core.conductors import wire_resistance_ohm
from ready_trail.core.design.branching import joint_m, limbs, outlets, trunk_of
from ready_trail.core.design.draft import Draft, draft_of
from ready_trail.core.design.feeders import least_of, roots
from ready_trail.core.design.lamps import lamp_parts, lit_things
from ready_trail.core.design.pieces import working_pieces
from ready_trail.core.design.request import (
    back_segments,
    chassis_ohm,
    is_channel,
)
from ready_trail.core.design.shared import (
    SwitchUse,
    control_conductor,
    point_parts,
    pulse_parts,
    references,
    switch_parts,
    vehicle_parts,
)
from ready_trail.core.errors import CoreError
from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.job import BATTERY, Circuit, Job
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.kinds.point import BUS, EARTH, channel_terminal
from ready_trail.core.netlist import RelayContact, Resistor, SwitchContact
from ready_trail.core.outcome import Plan, Planned
from ready_trail.core.relays import with_coil_resistor
from ready_trail.core.schemes import Ask, Bench
from ready_trail.core.sizing import Path, Sizing, SizingRequest, Steady, Upstream, size
from ready_trail.core.sizing.shares import Shared
from ready_trail.core.sizing.size import NOTHING_AHEAD
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.tree import Tree


def plan_job(job: Job, catalogue: Catalogue) -> Plan:
    """Return every circuit of a routed job planned, feeders before what they feed."""
    tree = Tree(job)
    circuits: dict[str, Planned] = {}
    shared: dict[str, Parts] = {}
    least: dict[str, Shared] = {}
    currents = Currents(tree)
    drafts = {c.id: draft_of(c, tree, currents, catalogue) for c in job.circuits}
    requests = {i: d.request for i, d in drafts.items() if d.request is not None}
    plan = Plan(
        job=job,
        tree=tree,
        currents=currents,
        refs=references(job),
        requests=requests,
        circuits=circuits,
        shared=shared,
        least=least,
    )
    for feeder in roots(plan):
        found = least_of(plan, feeder, catalogue)
        if found is not None:
            least[feeder.id] = found
    wanted = {i: size for tree_sizes in least.values() for i, size in tree_sizes.sizes.items()}
    for circuit in _leaders_first(job, tree):
        draft, size_wanted = drafts[circuit.id], wanted.get(circuit.id)
        circuits[circuit.id] = _planned(plan, draft, catalogue, size_wanted)
    _take_loose_ends(circuits)
    _share(plan, shared, catalogue)
    return plan


def _take_loose_ends(circuits: dict[str, Planned]) -> None:
    """Take the wiring from circuits that lead to another one which could not be wired."""
    while True:
        loose = {
            circuit_id: circuits[need].circuit.name
            for circuit_id, planned in circuits.items()
            for need in (planned.parts.needs if planned.parts is not None else ())
            if need in circuits and circuits[need].parts is None
        }
        if not loose:
            return
        for circuit_id, name in loose.items():
            circuits[circuit_id] = replace(
                circuits[circuit_id], parts=None, trouble=f"{name} is not complete"
            )


def _leaders_first(job: Job, tree: Tree) -> list[Circuit]:
    """Feeders before what they feed; and what shares another's return, after that."""
    order = tree.order()
    return sorted(order, key=lambda c: job.leader(c).id != c.id)


def _load_ref(plan: Plan, circuit: Circuit) -> str:
    return plan.refs[circuit.feeds or circuit.id]


def _ahead(plan: Plan, circuit: Circuit) -> Upstream | None:
    """What every feeder from the source of its system adds, at what runs together there."""
    chain = plan.tree.chain(circuit)
    root = plan.tree.root(circuit)
    by_bus = circuit.back.by_bus
    total = NOTHING_AHEAD
    if root is not None and root.fed_by_vehicle:
        amps = plan.currents.total_a(root) + root.carries_a
        feed_ohm = root.feed_ohm
        total = Upstream(resistance_ohm=feed_ohm, conductor_drop_v=0.0, path_drop_v=amps * feed_ohm)
    leader = plan.job.leader(circuit)
    if leader.id != circuit.id and leader.id in plan.circuits:
        total = _plus(total, plan.circuits[leader.id].back_ahead)
    for feeder in chain:
        planned = plan.circuits.get(feeder.id)
        if planned is None:
            continue
        total = _plus(total, planned.out_ahead)
        if by_bus:
            total = _plus(total, planned.back_ahead)
    return None if total == NOTHING_AHEAD else total


def _plus(a: Upstream, b: Upstream) -> Upstream:
    return Upstream(
        resistance_ohm=a.resistance_ohm + b.resistance_ohm,
        conductor_drop_v=a.conductor_drop_v + b.conductor_drop_v,
        path_drop_v=a.path_drop_v + b.path_drop_v,
    )


def _planned(plan: Plan, draft: Draft, catalogue: Catalogue, wanted: str | None) -> Planned:
    ask, scheme, amps = draft.ask, draft.scheme, draft.amps
    circuit = ask.circuit
    sizing, trouble = _sized(draft, catalogue, _ahead(plan, circuit), wanted)
    colour = circuit.held.colour or house_colour(plan.job, circuit.number, ask.use)
    parts: Parts | None = None
    if not trouble and sizing.chosen is not None and sizing.fuse is not None:
        trouble = _unfed(plan, circuit)
        if not trouble and scheme.can_be_wired(ask):
            parts = scheme.wiring(_bench(draft, sizing, catalogue, plan, colour))
    out, back = _adds(plan, circuit, sizing, parts)
    return Planned(
        circuit=circuit,
        accessories=ask.accessories,
        use=ask.use,
        scheme=scheme,
        reason=draft.reason,
        refusal=scheme.refusal(ask),
        load_currents_a=amps,
        current_a=sum(amps),
        sizing=sizing,
        colour=colour,
        trouble=trouble,
        outlets=outlets(ask, _load_ref(plan, circuit), amps),
        parts=parts,
        out_ahead=out,
        back_ahead=back,
    )


def _sized(
    draft: Draft, catalogue: Catalogue, upstream: Upstream | None, wanted: str | None
) -> tuple[Sizing, str]:
    """Size a circuit; what lies outside every formula becomes trouble, never an exception."""
    trouble = draft.trouble
    if draft.request is not None:
        try:
            asked = replace(draft.request, upstream=upstream, wanted=wanted)
            sizing = size(asked, catalogue, whole_ladder=True)
            if draft.ask.circuit.coil_resistor and sizing.relay is not None:
                sizing = replace(sizing, relay=with_coil_resistor(sizing.relay))
            return sizing, ""
        except CoreError as error:
            trouble = f"{error}"
    stand_in = SizingRequest(
        current_a=min(1000.0, max(0.01, sum(draft.amps))),
        path=Path(),
        drop_limit_v=1.0,
        rule=Steady(),
    )
    return Sizing(request=stand_in, ok=False, why="range"), trouble


def _unfed(plan: Plan, circuit: Circuit) -> str:
    """Why no current reaches the place where a circuit starts, or an empty text."""
    at = circuit.start.point
    leader = plan.circuits.get(plan.job.leader(circuit).id)
    if leader is not None and leader.parts is None:
        return f"{leader.circuit.name}, which brings its accessory and return, is not complete"
    if at == BATTERY:
        return ""
    if not plan.tree.is_fed(at):
        return f"nothing feeds {plan.tree.points[at].name}"
    for feeder_id in plan.tree.parts_needed(circuit):
        ahead = plan.circuits.get(feeder_id)
        if ahead is None or ahead.parts is None:
            return f"{ahead.circuit.name if ahead else 'its feeder'} is not complete"
    return ""


def _bench(draft: Draft, sizing: Sizing, catalogue: Catalogue, plan: Plan, colour: str) -> Bench:
    ask, scheme, request = draft.ask, draft.scheme, sizing.request
    circuit = ask.circuit
    if sizing.chosen is None or sizing.fuse is None:
        raise ValueError("nothing to wire before sizing")
    relay_c = zone_ambient_c(segment_at(circuit.run, circuit.switching_at_m), catalogue)
    trunk = trunk_of(ask, scheme)
    back = back_segments(trunk, plan.tree) if request.path.back else ()
    flows = request.current_a, request.returns_a
    out_a, back_a = flows if request.rule.is_steady else (None, None)
    class_c = request.wire.insulation_c
    return Bench(
        ask=ask,
        catalogue=catalogue,
        sizing=sizing,
        fuse=sizing.fuse,
        conductor=sizing.chosen.conductor,
        control_conductor=control_conductor(
            ask.job, relay_c, request.wire.minimum_mm2, class_c, catalogue
        ),
        insulation_c=class_c,
        colour=colour,
        control_colour=control_colour(circuit.number),
        run=working_pieces(trunk.run, request.path.out, sizing.chosen, out_a, class_c),
        back=working_pieces(back, request.path.back, sizing.chosen, back_a, class_c),
        relay_c=relay_c,
        chassis_ohm=chassis_ohm(circuit),
        load_currents_a=draft.amps,
        nominal_v=draft.nominal_v,
        start=_start(ask, plan),
        negative=_negative(ask, plan),
        channel=is_channel(ask),
        references=plan.refs,
        at_rest=scheme.at_rest,
        joint_m=joint_m(ask, scheme) if trunk is not circuit else None,
        limbs=limbs(trunk, sizing),
    )


def _start(ask: Ask, plan: Plan) -> Terminal:
    start = ask.circuit.start
    if start.point == BATTERY:
        return Terminal(device="BAT", terminal="+")
    terminal = channel_terminal(start.position) if is_channel(ask) else BUS
    return Terminal(device=plan.refs[start.point], terminal=terminal)


def _negative(ask: Ask, plan: Plan) -> Terminal:
    """Where a return wire ends: at the point's earth bus, its source's negative, or the battery."""
    circuit = ask.circuit
    start = ask.start_point
    if circuit.back.by_bus and start is not None and (start.earth_bus or start.starts_a_system):
        return Terminal(device=plan.refs[start.id], terminal=EARTH)
    root = plan.tree.root(circuit)
    if root is not None and root.starts_a_system:
        return Terminal(device=plan.refs[root.id], terminal=EARTH)
    return Terminal(device="BAT", terminal="-")


def _adds(
    plan: Plan, circuit: Circuit, sizing: Sizing, parts: Parts | None
) -> tuple[Upstream, Upstream]:
    """What a feeder adds for circuits behind it: its resistance out and back, and their drops."""
    if parts is not None and plan.job.followers(circuit):
        return NOTHING_AHEAD, _resists(parts, parts.back, sizing.request.returns_a)
    if circuit.feeds is None or parts is None:
        return NOTHING_AHEAD, NOTHING_AHEAD
    point = plan.tree.points[circuit.feeds]
    if point.starts_a_system:
        return NOTHING_AHEAD, NOTHING_AHEAD
    total_a = plan.currents.total_a(point)
    bus_a = sum(
        plan.currents.circuit_a(c) for c in plan.tree.starting.get(point.id, ()) if c.back.by_bus
    )
    return _resists(parts, parts.out, total_a), _resists(parts, parts.back, min(bus_a, total_a))


def _resists(parts: Parts, way: tuple[str, ...], current_a: float) -> Upstream:
    wires = {w.label: w for w in parts.wires}
    devices = {d.ref: d for d in parts.devices}
    copper_ohm = other_ohm = 0.0
    for name in way:
        if name in wires:
            wire = wires[name]
            ohm = sum(
                wire_resistance_ohm(
                    r20_mohm_per_m=wire.conductor.r20_mohm_per_m,
                    length_m=p.length_m,
                    conductor_c=p.conductor_c,
                )
                for p in wire.pieces
            )
            copper_ohm += ohm
            other_ohm += sum(r.ohm for r in wire.resistors()) - ohm
        else:
            other_ohm += sum(
                e.ohm
                for e in devices[name].elements()
                if isinstance(e, Resistor | SwitchContact)
                or (isinstance(e, RelayContact) and e.makes)
            )
    return Upstream(
        resistance_ohm=copper_ohm + other_ohm,
        conductor_drop_v=current_a * copper_ohm,
        path_drop_v=current_a * (copper_ohm + other_ohm),
    )


def _share(plan: Plan, shared: dict[str, Parts], catalogue: Catalogue) -> None:
    """Make the parts of vehicle, points and switches that feed coils."""
    shared[""] = vehicle_parts(plan.job)
    for point in plan.job.points:
        ref = plan.refs[point.id]
        shared[point.id] = point_parts(point, plan.tree, ref, catalogue)
        pulsed = pulse_parts(point, plan.tree, plan.refs, catalogue)
        if pulsed is not None:
            shared[pulsed.owner] = pulsed
    for lit in lit_things(plan.job, plan.refs):
        lamps = lamp_parts(lit, plan.job, catalogue)
        shared[lamps.owner] = lamps
    for circuit in plan.job.circuits:
        planned = plan.circuits[circuit.id]
        switch = plan.job.switch(planned.use.switch) if planned.use.switch else None
        if switch is None or planned.scheme.switch_role != "feed" or planned.parts is None:
            continue
        ref = plan.refs[f"switch {switch.name}"]
        if ref in shared:
            continue
        segment = segment_at(circuit.run, circuit.switching_at_m)
        to_switch_m = circuit.control_switch_m or circuit.control_m / 2
        asked = SwitchUse(
            switch=switch,
            number=circuit.number,
            use=planned.use,
            feed_m=min(to_switch_m, circuit.control_m - 0.02),
            zone=segment.zone,
            ambient_c=zone_ambient_c(segment, catalogue),
        )
        shared[ref] = switch_parts(asked, plan.tree, plan.refs, catalogue)
