"""Review of an accessory's other leads: their voltage, and the fuse that they hang behind."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import ChangeAccessory, ChangePoint
from ready_trail.core.job import Accessory, Point
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, fuse_place, own_start
from ready_trail.core.supply.lead_feed import input_v, memory_feed

AREA = "source"
LEAD_X, LEAD_LEAST_A = 4.0, 20.0
"""What an accessory's own lead bears where nobody stated it: four times its current, and no less
than a lead of 18 AWG (house)."""


def check_inputs(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Every lead of an accessory is led from what fits its voltage, or stays capped."""
    tree = context.plan.tree
    for accessory in design.accessories:
        whole = design.job.accessory(accessory.id)
        for wire in whole.inputs:
            volts = input_v(tree, design.circuit, whole, wire)
            if volts is None or whole.bears_v(volts):
                continue
            low_v, high_v = whole.range_v
            capped = wire.model_copy(update={"ends": "cap", "at": ""})
            inputs = tuple(capped if w.name == wire.name else w for w in whole.inputs)
            edit = ChangeAccessory(accessory=whole.model_copy(update={"inputs": inputs}))
            yield Finding(
                code="lead_voltage",
                area=AREA,
                place=design.end_ref,
                severity="stop",
                text=f"The wire {wire.name} of {whole.name} would get {volts:g} V.",
                why="It is made for the accessory's own voltage. Take the signal from that side, "
                "or let it go unused.",
                found=f"{volts:g} V",
                allowed=f"{low_v:g} to {high_v:g} V",
                actions=(Action(label=f"Cap {wire.name}", edit=edit, alters=("when",)),),
            )
    keeps = [a for a in design.accessories if a.memory_wire]
    if keeps and memory_feed(tree, design.circuit, design.accessories) is None:
        yield Finding(
            code="memory_capped",
            area=AREA,
            place=design.load_ref,
            severity="note",
            text=f"The memory wire of {keeps[0].name} stays capped.",
            why="Nothing of its voltage is live while the vehicle is parked; it forgets its "
            "settings with the key.",
        )


def check_thin_lead(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Behind a channel's fuse every lead bears that fuse, the accessory's own included."""
    point = context.plan.tree.points.get(design.circuit.start.point)
    position = point.position(design.circuit.start.position) if point is not None else None
    fuse = design.sizing.fuse
    if point is None or position is None or not point.switches_its_positions or fuse is None:
        return
    if not design.accessories:
        return
    bears_a, stated = min(_bears(a, design) for a in design.accessories)
    if fuse.rating_a <= bears_a:
        return
    stop = stated or fuse.rating_a >= 2 * bears_a
    yield Finding(
        code="thin_lead",
        area="protection",
        place=fuse_place(design),
        severity="stop" if stop else "caution",
        text=f"{point.name} {position.name} has a fuse above what the accessory's own lead bears.",
        why="The thin lead burns before the channel's fuse opens. Put a smaller fuse into the "
        "channel, fuse the lead in line, or state what it bears from its label.",
        found=f"{fuse.rating_a:g} A",
        allowed=f"{bears_a:.0f} A",
        actions=_smaller(point, position.name, bears_a, design) + own_start(design, context.plan),
    )


def _bears(accessory: Accessory, design: CircuitDesign) -> tuple[float, bool]:
    """What an accessory's own lead bears, and whether somebody stated it. [A]"""
    if accessory.lead_bears_a is not None:
        return accessory.lead_bears_a, True
    amps = accessory.rated_a / max(1, accessory.quantity)
    return max(LEAD_LEAST_A, LEAD_X * amps), False


def _smaller(point: Point, name: str, bears_a: float, design: CircuitDesign) -> tuple[Action, ...]:
    """The largest blade that the lead bears and that still holds the load."""
    fuse = design.sizing.fuse
    if fuse is None:
        return ()
    least_a = design.current_a / design.sizing.request.rule.share
    fitting = [r for r in fuse.family.ratings_a if least_a <= r <= bears_a]
    if not fitting:
        return ()
    positions = tuple(
        p.model_copy(update={"rating_a": fitting[-1]}) if p.name == name else p
        for p in point.positions
    )
    edit = ChangePoint(point=point.model_copy(update={"positions": positions}))
    label = f"Put a {fitting[-1]:g} A fuse into {name}"
    return (Action(label=label, edit=edit, alters=("rating",)),)


CHECKS: tuple[Check, ...] = (check_inputs, check_thin_lead)
