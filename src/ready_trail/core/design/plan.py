"""Planning a job: the supply is walked from sources down, each circuit chosen, sized and wired.

Nothing is solved here; every circuit is planned once, and taken over where nothing it depends
on has changed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import wire_resistance_ohm
from ready_trail.core.design.branching import joint_m, limbs, outlets, trunk_of
from ready_trail.core.design.colours import control_colour, house_colour
from ready_trail.core.design.feeders import Requests, least_of, members, roots
from ready_trail.core.design.lamps import lamp_parts
from ready_trail.core.design.memo import flows_from, taken_over
from ready_trail.core.design.pieces import working_pieces
from ready_trail.core.design.request import (
    back_segments,
    chassis_ohm,
    is_channel,
    sizing_request,
)
from ready_trail.core.design.shared import (
    SwitchUse,
    control_conductor,
    point_parts,
    references,
    switch_parts,
    vehicle_parts,
)
from ready_trail.core.devices.point import BUS, EARTH, channel_terminal, vehicle_feed_ohm
from ready_trail.core.errors import CoreError, TableError
from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.job import BATTERY, Circuit, Job
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.network import RelayContact, Resistor, SwitchContact
from ready_trail.core.outcome import Memo, Plan, Planned
from ready_trail.core.relays import with_coil_resistor
from ready_trail.core.schemes import BY_KEY, Ask, Bench, Scheme, propose
from ready_trail.core.sizing import Sizing, SizingRequest, Upstream, size
from ready_trail.core.sizing.shares import Shared, Sized
from ready_trail.core.sizing.size import NOTHING_AHEAD
from ready_trail.core.supply.apart import pairs_apart
from ready_trail.core.supply.currents import Currents, load_currents_a
from ready_trail.core.supply.tree import Tree


def plan_job(job: Job, catalogue: Catalogue, before: Memo | None = None) -> Plan:
    """Return every circuit of a routed job planned, feeders before what they feed."""
    tree, memo, kept = Tree(job), before or {}, Memo()
    # what flows is not changed by where it runs: rounds of routing, and most edits, share it
    currents = taken_over(kept, "what flows", flows_from(job), memo, partial(Currents, tree))
    plan = Plan(job=job, tree=tree, currents=currents, refs=references(job), memo=kept)
    reads = {c.id: _depends_on(plan, c) for c in job.circuits}
    wanted = _least_copper(plan, catalogue, memo, reads)
    for circuit in _leaders_first(job, tree):
        upstream, size_wanted = _ahead(plan, circuit), wanted.get(circuit.id)
        plan.circuits[circuit.id] = taken_over(
            plan.memo, circuit.id, (size_wanted, upstream, *reads[circuit.id]), memo,
            partial(_planned, plan, circuit, upstream, catalogue, size_wanted),
        )  # fmt: skip
    _without_loose_ends(plan)
    _share(plan, catalogue)
    return plan


def _least_copper(
    plan: Plan, catalogue: Catalogue, before: Memo, reads: Mapping[str, tuple[object, ...]]
) -> dict[str, str]:
    """The feeders' sizes with which each tree takes the least copper, by circuit."""
    wanted: dict[str, str] = {}

    def asked(circuit: Circuit, make: Callable[[], SizingRequest]) -> SizingRequest:
        name = f"request {circuit.id}"
        return taken_over(plan.memo, name, reads[circuit.id], before, make)

    for feeder in roots(plan):
        inside = members(plan, feeder)
        key = tuple((reads[c.id], _flows(plan, c)) for c in inside)
        name = f"tree {feeder.id}"
        known = before.get(name, ())
        sized = known[0][1][1] if known else Sized()
        make = partial(_least_and_sized, plan, feeder, catalogue, sized, asked)
        least, _ = taken_over(plan.memo, name, key, before, make)
        if least is not None:
            plan.least[feeder.id] = least
            wanted |= least.sizes
    return wanted


def _least_and_sized(
    plan: Plan, feeder: Circuit, catalogue: Catalogue, sized: Sized, requests: Requests
) -> tuple[Shared | None, Sized]:
    return least_of(plan, feeder, catalogue, sized, requests), sized


def _flows(plan: Plan, circuit: Circuit) -> tuple[float, ...]:
    """What a feeder carries out and back, which its own request does not tell."""
    if circuit.feeds is None:
        return ()
    here = plan.tree.starting.get(circuit.feeds, ())
    return tuple(plan.currents.circuit_a(c) for c in here if c.back.kind == "bus")


def _without_loose_ends(plan: Plan) -> None:
    """Take the wiring from circuits that lead to another one which could not be wired."""
    while True:
        loose = {
            circuit_id: plan.circuits[need].circuit.name
            for circuit_id, planned in plan.circuits.items()
            for need in (planned.parts.needs if planned.parts is not None else ())
            if need in plan.circuits and plan.circuits[need].parts is None
        }
        if not loose:
            return
        for circuit_id, name in loose.items():
            plan.circuits[circuit_id] = replace(
                plan.circuits[circuit_id], parts=None, trouble=f"{name} is not complete"
            )


