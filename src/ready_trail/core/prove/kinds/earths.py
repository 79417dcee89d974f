"""Before power: the way back under ten amperes, which an ohmmeter is too coarse for."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.instruments.load import LOAD_A
from ready_trail.core.prove.bench import NEGATIVE, Bench
from ready_trail.core.prove.kinds.base import AWAY, AWAY_SETTING, between, own_wires
from ready_trail.core.prove.records import Test

_THINNEST_MM2 = 1.0
"""A thinner wire does not get ten amperes. (house)"""


def tests(bench: Bench) -> Iterator[Test]:
    """Yield a test for each end of a way back that bears ten amperes."""
    for wire in own_wires(bench):
        thick = wire.conductor.area_mm2 >= _THINNEST_MM2
        if wire.role != "return" or not thick or wire.start.node == NEGATIVE.node:
            continue
        yield between(
            bench,
            "earth",
            "before",
            f"Way back from {bench.installation.words(wire.start)} at {LOAD_A:.0f} A",
            wire.start,
            NEGATIVE,
            AWAY_SETTING,
            instrument="load",
            minutes=1.8,
            look=wire.label,
            caution=f"{AWAY} The load is fed by a bench supply of its own, for ten seconds.",
            why="A rusty earth has a few tenths of an ohm: nothing to a meter, volts under load.",
        )
