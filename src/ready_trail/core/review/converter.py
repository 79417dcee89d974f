"""Review of a converter's own earth wire: what is short behind the converter comes back there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.likely import comes_back_a, lets_by_a
from ready_trail.core.edits import HoldChoice
from ready_trail.core.installation import Wire
from ready_trail.core.outcome import Action, CircuitDesign, Finding, Planned
from ready_trail.core.review.base import Check, Context, releases

AREA = "wire"


def check_converter_earth(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A converter's earth wire bears what it gives, or what opens the largest fuse behind it."""
    point = context.plan.tree.points.get(design.circuit.feeds or "")
    earths = [w for w in design.wires if w.role == "return"]
    if point is None or not point.starts_a_system or not earths:
        return
    circuits = context.plan.circuits
    comes_a = comes_back_a(context.plan.tree, point, lambda c: _lets_by_a(circuits.get(c.id)))
    least = min(earths, key=Wire.bears_a)
    if least.bears_a() >= comes_a:
        return
    yield Finding(
        code="converter_earth",
        area=AREA,
        place=least.label,
        severity="stop",
        text=f"The {least.conductor.label} earth wire of {point.name} bears less than comes back "
        "through it.",
        why="What is short behind a converter comes back through its earth wire, and the fuse "
        "ahead of the converter does not see it.",
        found=f"{comes_a:.1f} A",
        allowed=f"{least.bears_a():.1f} A",
        actions=releases(design)
        if design.circuit.held.size
        else _thicker(design, earths, comes_a, context.catalogue),
    )


def _lets_by_a(behind: Planned | None) -> float:
    fuse = behind.sizing.fuse if behind is not None else None
    return lets_by_a(fuse.rating_a, fuse.family) if fuse is not None else 0.0  # it is told there


def _thicker(
    design: CircuitDesign, earths: list[Wire], comes_a: float, catalogue: Catalogue
) -> tuple[Action, ...]:
    """The thinnest wire that bears it, held for the converter's feed."""
    asked = design.sizing.request.wire
    for conductor in catalogue.wires(asked.system, asked.kind):
        if all(replace(w, conductor=conductor).bears_a() >= comes_a for w in earths):
            edit = HoldChoice(circuit_id=design.circuit.id, what="size", value=conductor.size)
            return (Action(label=f"Take {conductor.label}", edit=edit),)
    return ()


CHECKS: tuple[Check, ...] = (check_converter_earth,)
