"""Review of sums: a signal, a switch or a post with everything that hangs on it at once."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    ChangeSwitch,
    GatherAtStud,
    ReturnsToBus,
    StartAt,
    TriggerByIsolator,
)
from ready_trail.core.job import BATTERY, Channel
from ready_trail.core.kinds.base import BATTERY_DEVICE
from ready_trail.core.kinds.point import BUS
from ready_trail.core.netlist import Coil
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding
from ready_trail.core.review.base import WholeCheck, pulling_point

RINGS_MOST, RINGS_STOP = 4, 6
"""Rings on one post or stud: more do not lie flat; beyond these they work loose (trade)."""


def whole_triggers(made: Design, _: Catalogue) -> Iterator[tuple[str, Finding]]:
    """What all coils together draw on a signal, and through a switch."""
    on_signal: dict[str, list[CircuitDesign]] = {}
    on_switch: dict[str, list[CircuitDesign]] = {}
    for circuit in made.circuits:
        if coil_a(circuit) <= 0:
            continue
        use = circuit.use
        switch = made.job.switch(use.switch) if use.switch else None
        panel = made.plan.tree.panel_feed(switch, use) if switch is not None else None
        if use.channel is None and panel is None and not use.while_on:
            by = (use.unless,) if circuit.scheme.at_rest else (use.follows, use.also)
            for signal in dict.fromkeys(by):
                on_signal.setdefault(signal, []).append(circuit)
        if switch is not None and circuit.scheme.switch_role in ("feed", "own"):
            on_switch.setdefault(switch.name, []).append(circuit)
    for signal, circuits in on_signal.items():
        yield from _signal(made, signal, circuits)
    for name, circuits in on_switch.items():
        yield from _switch(made, name, circuits)


def coil_a(circuit: CircuitDesign) -> float:
    """Return what a circuit's own coil takes while it is on. [A]"""
    point, parts = pulling_point(circuit), circuit.planned.parts
    if point is None or parts is None:
        return 0.0
    own = (d for d in parts.devices if d.owner == circuit.circuit.id)
    coils = (e for d in own for e in d.elements() if isinstance(e, Coil))
    return max((abs(point.branch_a.get(e.name, 0.0)) for e in coils), default=0.0)


def _signal(
    made: Design, signal: str, circuits: list[CircuitDesign]
) -> Iterator[tuple[str, Finding]]:
    most_a = made.job.signal_most_a(signal)
    total_a = sum(coil_a(c) for c in circuits)
    if most_a is None or total_a <= most_a or len(circuits) < 2:
        return  # one coil alone is told where it is
    largest = max(circuits, key=coil_a)
    actions = tuple(
        Action(
            label=f"Take {c.circuit.name} through a signal isolator",
            edit=TriggerByIsolator(circuit_id=c.circuit.id),
        )
        for c in sorted(circuits, key=lambda c: -coil_a(c))[:3]
        if not c.use.also and not c.use.unit
    )
    yield (
        largest.circuit.id,
        Finding(
            code="signal_sum",
            area="relay",
            place=signal,
            severity="stop",
            text=f"{len(circuits)} coils together draw more than the {signal} signal may give.",
            why="Each is within its limit alone; together they switch the control unit off, or "
            "harm it.",
            found=f"{total_a:.2f} A",
            allowed=f"{most_a:g} A",
            actions=actions,
        ),
    )


def _switch(
    made: Design, name: str, circuits: list[CircuitDesign]
) -> Iterator[tuple[str, Finding]]:
    switch = made.job.switch(name)
    total_a = sum(coil_a(c) for c in circuits)
    if switch is None or total_a <= switch.rating_a:
        return
    larger = switch.model_copy(update={"rating_a": float(math.ceil(total_a / 0.8))})
    yield (
        circuits[0].circuit.id,
        Finding(
            code="switch_sum",
            area="switch",
            place=f"S{switch.number}",
            severity="stop",
            text=f"{len(circuits)} coil{'s' if len(circuits) > 1 else ''} together draw more than "
            f"{name} is rated for.",
            why="Its contact carries all of them at once.",
            found=f"{total_a:.2f} A",
            allowed=f"{switch.rating_a:g} A",
            actions=(
                Action(
                    label=f"Take one for {larger.rating_a:g} A",
                    alters=("rating",),
                    edit=ChangeSwitch(was=name, switch=larger),
                ),
            ),
        ),
    )


