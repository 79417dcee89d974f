"""Two faults at once: where no single one explains the readings."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ready_trail.core.prove.batch import Floats
from ready_trail.core.prove.diagnose import rank
from ready_trail.core.prove.matrix import Matrix

TRIED, TOLD = 40, 3
"""So many of the leading candidates are tried in pairs, so many pairs are told. (house)"""

_RATIO = 0.10
"""How far two effects together may be from their sum, which is only about right. (house)"""


def pairs(matrix: Matrix, taken: Sequence[tuple[int, float]]) -> tuple[tuple[str, str], ...]:
    """Return the pairs of candidates whose effects together come nearest to the readings.

    Effects are added: of two joints in one way that is about right, of a fuse and what is behind
    it not. Mend the likelier of the two first, and read again.
    """
    columns = [c for c, _ in taken]
    if len(columns) < 2:
        return ()
    y = np.array([v for _, v in taken])
    middle = matrix.middle[columns]
    leading = [int(c) for c in np.argsort(-_alone(matrix, taken))[:TRIED]]
    rows = [i for c in leading for i in np.flatnonzero(matrix.owner == c)]
    effects = np.nan_to_num(matrix.readings[rows][:, columns] - middle)
    owners = matrix.owner[rows]
    sigma = matrix.sigma[columns]
    found: dict[tuple[str, str], float] = {}
    for at in range(len(rows)):
        both = effects[at] + effects
        error = np.sqrt(sigma**2 + (_RATIO * np.abs(both)) ** 2)
        far = (((y - middle - both) / error) ** 2).sum(axis=1)
        far[owners == owners[at]] = np.inf
        best = int(np.argmin(far))
        a, b = sorted((int(owners[at]), int(owners[best])))
        key = matrix.candidates[a].key, matrix.candidates[b].key
        found[key] = min(found.get(key, np.inf), float(far[best]))
    order = sorted(found, key=lambda k: found[k])
    return tuple(k for k in order if found[k] < 16.0 + 6.0 * len(columns))[:TOLD]


def _alone(matrix: Matrix, taken: Sequence[tuple[int, float]]) -> Floats:
    """How many single readings each candidate explains by itself: one of two explains some."""
    best = np.zeros(len(matrix.candidates))
    for reading in taken:
        best += rank(matrix, [reading]).shares[:-1]
    return best
