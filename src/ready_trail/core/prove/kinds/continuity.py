"""Before power: each wire from end to end."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import AWAY, AWAY_SETTING, between, own_wires
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield one test a wire; a tug at both crimps goes with it."""
    for wire in own_wires(bench):
        if wire.start.node == wire.end.node:
            continue
        yield between(
            bench,
            "continuity",
            "before",
            f"{wire.label} from end to end",
            wire.start,
            wire.end,
            AWAY_SETTING,
            instrument="ohms",
            minutes=0.8,
            look=wire.label,
            caution=AWAY,
            why="A wire that is cut, or a crimp that holds by a strand, shows here or not at all "
            "before it carries its load.",
        )