def _leaders_first(job: Job, tree: Tree) -> list[Circuit]:
    """Feeders before what they feed; and what shares another's return, after that."""
    order = tree.order()
    return sorted(order, key=lambda c: job.leader(c).id != c.id)


def _load_ref(plan: Plan, circuit: Circuit) -> str:
    return plan.refs[circuit.feeds or circuit.id]


def _depends_on(plan: Plan, circuit: Circuit) -> tuple[object, ...]:
    """Everything that planning one circuit reads, so that an unchanged one is taken over.

    What lies ahead of it is read besides.
    """
    job, tree = plan.job, plan.tree
    use = job.use_of(circuit)
    start = circuit.start.point
    fed = tree.points.get(circuit.feeds or "")
    channel = use.channel
    enabler = next((c for c in job.circuits if use.while_on and c.id == use.while_on), None)
    return (
        circuit,
        None
        if circuit.rest_start is None
        else (
            tree.points.get(circuit.rest_start.point),
            tree.is_fed(circuit.rest_start.point),
            tree.nominal_v(circuit.rest_start.point),
        ),
        job.loads_of(circuit),
        job.leader(circuit).id,
        tuple((c.id, job.loads_of(c), plan.currents.circuit_a(c)) for c in job.followers(circuit)),
        pairs_apart(job) if job.followers(circuit) else None,
        job.vehicle,
        job.rules,
        job.survey.known,
        use,
        job.switch(use.switch),
        tree.points.get(start),
        fed,
        plan.currents.circuit_a(circuit),
        tree.waking(start),
        tree.nominal_v(start),
        tree.is_fed(start),
        tuple(f.run for f in tree.chain(circuit)),
        None if channel is None else tree.points.get(channel.point),
        None
        if enabler is None
        else (enabler.id, enabler.name, enabler.number, enabler.feeds, job.use_of(enabler)),
    )


def _ahead(plan: Plan, circuit: Circuit) -> Upstream | None:
    """What every feeder from the source of its system adds, at what runs together there."""
    chain = plan.tree.chain(circuit)
    root = plan.tree.root(circuit)
    by_bus = circuit.back.kind == "bus"
    total = NOTHING_AHEAD
    if root is not None and root.fed_by_vehicle:
        amps = plan.currents.total_a(root) + root.carries_a
        feed_ohm = vehicle_feed_ohm(root.fuse_a)
        total = Upstream(resistance_ohm=feed_ohm, conductor_drop_v=0.0,
                         path_drop_v=amps * feed_ohm)  # fmt: skip
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


def _planned(
    plan: Plan, circuit: Circuit, upstream: Upstream | None, catalogue: Catalogue,
    wanted: str | None,
) -> Planned:  # fmt: skip
    job, tree = plan.job, plan.tree
    current_a = plan.currents.circuit_a(circuit)
    ask = ask_of(job, tree, circuit, current_a)
    nominal_v = tree.nominal_v(circuit.start.point)
    amps = load_currents_a(ask.accessories, nominal_v) if ask.accessories else (current_a,)
    scheme, reason = _scheme(ask)
    refusal = scheme.refusal(ask)
    sizing, trouble = _sized(ask, scheme, catalogue, upstream, amps, plan.currents, wanted)
    colour = circuit.held.colour or house_colour(job, circuit.number, ask.use)
    parts: Parts | None = None
    if not trouble and sizing.chosen is not None and sizing.fuse is not None:
        trouble = _unfed(plan, circuit)
        if not trouble and scheme.can_be_wired(ask):
            bench = _bench(ask, scheme, sizing, catalogue, plan, amps, colour, nominal_v)
            parts = scheme.wiring(bench)
    out, back = _adds(plan, circuit, sizing, parts)
    return Planned(
        circuit=circuit, accessories=ask.accessories, use=ask.use, scheme=scheme, reason=reason,
        refusal=refusal, load_currents_a=amps, current_a=sum(amps), sizing=sizing, colour=colour,
        trouble=trouble, outlets=outlets(ask, _load_ref(plan, circuit), amps), parts=parts,
        out_ahead=out, back_ahead=back,
    )  # fmt: skip


def _scheme(ask: Ask) -> tuple[Scheme, str]:
    """The held scheme, or the one that fits, with its reason."""
    key = ask.circuit.held.scheme
    if key is None:
        return propose(ask)
    if key not in BY_KEY:
        raise TableError(f"no scheme {key!r}")
    return BY_KEY[key], f"Held by hand. {BY_KEY[key].when.capitalize()}."


