"""With power: what flows, by a clamp round one wire."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import on_wire, own_wires
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the current of each wire that is its own, while it works."""
    for wire in own_wires(bench):
        if wire.is_control or wire.role == "function":
            continue
        yield on_wire(
            bench,
            "current",
            "power",
            f"Current in {wire.label}",
            wire,
            bench.working,
            f"round {wire.label}, alone, arrow to {bench.installation.words(wire.end)}",
            why="The accessory's own current at the volts that it gets.",
        )
