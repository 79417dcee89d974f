"""How accessories become circuits: what to split or join, with the reason."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from ready_trail.core.edits import PutOnCircuit, SplitAccessory
from ready_trail.core.edits.base import Edit
from ready_trail.core.outcome import CircuitDesign, Design

LARGEST_HANDY_FUSE_A = 30.0
"""Above this a blade holder no longer serves, and one fault darkens everything (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """One regrouping with its reason, as an edit to press."""

    words: str
    why: str
    edit: Edit


def suggestions(design: Design) -> tuple[Suggestion, ...]:
    """Return what could be grouped better; an empty answer means it is fine as it is."""
    return (*_splits(design), *_joins(design))


def _splits(design: Design) -> Iterator[Suggestion]:
    for circuit in design.circuits:
        fuse = circuit.sizing.fuse
        if fuse is None or len(circuit.accessories) != 1:
            continue
        accessory = circuit.accessories[0]
        if accessory.quantity > 1 and fuse.rating_a > LARGEST_HANDY_FUSE_A:
            yield Suggestion(
                words=f"Split {accessory.name} over two circuits",
                why=f"Together they need a {fuse.rating_a:g} A fuse; halves stay within "
                f"{LARGEST_HANDY_FUSE_A:g} A, and one fault leaves the other half working.",
                edit=SplitAccessory(accessory_id=accessory.id),
            )


def _joins(design: Design) -> Iterator[Suggestion]:
    for a, b in combinations(design.circuits, 2):
        if not _alike(a, b):
            continue
        total_a = a.current_a + b.current_a
        holds_a = a.sizing.fuse.holds_a / a.sizing.fuse.rating_a if a.sizing.fuse else 0.0
        if total_a > holds_a * LARGEST_HANDY_FUSE_A:
            continue
        yield Suggestion(
            words=f"Put {b.circuit.name} on the circuit of {a.circuit.name}",
            why=f"Both are worked by {a.use.switch} and draw {total_a:.1f} A together: one fuse "
            "and one relay serve them.",
            edit=PutOnCircuit(accessory_id=b.accessories[0].id, circuit_id=a.circuit.id),
        )


def _alike(a: CircuitDesign, b: CircuitDesign) -> bool:
    """Worked by the same switch in the same way."""
    return bool(
        a.use.switch
        and a.use == b.use
        and a.accessories
        and len(b.accessories) == 1
        and not (a.scheme.for_winch or b.scheme.for_winch)
    )
