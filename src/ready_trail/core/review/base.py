"""What checks share: their context, the presses and places that several name."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import ReleaseChoice, SecondPoint, StartAt, StartBehindConverter
from ready_trail.core.edits.second_point import may_have_second
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.installation import Device
from ready_trail.core.job import BATTERY, Channel, Circuit, Job, Point
from ready_trail.core.kinds.finds import CONVERTER_RATIO
from ready_trail.core.outcome import Action, Altered, CircuitDesign, Design, Finding, Plan
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.working import pulling_state


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """What a check may look at besides the circuit: the plan of the job, and the tables."""

    plan: Plan
    catalogue: Catalogue


Check = Callable[[CircuitDesign, Context], Iterator[Finding]]
"""A check of one circuit by itself: it reads only what that circuit was solved from."""

BudgetCheck = Callable[[Design], Iterator[Finding]]
"""A check of the job's budget: its findings sit at no circuit."""

WholeCheck = Callable[[Design, Catalogue], Iterator[tuple[str, Finding]]]
"""A check over the whole job; yields the id of the circuit at which the finding sits."""


def opens_words(after_s: float) -> str:
    """Return when a fuse opens, in words; one that never does says so. [s]"""
    return f"opens after {after_s:.2f} s" if math.isfinite(after_s) else "never opens"


_REPLACED = {
    "size": "Replace its wire",
    "fuse_a": "Replace its fuse",
    "family": "Replace its fuse by one of another family",
    "relay": "Replace its relay",
    "insulation_c": "Replace its wire by one of another class",
}
"""What letting a choice go means where it is what was found."""


def _is_found(circuit: Circuit, what: str) -> bool:
    found = circuit.found
    return found is not None and getattr(found, what) == getattr(circuit.held, what)


def releases(design: CircuitDesign) -> tuple[Action, ...]:
    """Return a press for each held choice that sizing depends on."""
    circuit, held = design.circuit, design.circuit.held
    words: tuple[tuple[str, object, str, tuple[Altered, ...]], ...] = (
        ("size", held.size, "Choose the wire size automatically", ("fuse",)),
        ("fuse_a", held.fuse_a, "Choose the fuse automatically", ("fuse",)),
        ("family", held.family, "Choose the fuse family automatically", ("fuse",)),
        ("relay", held.relay, "Choose the relay automatically", ()),
        ("insulation_c", held.insulation_c, "Choose the insulation automatically", ()),
    )
    circuit_id = circuit.id
    found = tuple(
        Action(
            label=_REPLACED[what] if _is_found(circuit, what) else label,
            alters=alters,
            edit=ReleaseChoice(circuit_id=circuit_id, what=what),  # type: ignore[arg-type]
        )
        for what, value, label, alters in words
        if value is not None
    )
    if len(found) < 2:
        return found
    every = ReleaseChoice(circuit_id=circuit_id, what="all")
    return (
        *found,
        Action(
            label="Replace all of it that does not fit"
            if circuit.found
            else "Release all holds: choose everything automatically",
            edit=every,
            alters=("when", "fuse"),
        ),
    )


def at_battery(design: CircuitDesign, label: str) -> Action:
    """Start a circuit at the battery. One that a channel switches stays that channel's to work:
    it triggers its relay then.
    """
    return start_at_battery(design.job, design.circuit, label)


def start_at_battery(job: Job, circuit: Circuit, label: str) -> Action:
    """The same of a circuit that is not designed yet."""
    point = next((p for p in job.points if p.id == circuit.start.point), None)
    battery = Channel(point=BATTERY)
    if point is None or not point.switches_its_positions or not circuit.start.position:
        return Action(label=label, edit=StartAt(circuit_id=circuit.id, start=battery))
    edit = StartAt(circuit_id=circuit.id, start=battery, trigger=circuit.start)
    return Action(
        label=f"{label}, and let the channel trigger its relay", edit=edit, alters=("fuse",)
    )


