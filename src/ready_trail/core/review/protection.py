"""Review of protection: the fuse, its place, what it protects and what it can break."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    FitEndFuse,
    HoldChoice,
    MoveFuse,
    PutOnCircuit,
    SeparateRun,
    SetDuty,
    SetHouseRules,
    SplitAccessory,
    StartAt,
)
from ready_trail.core.fuses import prospective_short_a
from ready_trail.core.job import BATTERY, Channel, Circuit
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding, Severity
from ready_trail.core.review.base import (
    Check,
    Context,
    WholeCheck,
    at_battery,
    fuse_place,
    main_wire,
    opens_words,
    releases,
    shared_out,
)
from ready_trail.core.sizing import (
    Sizing,
    Steady,
    WayOut,
    WinchPull,
    ways_out,
)
from ready_trail.core.wording import lower_first

AREA = "protection"
INTERRUPT_CAUTION_X, INTERRUPT_STOP_X = 2.0, 4.0
"""At 12 V the arc goes out more easily than at the family's full voltage (trade)."""

_UNSIZED = {
    "fuse": (
        "No fuse of the allowed families holds this load.",
        "Without a fuse that holds the load and its start, it would open in normal use.",
    ),
    "relay": (
        "No relay contact is rated for this fuse.",
        "A contact behind a larger fuse can weld before the fuse opens.",
    ),
    "wire": (
        "No wire size satisfies every rule.",
        "The thickest wire listed still fails ampacity, drop or clearing.",
    ),
}


