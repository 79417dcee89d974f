"""Review of switching: the scheme, hand switches, guards, interlocks, taps, function wires."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    ChangeAccessory,
    ChangeSwitch,
    GiveSwitch,
    PutOnCircuit,
    ReleaseChoice,
    WakePoint,
)
from ready_trail.core.edits.remedy import with_use_edit
from ready_trail.core.installation import lamps_owner
from ready_trail.core.job import Accessory, Job
from ready_trail.core.job.accessory import Use
from ready_trail.core.loads import start_x
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding
from ready_trail.core.review.base import Check, Context, WholeCheck, tapped
from ready_trail.core.review.relay import CONTACT_START_X, START_STOP_X, by_isolator
from ready_trail.core.review.usage import moves_people_or_loads
from ready_trail.core.schemes.direct import DIRECT_SWITCH_RATIO
from ready_trail.core.wording import lower_first

AREA = "switch"
_KEY_WORDS = {
    "always": "at any time",
    "accessory": "with the accessory key",
    "run": "with the ignition",
}


def check_scheme(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A scheme that cannot do what the circuit's use asks for."""
    refusal = design.planned.refusal
    if not refusal:
        return
    actions: tuple[Action, ...] = ()
    if design.circuit.held.scheme:
        edit = ReleaseChoice(circuit_id=design.circuit.id, what="scheme")
        actions = (
            Action(label="Choose the scheme automatically", edit=edit, alters=("when", "fuse")),
        )
    elif not design.use.switch and design.accessories and design.scheme.for_winch:
        actions = _given_switch(design.accessories[0], design.job, guarded=True)
    elif design.use.lights != "any" and design.accessories and design.scheme.for_winch:
        use = design.use.model_copy(update={"lights": "any", "key": "run"})
        follow = _with_use(design.accessories[0], use)
        actions = (
            Action(
                label="Let it follow the ignition, no longer the lights",
                edit=follow,
                alters=("when", "fuse"),
            ),
        )
    elif design.use.lights == "low" and len(design.accessories) == 1 and not design.circuit.output:
        # the wire of side lights is live when on, whichever side the headlamps are switched on
        follow = _with_use(
            design.accessories[0], design.use.model_copy(update={"lights": "side", "also": ""})
        )
        actions = (
            Action(label="Let it follow the side lights", edit=follow, alters=("when", "fuse")),
        )
    yield Finding(
        code="scheme",
        area=AREA,
        place=f"C{design.circuit.number}",
        severity="stop",
        text=f"{design.scheme.label} does not serve here: {refusal}.",
        why="It would be on, or off, when it should not be.",
        actions=actions,
    )


