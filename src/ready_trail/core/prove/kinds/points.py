"""With power: each terminal against the battery's negative; mostly for finding a cause."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.profile import outlet_nodes
from ready_trail.core.prove.bench import NEGATIVE, POSITIVE, Bench
from ready_trail.core.prove.kinds.base import SENSED, between
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the volts of every terminal while it works and while it rests; of what a feeder feeds
    in every other state too.
    """
    yield between(
        bench, "rest_volts", "power", "Battery at rest", POSITIVE, NEGATIVE, bench.parked,
        minutes=0.6, look="BAT", why="Under 12.4 V charge it first: nothing else reads right.",
    )  # fmt: skip
    ends = {n for o in bench.made.planned.outlets for n in outlet_nodes(bench.made, o)}
    for node, terminal in bench.terminals.items():
        if node == NEGATIVE.node:
            continue
        device = bench.installation.devices.get(terminal.device)
        caution = SENSED if device is not None and device.spec.is_signal else ""
        fed = not bench.made.accessories and node in ends
        for setting in (bench.working, bench.resting, *(bench.others if fed else ())):
            yield between(
                bench,
                "point",
                "power",
                f"{bench.installation.words(terminal)} against battery -",
                terminal,
                NEGATIVE,
                setting,
                look=terminal.device,
                caution=caution,
                why="A meter draws nothing: full volts here say little about a joint before it.",
            )