def check_sized(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Nothing in the catalogue satisfies every rule: say which and offer what was tried."""
    sizing = design.sizing
    if design.planned.trouble and sizing.why == "range":
        yield Finding(
            code="out_of_range",
            area=AREA,
            place=fuse_place(design),
            severity="stop",
            text="These figures lie outside what can be worked out.",
            why=f"{design.planned.trouble} Change the load, the run or what is held.",
            found=f"{design.current_a:.1f} A on {design.circuit.run_m:.1f} m",
            actions=releases(design),
        )
        return
    if sizing.ok or sizing.chosen is not None or sizing.why == "insulation":
        return
    actions = _actions(design, ways_out(sizing, context.catalogue))
    if sizing.why == "held":
        yield Finding(
            code="held_rating",
            area=AREA,
            place=fuse_place(design),
            severity="stop",
            text="The held rating does not exist in the held family.",
            why="Nothing can be drawn with a fuse that nobody makes.",
            found=f"{design.circuit.held.fuse_a:g} A",
            actions=releases(design),
        )
        return
    text, why = _UNSIZED.get(str(sizing.why), ("This circuit cannot be sized.", ""))
    if sizing.capped_by is not None and sizing.fuse is not None:
        text = (
            f"The load asks for {sizing.fuse.rating_a:g} A, above the {sizing.capped_by.element}."
        )
        why = "What is rated under its fuse is not protected by it."
    yield Finding(
        code="unsized",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text=text,
        why=why,
        found=f"{design.current_a:.1f} A",
        actions=releases(design) + actions + _elsewhere(design) + shared_out(design, context.plan),
    )


def check_fed(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A circuit at a point that no current reaches."""
    trouble = design.planned.trouble
    if not trouble or design.sizing.why == "range":
        return
    yield Finding(
        code="unfed",
        area=AREA,
        place=f"C{design.circuit.number}",
        severity="stop",
        text=f"Nothing reaches this circuit: {trouble}.",
        why="Its voltage cannot be told, and it would not work.",
        actions=(at_battery(design, "Start it at the battery"),),
    )


def check_unprotected_lead(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """The lead between source and fuse is protected by nothing."""
    circuit, limit_m = design.circuit, design.job.rules.unprotected_m
    own = design.planned.parts.devices if design.planned.parts is not None else ()
    unfused = all(d.ref != fuse_place(design) for d in own)
    if design.device(lambda spec: spec.is_isolator) is not None and unfused:
        rules = design.job.rules.model_copy(update={"winch_protection": "both"})
        yield Finding(
            code="winch_unfused",
            area=AREA,
            place=f"Q{circuit.number}",
            severity="caution",
            text="The winch cable has a battery isolator and no fuse, by this house's school.",
            why="While the battery isolator is closed, a chafed cable is a short that nothing "
            "opens. Close it to winch only, and accept this with that rule in writing; or fit a "
            "fuse too.",
            actions=(Action(label="Battery isolator and fuse", edit=SetHouseRules(rules=rules)),),
        )
        return
    lead = next((w for w in design.wires if w.role == "feed"), None)
    lead_m = circuit.fuse_at_m if design.planned.parts is None else (lead.length_m if lead else 0.0)
    if lead_m <= limit_m + 1e-9 or (lead is None and circuit.start.point != BATTERY):
        return
    yield Finding(
        code="unprotected",
        area=AREA,
        place=lead.label if lead else fuse_place(design),
        severity="stop",
        text=f"{lead_m * 1000:.0f} mm of wire lie between the source and the fuse.",
        why="A chafe there is a dead short that nothing opens.",
        found=f"{lead_m * 1000:.0f} mm",
        allowed=f"{limit_m * 1000:.0f} mm",
        actions=(
            Action(
                label=f"Move the fuse to {limit_m * 1000:.0f} mm",
                edit=MoveFuse(circuit_id=circuit.id, fuse_at_m=limit_m),
            ),
        ),
    )


def check_fuse_protects_wire(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """The fuse must lie under the ampacity of every wire behind it, and clear its far end."""
    sizing = design.sizing
    rung, fuse = sizing.chosen, sizing.fuse
    if rung is None or fuse is None:
        return
    place = fuse_place(design)
    if "ampacity" in rung.rejects:
        yield Finding(
            code="fuse_over_wire",
            area=AREA,
            place=place,
            severity="stop",
            text=f"The {fuse.rating_a:g} A fuse lets more through than the "
            f"{rung.conductor.label} wire carries.",
            why="The wire overheats before the fuse opens.",
            found=f"{fuse.rating_a:g} A",
            allowed=f"{rung.ampacity_a:.1f} A",
            actions=releases(design) + _actions(design, ways_out(sizing, context.catalogue)),
        )
    if "short_time" in rung.rejects and isinstance(winch := sizing.request.rule, WinchPull):
        yield Finding(
            code="cable_short_time",
            area=AREA,
            place=place,
            severity="stop",
            text=f"The {rung.conductor.label} cable does not carry the rated pull for its time.",
            why="Winch cables are sized for one long pull from cold.",
            found=f"{winch.full_a:.0f} A",
            allowed=f"{rung.ampacity_a:.0f} A",
            actions=releases(design),
        )
    if "clearing" in rung.rejects:
        least_a = fuse.family.clearing_x * fuse.rating_a
        yield Finding(
            code="far_short_slow",
            area=AREA,
            place=place,
            severity="stop",
            text="A short at the far end does not open the fuse fast enough.",
            why="A long thin wire limits the fault current to what the fuse tolerates.",
            found=f"{rung.far_short_a:.0f} A",
            allowed=f"at least {least_a:.0f} A",
            actions=releases(design),
        )
    if "withstand" in rung.rejects:
        yield Finding(
            code="far_short_burns",
            area=AREA,
            place=place,
            severity="stop",
            text="A short at the far end outlasts the wire's insulation.",
            why="The slowest fuse of this family opens later than the insulation survives.",
            found=opens_words(rung.far_short_opens_s),
            allowed=f"within {rung.withstand_s:.2f} s",
            actions=releases(design),
        )


def check_fuse_holds_load(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A held fuse may be too small for the load or for its start."""
    fuse, request = design.sizing.fuse, design.sizing.request
    if fuse is None or design.fuse_device is None:
        return
    place = fuse_place(design)
    if not fuse.meets_load:
        yield Finding(
            code="fuse_under_load",
            area=AREA,
            place=place,
            severity="caution",
            text=f"The {fuse.rating_a:g} A fuse is loaded above what it holds where it sits.",
            why="It ages and opens in normal use, most likely on a hot day.",
            found=f"{design.current_a:.1f} A",
            allowed=f"{fuse.holds_a:.1f} A",
            actions=releases(design),
        )
    if not fuse.meets_inrush and isinstance(rule := request.rule, Steady):
        yield Finding(
            code="fuse_under_inrush",
            area=AREA,
            place=place,
            severity="caution",
            text=f"The {fuse.rating_a:g} A fuse may open when the accessory starts.",
            why="Its fastest opening time is under 1.5 times the inrush time.",
            found=f"{rule.inrush_x * request.current_a:.0f} A for {rule.inrush_s:g} s",
            actions=releases(design),
        )
    if fuse.by_maker:
        yield Finding(
            code="makers_fuse",
            area=AREA,
            place=place,
            severity="note",
            text=f"The fuse is the maker's {fuse.rating_a:g} A, under the peak of "
            f"{design.current_a:.0f} A.",
            why="The maker knows the duty; the wire carries the peak.",
        )


def check_ceiling(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Nothing behind the fuse may be rated under it."""
    sizing = design.sizing
    if sizing.capped_by is None or sizing.fuse is None or sizing.chosen is None:
        return
    yield Finding(
        code="fuse_over_element",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text=f"The {sizing.fuse.rating_a:g} A fuse is above the {sizing.capped_by.element}.",
        why="What is rated under its fuse is not protected by it.",
        found=f"{sizing.fuse.rating_a:g} A",
        allowed=f"{sizing.capped_by.limit_a:.0f} A",
        actions=releases(design)
        + _actions(design, ways_out(sizing, context.catalogue))
        + _position(design, sizing.fuse.rating_a, context)
        + _elsewhere(design)
        + _fewer_behind(design)
        + shared_out(design, context.plan),
    )


def _fewer_behind(design: CircuitDesign) -> tuple[Action, ...]:
    """Less behind one fuse: it gets smaller then, down to what a thin lead or a label bears."""
    units = design.accessories
    if len(units) < 2:
        return ()
    apart = PutOnCircuit(accessory_id=units[-1].id, circuit_id="new")
    return (Action(label=f"Give {units[-1].name} a circuit of its own", edit=apart),)


def _position(design: CircuitDesign, least_a: float, context: Context) -> tuple[Action, ...]:
    """A free position of the same point that takes the fuse."""
    tree, circuit = context.plan.tree, design.circuit
    point = tree.points.get(circuit.start.point)
    if point is None or point.switches_its_positions:
        return ()
    used = {c.start.position for c in tree.starting.get(point.id, ())}
    for position in point.positions:
        bears = position.rating_a is None or position.rating_a >= least_a
        if bears and not position.spare and position.name not in used:
            start = Channel(point=point.id, position=position.name)
            edit = StartAt(circuit_id=circuit.id, start=start)
            return (Action(label=f"Take position {position.name} of {point.name}", edit=edit),)
    return ()


def _elsewhere(design: CircuitDesign) -> tuple[Action, ...]:
    """The battery, where neither position nor feeder is in the way."""
    if design.circuit.start.point == BATTERY:
        return ()
    return (at_battery(design, "Start it at the battery, with a fuse of its own"),)


def whole_interrupting(made: Design, catalogue: Catalogue) -> Iterator[tuple[str, Finding]]:
    """The fuse must be able to break the short-circuit current right behind it, or one ahead.

    One cause is one finding: behind a main that could cure it, it stands at that main alone.
    """
    told: dict[str, list[tuple[float, CircuitDesign]]] = {}
    for circuit in made.circuits:
        ratio = _break_ratio(circuit)
        chain = made.plan.tree.chain(circuit.circuit)
        if ratio <= 1.0 or (chain and _can_break(made.plan.circuits[chain[0].id].sizing)):
            continue
        main = chain[0].id if chain else circuit.circuit.id
        told.setdefault(main, []).append((ratio, circuit))
    for main, behind in told.items():
        ratio, circuit = max(behind, key=lambda b: b[0])
        count = len(behind)
        sizing, fuse = circuit.sizing, circuit.sizing.fuse
        if fuse is None:
            continue
        severity: Severity = "stop" if ratio > INTERRUPT_STOP_X else "caution"
        if ratio <= INTERRUPT_CAUTION_X and sizing.request.supply.nominal_v <= 12:
            severity = "note"
        own = main == circuit.circuit.id
        where = "the fuse" if own else f"{fuse_place(circuit)} of {circuit.circuit.name}"
        more = f", and {count - 1} more behind the same main" if count > 1 else ""
        yield (
            main,
            Finding(
                code="interrupting",
                area=AREA,
                place=fuse_place(circuit),
                severity=severity,
                text=f"A dead short just behind {where} is more than its family is rated to break"
                f"{more}.",
                why="The rating is for the family's full voltage. Far above it a fuse may arc or "
                "burst; a main fuse ahead that can break it, or a longer cable, cures it.",
                found=f"{sizing.prospective_a:.0f} A",
                allowed=f"{fuse.family.interrupting_a:.0f} A",
                actions=_breakers(circuit, made, catalogue),
            ),
        )


def _break_ratio(design: CircuitDesign) -> float:
    """The short just behind a circuit's own fuse over what its family breaks."""
    sizing = design.sizing
    if sizing.fuse is None or sizing.chosen is None or design.fuse_device is None:
        return 0.0
    return sizing.prospective_a / sizing.fuse.family.interrupting_a


def _can_break(sizing: Sizing) -> bool:
    """Whether the fuse at the source of a system can break what flows there."""
    fuse = sizing.fuse
    return fuse is not None and sizing.prospective_a <= fuse.family.interrupting_a


def check_fuse_voltage(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A fuse is rated for the voltage of its supply, while that charges."""
    sizing, fuse = design.sizing, design.sizing.fuse
    if fuse is None or sizing.chosen is None or design.fuse_device is None:
        return
    charging_v = sizing.request.supply.charging_v
    if fuse.family.max_v < charging_v:
        yield Finding(
            code="fuse_voltage",
            area=AREA,
            place=fuse_place(design),
            severity="stop",
            text=f"The {lower_first(fuse.family.label)} is not rated for this supply.",
            why="Above its voltage a fuse may go on arcing after it has opened.",
            found=f"{charging_v:.1f} V",
            allowed=f"{fuse.family.max_v:g} V",
            actions=releases(design),
        )


def _at_a_post(design: CircuitDesign, circuit: Circuit) -> bool:
    """Whether a circuit starts on a battery's post: the vehicle's own, or a second one's."""
    start = circuit.start.point
    return start == BATTERY or design.job.point(start).is_a.stores


def _breakers(design: CircuitDesign, made: Design, catalogue: Catalogue) -> tuple[Action, ...]:
    """A block fuse on the post: for this circuit if it starts there, else for its main."""
    chain = made.plan.tree.chain(design.circuit)
    main = chain[0] if chain else design.circuit
    if not _at_a_post(design, main):
        return ()
    planned = made.plan.circuits[main.id]
    post = catalogue.fuse_families["post_block"]
    fuse = planned.sizing.fuse
    if fuse is None or fuse.family is post or not any(r >= fuse.rating_a for r in post.ratings_a):
        return ()
    short_a = prospective_short_a(
        open_circuit_v=design.sizing.request.supply.open_circuit_v,
        ahead_ohm=design.sizing.request.supply.ohm,
        fuse_ohm=post.resistance_ohm(fuse.rating_a),
    )
    if short_a > post.interrupting_a:
        return ()
    own = main.id == design.circuit.id
    label = "Use a block fuse on the post" if own else f"Fuse {main.name} on the post"
    edit = HoldChoice(circuit_id=main.id, what="family", value="post_block")
    return (Action(label=label, edit=edit, alters=("fuse",)),)


def check_two_sources(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A wire that joins two storage sources has a fuse at both ends."""
    feeds = design.feeds
    if feeds is None or design.circuit.end_fuse:
        return
    if not (feeds.is_a.stores or feeds.is_a.holds_vehicle):
        return
    other = "battery" if feeds.is_a.stores else "alternator"
    yield Finding(
        code="one_end_fused",
        area=AREA,
        place=main_wire(design),
        severity="stop",
        text=f"The link to {feeds.name} has a fuse at one end only.",
        why=f"Battery and {other} can each feed a short; each end needs its own fuse.",
        actions=(
            Action(label="Fuse the far end too", edit=FitEndFuse(circuit_id=design.circuit.id)),
        ),
    )


def check_auto_reset(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A breaker that closes again by itself, on something that then starts by itself."""
    fuse = design.sizing.fuse
    if fuse is None or not fuse.family.closes_again:
        return
    lights_only = bool(design.accessories) and all(
        a.model in ("filament", "constant_power") for a in design.accessories
    )
    moves = any(a.model in ("motor", "winch") for a in design.accessories)
    if lights_only and not moves:
        return
    yield Finding(
        code="closes_again",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text="An auto-reset breaker closes again by itself.",
        why="What it feeds would start again unasked; only lights may come back on by themselves.",
        actions=releases(design),
    )


def _actions(design: CircuitDesign, tried: tuple[WayOut, ...]) -> tuple[Action, ...]:
    """Turn ways out that were tried into edits, where one press can do them."""
    found = []
    for way in tried:
        name, _, value = way.kind.partition(":")
        make = _AS_EDIT.get(name)
        action = make(design, way.text, value) if make is not None else None
        found += [action] if action is not None else []
    return tuple(found)


def _split(design: CircuitDesign, text: str, _: str) -> Action | None:
    units = design.accessories
    if not units or units[0].quantity < 2:
        return None
    return Action(label=text, edit=SplitAccessory(accessory_id=units[0].id))


def _makers_fuse(design: CircuitDesign, text: str, _: str) -> Action | None:
    edit = SetDuty(circuit_id=design.circuit.id, duty="intermittent")
    return Action(label=text, edit=edit) if design.accessories else None


def _family(design: CircuitDesign, text: str, value: str) -> Action | None:
    if value == "post_block" and not _at_a_post(design, design.circuit):
        return None
    hold = HoldChoice(circuit_id=design.circuit.id, what="family", value=value)
    return Action(label=text, edit=hold, alters=("fuse",))


def _insulation(design: CircuitDesign, text: str, value: str) -> Action | None:
    hold = HoldChoice(circuit_id=design.circuit.id, what="insulation_c", value=value)
    words = f"Replace its wire by one of {value} °C" if design.circuit.kept else text
    return Action(label=words, edit=hold)


def _separate(design: CircuitDesign, text: str, _: str) -> Action | None:
    if design.circuit.place is not None:  # a layout says which looms it shares
        return None
    return Action(label=text, edit=SeparateRun(circuit_id=design.circuit.id))


_AS_EDIT = {
    "split": _split,
    "makers_fuse": _makers_fuse,
    "family": _family,
    "insulation": _insulation,
    "separate": _separate,
}


CHECKS: tuple[Check, ...] = (
    check_sized,
    check_fed,
    check_unprotected_lead,
    check_fuse_protects_wire,
    check_fuse_holds_load,
    check_ceiling,
    check_fuse_voltage,
    check_two_sources,
    check_auto_reset,
)
WHOLE: tuple[WholeCheck, ...] = (whole_interrupting,)
