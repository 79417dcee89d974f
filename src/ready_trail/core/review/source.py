"""Review of sources: voltage, channels, banks, converters, taps, positions, selectivity."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    ChangePoint,
    HoldChoice,
    SetTogether,
    StartAt,
    StartBehindConverter,
)
from ready_trail.core.fuses import opening_time_s
from ready_trail.core.job import Channel, Job, Point
from ready_trail.core.kinds.finds import CONVERTER_RATIO, TAP_RATIO
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding, PointDesign
from ready_trail.core.review.base import (
    Check,
    Context,
    WholeCheck,
    at_battery,
    fuse_place,
    own_converter,
    own_start,
    second_point,
)
from ready_trail.core.sizing import FuseChoice
from ready_trail.core.supply.currents import SELECTIVE_X
from ready_trail.core.supply.tree import KEY_ORDER, LIT

AREA = "source"
_SAME_AREA_X = 0.95
"""Sizes of two systems that count as the same: 0.5 mm² and 20 AWG (house)."""
_SPARE_FROM = 4
_ONLY = {
    "accessory": "with the accessory key",
    "run": "with the ignition",
    "side": "with the side lights",
    "low": "with the low beam",
    "high": "with the high beam",
}


def check_voltage(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """An accessory's own voltage range against what its source gives at rest and charging."""
    tree = context.plan.tree
    rest_v, charging_v = tree.rest_v(design.circuit), tree.charging_v(design.circuit)
    for accessory in design.accessories:
        low_v, high_v = accessory.range_v
        if low_v <= rest_v and charging_v <= high_v:
            continue
        yield Finding(
            code="wrong_voltage",
            area=AREA,
            place=design.load_ref,
            severity="stop",
            text=f"{accessory.name} is made for {low_v:g} to {high_v:g} V; its source gives "
            f"{rest_v:.1f} V at rest and {charging_v:.1f} V charging.",
            why="Too much destroys it, too little leaves it dead. Feed it from a converter of its "
            "voltage, take another accessory, or state its own range from its label.",
            found=f"{rest_v:.1f} to {charging_v:.1f} V",
            allowed=f"{low_v:g} to {high_v:g} V",
            actions=(
                *_converters(design, context, low_v, high_v),
                *own_start(design, context.plan),
            ),
        )


def _converters(
    design: CircuitDesign, context: Context, low_v: float, high_v: float
) -> Iterator[Action]:
    """A point of the right voltage that is there, or a new converter."""
    tree, circuit_id = context.plan.tree, design.circuit.id
    for point in tree.points.values():
        nominal_v = tree.nominal_v(point.id)
        fits = low_v <= nominal_v * 1.05 <= high_v
        if point.is_a.keeps_output_v and fits and point.id != design.circuit.start.point:
            edit = StartAt(circuit_id=circuit_id, start=Channel(point=point.id))
            yield Action(label=f"Start it at {point.name}", edit=edit, alters=("fuse",))
            return
    vehicle_v = design.job.vehicle.nominal_v
    for output_v in (12, 24):
        if output_v < vehicle_v and low_v <= output_v * 1.05 <= high_v:
            new = StartBehindConverter(circuit_id=circuit_id, output_v=output_v)
            yield Action(
                label=f"Add a {vehicle_v} to {output_v} V converter for it",
                edit=new,
                alters=("fuse",),
            )
            return


