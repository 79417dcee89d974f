"""With power: what flows, by a clamp round one wire."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import own_wires
from ready_trail.core.prove.records import Probe, Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the current of each wire that is its own, while it works."""
    for wire in own_wires(bench):
        if wire.is_control or wire.role == "function":
            continue
        yield Test(
            key=f"current:clamp:{wire.label}@{bench.working.key}",
            circuit_id=bench.made.circuit.id,
            stage="power",
            kind="current",
            title=f"Current in {wire.label}",
            where=f"round {wire.label}, alone, arrow to {bench.installation.words(wire.end)}",
            setting=bench.working,
            instrument="clamp",
            probe=Probe(wire=wire.label),
            minutes=0.7,
            look=wire.label,
            why="The accessory's own current at the volts that it gets.",
        )
