"""The kinds of tests, in the order in which they are taken: one module a kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds import (
    charging,
    coils,
    continuity,
    currents,
    drops,
    earths,
    insulation,
    parked,
    points,
    switches,
    truth,
    warmth,
)
from ready_trail.core.prove.records import Test

KINDS: tuple[Callable[[Bench], Iterator[Test]], ...] = (
    continuity.tests,
    insulation.tests,
    earths.tests,
    switches.tests,
    truth.tests,
    coils.tests,
    currents.tests,
    drops.tests,
    points.tests,
    warmth.tests,
    parked.tests,
    charging.tests,
)
"""Each yields its tests of one circuit."""
