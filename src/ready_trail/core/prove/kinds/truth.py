"""With power: what is on, and what must stay off, for every key and light state."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.profile import outlet_nodes
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import STOP, between
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield a look at each accessory in each state that its network tells apart."""
    if not bench.made.accessories:
        return
    names = {e.outlet.ref: e.name for e in bench.made.outlets}
    several = len(bench.made.planned.outlets) > 1
    for outlet in bench.made.planned.outlets:
        ends = tuple(bench.terminals.get(n) for n in outlet_nodes(bench.made, outlet))
        if ends[0] is None or ends[1] is None:
            continue
        name = names.get(outlet.ref, "") if several else bench.made.circuit.name
        for setting in (bench.working, bench.resting, *bench.others):
            yield between(
                bench,
                "truth",
                "power",
                name or bench.made.circuit.name,
                ends[0],
                ends[1],
                setting,
                instrument="eye",
                minutes=0.4,
                look=outlet.ref,
                caution=STOP if setting is bench.working else "",
                why="Solved for this design, state by state.",
            )
