"""From a stated circuit to a sizing request."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.branching import stretches, trunk_of, trunk_returns_a
from ready_trail.core.design.likely import fuse_min_a, likely_back_a
from ready_trail.core.design.pieces import legs
from ready_trail.core.fuses import FuseFamily, families_for
from ready_trail.core.job import Circuit, Point, Segment
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.kinds.earth import CHASSIS_OHM
from ready_trail.core.kinds.switch import SWITCH_CONTACT_OHM
from ready_trail.core.relays import relays_for
from ready_trail.core.schemes.base import Ask, Scheme, fed_and_earthed
from ready_trail.core.schemes.power import holds_fuses
from ready_trail.core.sizing import (
    DROP_SCHOOLS,
    Ceiling,
    FuseRule,
    Fusing,
    Held,
    Leg,
    Path,
    SizingRequest,
    Steady,
    Stretch,
    Supply,
    Switching,
    WinchPull,
    WireAsked,
)
from ready_trail.core.sizing.rules.cranking import CRANK_DROP_RATIO, Cranking
from ready_trail.core.sizing.rules.winch import STALL_RATIO
from ready_trail.core.supply.apart import most_together, pairs_apart
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.own_load import starting_a
from ready_trail.core.supply.tree import Tree

FEEDER_DROP_RATIO = 0.02
"""Share of the nominal voltage that one feeder may use up (house)."""

INSULATION_LEAST_K = 20.0
HOT_CLASS_C = 125
SOURCE_OHM = 0.010
"""Inside a converter or charger (house)."""

BLOCK_FAMILIES = ("blade", "large_blade")
HIGH_VOLT_BLADES = ("blade_58v",)


def insulation_of(ask: Ask, catalogue: Catalogue) -> int:
    """Return the insulation class: held, the house's, or 125 °C where a zone leaves under 20 K;
    a wire that is there already is no hotter one for that.
    """
    held = ask.circuit.held.insulation_c
    if held is not None:
        return held
    class_c = ask.job.rules.insulation_c
    if ask.circuit.kept:
        return class_c
    hottest_c = max(zone_ambient_c(s, catalogue) for s in ask.circuit.segments)
    return class_c if hottest_c <= class_c - INSULATION_LEAST_K else max(class_c, HOT_CLASS_C)


def has_return(ask: Ask) -> bool:
    """Whether a circuit has a way back of its own: a feeder only where its point has an earth."""
    feeds = ask.circuit.feeds
    if ask.job.leader(ask.circuit).id != ask.circuit.id:
        return False  # its accessory comes back by the first output's way
    if fed_and_earthed(ask.accessories):
        return False  # by the vehicle's own earth
    if feeds is None:
        return True
    point = ask.tree.points[feeds]
    return point.earth_bus or point.starts_a_system


def back_segments(circuit: Circuit, tree: Tree) -> tuple[Segment, ...]:
    """Return the way back as segments: a stub where the run ends, or the run reversed.

    A return wire to the battery from behind a point runs the whole way: this run and every
    feeder's ahead of it.
    """
    if circuit.back.on_body:
        last = circuit.run[-1].model_copy(
            update={"length_m": circuit.back.stub_m, "taped": circuit.back.taped, "passes": None}
        )
        return (last,)
    own = tuple(reversed(circuit.run))
    if circuit.back.by_bus:
        return own
    ahead = [s for feeder in reversed(tree.chain(circuit)) for s in reversed(feeder.run)]
    return (*own, *ahead)


def sizing_request(
    ask: Ask,
    scheme: Scheme,
    catalogue: Catalogue,
    currents_a: tuple[float, ...],
    currents: Currents,
) -> SizingRequest:
    """Return what sizing needs to know of a circuit under a scheme, with nothing ahead of it."""
    nominal_v = ask.tree.nominal_v(ask.circuit.start.point)
    rule = _rule(ask, scheme, catalogue, currents_a, currents)
    path = _path(ask, scheme, catalogue, currents_a, currents)
    return SizingRequest(
        current_a=sum(currents_a),
        back_a=_returns_a(ask, sum(currents_a), path.branches, currents),
        path=path,
        drop_limit_v=_drop_ratio(ask, scheme, currents_a, currents) * nominal_v,
        rule=rule,
        fusing=_fusing(ask, scheme, rule, catalogue),
        switching=_switching(ask, scheme, rule, catalogue),
        supply=_supply(ask),
        wire=_wire(ask, catalogue),
        held=_held(ask, catalogue),
    )


def _path(
    ask: Ask,
    scheme: Scheme,
    catalogue: Catalogue,
    currents_a: tuple[float, ...],
    currents: Currents,
) -> Path:
    """Everything that the current passes, as the wiring makes it."""
    circuit, tree = ask.circuit, ask.tree
    nominal_v = tree.nominal_v(circuit.start.point)
    trunk = trunk_of(ask, scheme)
    branches = stretches(ask, trunk, currents_a, nominal_v, catalogue)
    back: tuple[Leg, ...] = ()
    if has_return(ask) and _returns_a(ask, sum(currents_a), branches, currents) > 0:
        back = legs(back_segments(trunk, tree), catalogue)
    ends_on_chassis = circuit.back.on_body and bool(back)
    by_contact = _is_in_path(ask, scheme) or is_channel(ask)
    crimps, lugs, connectors = _joints(ask, scheme, has_back=bool(back))
    return Path(
        out=legs(trunk.run, catalogue),
        back=back,
        branches=branches,
        back_least_a=likely_back_a(ask, currents, catalogue) if back else 0.0,
        chassis_ohm=chassis_ohm(circuit) if ends_on_chassis else 0.0,
        crimps=crimps,
        lugs=lugs,
        connectors=connectors,
        fuses=2 if circuit.end_fuse else 1,
        switch_ohm=(SWITCH_CONTACT_OHM if by_contact else 0.0) + scheme.path_ohm(ask),
    )


def _rule(
    ask: Ask,
    scheme: Scheme,
    catalogue: Catalogue,
    currents_a: tuple[float, ...],
    currents: Currents,
) -> FuseRule:
    """How the fuse is chosen: by the steady load and its start, or by a winch's pull."""
    accessories, feeds = ask.accessories, ask.circuit.feeds
    maker_max_a = min((a.fuse_max_a for a in accessories if a.fuse_max_a is not None), default=None)
    if ask.feeds_vehicle:
        return Cranking(full_a=_cranking_a(ask, currents), stall_a=_cranking_a(ask, currents))
    if feeds is not None and _feeds_winch(ask):
        full_a = currents.input_a(ask.tree.points[feeds])
        return WinchPull(full_a=full_a, stall_a=STALL_RATIO * full_a)
    if scheme.for_winch:
        full_a = sum(a.rated_a for a in accessories)
        return WinchPull(
            full_a=full_a,
            stall_a=STALL_RATIO * full_a,
            maker_max_a=maker_max_a,
            own_contactor=all(a.own_contactor for a in accessories),
        )
    duties = {a.duty for a in accessories} or {"continuous"}
    return Steady(
        duty="continuous" if "continuous" in duties else accessories[0].duty,
        k_cont=ask.job.rules.k_cont,
        least_a=fuse_min_a(ask, currents, catalogue),
        inrush_x=_inrush_x(ask, currents_a, sum(currents_a)),
        inrush_s=max((a.inrush_s for a in accessories), default=0.0),
        maker_max_a=maker_max_a,
    )