def check_feed_wakes(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Where a circuit starts is live in every state in which it should be on."""
    use, circuit = design.use, design.circuit
    if not design.accessories or design.planned.refusal or circuit.rest_start is not None:
        return
    start = context.plan.tree.points.get(circuit.start.point)
    if start is not None and start.is_a.is_cut:
        return  # the vehicle decides when, as before
    waking = context.plan.tree.waking_of(circuit)
    dark = LIT[use.lights] - LIT[waking.lights] if not use.signal else frozenset()
    late = use.key != "always" and KEY_ORDER.index(waking.key) > KEY_ORDER.index(use.key)
    if not dark and not late:
        return
    lacks = _ONLY[waking.lights if dark else waking.key]
    away = replace(at_battery(design, "Start it at the battery"), alters=("when", "fuse"))
    yield Finding(
        code="feed_narrower",
        area=AREA,
        place=f"C{circuit.number}",
        severity="caution",
        text=f"The point where it starts is live only {lacks}.",
        why="It stays dead in states in which it should work. State when it is wanted, or start "
        "it elsewhere.",
        actions=(away,),
    )


def check_channel(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A channel never runs near its limit: the maker's share of its fuse, or the house's."""
    point = context.plan.tree.points.get(design.circuit.start.point)
    position = point.position(design.circuit.start.position) if point is not None else None
    if point is None or position is None or not point.switches_its_positions:
        return
    ratio = point.channel_ratio or design.job.rules.k_cont
    rating_a = position.rating_a
    if rating_a is None or design.current_a <= ratio * rating_a:
        return
    yield Finding(
        code="channel_load",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text=f"{point.name} {position.name} carries more than {ratio:.0%} of its {rating_a:g} A.",
        why="A channel at its limit opens on a hot day; let it trigger a relay instead.",
        found=f"{design.current_a:.1f} A",
        allowed=f"{ratio * rating_a:.1f} A",
        actions=(at_battery(design, "Fuse it at the battery"),),
    )


def check_second_fuse(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A fuse behind the vehicle's own, and no smaller, protects nothing that is not protected."""
    point = context.plan.tree.points.get(design.circuit.start.point)
    fuse = design.sizing.fuse
    if point is None or not point.is_a.taps_a_circuit or point.fuse_a is None or fuse is None:
        return
    if fuse.rating_a < point.fuse_a or design.circuit.held.fuse_a is None:
        return
    edit = HoldChoice(
        circuit_id=design.circuit.id,
        what="fuse_a",
        value=max((r for r in fuse.family.ratings_a if r < point.fuse_a), default=fuse.rating_a),
    )
    yield Finding(
        code="second_fuse",
        area=AREA,
        place=fuse_place(design),
        severity="note",
        text=f"The {fuse.rating_a:g} A fuse stands behind the vehicle's own {point.fuse_a:g} A.",
        why="Both carry the same current: the factory's opens first, and takes what else hangs on "
        "it along.",
        found=f"{fuse.rating_a:g} A",
        allowed=f"under {point.fuse_a:g} A",
        actions=(Action(label="Take a smaller one", edit=edit, alters=("fuse",)),),
    )


def check_spare_wire(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """The vehicle's own spare wire through the firewall bears the channel's fuse too."""
    point = context.plan.tree.points.get(design.circuit.start.point)
    chosen, fuse = design.sizing.chosen, design.sizing.fuse
    passes = design.device(lambda spec: spec.is_passage)
    if point is None or point.pass_mm2 is None or passes is None or chosen is None:
        return
    if fuse is None or point.pass_mm2 >= chosen.conductor.area_mm2 * _SAME_AREA_X:
        return
    yield Finding(
        code="spare_wire_thin",
        area=AREA,
        place=passes.ref,
        severity="stop",
        text=f"The spare wire through the firewall is thinner than what the {fuse.rating_a:g} A "
        "fuse asks for.",
        why="It would be the part that burns: take a smaller channel, or lead a wire of your own.",
        found=f"{point.pass_mm2:g} mm²",
        allowed=f"at least {chosen.conductor.area_mm2:.1f} mm²",
        actions=(at_battery(design, "Start it at the battery"),),
    )


def whole_points(made: Design, _: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Limits of every point against what runs together there."""
    for view in made.points.values():
        members = [made.circuit(i) for i in view.members]
        where = view.feeder_id or (view.members[0] if view.members else None)
        if where is None:
            continue
        for check in (_total, _bank, _converter, _tapped, _together):
            for finding in check(view, members):
                yield where, finding
        for circuit, finding in _positions(view, members):
            yield circuit, finding


def _total(view: PointDesign, members: list[CircuitDesign]) -> Iterator[Finding]:
    point = view.point
    if point.is_a.parts_battery:
        return  # the vehicle itself counts there too: see the review of disconnects
    if point.total_a is not None and view.total_a > point.total_a:
        yield Finding(
            code="point_total",
            area=AREA,
            place=view.ref,
            severity="stop",
            text=f"More runs together at {point.name} than it is rated for.",
            why="Its bus and studs overheat; move a circuit, or state what never runs together.",
            found=f"{view.total_a:.1f} A",
            allowed=f"{point.total_a:g} A",
            actions=_move_largest(members, point) + _second(view, members),
        )


def _bank(view: PointDesign, members: list[CircuitDesign]) -> Iterator[Finding]:
    point = view.point
    if not point.is_a.has_channel_bank:
        return
    steady_a = sum(c.current_a for c in members if c.sizing.request.rule.duty == "continuous")
    if point.continuous_a is not None and steady_a > point.continuous_a:
        yield Finding(
            code="bank_total",
            area=AREA,
            place=view.ref,
            severity="stop",
            text=f"The continuous loads on {point.name} exceed its own total.",
            why="Every channel may be within its fuse, and the bank still overloaded.",
            found=f"{steady_a:.1f} A",
            allowed=f"{point.continuous_a:g} A",
            actions=_move_largest(members, point),
        )
    fuses_a = sum(
        p.rating_a or 0.0
        for p in point.positions
        if any(c.circuit.start.position == p.name for c in members)
    )
    if point.fuse_a is not None and fuses_a > point.fuse_a:
        yield Finding(
            code="bank_fuses",
            area=AREA,
            place=view.ref,
            severity="stop",
            text=f"The fuses in use on {point.name} add up to more than it allows.",
            why="The maker's total is for the fuses as well as for the loads.",
            found=f"{fuses_a:g} A",
            allowed=f"{point.fuse_a:g} A",
            actions=_move_largest(members, point),
        )


def _converter(view: PointDesign, members: list[CircuitDesign]) -> Iterator[Finding]:
    point = view.point
    if not point.is_a.converts or point.output_a is None or not members:
        return
    limit_a = CONVERTER_RATIO * point.output_a
    if view.total_a <= limit_a:
        return
    over = view.total_a > point.output_a
    yield Finding(
        code="converter_limit",
        area=AREA,
        place=view.ref,
        severity="stop" if over else "caution",
        text=f"{point.name} is loaded above 80 % of its output.",
        why="Near its limit a converter folds back, and what hangs on it drops out.",
        found=f"{view.total_a:.1f} A",
        allowed=f"{limit_a:.1f} A of {point.output_a:g} A",
        actions=_larger_converter(point, view.total_a)
        + _second_converter(point, members)
        + (_move_largest(members, point) if _same_volts(view, members[0].job) else ()),
    )


def _larger_converter(point: Point, total_a: float) -> tuple[Action, ...]:
    sizes = (10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0)
    wanted = next((a for a in sizes if CONVERTER_RATIO * a >= total_a), None)
    if wanted is None:
        return ()
    edit = ChangePoint(point=point.model_copy(update={"output_a": wanted}))
    return (Action(label=f"Take one of {wanted:g} A", edit=edit),)


def _same_volts(view: PointDesign, job: Job) -> bool:
    """Whether a point gives the battery's own voltage, as a charger does."""
    return view.nominal_v == job.vehicle.nominal_v


def _second_converter(point: Point, members: list[CircuitDesign]) -> tuple[Action, ...]:
    """The largest of several circuits behind a converter of its own."""
    ends = [c for c in members if c.feeds is None]
    if len(ends) < 2:
        return ()
    largest = max(ends, key=lambda c: c.current_a)
    return own_converter(point, largest.circuit, largest.current_a)


def _tapped(view: PointDesign, members: list[CircuitDesign]) -> Iterator[Finding]:
    point = view.point
    if not point.is_a.taps_a_circuit or point.fuse_a is None or not members:
        return
    limit_a = TAP_RATIO * point.fuse_a
    if point.carries_a + view.total_a > limit_a:
        yield Finding(
            code="tapped_room",
            area=AREA,
            place=view.ref,
            severity="stop",
            text=f"{point.name} has no room for this: it carries {point.carries_a:g} A already.",
            why="A factory circuit above 80 % of its fuse opens when it is needed; take it as a "
            "trigger only.",
            found=f"{point.carries_a + view.total_a:.1f} A",
            allowed=f"{limit_a:.1f} A of {point.fuse_a:g} A",
            actions=_move_largest(members, point),
        )


def _together(view: PointDesign, members: list[CircuitDesign]) -> Iterator[Finding]:
    point = view.point
    if point.together_a is None or not members:
        return
    largest_a = max(c.current_a for c in members)
    derive = Action(
        label="Take what can be on together",
        edit=SetTogether(point_id=point.id, together_a=None),
        alters=("fuse",),
    )
    if point.together_a < largest_a:
        yield Finding(
            code="together_low",
            area=AREA,
            place=view.ref,
            severity="stop",
            text=f"What runs together at {point.name} is stated below its largest circuit alone.",
            why="Its feeder and main fuse were sized for that figure.",
            found=f"{point.together_a:g} A",
            allowed=f"at least {largest_a:.1f} A",
            actions=(derive,),
        )
    elif point.together_a < view.together_a - 0.05:
        yield Finding(
            code="together_stated",
            area=AREA,
            place=view.ref,
            severity="note",
            text=f"{point.name} is sized for {point.together_a:g} A as stated; "
            f"{view.together_a:.1f} A can be on in one state.",
            why="Right where somebody sees to it that not all runs at once.",
            actions=(derive,),
        )


def _positions(view: PointDesign, members: list[CircuitDesign]) -> Iterator[tuple[str, Finding]]:
    point = view.point
    if not point.positions:
        return
    used = {c.circuit.start.position for c in members if c.circuit.start.position}
    free = [p for p in point.positions if p.name not in used and not p.spare]
    for circuit in members:
        if circuit.circuit.start.position:
            continue
        actions: tuple[Action, ...] = ()
        if free:
            start = Channel(point=point.id, position=free[0].name)
            edit = StartAt(circuit_id=circuit.circuit.id, start=start)
            actions = (Action(label=f"Take position {free[0].name}", edit=edit),)
        else:
            actions = (at_battery(circuit, "Start it at the battery"),)
        full = not free
        yield (
            circuit.circuit.id,
            Finding(
                code="no_position",
                area=AREA,
                place=view.ref,
                severity="stop" if full else "caution",
                text=f"{point.name} has no position left for this circuit."
                if full
                else f"No position of {point.name} is stated for this circuit.",
                why="Two circuits on one fuse position are not protected apart."
                if full
                else "The fuse map needs it.",
                found=f"{len(members)} circuits",
                allowed=f"{len(point.positions)} positions",
                actions=actions,
            ),
        )
    where = view.feeder_id or (view.members[0] if view.members else None)
    if where and not free and len(point.positions) >= _SPARE_FROM and len(used) == len(members):
        yield (
            where,
            Finding(
                code="no_spare",
                area=AREA,
                place=view.ref,
                severity="note",
                text=f"{point.name} has no spare position left.",
                why="The next accessory will need another block.",
            ),
        )


def _second(view: PointDesign, members: list[CircuitDesign]) -> tuple[Action, ...]:
    """A second point beside this one."""
    return second_point(members[0].job, view.point, view.feeder_id) if members else ()


def _move_largest(members: list[CircuitDesign], point: Point) -> tuple[Action, ...]:
    movable = [c for c in members if not c.circuit.is_feeder]
    if not movable:
        return ()
    largest = max(movable, key=lambda c: c.current_a)
    return (at_battery(largest, f"Start {largest.circuit.name} at the battery"),)


def whole_selectivity(made: Design, catalogue: Catalogue) -> Iterator[tuple[str, Finding]]:
    """A branch fault must open the branch fuse before the main."""
    for circuit in made.circuits:
        fuse = circuit.sizing.fuse
        feeder_id = circuit.ahead[-1] if circuit.ahead else None
        start = made.points.get(circuit.circuit.start.point)
        if fuse is None or circuit.sizing.chosen is None or feeder_id is None:
            continue
        if start is None or start.point.starts_a_system or circuit.planned.parts is None:
            continue
        if len(start.members) < 2 and not start.point.is_a.has_switches:
            continue  # one fault darkens nothing else
        feeder = made.circuit(feeder_id)
        main = feeder.sizing.fuse
        if (
            main is None
            or feeder.planned.parts is None
            or main.rating_a >= (SELECTIVE_X * fuse.rating_a)
        ):
            continue
        faults = (circuit.sizing.chosen.far_short_a, circuit.sizing.prospective_a)
        if all(_branch_first(fuse, main, short_a) for short_a in faults):
            continue
        yield (
            circuit.circuit.id,
            Finding(
                code="selectivity",
                area=AREA,
                place=fuse_place(circuit),
                severity="caution",
                text=f"A fault here may open the {main.rating_a:g} A main before this "
                f"{fuse.rating_a:g} A fuse.",
                why="Then everything behind the main goes dark for one fault.",
                found=f"{main.rating_a / fuse.rating_a:.1f} ×",
                allowed=f"{SELECTIVE_X:g} ×",
                actions=_larger_main(feeder, SELECTIVE_X * fuse.rating_a, catalogue),
            ),
        )


def _branch_first(fuse: FuseChoice, main: FuseChoice, short_a: float) -> bool:
    slow_s = opening_time_s(fuse.family.gates, short_a / fuse.rating_a, slowest=True)
    fast_s = opening_time_s(main.family.gates, short_a / main.rating_a, slowest=False)
    return slow_s < fast_s


def _larger_main(feeder: CircuitDesign, least_a: float, catalogue: Catalogue) -> tuple[Action, ...]:
    """The next larger main: of its family, or of the next one that the feeder may take."""
    fuse, fusing = feeder.sizing.fuse, feeder.sizing.request.fusing
    most_a = feeder.feeds.total_a if feeder.feeds is not None else None
    if fuse is None or fusing is None:
        return ()
    held = feeder.circuit.held.family is not None
    others = () if held else (catalogue.fuse_families[name] for name in fusing.families)
    for family in (fuse.family, *others):
        larger = [r for r in family.ratings_a if least_a <= r <= family.holder_a]
        if larger:
            if most_a is not None and larger[0] > most_a:
                return ()
            edit = HoldChoice(circuit_id=feeder.circuit.id, what="fuse_a", value=larger[0])
            return (Action(label=f"Take a {larger[0]:g} A main", edit=edit, alters=("fuse",)),)
    return ()


CHECKS: tuple[Check, ...] = (
    check_voltage,
    check_feed_wakes,
    check_channel,
    check_second_fuse,
    check_spare_wire,
)
WHOLE: tuple[WholeCheck, ...] = (whole_points, whole_selectivity)
