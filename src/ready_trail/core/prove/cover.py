"""The cheapest set of tests that shows every single fault, and what no test shows."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.faults import Series
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import own_devices, own_wires
from ready_trail.core.prove.matrix import FAIL_SIGMA, Matrix
from ready_trail.core.solver import OperatingPoint

COUNTS_V, COUNTS_W = 0.25, 2.0
"""A joint counts when it loses so much on 12 V, or heats so much, while it works (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cover:
    """``must`` holds the columns of the cheapest set; ``shows`` which rungs each test shows.

    ``counted`` tells which rungs matter at all; ``hidden`` names the candidates of which no test
    shows a rung that counts, with why.
    """

    must: tuple[int, ...]
    shows: NDArray[np.bool_]
    counted: NDArray[np.bool_]
    hidden: tuple[tuple[str, str], ...]

    def share(self, columns: Collection[int]) -> float:
        """Return what share of the faults that count some tests would have shown. [0 to 1]"""
        total = int((self.counted & self.shows.any(axis=1)).sum())
        if not total:
            return 1.0
        seen = self.shows[:, list(columns)].any(axis=1) if columns else np.zeros(len(self.counted))
        return float((seen.astype(bool) & self.counted).sum()) / total


def cover_of(bench: Bench, matrix: Matrix, sound: OperatingPoint | None) -> Cover:
    """Return the cheapest cover of a circuit's own faults, greedily: most that is new a minute.

    What is wrong ahead of it is shown by the plan of what is ahead. A fault whose circuit cannot
    even be powered is shown by what is read before power.
    """
    off = np.abs(matrix.readings - matrix.middle) / matrix.sigma
    tests = matrix.tests
    usable = np.array([t.band.most is None for t in tests])
    shows = np.nan_to_num(off, nan=0.0) > FAIL_SIGMA
    shows &= usable[None, :]
    own = {w.label for w in own_wires(bench)} | {r for r, d in own_devices(bench) if d.owner}
    mine = [c.subject in own or c.of == "feed" for c in matrix.candidates]
    counted = np.array(
        [mine[c] and _counts(matrix, c, k, sound, bench.nominal_v) for c, k in _rungs(matrix)],
        dtype=bool,
    )
    left = counted & shows.any(axis=1)
    minutes = np.array([t.minutes for t in tests])
    must: list[int] = []
    while left.any():
        gain = shows[left].sum(axis=0) / minutes
        best = int(np.argmax(gain))
        if gain[best] <= 0:
            break
        must.append(best)
        left &= ~shows[:, best]
    # always: that it works, and that it goes off again
    looks = [i for i, t in enumerate(tests) if t.instrument == "eye" and i not in must]
    must += [i for i in looks if tests[i].setting in (bench.working, bench.resting)]
    hidden = []
    for c, candidate in enumerate(matrix.candidates):
        rungs = matrix.owner == c
        if not mine[c]:
            continue
        if not counted[rungs].any():
            why = "too little flows there for it to be felt"
        elif not shows[rungs & counted].any(axis=1).all():
            why = "so small that sound vehicles differ by as much"
            if not shows[rungs].any():
                why = "no terminal that can be reached tells it from a sound vehicle"
        else:
            continue
        hidden.append((candidate.key, why))
    return Cover(must=tuple(sorted(must)), shows=shows, counted=counted, hidden=tuple(hidden))


def marked(matrix: Matrix, cover: Cover) -> Matrix:
    """Return the matrix with its must tests marked."""
    must = set(cover.must)
    tests = tuple(replace(t, must=i in must) for i, t in enumerate(matrix.tests))
    return replace(matrix, tests=tests)


def _rungs(matrix: Matrix) -> list[tuple[int, int]]:
    found, seen = [], dict[int, int]()
    for c in matrix.owner:
        at = seen.get(int(c), 0)
        seen[int(c)] = at + 1
        found.append((int(c), at))
    return found


def _counts(
    matrix: Matrix, c: int, rung: int, sound: OperatingPoint | None, nominal_v: float
) -> bool:
    """Whether a fault that bad matters: of a joint what it loses or heats while it works."""
    candidate = matrix.candidates[c]
    first = candidate.rungs[rung][0]
    if candidate.of != "joint" or not isinstance(first, Series) or sound is None:
        return True
    amps = abs(sound.branch_a.get(first.element, 0.0))
    lost_v = amps * first.ohm
    return lost_v >= COUNTS_V * nominal_v / 12.0 or min(amps * lost_v, 1e9) >= COUNTS_W
