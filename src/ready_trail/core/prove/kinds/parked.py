"""Parked: what still flows with the key out."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import on_wire, own_wires
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the current in its own first wire, key out and everything off."""
    wire = next((w for w in own_wires(bench) if w.label in bench.made.out), None)
    if wire is None:
        return
    yield on_wire(
        bench,
        "parked",
        "parked",
        "Current that still flows",
        wire,
        bench.parked,
        f"round {wire.label}, alone",
        minutes=1.0,
        why="What stays on empties the battery.",
    )