def check_winch_alone(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A winch is fed alone, by its own scheme."""
    winches = [a for a in design.accessories if a.model == "winch"]
    if not winches:
        return
    if len(design.accessories) > 1 or not design.scheme.for_winch:
        actions: tuple[Action, ...] = ()
        if design.circuit.held.scheme:
            edit = ReleaseChoice(circuit_id=design.circuit.id, what="scheme")
            actions = (
                Action(label="Choose the scheme automatically", edit=edit, alters=("when", "fuse")),
            )
        elif len(design.accessories) > 1:
            apart = PutOnCircuit(accessory_id=winches[0].id, circuit_id="new")
            actions = (Action(label="Give the winch its own circuit", edit=apart),)
        yield Finding(
            code="winch_shared",
            area=AREA,
            place=f"C{design.circuit.number}",
            severity="stop",
            text="A winch needs its own pair of cables and its own contactor.",
            why="Sized as an ordinary load, its cables and contacts would burn at stall.",
            actions=actions,
        )


def check_switch_load(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A switch in the power path works at up to 80 % of its rating."""
    switch = design.job.switch(design.use.switch) if design.use.switch else None
    if design.scheme.switch_role != "path" or switch is None:
        return
    limit_a = DIRECT_SWITCH_RATIO * switch.rating_a
    if design.current_a > limit_a:
        release = ReleaseChoice(circuit_id=design.circuit.id, what="scheme")
        yield Finding(
            code="switch_load",
            area=AREA,
            place=f"S{switch.number}",
            severity="stop",
            text=f"The switch {switch.name} carries the load above its working limit.",
            why="Switch contacts burn or weld; let a relay carry the load.",
            found=f"{design.current_a:.1f} A",
            allowed=f"{limit_a:.1f} A",
            actions=(Action(label="Choose the scheme automatically", edit=release),)
            if design.circuit.held.scheme
            else (),
        )


def check_surge(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """An isolator or switch in the path bears the start of what is behind it."""
    switch = context.plan.job.switch(design.use.switch) if design.use.switch else None
    if design.scheme.switch_role != "path" or switch is None:
        return
    bears_a = switch.surge_a or CONTACT_START_X * switch.rating_a
    starts = [
        (start_x(a.model, a.inrush_x) - 1) * i
        for a, i in zip(design.accessories, design.planned.load_currents_a, strict=False)
    ]
    if design.feeds is not None:
        for member in context.plan.tree.starting.get(design.feeds.id, ()):
            currents_a = context.plan.circuits[member.id].load_currents_a
            loads = context.plan.job.loads_of(member)
            starts += [
                (start_x(a.model, a.inrush_x) - 1) * i
                for a, i in zip(loads, currents_a, strict=False)
            ]
    peak_a = design.current_a + max(starts, default=0.0)
    if peak_a <= bears_a:
        return
    larger = switch.model_copy(update={"surge_a": float(math.ceil(peak_a / 10) * 10)})
    yield Finding(
        code="switch_surge",
        area=AREA,
        place=switch.name,
        severity="stop" if peak_a > START_STOP_X * bears_a else "caution",
        text=f"The start behind {switch.name} is above its surge rating.",
        why="Its contacts weld or burn when a motor starts. Take one that bears it.",
        found=f"{peak_a:.0f} A",
        allowed=f"{bears_a:.0f} A",
        actions=(
            Action(
                label=f"Take one for a surge of {larger.surge_a:.0f} A",
                edit=ChangeSwitch(was=switch.name, switch=larger),
            ),
        ),
    )


def check_panel_feed(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A switch in a fed panel works what follows the panel's own key."""
    tree, use = context.plan.tree, design.use
    switch = design.job.switch(use.switch) if use.switch else None
    if switch is None or design.scheme.switch_role != "feed" or not design.accessories:
        return
    panel = tree.panel_of(switch, use)
    if panel is None or tree.panel_feed(switch, use) is not None:
        return
    wakes = tree.waking(panel.id)
    alone = switch.model_copy(update={"panel": None, "position": ""})
    actions = [
        Action(
            label=f"Take {switch.name} out of {panel.name}",
            edit=ChangeSwitch(was=switch.name, switch=alone),
        )
    ]
    if wakes.lights == "any":
        follow = use.model_copy(update={"key": wakes.key})
        actions.append(
            Action(
                label=f"Let it follow {panel.name}: {_KEY_WORDS[wakes.key]}",
                edit=with_use_edit(design.job, design.circuit, follow),
                alters=("when", "fuse"),
            )
        )
    yield Finding(
        code="panel_feed_differs",
        area=AREA,
        place=f"S{switch.number}",
        severity="stop",
        text=f"{panel.name} is live {_KEY_WORDS[wakes.key]}, and {switch.name} in it should work "
        f"{_KEY_WORDS[use.key]}.",
        why="The switches of a panel share its feed: fed from elsewhere, this one would join "
        "two feeds, or be wired as the drawing does not show.",
        found=_KEY_WORDS[wakes.key],
        allowed=_KEY_WORDS[use.key],
        actions=tuple(actions),
    )


def check_own_switch(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Driving lights need an off switch of their own."""
    if not design.accessories:
        return
    accessory = design.accessories[0]
    kept = bool(accessory.own_feed)  # lamps of the vehicle, not driving lights
    if accessory.use.lights == "high" and not accessory.use.switch and not kept:
        yield Finding(
            code="no_own_switch",
            area=AREA,
            place=f"L{design.circuit.number}",
            severity="caution",
            text="These lights come on with every high beam.",
            why="Driving lights need an off switch of their own.",
            actions=_given_switch(accessory, design.job),
        )


def check_guard(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """What may hurt needs an interlock or a guarded switch."""
    for accessory in design.accessories:
        winch = accessory.model == "winch"
        switch = design.job.switch(accessory.use.switch) if accessory.use.switch else None
        guarded = switch is not None and switch.guarded
        if not (winch or accessory.hazard) or guarded or accessory.use.while_on:
            continue
        if winch and design.scheme.switch_role == "none":
            continue  # its own remote works it: see the review of use
        actions: tuple[Action, ...] = ()
        if switch is not None:
            edit = ChangeSwitch(was=switch.name, switch=switch.model_copy(update={"guarded": True}))
            actions = (Action(label="Guard the switch", edit=edit),)
        elif switch is None and not accessory.use.switch:
            actions = _given_switch(accessory, design.job, guarded=True)
        place = f"S{switch.number}" if switch is not None else f"L{design.circuit.number}"
        if winch:
            yield Finding(
                code="unguarded",
                area=AREA,
                place=place,
                severity="caution",
                text="The winch switch can be switched on by accident.",
                why="Nothing that moves a rope may start by accident.",
                actions=actions,
            )
            continue
        yield Finding(
            code="no_interlock",
            area=AREA,
            place=place,
            severity="stop",
            text=f"{accessory.name} can come on by accident.",
            why="It may hurt somebody: it needs a guarded switch, or to work only while another "
            "circuit is on.",
            actions=actions,
        )


def check_data_bus(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """On a supervised vehicle a tapped lamp wire, or a feed that nobody proved, is watched."""
    if design.job.vehicle.data_bus != "supervised" or design.planned.parts is None:
        return
    functions = {"accessory": "accessory", "run": "ignition"}
    use = design.use
    coil = design.scheme.has_relay
    if not coil or use.channel is not None:
        return
    for device in tapped(design, context):
        wanted = use.signal or (functions.get(use.key) if use.lights == "any" else None)
        proved = any(k.function == wanted for k in design.job.survey.known)
        if proved:
            continue
        actions = by_isolator(design)
        yield Finding(
            code="data_bus",
            area=AREA,
            place=device.ref,
            severity="caution",
            text=f"The coil draws on the {lower_first(device.label)} of a supervised vehicle.",
            why="A control unit may watch that wire. Prove a feed on the survey's sheet that may "
            "be loaded, or take a signal isolator that draws milliamps.",
            actions=actions,
        )


def check_lamps(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """The lamps of a lit panel draw on the side-light wire, which a supervised vehicle watches."""
    if design.job.vehicle.data_bus != "supervised" or design.feeds is None:
        return
    lamps = context.plan.shared.get(lamps_owner(design.load_ref))
    if lamps is None or any(k.function == "illumination" for k in design.job.survey.known):
        return
    dark = tuple(
        ChangeSwitch(was=s.name, switch=s.without_light)
        for s in design.job.switches
        if s.panel == design.feeds.id and s.is_lit
    )
    yield Finding(
        code="data_bus",
        area=AREA,
        place=lamps.owner,
        severity="caution",
        text=f"The lamps of {design.feeds.name} draw on the side-light feed of a supervised "
        "vehicle.",
        why="A control unit may watch that wire. Prove one on the survey's sheet that may be "
        "loaded, or leave the lamps dark.",
        actions=tuple(Action(label=f"Leave {e.switch.name} dark", edit=e) for e in dark),
    )


def check_always_live(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A constant feed drains a parked battery; what must live parked must not sleep."""
    use = design.use
    waking = context.plan.tree.waking_of(design.circuit)
    if use.follows != "always" or not design.accessories:
        return
    place = f"L{design.circuit.number}"
    if waking.sleeps and not use.while_on:
        feeder = design.ahead[-1] if design.ahead else ""
        point = design.circuit.start.point
        awake = WakePoint(point_id=point, key="always")
        live = Action(label="Let that point live always", edit=awake, alters=("when", "fuse"))
        actions = (live,) if feeder else ()
        yield Finding(
            code="sleeps",
            area=AREA,
            place=place,
            severity="caution",
            text="It should live parked, but the point where it starts sleeps with the key.",
            why="It goes off when the key does; state its key, or start it elsewhere.",
            actions=actions,
        )
    elif not (
        use.switch or waking.switched or use.while_on or use.channel is not None
    ) and not context.plan.tree.by_hand(design.circuit):
        yield Finding(
            code="always_live",
            area=AREA,
            place=place,
            severity="note",
            text="This circuit is live while the vehicle is parked.",
            why="Right for what must live parked; everything else follows the key.",
        )


def whole_switches(made: Design, _: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Circuits that share a switch must want the same of it."""
    users: dict[str, list[CircuitDesign]] = {}
    for circuit in made.circuits:
        if circuit.use.switch:
            users.setdefault(circuit.use.switch, []).append(circuit)
    for name, circuits in users.items():
        first = circuits[0]
        for other in circuits[1:]:
            why = _clash(first, other)
            if not why:
                continue
            switch = made.job.switch(name)
            yield (
                other.circuit.id,
                Finding(
                    code="switch_clash",
                    area=AREA,
                    place=f"S{switch.number if switch else 0}",
                    severity="stop",
                    text=f"{name} also works {first.circuit.name}: {why}.",
                    why="One contact can be fed from one place only; give this circuit a switch of "
                    "its own, or the same key and lights.",
                    actions=_given_switch(other.accessories[0], other.job),
                ),
            )


def _clash(a: CircuitDesign, b: CircuitDesign) -> str:
    if "feed" not in (a.scheme.switch_role, b.scheme.switch_role) or (
        a.scheme.switch_role != b.scheme.switch_role
    ):
        if a.scheme.switch_role == b.scheme.switch_role == "none":
            return ""
        return "each wants the contact for itself"
    if (a.use.key, a.use.lights, a.use.channel) != (b.use.key, b.use.lights, b.use.channel):
        return "they follow different keys or lights"
    apart = b.circuit.id in a.circuit.never_with or a.circuit.id in b.circuit.never_with
    if apart and a.use.throw == b.use.throw:
        return "they never run together, yet one contact works both"
    return ""


def _given_switch(accessory: Accessory, job: Job, *, guarded: bool = False) -> tuple[Action, ...]:
    """A press that gives an accessory a switch of its own; a winch's springs back."""
    name = accessory.name
    number = 2
    while job.switch(name) is not None:
        name, number = f"{accessory.name[:70]} {number}", number + 1
    had = job.switch(accessory.use.switch) if accessory.use.switch else None
    guarded = guarded or (had is not None and had.guarded)
    edit = GiveSwitch(
        accessory_id=accessory.id,
        name=name,
        guarded=guarded,
        momentary=moves_people_or_loads(accessory),
    )
    return (
        Action(
            label=f"Give it a{' guarded' if guarded else ''} switch",
            edit=edit,
            alters=("when", "rating"),
        ),
    )


def _with_use(accessory: Accessory, use: Use) -> ChangeAccessory:
    return ChangeAccessory(accessory=accessory.model_copy(update={"use": use}))


CHECKS: tuple[Check, ...] = (
    check_surge,
    check_panel_feed,
    check_scheme,
    check_winch_alone,
    check_switch_load,
    check_own_switch,
    check_guard,
    check_data_bus,
    check_lamps,
    check_always_live,
)
WHOLE: tuple[WholeCheck, ...] = (whole_switches,)