def own_start(design: CircuitDesign, plan: Plan) -> tuple[Action, ...]:
    """The battery, for a circuit that starts elsewhere and is made for the battery's volts."""
    circuit = design.circuit
    if circuit.start.point == BATTERY or circuit.is_feeder or not design.accessories:
        return ()
    there = circuit.model_copy(update={"start": Channel(point=BATTERY)})
    rest_v, charging_v = plan.tree.rest_v(there), plan.tree.charging_v(there)
    if not all(a.range_v[0] <= rest_v and charging_v <= a.range_v[1] for a in design.accessories):
        return ()
    return (at_battery(design, "Start it at the battery, with a fuse of its own"),)


def second_point(job: Job, point: Point, feeder_id: str | None) -> tuple[Action, ...]:
    """Put a second point like this one beside it, and share its circuits out."""
    if feeder_id is None or not may_have_second(job, point):
        return ()
    label = f"Put a second one beside {point.name}, and share its circuits out"
    edit = SecondPoint(circuit_id=feeder_id)
    return (Action(label=label, edit=edit, alters=("fuse",)),)


def shared_out(design: CircuitDesign, plan: Plan) -> tuple[Action, ...]:
    """A second point beside the one that a feeder brings current to; or less that hangs there."""
    feeds = design.circuit.feeds
    if feeds is None:
        return ()
    point = plan.tree.points[feeds]
    ends = [c for c in plan.tree.starting.get(feeds, ()) if c.feeds is None]
    less: tuple[Action, ...] = ()
    if ends:
        largest = max(ends, key=plan.currents.circuit_a)
        if not point.is_a.converts:
            less = (start_at_battery(plan.job, largest, f"Start {largest.name} at the battery"),)
        elif len(ends) > 1:
            less = own_converter(point, largest, plan.currents.circuit_a(largest))
    return second_point(plan.job, point, design.circuit.id) + less


def own_converter(point: Point, circuit: Circuit, current_a: float) -> tuple[Action, ...]:
    """A converter like this one for one circuit alone, of the size that it needs. [A]"""
    if point.output_v not in (12, 24) or not point.is_a.keeps_output_v:
        return ()
    output_a = min(200.0, max(5.0, math.ceil(current_a / CONVERTER_RATIO / 5) * 5.0))
    edit = StartBehindConverter(circuit_id=circuit.id, output_v=point.output_v, output_a=output_a)
    label = f"Give {circuit.name} a converter of its own, {output_a:g} A"
    return (Action(label=label, edit=edit),)


def pulling_point(design: CircuitDesign) -> OperatingPoint | None:
    """Return the state in which a circuit's coil pulls: at work, or where it is taken off."""
    point, network = design.operating, design.network
    if point is None or network is None or not design.scheme.at_rest:
        return point
    try:
        return solve(network, pulling_state(point.state, design))
    except NotConvergedError:
        return None


def tapped(design: CircuitDesign, context: Context) -> tuple[Device, ...]:
    """The vehicle's own feeds and headlamps that a circuit's control draws on."""
    parts = design.planned.parts
    if parts is None:
        return ()
    found: dict[str, Device] = {}
    shared = (o for o in parts.needs if o not in context.plan.circuits)  # those tell it themselves
    for owner in sorted({design.circuit.id, *shared}):
        own = parts if owner == design.circuit.id else context.plan.shared.get(owner)
        if own is not None:
            found |= {d.ref: d for d in own.devices if d.spec.is_signal}
    return tuple(found.values())


def main_wire(design: CircuitDesign) -> str:
    """Label of the wire to what the circuit feeds."""
    wire = design.wire_on("power")
    return wire.label if wire is not None else f"C{design.circuit.number}"


def fuse_place(design: CircuitDesign) -> str:
    """Reference of the circuit's fuse."""
    return f"F{design.circuit.number}"