def _sized(
    ask: Ask,
    scheme: Scheme,
    catalogue: Catalogue,
    upstream: Upstream | None,
    amps: tuple[float, ...],
    currents: Currents,
    wanted: str | None,
) -> tuple[Sizing, str]:
    """Size a circuit; what lies outside every formula becomes trouble, never an exception."""
    try:
        request = sizing_request(ask, scheme, catalogue, upstream, amps, currents)
        sizing = size(replace(request, wanted=wanted), catalogue, whole_ladder=True)
        if ask.circuit.coil_resistor and sizing.relay is not None:
            sizing = replace(sizing, relay=with_coil_resistor(sizing.relay))
        return sizing, ""
    except CoreError as error:
        stand_in = SizingRequest(current_a=min(1000.0, max(0.01, sum(amps))), out=(), back=(),
                                 drop_limit_v=1.0)  # fmt: skip
        return Sizing(request=stand_in, ok=False, why="range"), f"{error}"


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


def _bench(
    ask: Ask,
    scheme: Scheme,
    sizing: Sizing,
    catalogue: Catalogue,
    plan: Plan,
    amps: tuple[float, ...],
    colour: str,
    nominal_v: float,
) -> Bench:
    circuit, request = ask.circuit, sizing.request
    if sizing.chosen is None or sizing.fuse is None:
        raise ValueError("nothing to wire before sizing")
    relay_c = zone_ambient_c(segment_at(circuit.run, circuit.switching_at_m), catalogue)
    trunk = trunk_of(ask, scheme)
    back = back_segments(trunk, plan.tree) if request.back else ()
    winch = request.winch is not None
    out_a, back_a = (None, None) if winch else (request.current_a, request.returns_a)
    return Bench(
        ask=ask,
        catalogue=catalogue,
        sizing=sizing,
        fuse=sizing.fuse,
        conductor=sizing.chosen.conductor,
        control_conductor=control_conductor(
            ask.job, relay_c, request.minimum_mm2, request.insulation_c, catalogue
        ),
        insulation_c=request.insulation_c,
        colour=colour,
        control_colour=control_colour(circuit.number),
        run=working_pieces(trunk.run, request.out, sizing.chosen, out_a, request.insulation_c),
        back=working_pieces(back, request.back, sizing.chosen, back_a, request.insulation_c),
        relay_c=relay_c,
        chassis_ohm=chassis_ohm(circuit),
        load_currents_a=amps,
        nominal_v=nominal_v,
        start=_start(ask, plan),
        negative=_negative(ask, plan),
        channel=is_channel(ask),
        references=plan.refs,
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
    if (
        circuit.back.kind == "bus"
        and start is not None
        and (start.earth_bus or start.starts_a_system)
    ):
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
    bus_a = sum(plan.currents.circuit_a(c) for c in plan.tree.starting.get(point.id, ())
                if c.back.kind == "bus")  # fmt: skip
    return _resists(parts, parts.out, total_a), _resists(parts, parts.back, min(bus_a, total_a))


def _resists(parts: Parts, way: tuple[str, ...], current_a: float) -> Upstream:
    wires = {w.label: w for w in parts.wires}
    devices = {d.ref: d for d in parts.devices}
    copper_ohm = other_ohm = 0.0
    for name in way:
        if name in wires:
            wire = wires[name]
            ohm = sum(
                wire_resistance_ohm(r20_mohm_per_m=wire.conductor.r20_mohm_per_m,
                                    length_m=p.length_m, conductor_c=p.conductor_c)
                for p in wire.pieces
            )  # fmt: skip
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


def _share(plan: Plan, catalogue: Catalogue) -> None:
    """Make the parts of vehicle, points and switches that feed coils."""
    plan.shared[""] = vehicle_parts(plan.job)
    for point in plan.job.points:
        ref = plan.refs[point.id]
        plan.shared[point.id] = point_parts(point, plan.tree, ref, catalogue)
        lamps = lamp_parts(point, ref, plan.job, catalogue)
        if lamps is not None:
            plan.shared[lamps.owner] = lamps
    for circuit in plan.job.circuits:
        planned = plan.circuits[circuit.id]
        switch = plan.job.switch(planned.use.switch) if planned.use.switch else None
        if switch is None or planned.scheme.switch_role != "feed" or planned.parts is None:
            continue
        ref = plan.refs[f"switch {switch.name}"]
        if ref in plan.shared:
            continue
        segment = segment_at(circuit.run, circuit.switching_at_m)
        to_switch_m = circuit.control_switch_m or circuit.control_m / 2
        asked = SwitchUse(
            switch=switch, circuit=circuit, use=planned.use,
            feed_m=min(to_switch_m, circuit.control_m - 0.02), zone=segment.zone,
            ambient_c=zone_ambient_c(segment, catalogue),
        )  # fmt: skip
        plan.shared[ref] = switch_parts(asked, plan.tree, plan.refs, catalogue)
