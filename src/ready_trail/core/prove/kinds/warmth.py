"""After ten minutes: nothing has got warm."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import on_wire, own_wires
from ready_trail.core.prove.records import Band, Test

MOST_K = 30.0
"""Over the air around (house)."""


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the warmest joint of each wire that carries the load."""
    ways = {*bench.made.out, *bench.made.back}
    heavy = [w for w in own_wires(bench) if w.label in ways]
    if not heavy or not bench.made.accessories:
        return
    wire = max(heavy, key=lambda w: sum(1 for j in (w.start_joint, w.end_joint) if j))
    yield on_wire(
        bench,
        "warmth",
        "warm",
        "Warmest joint, holder and relay",
        wire,
        bench.working,
        f"along {', '.join(w.label for w in heavy)}, over the air around",
        instrument="warmth",
        minutes=10.0,
        caution="Hands off what may be hot; nobody under the vehicle.",
        why="A joint that gets warm loses volts, and gets worse.",
        band=Band(most=MOST_K),
    )
