"""Parked: what still flows with the key out."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import own_wires
from ready_trail.core.prove.records import Probe, Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the current in its own first wire, key out and everything off."""
    wire = next((w for w in own_wires(bench) if w.label in bench.made.out), None)
    if wire is None:
        return
    yield Test(
        key=f"parked:clamp:{wire.label}@{bench.parked.key}",
        circuit_id=bench.made.circuit.id,
        stage="parked",
        kind="parked",
        title="Current that still flows",
        where=f"round {wire.label}, alone",
        setting=bench.parked,
        instrument="clamp",
        probe=Probe(wire=wire.label),
        minutes=1.0,
        look=wire.label,
        why="What stays on empties the battery.",
    )