def _fusing(ask: Ask, scheme: Scheme, rule: FuseRule, catalogue: Catalogue) -> Fusing:
    circuit, start = ask.circuit, ask.start_point
    on_bus = _is_on_bus(ask)
    place = segment_at(circuit.run, 0.0 if on_bus else circuit.fuse_at_m)
    root = ask.tree.root(circuit)
    return Fusing(
        families=rule.families or _families(start, ask.tree.nominal_v(circuit.start.point)),
        holder_c=zone_ambient_c(place, catalogue),
        ceilings=tuple(_ceilings(ask, in_path=_is_in_path(ask, scheme))),
        school="strict" if _is_link(ask) else ask.job.rules.ceiling,
        own_holder=not is_channel(ask),
        may_step_down=on_bus or bool(ask.tree.chain(circuit)) or _is_limited(root),
    )


def _is_link(ask: Ask) -> bool:
    """Whether it ends at a battery: what flows is bounded by its fuse, and by no load."""
    point = ask.tree.points.get(ask.circuit.feeds or "")
    return point is not None and point.is_a.stores


def _switching(ask: Ask, scheme: Scheme, rule: FuseRule, catalogue: Catalogue) -> Switching | None:
    if not scheme.has_relay:
        return None
    circuit = ask.circuit
    place = segment_at(circuit.run, circuit.switching_at_m)
    return Switching(
        relays=rule.contactors
        or relays_for(ask.tree.nominal_v(circuit.start.point), scheme.relays),
        rest_contact=scheme.chooses_output or scheme.at_rest,
        coil_v=scheme.coil_v(ask),
        place_c=zone_ambient_c(place, catalogue),
    )