def whole_posts(made: Design, _: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Rings on one post or stud: at most four."""
    at: dict[tuple[str, str], list[str]] = {}
    for wire in made.installation.wires.values():
        for end in (wire.start, wire.end):
            device = made.installation.devices.get(end.device)
            post = end.device == BATTERY_DEVICE or (
                end.terminal == BUS and _is_stud(made, end.device)
            )
            if device is not None and post:
                at.setdefault((end.device, end.terminal), []).append(wire.owner)
    for (ref, terminal), owners in at.items():
        if len(owners) <= RINGS_MOST:
            continue
        circuits = {c.circuit.id for c in made.circuits}
        where = next((o for o in owners if o in circuits), made.circuits[0].circuit.id)
        name = made.installation.devices[ref].title
        yield (
            where,
            Finding(
                code="post_crowded",
                area="source",
                place=f"{ref} {terminal}",
                severity="stop" if len(owners) > RINGS_STOP else "caution",
                text=f"{len(owners)} rings sit on one post: {name} {terminal}.",
                why="A stack of rings does not stay tight; a loose one arcs and burns. Gather the "
                "small ones on a stud or block behind one main fuse.",
                found=f"{len(owners)}",
                allowed=f"{RINGS_MOST}",
                actions=(
                    *_gathered(made),
                    *_onto_stud(made, ref, terminal),
                    *_by_bus(made, ref, terminal),
                ),
            ),
        )


def _is_stud(made: Design, ref: str) -> bool:
    point = next((p for p in made.job.points if made.plan.refs[p.id] == ref), None)
    return point is not None and (point.is_one_stud or point.battery is not None)


def _gathered(made: Design) -> tuple[Action, ...]:
    """A stud for what starts at the battery and is neither a feeder nor a winch."""
    movable = tuple(
        c.circuit.id
        for c in made.circuits
        if c.circuit.start.point == BATTERY
        and not c.circuit.is_feeder
        and not c.scheme.for_winch
        and c.circuit.rest_start is None
    )
    if len(movable) < 2:
        return ()
    movable = movable[: RINGS_MOST - 1]  # and the stud's own feed
    label = f"Gather {len(movable)} circuits on a stud behind one main fuse"
    return (Action(label=label, edit=GatherAtStud(circuit_ids=movable)),)


def _onto_stud(made: Design, ref: str, terminal: str) -> tuple[Action, ...]:
    """The smallest of the circuits that start here, started at a stud that has room instead."""
    starting = {
        w.owner
        for w in made.installation.wires.values()
        if (w.start.device, w.start.terminal) == (ref, terminal)
    }
    rings: dict[str, int] = {}
    for wire in made.installation.wires.values():
        for end in (wire.start, wire.end):
            if end.terminal == BUS:
                rings[end.device] = rings.get(end.device, 0) + 1
    studs = [
        p
        for p in made.job.points
        if p.is_one_stud
        and p.id in made.plan.tree.feeders
        and rings.get(made.plan.refs[p.id], 0) < RINGS_MOST
        and made.plan.refs[p.id] != ref
    ]
    movable = [
        c
        for c in made.circuits
        if c.circuit.id in starting
        and not c.circuit.is_feeder
        and not c.scheme.for_winch
        and c.circuit.start.point == BATTERY
    ]
    if not studs or not movable:
        return ()
    least = min(movable, key=lambda c: (c.current_a, c.circuit.number))
    edit = StartAt(circuit_id=least.circuit.id, start=Channel(point=studs[0].id))
    label = f"Start {least.circuit.name} at {studs[0].name}"
    return (Action(label=label, edit=edit),)


def _by_bus(made: Design, ref: str, terminal: str) -> tuple[Action, ...]:
    """An earth bus at the point behind which most rings come to this post, the point's own return
    counted off.
    """
    tree = made.plan.tree
    rings: dict[str, int] = {}
    for wire in made.installation.wires.values():
        if (wire.end.device, wire.end.terminal) == (ref, terminal):
            rings[wire.owner] = rings.get(wire.owner, 0) + 1
    fewer = {
        p.id: sum(rings.get(c.id, 0) for c in tree.starting.get(p.id, ()) if c.back.by_wire)
        - (tree.feeders[p.id].id not in rings)
        for p in made.job.points
        if p.id in tree.feeders and not p.starts_a_system
    }
    point_id = max(fewer, key=lambda i: fewer[i], default="")
    if not point_id or fewer[point_id] < 1:
        return ()
    name = made.job.point(point_id).name
    less = f"{fewer[point_id]} rings" if fewer[point_id] > 1 else "one ring"
    label = f"Bring returns to an earth bus at {name}: {less} less here"
    return (Action(label=label, edit=ReturnsToBus(point_id=point_id)),)


WHOLE: tuple[WholeCheck, ...] = (whole_triggers, whole_posts)
