"""Review of relays: contact, coil, suppression, and when it pulls in, by the solver."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.asking import ask_of
from ready_trail.core.edits import (
    FeedCoilFromCommon,
    FitCoilResistor,
    HoldChoice,
    MoveRelay,
    ReleaseChoice,
    StartAt,
    TriggerByIsolator,
)
from ready_trail.core.edits.remedy import free_output, with_use_edit
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.loads import start_x
from ready_trail.core.netlist import Coil
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.profile import load_nodes
from ready_trail.core.relays import relays_for, with_coil_for
from ready_trail.core.review.base import (
    Check,
    Context,
    fuse_place,
    own_start,
    pulling_point,
    shared_out,
    tapped,
)
from ready_trail.core.schemes import BY_KEY
from ready_trail.core.schemes.base import fed_and_earthed, has_pins_for
from ready_trail.core.schemes.ends import own_feed_closed
from ready_trail.core.solver import solve
from ready_trail.core.states import LIGHT_WORDS, LightState, VehicleState
from ready_trail.core.wording import lower_first
from ready_trail.core.working import contacts_of, pulling_state, taken_off, working_state

AREA = "relay"
SAGGING_V = 11.0
"""A tired battery under load, at which a relay should still pull in (house, 12 V)."""

CONTACT_START_X, START_STOP_X = 3.0, 2.0
"""What a contact makes over its rating, and how far above that it surely welds (typical)."""
_BACK_MOST_A = 0.02
_SPARE_X = 1.1
_ALIVE_RATIO = 0.5


def check_contact(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Lamp and motor starts wear a plain contact; a held relay must suit the supply."""
    relay, request = design.sizing.relay, design.sizing.request
    if relay is None:
        return
    place = f"K{design.circuit.number}"
    if not has_pins_for(relay, design.scheme):
        yield Finding(
            code="relay_pins",
            area=AREA,
            place=place,
            severity="stop",
            text=f"The {lower_first(relay.label)} has no "
            f"{'87a' if relay.has_make_contact else '87'}, and the load is wired to it.",
            why="A wire would hang on a pin that is not there, and the load stay dead.",
            actions=_release(design),
        )
        return
    peak_a, bears_a = start_a(design), CONTACT_START_X * relay.contact_a_23c
    if peak_a > bears_a and not design.scheme.for_winch:
        yield Finding(
            code="contact_inrush",
            area=AREA,
            place=place,
            severity="stop" if peak_a > START_STOP_X * bears_a else "caution",
            text="The start of this load is hard on the relay contact.",
            why="Contacts weld when a lamp, a motor or a capacitor starts; take the next larger "
            "relay.",
            found=f"{peak_a:.0f} A",
            allowed=f"{bears_a:.0f} A",
            actions=_larger(peak_a, design, context),
        )
    if relay.max_v < request.supply.charging_v:
        yield Finding(
            code="relay_voltage",
            area=AREA,
            place=place,
            severity="stop",
            text=f"The {lower_first(relay.label)} is not rated for this supply.",
            why="A contact that breaks above its voltage goes on arcing.",
            found=f"{request.supply.charging_v:.1f} V",
            allowed=f"{relay.max_v:g} V",
            actions=_release(design),
        )
    scheme = design.scheme
    if relay.has_rest_contact and not (scheme.chooses_output or scheme.at_rest):
        yield Finding(
            code="rest_contact_live",
            area=AREA,
            place=place,
            severity="note",
            text="87a is live at rest.",
            why="Leave it empty and insulate it.",
        )


def start_a(design: CircuitDesign) -> float:
    """Return what all that a circuit feeds draws at its start: as stated, else typical. [A]"""
    pairs = zip(design.accessories, design.planned.load_currents_a, strict=False)
    return sum(start_x(a.model, a.inrush_x) * amps for a, amps in pairs)