def _supply(ask: Ask) -> Supply:
    tree, circuit = ask.tree, ask.circuit
    root = tree.root(circuit)
    limited = root is not None and not root.is_a.stores
    return Supply(
        nominal_v=tree.nominal_v(circuit.start.point),
        open_circuit_v=tree.rest_v(circuit),
        charging_v=tree.charging_v(circuit),
        ohm=_source_ohm(ask, root),
        limit_a=root.output_a if root is not None and limited else None,
    )


def _wire(ask: Ask, catalogue: Catalogue) -> WireAsked:
    rules, kept = ask.job.rules, ask.circuit.kept
    zones = [catalogue.zones[s.zone] for s in ask.circuit.run if s.zone in catalogue.zones]
    return WireAsked(
        system=(kept and kept.system) or rules.system,
        kind=(kept and kept.wire_kind) or rules.wire_kind,
        insulation_c=insulation_of(ask, catalogue),
        minimum_mm2=max((z.minimum_mm2 for z in zones), default=0.75),
    )


def _is_in_path(ask: Ask, scheme: Scheme) -> bool:
    """Whether the hand switch carries the load."""
    return scheme.switch_role == "path" and ask.switch is not None


def _is_on_bus(ask: Ask) -> bool:
    """Whether the fuse sits in the point where the circuit starts."""
    return ask.start_point is not None and holds_fuses(ask.start_point)


def _is_limited(root: Point | None) -> bool:
    """Whether the source gives no more than its own limit, into a short too."""
    return root is not None and root.output_a is not None and root.starts_a_system


def _returns_a(
    ask: Ask, total_a: float, branches: tuple[Stretch, ...], currents: Currents
) -> float:
    """What the way back carries: of branches those that share it; of outputs, all together. [A]"""
    if branches:
        return trunk_returns_a(ask, branches)
    others = ask.job.followers(ask.circuit)
    if not others:
        return total_a
    members = [(ask.circuit.id, total_a)] + [(c.id, currents.circuit_a(c)) for c in others]
    return most_together(members, pairs_apart(ask.job))


def chassis_ohm(circuit: Circuit) -> float:
    """Return the body's resistance on the way back: as measured, or by its kind. [Ω]"""
    if circuit.back.measured_mohm is not None:
        return circuit.back.measured_mohm * 1e-3
    return CHASSIS_OHM[circuit.back.path]


def channel_fuse(point: Point, position: str, family: FuseFamily) -> float:
    """Return the standard rating that stands for a channel's own fuse or limit. [A]"""
    stated = point.position(position)
    rating_a = stated.rating_a if stated is not None and stated.rating_a else 20.0
    if point.is_a.is_cut:
        rating_a = point.fuse_a or rating_a
    larger = [r for r in family.ratings_a if r >= rating_a]
    return larger[0] if larger else family.ratings_a[-1]


def is_channel(ask: Ask) -> bool:
    """Whether the circuit starts at an output that is protected and switched by itself."""
    point = ask.start_point
    return point is not None and point.switches_its_positions and bool(ask.circuit.start.position)


def _families(start: Point | None, nominal_v: float) -> tuple[str, ...]:
    if start is not None and start.is_a.blades_only:
        return BLOCK_FAMILIES if nominal_v <= 24.0 else HIGH_VOLT_BLADES
    return families_for(nominal_v)


def _joints(ask: Ask, scheme: Scheme, *, has_back: bool) -> tuple[int, int, int]:
    """Count crimps, lugs and connectors of the path, as the wiring makes them."""
    circuit = ask.circuit
    sealed = any(a.tail_end == "sealed" for a in ask.accessories)
    ends_crimped = 0 if circuit.is_feeder else 1
    crimps = 1 + ends_crimped  # the wire to the load: at its device, and at the load
    lugs = 0 if not circuit.is_feeder else 1
    if scheme.has_relay or _is_in_path(ask, scheme):
        crimps += 2
    if not _is_on_bus(ask):
        crimps, lugs = crimps + 1, lugs + 1
    if circuit.end_fuse:
        crimps += 2
    if has_back:
        crimps, lugs = crimps + ends_crimped, lugs + (1 if not circuit.is_feeder else 2)
    connectors = (2 if has_back else 1) if sealed else 0
    return crimps, lugs, connectors


