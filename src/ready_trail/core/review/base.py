"""What checks share: their context, the presses and places that several name."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import ReleaseChoice, SecondPoint, StartAt
from ready_trail.core.edits.second_point import may_have_second
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.installation import Device
from ready_trail.core.job import BATTERY, Channel, Job, Point
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


def releases(design: CircuitDesign) -> tuple[Action, ...]:
    """Return a press for each held choice that sizing depends on."""
    held, circuit_id = design.circuit.held, design.circuit.id
    words: tuple[tuple[str, object, str, tuple[Altered, ...]], ...] = (
        ("size", held.size, "Choose the wire size automatically", ("fuse",)),
        ("fuse_a", held.fuse_a, "Choose the fuse automatically", ("fuse",)),
        ("family", held.family, "Choose the fuse family automatically", ("fuse",)),
        ("relay", held.relay, "Choose the relay automatically", ()),
        ("insulation_c", held.insulation_c, "Choose the insulation automatically", ()),
    )
    found = tuple(
        Action(label=label, alters=alters, edit=ReleaseChoice(circuit_id=circuit_id, what=what))  # type: ignore[arg-type]
        for what, value, label, alters in words
        if value is not None
    )
    if len(found) < 2:
        return found
    every = ReleaseChoice(circuit_id=circuit_id, what="all")
    return (
        *found,
        Action(
            label="Release all holds: choose everything automatically",
            edit=every,
            alters=("when", "fuse"),
        ),
    )


def at_battery(design: CircuitDesign, label: str) -> Action:
    """Start a circuit at the battery. One that a channel switches stays that channel's to work:
    it triggers its relay then.
    """
    circuit = design.circuit
    point = next((p for p in design.job.points if p.id == circuit.start.point), None)
    battery = Channel(point=BATTERY)
    if point is None or not point.switches_its_positions or not circuit.start.position:
        return Action(label=label, edit=StartAt(circuit_id=circuit.id, start=battery))
    edit = StartAt(circuit_id=circuit.id, start=battery, trigger=circuit.start)
    return Action(
        label=f"{label}, and let the channel trigger its relay", edit=edit, alters=("fuse",)
    )


def second_point(job: Job, point: Point, feeder_id: str | None) -> tuple[Action, ...]:
    """Put a second point like this one beside it, and share its circuits out."""
    if feeder_id is None or not may_have_second(job, point):
        return ()
    label = f"Put a second one beside {point.name}, and share its circuits out"
    edit = SecondPoint(circuit_id=feeder_id)
    return (Action(label=label, edit=edit, alters=("fuse",)),)


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
