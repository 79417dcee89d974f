"""Review of fitness: a switch that suits what it works, a load that suits its switch and feed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from ready_trail.core.edits import ChangeAccessory, ChangePoint, ChangeSwitch, GiveSwitch, SetReturn
from ready_trail.core.edits.remedy import with_use_edit
from ready_trail.core.job import Accessory, Point, Position, Switch
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, main_wire

AREA = "switch"
LEFT_ON_A = 5.0
"""Above this a switch that was forgotten flattens a battery in a day (house)."""


def moves_people_or_loads(accessory: Accessory) -> bool:
    """Whether it must stop when the hand lets go: a winch, or a motor that may hurt."""
    return accessory.model == "winch" or (accessory.hazard and accessory.model == "motor")


def check_hand(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """What moves stops with the hand; what is meant to stay on stays on."""
    switch = design.job.switch(design.use.switch) if design.use.switch else None
    if switch is None or not design.accessories:
        return
    place = f"S{switch.number}"
    moving = [a for a in design.accessories if moves_people_or_loads(a)]
    brief = [a for a in design.accessories if a.duty == "momentary"]
    if not switch.momentary and (moving or brief):
        first = (moving or brief)[0]
        yield Finding(
            code="latches",
            area=AREA,
            place=place,
            severity="stop" if moving else "caution",
            text=f"The switch {switch.name} stays on by itself, on {first.name}.",
            why="What moves a load, or is meant for moments, stops when the hand lets go.",
            actions=_other_hand(switch, design, momentary=True),
        )
    steady = [a for a in design.accessories if a.duty == "continuous"]
    if switch.momentary and steady and not moving:
        yield Finding(
            code="springs_back",
            area=AREA,
            place=place,
            severity="stop",
            text=f"The switch {switch.name} springs back, and {steady[0].name} is meant to stay "
            "on.",
            why="Somebody will wedge it; a switch that latches is made for it. Or state the load "
            "as intermittent.",
            actions=_other_hand(switch, design, momentary=False),
        )


def check_channel_hand(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A channel's mode fits what it works: moments, steady use, and what may flash."""
    tree = context.plan.tree
    channel = design.use.channel or design.circuit.start
    point = tree.points.get(channel.point)
    position = point.position(channel.position) if point is not None else None
    if point is None or position is None or not point.is_a.has_channels or not design.accessories:
        return
    place = f"C{design.circuit.number}"
    moving = [a for a in design.accessories if moves_people_or_loads(a)]
    brief = moving or [a for a in design.accessories if a.duty == "momentary"]
    if brief and position.mode != "momentary":
        yield Finding(
            code="channel_latches",
            area=AREA,
            place=place,
            severity="stop" if moving else "caution",
            text=f"{point.name} {position.name} stays on by itself, on {brief[0].name}.",
            why="What moves a load, or is meant for moments, stops when the hand lets go.",
            actions=(_in_mode(point, position, "momentary", "Let the channel spring back"),),
        )
    steady = [a for a in design.accessories if a.duty == "continuous"]
    if steady and not moving and position.mode == "momentary":
        yield Finding(
            code="channel_springs_back",
            area=AREA,
            place=place,
            severity="stop",
            text=f"{point.name} {position.name} springs back, and {steady[0].name} is meant to "
            "stay on.",
            why="Somebody will wedge its key. Or state the load as intermittent.",
            actions=(_in_mode(point, position, "steady", "Let the channel stay on"),),
        )
    flashed = [a for a in design.accessories if a.model in ("motor", "winch", "electronics")]
    if flashed and position.mode == "flash":
        yield Finding(
            code="channel_flashes",
            area=AREA,
            place=place,
            severity="stop",
            text=f"{point.name} {position.name} flashes, and {flashed[0].name} is no lamp.",
            why="Started again every second it overheats or resets.",
            actions=(_in_mode(point, position, "steady", "Let the channel stay on"),),
        )


def _in_mode(
    point: Point, position: Position, mode: Literal["steady", "momentary"], label: str
) -> Action:
    told = position.model_copy(update={"mode": mode})
    positions = tuple(told if p.name == position.name else p for p in point.positions)
    return Action(
        label=label, edit=ChangePoint(point=point.model_copy(update={"positions": positions}))
    )