def _drop_ratio(
    ask: Ask, scheme: Scheme, currents_a: tuple[float, ...], currents: Currents
) -> float:
    if ask.circuit.is_feeder:
        if ask.feeds_vehicle:
            return CRANK_DROP_RATIO * min(1.0, sum(currents_a) / _cranking_a(ask, currents))
        return 0.10 if _feeds_winch(ask) else _feeder_ratio(ask)
    school = DROP_SCHOOLS[ask.job.rules.drop]
    return min(school[a.drop_class] for a in ask.accessories)


def _feeder_ratio(ask: Ask) -> float:
    """The strictest limit behind a feeder; how much of it the feeder takes, copper decides.

    One that ends at a converter, a battery or at nothing yet keeps to its own share.
    """
    school = DROP_SCHOOLS[ask.job.rules.drop]

    def strictest(point_id: str) -> float:
        limits = [1.0]
        for circuit in ask.tree.starting.get(point_id, ()):
            limits += [school[a.drop_class] for a in ask.job.loads_of(circuit)]
            if circuit.feeds is not None and not ask.tree.points[circuit.feeds].starts_a_system:
                limits.append(strictest(circuit.feeds))
            elif circuit.feeds is not None:
                limits.append(2 * FEEDER_DROP_RATIO)
        return min(limits)

    point = ask.tree.points[ask.circuit.feeds or ""]
    found = FEEDER_DROP_RATIO if point.starts_a_system else strictest(point.id)
    return FEEDER_DROP_RATIO if found >= 1.0 else found


def _inrush_x(ask: Ask, currents_a: tuple[float, ...], total_a: float) -> float:
    if not ask.accessories:
        return 1.0
    pairs = zip(ask.accessories, currents_a, strict=True)
    return sum(a.inrush_x * i for a, i in pairs) / total_a


def _source_ohm(ask: Ask, root: Point | None) -> float:
    if root is None or root.fed_by_vehicle:
        return ask.job.vehicle.battery.resistance_mohm * 1e-3
    if root.is_a.stores and root.battery is not None:
        return root.battery.resistance_mohm * 1e-3
    return SOURCE_OHM


def _held(ask: Ask, catalogue: Catalogue) -> Held:
    held, point = ask.circuit.held, ask.start_point
    if point is not None and is_channel(ask):
        rating_a = channel_fuse(point, ask.circuit.start.position, catalogue.fuse_family("blade"))
        high = ask.tree.nominal_v(ask.circuit.start.point) > 24.0
        family = HIGH_VOLT_BLADES[0] if high else "blade"
        return Held(family=family, fuse_a=rating_a, size=held.size)
    return Held(family=held.family, fuse_a=held.fuse_a, relay=held.relay, size=held.size)


def _ceilings(ask: Ask, *, in_path: bool) -> list[Ceiling]:
    ceilings = [
        Ceiling(element=f"maker's maximum of {a.name}", limit_a=a.fuse_max_a)
        for a in ask.accessories
        if a.fuse_max_a is not None
    ]
    if not is_channel(ask):  # behind a channel's own fuse the review of its leads tells it
        ceilings += [
            Ceiling(element=f"limit of {a.name}'s own lead", limit_a=a.lead_bears_a)
            for a in ask.accessories
            if a.lead_bears_a is not None
        ]
    if in_path and ask.switch is not None:
        ceilings.append(Ceiling(element=f"switch {ask.switch.name}", limit_a=ask.switch.rating_a))
    start = ask.start_point
    stated = start.position(ask.circuit.start.position) if start is not None else None
    rating_a = stated.rating_a if stated is not None else None
    if start is not None and rating_a is not None and not start.switches_its_positions:
        element = f"position {stated.name if stated else ''} of {start.name}"
        ceilings.append(Ceiling(element=element, limit_a=rating_a))
    if ask.circuit.feeds is not None:
        point = ask.tree.points[ask.circuit.feeds]
        if point.total_a is not None:
            ceilings.append(Ceiling(element=f"total rating of {point.name}", limit_a=point.total_a))
    return ceilings


def _cranking_a(ask: Ask, currents: Currents) -> float:
    """The most that flows for a while to a vehicle whose battery was moved. [A]"""
    point = ask.tree.points[ask.circuit.feeds or ""]
    return max(starting_a(ask.job.vehicle), currents.input_a(point))


def _feeds_winch(ask: Ask) -> bool:
    feeds = ask.circuit.feeds
    behind = ask.tree.starting.get(feeds, []) if feeds is not None else []
    return any(ask.job.accessory(i).model == "winch" for c in behind for i in c.accessory_ids)
