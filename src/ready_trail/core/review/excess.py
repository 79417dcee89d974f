"""Review of what is held foolishly large: a fuse, or copper, far above what the work asks for."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import ReleaseChoice
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, fuse_place, main_wire

FUSE_MOST_X = 4.0
SIZES_MOST = 3
"""Over the load, and above what governs: beyond these somebody slipped (house)."""


def check_fuse(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A held fuse of more than four times the load, where a smaller one holds it."""
    fuse, held_a = design.sizing.fuse, design.circuit.held.fuse_a
    if fuse is None or held_a is None or design.feeds is not None or design.current_a <= 0:
        return
    least_a = max(design.current_a / design.sizing.request.rule.share, design.job.rules.fuse_min_a)
    smaller = any(least_a <= r < fuse.rating_a for r in fuse.family.ratings_a)
    if not smaller or fuse.rating_a <= FUSE_MOST_X * design.current_a:
        return
    yield Finding(
        code="fuse_large",
        area="protection",
        place=fuse_place(design),
        severity="note",
        text=f"The {fuse.rating_a:g} A fuse is many times the load.",
        why="It protects the wire; a smaller one would tell of a fault in the accessory too.",
        found=f"{fuse.rating_a:g} A",
        allowed=f"{FUSE_MOST_X:g} × {design.current_a:.1f} A",
        actions=(
            Action(
                label="Choose the fuse automatically",
                edit=ReleaseChoice(circuit_id=design.circuit.id, what="fuse_a"),
            ),
        ),
    )


def check_copper(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A held wire more than three sizes above the thinnest that every rule allows."""
    sizing = design.sizing
    if design.circuit.held.size is None or sizing.chosen is None or sizing.branches:
        return
    at = sizing.ladder.index(sizing.chosen)
    least = next((n for n, rung in enumerate(sizing.ladder) if not rung.rejects), at)
    if at - least <= SIZES_MOST:
        return
    yield Finding(
        code="copper_large",
        area="wire",
        place=main_wire(design),
        severity="note",
        text=f"{sizing.chosen.conductor.label} is {at - least} sizes above what is needed.",
        why=f"{sizing.ladder[least].conductor.label} would do; thick wire is hard to end well.",
        found=sizing.chosen.conductor.label,
        allowed=sizing.ladder[least].conductor.label,
        actions=(
            Action(
                label="Choose the wire size automatically",
                edit=ReleaseChoice(circuit_id=design.circuit.id, what="size"),
            ),
        ),
    )


CHECKS: tuple[Check, ...] = (check_fuse, check_copper)