def _other_hand(switch: Switch, design: CircuitDesign, *, momentary: bool) -> tuple[Action, ...]:
    """The same switch of the other kind; where it works something else too, one of its own."""
    job = design.job
    users = {u.switch for u in job.uses() if u.switch == switch.name}
    shared = sum(1 for u in job.uses() if u.switch == switch.name) > len(design.accessories)
    words = "springs back" if momentary else "latches"
    if users and not shared:
        changed = switch.model_copy(update={"momentary": momentary})
        edit = ChangeSwitch(was=switch.name, switch=changed)
        return (Action(label=f"Take one that {words}", edit=edit),)
    name, number = design.accessories[0].name, 2
    while job.switch(name) is not None:
        name, number = f"{design.accessories[0].name[:55]} {number}", number + 1
    give = GiveSwitch(
        accessory_id=design.accessories[0].id,
        name=name[:60],
        guarded=switch.guarded,
        momentary=momentary,
    )
    return (Action(label=f"Give it a switch of its own that {words}", edit=give),)


def check_left_on(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A winch sleeps with the key; a high current on a latching switch is not left on unseen."""
    use = design.use
    if use.follows != "always" or use.while_on or not use.switch or not design.accessories:
        return
    waking = context.plan.tree.waking_of(design.circuit)
    if waking.sleeps or waking.switched or use.channel is not None:
        return
    switch = design.job.switch(use.switch)
    if switch is None:
        return
    follow = Action(
        label="Let it work with the ignition only",
        edit=with_use_edit(design.job, design.circuit, use.model_copy(update={"key": "run"})),
        alters=("when", "fuse"),
    )
    if any(a.model == "winch" for a in design.accessories):
        yield Finding(
            code="winch_live",
            area=AREA,
            place=f"S{switch.number}",
            severity="stop",
            text="The winch works with the key out.",
            why="Whoever finds its switch moves the rope; feed its switch from the ignition.",
            actions=(follow,),
        )
    elif (
        not switch.momentary
        and not waking.parted
        and design.sizing.request.rule.duty == "continuous"
        and design.current_a > LEFT_ON_A
    ):
        yield Finding(
            code="left_on",
            area=AREA,
            place=f"S{switch.number}",
            severity="caution",
            text="Left on, it goes on drawing with the key out.",
            why="A latching switch on a constant feed is forgotten one day, and the battery is "
            "flat the next.",
            found=f"{design.current_a:.1f} A",
            allowed=f"{LEFT_ON_A:g} A",
            actions=(follow,),
        )


def check_remote(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A winch's own transmitter does nothing while the key is out."""
    for accessory in design.accessories:
        if accessory.remote != "wireless" or design.scheme.switch_role != "none":
            continue
        use = accessory.use
        if accessory.remote_keyed and use.follows != "always":
            continue
        keyed = use.model_copy(update={"key": "run" if use.key == "always" else use.key})
        changed = accessory.model_copy(update={"remote_keyed": True, "use": keyed})
        yield Finding(
            code="remote_live",
            area=AREA,
            place=f"L{design.circuit.number}",
            severity="caution",
            text="Its wireless remote works with the key out.",
            why="Whoever has the transmitter moves the rope, and its receiver drains the battery. "
            "Feed its own wire with the key; or keep the battery isolator open.",
            actions=(
                Action(
                    label="Feed its remote with the ignition",
                    edit=ChangeAccessory(accessory=changed),
                    alters=("when",),
                ),
            ),
        )


def check_winch_return(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A winch comes back by a cable of its own, never through the body."""
    if not design.scheme.for_winch or not design.circuit.back.on_body:
        return
    edit = SetReturn.turned(design.job, design.circuit.id, "wire")
    yield Finding(
        code="winch_return",
        area="wire",
        place=main_wire(design),
        severity="stop",
        text="The winch's current comes back through the body.",
        why="Hundreds of amperes find their way through bearings, straps and thin sheet. It takes "
        "a cable of its own to the battery.",
        actions=(Action(label="Run a return cable", edit=edit),),
    )


CHECKS: tuple[Check, ...] = (
    check_hand,
    check_channel_hand,
    check_left_on,
    check_remote,
    check_winch_return,
)