def check_pull_in(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Coil voltage with the real drops on a sagging battery, and whether the relay chatters."""
    coil = _coil(design)
    if coil is None or design.network is None:
        return
    place, at_rest = f"K{design.circuit.number}", design.scheme.at_rest
    if design.operating is not None and coil.name in design.operating.chatter:
        yield Finding(
            code="chatter",
            area=AREA,
            place=place,
            severity="stop",
            text="The relay switches itself off again and again.",
            why="Its own load takes away the coil's voltage; contacts burn within minutes.",
            actions=_release(design) + shared_out(design, context.plan),
        )
        return
    sagging_v = SAGGING_V * design.job.vehicle.nominal_v / 12
    if _surely_pulls_in(design, coil, sagging_v):
        return
    state = pulling_state(working_state(context.plan, design.circuit, sagging_v=sagging_v), design)
    try:
        point = solve(design.network, state)
    except NotConvergedError:
        return
    if not point.energised[coil.name]:
        across_v = abs(point.between_v(coil.a, coil.b))
        yield Finding(
            code="pull_in",
            area=AREA,
            place=place,
            severity="caution",
            text=f"On a battery at {sagging_v:.0f} V the relay may not pull in.",
            why="A warm coil needs more voltage; shorten the control path or cool the relay."
            + (" What it should take off stays on." if at_rest else ""),
            found=f"{across_v:.1f} V",
            allowed=f"at least {coil.pull_in_v:.1f} V",
            actions=_release(design) + cooler_place(design, context),
        )


def cooler_place(design: CircuitDesign, context: Context) -> tuple[Action, ...]:
    """A press that puts the relay into the coolest zone of its run, where that helps."""
    circuit = design.circuit
    if circuit.place is not None and circuit.place.switching is not None:
        return ()
    here_c = zone_ambient_c(segment_at(circuit.run, circuit.switching_at_m), context.catalogue)
    at_m, found = 0.0, (here_c - 1.0, 0.0, "")
    for segment in circuit.run:
        middle_m = at_m + segment.length_m / 2
        if middle_m > circuit.fuse_at_m:
            label = lower_first(context.catalogue.zones[segment.zone].label)
            found = min(found, (zone_ambient_c(segment, context.catalogue), middle_m, label))
        at_m += segment.length_m
    if not found[2]:
        return ()
    edit = MoveRelay(circuit_id=circuit.id, switching_at_m=round(found[1], 3))
    return (Action(label=f"Move the relay: {found[2]}, at {found[1]:.1f} m", edit=edit),)


def _surely_pulls_in(design: CircuitDesign, coil: Coil, sagging_v: float) -> bool:
    """Whether the coil has so much to spare now that a sagging battery cannot matter."""
    point = design.operating
    if point is None or not point.energised.get(coil.name):
        return False
    emf_v = point.state.source_v(design.job.vehicle.nominal_v)
    across_v = abs(point.between_v(coil.a, coil.b)) * min(1.0, sagging_v / emf_v)
    return across_v >= _SPARE_X * coil.pull_in_v


def check_off_when_off(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """With the trigger off, the relay must be off, even through lamps and other loads."""
    coil = _coil(design)
    use = design.use
    if coil is None or design.network is None or (use.lights == "any" and not use.signal):
        return
    if design.scheme.at_rest:
        return  # its feed decides when it is on
    unlit: tuple[LightState, ...] = ("off",) if use.signal else ("off", "side", "low")
    for lights in unlit if not use.also else ():
        if lights == use.lights or (use.lights == "side" and lights == "low"):
            continue
        on = frozenset({use.contact} if use.contact else set())
        on |= contacts_of(context.plan, design.circuit)
        state = VehicleState(key="run", lights=lights, on=on)
        try:
            point = solve(design.network, state)
        except NotConvergedError:
            continue
        if not point.energised[coil.name]:
            continue
        actions: tuple[Action, ...] = ()
        if design.circuit.coil_fed_from_30:
            edit = FeedCoilFromCommon(circuit_id=design.circuit.id)
            actions = (
                Action(label="Feed 86 from the headlamp common", edit=edit, alters=("when",)),
            )
        yield Finding(
            code="pulls_in_off",
            area=AREA,
            place=f"K{design.circuit.number}",
            severity="stop",
            text=f"The relay pulls in with the {LIGHT_WORDS[lights]}.",
            why="Current finds a way through the headlamp filaments to the coil.",
            found=f"{abs(point.between_v(coil.a, coil.b)):.1f} V",
            allowed=f"under {coil.release_v:.1f} V",
            actions=actions,
        )
        return


def check_taken_off(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """What is stated to take a load off does so."""
    if not design.use.unless or design.network is None or design.feeds is not None:
        return
    state = taken_off(working_state(context.plan, design.circuit), design.use)
    try:
        point = solve(design.network, state)
    except NotConvergedError:
        return
    load_v = point.between_v(*load_nodes(design))
    if load_v < _ALIVE_RATIO * design.sizing.request.supply.nominal_v:
        return
    plain = design.use.model_copy(update={"unless": ""})
    edit = with_use_edit(design.job, design.circuit, plain)
    label = "No longer let anything take it off"
    actions: tuple[Action, ...] = (Action(label=label, edit=edit, alters=("when", "fuse")),)
    cuts = BY_KEY["relay_cuts"]
    refusal = cuts.refusal(ask_of(design.job, context.plan.tree, design.circuit, design.current_a))
    if not refusal:
        hold = HoldChoice(circuit_id=design.circuit.id, what="scheme", value=cuts.key)
        actions = (
            Action(label=f"Take the {lower_first(cuts.label)}", edit=hold, alters=("when", "fuse")),
            *actions,
        )
    yield Finding(
        code="stays_on",
        area=AREA,
        place=f"C{design.circuit.number}",
        severity="stop",
        text=f"The {design.use.unless} signal does not take it off.",
        why="The scheme that is held has nothing that does."
        if not refusal
        else f"Only a relay's 87a does, and it cannot here: {refusal}.",
        found=f"{load_v:.1f} V",
        allowed="none",
        actions=actions,
    )


def check_coil_from_30(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Feeding 86 from 30 on an earth-switched vehicle is common, and a trap.

    Where the coil already pulls in with the lights off, that stop tells of the same cause.
    """
    if any(check_off_when_off(design, context)):
        return
    if design.circuit.coil_fed_from_30 and design.scheme.coil_may_bridge_30:
        edit = FeedCoilFromCommon(circuit_id=design.circuit.id)
        yield Finding(
            code="coil_from_30",
            area=AREA,
            place=f"K{design.circuit.number}",
            severity="caution",
            text="86 is fed from 30 instead of the headlamp common.",
            why="The coil stays live with everything off, and leaks through the filaments.",
            actions=(
                Action(label="Feed 86 from the headlamp common", edit=edit, alters=("when",)),
            ),
        )


def check_suppression(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A coil on a wire of a supervised vehicle needs suppression."""
    relay = design.sizing.relay
    if relay is None or design.job.vehicle.data_bus != "supervised":
        return
    if not tapped(design, context):
        return
    if relay.suppression == "none":
        actions: tuple[Action, ...] = ()
        if relay.key == "mini_no":
            edit = HoldChoice(circuit_id=design.circuit.id, what="relay", value="mini_no_r")
            actions = (Action(label="Use a relay with a coil resistor", edit=edit),)
        fit = FitCoilResistor(circuit_id=design.circuit.id)
        actions += (Action(label="Put a resistor across the coil", edit=fit),)
        yield Finding(
            code="unsuppressed",
            area=AREA,
            place=f"K{design.circuit.number}",
            severity="caution",
            text="This coil has no suppression, on a supervised vehicle.",
            why="The spike when it switches off can upset or damage a control unit.",
            actions=actions,
        )


def check_trigger(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """What triggers a coil gives or takes no more than its maker allows."""
    coil, point, use = _coil(design), pulling_point(design), design.use
    if coil is None or point is None or use.channel is not None:
        return
    drawn_a = abs(point.branch_a.get(coil.name, 0.0))
    job = design.job
    by = (use.unless,) if design.scheme.at_rest else (use.follows, use.also)
    limits = [(f"the {s} signal", job.signal_most_a(s)) for s in by if s]
    limits = [(use.unit, use.unit_most_a)] if use.unit else limits
    for name, most_a in limits:
        if most_a is None or drawn_a <= most_a:
            continue
        yield Finding(
            code="trigger_overload",
            area=AREA,
            place=f"K{design.circuit.number}",
            severity="stop",
            text=f"The coil draws more than {name} may carry.",
            why="A control unit's output that is overloaded switches off, or dies. Let it trigger "
            "a signal isolator or a small relay that draws less.",
            found=f"{drawn_a * 1000:.0f} mA",
            allowed=f"{most_a * 1000:.0f} mA",
            actions=_weaker(design, context, most_a),
        )


def _weaker(design: CircuitDesign, context: Context, most_a: float) -> tuple[Action, ...]:
    """A relay of the catalogue whose coil draws little enough, if one carries the fuse."""
    fuse, coil_v = design.sizing.fuse, design.sizing.request.coils_v
    for key in relays_for(design.sizing.request.supply.nominal_v):
        relay = with_coil_for(context.catalogue.relays[key], coil_v)
        enough = fuse is not None and relay.contact_a_85c >= fuse.rating_a
        enough = enough and has_pins_for(relay, design.scheme)
        if enough and coil_v * 1.2 / relay.coil_ohm <= most_a:
            edit = HoldChoice(circuit_id=design.circuit.id, what="relay", value=key)
            return (Action(label=f"Take the {lower_first(relay.label)}", edit=edit),)
    return by_isolator(design) or _without_unit(design)


def by_isolator(design: CircuitDesign) -> tuple[Action, ...]:
    """The same signal by way of an isolator, which takes milliamps: nothing else changes."""
    use = design.use
    if (
        use.unit
        or use.also
        or use.unless
        or use.while_on
        or use.channel is not None
        or use.follows == "always"
    ):
        return ()
    edit = TriggerByIsolator(circuit_id=design.circuit.id)
    job, circuit = design.job, design.circuit
    for point in job.points:
        free = free_output(job, point)
        position = point.position(free.position) if free is not None else None
        if free is None or position is None:
            continue
        through = Action(label=f"Take it through {point.name} {free.position}", edit=edit)
        share = point.channel_ratio or job.rules.k_cont
        bears = position.rating_a is None or design.current_a <= share * position.rating_a
        follows_lamps = bool(use.signal) or use.lights != "any"
        if not bears or not follows_lamps or use.switch or not design.accessories:
            return (through,)
        move = StartAt(circuit_id=circuit.id, start=free)
        words = f"Move it to {point.name} {free.position}: no relay, no fuse of its own"
        return (Action(label=words, edit=move, alters=("fuse",)), through)
    return (Action(label="Take it through a signal isolator", edit=edit),)


def _without_unit(design: CircuitDesign) -> tuple[Action, ...]:
    """Follow the key alone where a unit's output takes too little, and say so."""
    if not design.accessories or not design.use.unit:
        return ()
    plain = design.use.model_copy(update={"unit": "", "unit_most_a": None})
    label = f"No longer let {design.use.unit} decide: on whenever the rest says so"
    edit = with_use_edit(design.job, design.circuit, plain)
    return (Action(label=label, edit=edit, alters=("when", "fuse")),)


def check_back_feed(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """What the vehicle also feeds must not feed this circuit's own source back."""
    network = design.network
    if network is None or not fed_and_earthed(design.accessories):
        return
    feed = own_feed_closed(design.accessories[0].own_feed, design.circuit.name)
    on = frozenset({design.use.contact} - {""}) | ({feed.switch} if feed.switch else set())
    lights: LightState = "low" if feed.lights else "off"
    wire = next((w for w in design.wires if w.role in ("feed", "power")), None)
    first = next(iter(wire.resistors()), None) if wire is not None else None
    if first is None:
        return
    try:
        point = solve(network, VehicleState(lights=lights, on=on))
    except NotConvergedError:
        return
    back_a = -point.branch_a.get(first.name, 0.0)
    if back_a <= _BACK_MOST_A:
        return
    edit = HoldChoice(circuit_id=design.circuit.id, what="scheme", value="kept_feed")
    yield Finding(
        code="back_feeds",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text="Its own factory feed flows back through this circuit while the key is off.",
        why="What hangs on the same point comes on by itself, and drains the battery.",
        found=f"{back_a:.2f} A",
        allowed="none",
        actions=(Action(label="Put a relay between the two feeds", edit=edit),),
    )


def check_operating_point(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A circuit without an operating point: no voltage can be told."""
    if design.unsolved:
        yield Finding(
            code="no_operating_point",
            area=AREA,
            place=fuse_place(design),
            severity="stop",
            text="This circuit finds no steady state.",
            why=f"The load asks for more than its source and wires can give ({design.unsolved}).",
            found=f"{design.current_a:.0f} A",
            actions=own_start(design, context.plan) + shared_out(design, context.plan),
        )


def check_alive(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """In the state in which it should work, it must get its voltage."""
    relay = design.sizing.relay
    if design.profile is None or design.feeds is not None:
        return
    if relay is not None and not has_pins_for(relay, design.scheme):
        return  # told where it is
    nominal_v = design.sizing.request.supply.nominal_v
    for end in design.outlets:
        if end.profile is None or end.profile.load_v >= _ALIVE_RATIO * nominal_v:
            continue
        yield Finding(
            code="dead_when_on",
            area=AREA,
            place=end.outlet.ref,
            severity="stop",
            text="It gets no voltage in the state in which it should work.",
            why="Something on its way stays open: a relay that does not pull in, a converter that "
            "is not enabled, a signal that never comes.",
            found=f"{end.profile.load_v:.1f} V",
            allowed=f"about {nominal_v:g} V",
            actions=_release(design) + own_start(design, context.plan),
        )


def _coil(design: CircuitDesign) -> Coil | None:
    device = design.relay_device
    if device is None:
        return None
    return next(e for e in device.elements() if isinstance(e, Coil))


def _larger(peak_a: float, design: CircuitDesign, context: Context) -> tuple[Action, ...]:
    """The smallest relay that takes this start, held."""
    for key in relays_for(design.sizing.request.supply.nominal_v):
        relay = context.catalogue.relays[key]
        if not has_pins_for(relay, design.scheme):
            continue
        if peak_a <= CONTACT_START_X * relay.contact_a_23c:
            edit = HoldChoice(circuit_id=design.circuit.id, what="relay", value=key)
            return (Action(label=f"Take the {lower_first(relay.label)}", edit=edit),)
    return _release(design)


def _release(design: CircuitDesign) -> tuple[Action, ...]:
    if design.circuit.held.relay is None:
        return ()
    edit = ReleaseChoice(circuit_id=design.circuit.id, what="relay")
    return (Action(label="Choose the relay automatically", edit=edit),)


CHECKS: tuple[Check, ...] = (
    check_operating_point,
    check_contact,
    check_pull_in,
    check_off_when_off,
    check_taken_off,
    check_coil_from_30,
    check_suppression,
    check_trigger,
    check_back_feed,
    check_alive,
)
