"""What to read next: the test that tells most about the cause, per minute of reaching it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ready_trail.core.prove.batch import Floats, Ints
from ready_trail.core.prove.diagnose import Ranking
from ready_trail.core.prove.matrix import PASS_SIGMA, Matrix
from ready_trail.core.prove.records import NOTHING, Test

SETTING_MIN, AWAY_MIN, PLACE_MIN = 0.4, 3.0, 1.5
"""Minutes to set another state, to take the power away or bring it back, and to reach a place
that was not open yet (house)."""

TELLS_LEAST = 0.02
"""A reading that tells less than this many bits tells nothing. (house)"""

_PLAYED_MOST, _PLAYED_SHARE = 150, 0.999


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """One thing that a reading may turn out to be, how likely, and what it would mean."""

    low: float
    high: float
    share: float
    means: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A test with its gain in bits, the minutes that it takes from here, and its outcomes."""

    test: Test
    column: int
    bits: float
    minutes: float
    outcomes: tuple[Outcome, ...]


def propose(matrix: Matrix, ranking: Ranking, taken: Sequence[int]) -> Proposal | None:
    """Return the best next reading, or None where none tells anything.

    ``taken`` are the columns read so far, the last one last.
    """
    order = np.argsort(-ranking.weights)
    upto = int(np.searchsorted(np.cumsum(ranking.weights[order]), _PLAYED_SHARE)) + 1
    played = order[: min(upto, _PLAYED_MOST)]
    weights = ranking.weights[played] / ranking.weights[played].sum()
    owners = ranking.owners[played]
    rows = ranking.rows[played]
    before = [matrix.tests[c] for c in taken]
    best: tuple[float, int, float, float] | None = None
    for column, test in enumerate(matrix.tests):
        if column in taken or test.band.most is not None:
            continue
        bits = _bits(rows[:, column], float(matrix.sigma[column]), weights, owners)
        minutes = minutes_to(test, before)
        if bits >= TELLS_LEAST and (best is None or bits / minutes > best[0]):
            best = bits / minutes, column, bits, minutes
    if best is None:
        return None
    _, column, bits, minutes = best
    return Proposal(
        test=matrix.tests[column],
        column=column,
        bits=bits,
        minutes=minutes,
        outcomes=_outcomes(matrix, rows[:, column], column, weights, owners),
    )


def _labels(values: Floats, sigma: float) -> Ints:
    """Which outcome each value is: those apart by more than the errors; unreadable is one."""
    known = np.where(np.isfinite(values), values, 1e9)
    order = np.argsort(known)
    steps = np.diff(known[order]) > PASS_SIGMA * sigma
    labels = np.empty(len(known), dtype=np.intp)
    labels[order] = np.concatenate(([0], np.cumsum(steps)))
    return labels


def _bits(values: Floats, sigma: float, weights: Floats, owners: Ints) -> float:
    """How much an outcome tells of the cause: of how bad it is does not count. [bit]"""
    labels = _labels(values, sigma)
    if labels.max() == 0:
        return 0.0
    joint = np.zeros((owners.max() + 1, labels.max() + 1))
    np.add.at(joint, (owners, labels), weights)
    return _entropy(joint.sum(axis=0)) + _entropy(joint.sum(axis=1)) - _entropy(joint.ravel())


def _entropy(shares: Floats) -> float:
    kept = shares[shares > 1e-12]
    return float(-(kept * np.log2(kept)).sum())


def walk_minutes(tests: Sequence[Test]) -> float:
    """Return the minutes for tests one after the other, each from where the last one was."""
    return sum(minutes_to(test, tests[:at]) for at, test in enumerate(tests))


def minutes_to(test: Test, taken: Sequence[Test]) -> float:
    """Return the minutes to take a reading from where the last of those ``taken`` was."""
    minutes = test.minutes
    last = taken[-1] if taken else None
    if last is None or last.setting != test.setting:
        minutes += SETTING_MIN
    was = last is None or last.setting.power
    if test.setting.power != was:
        minutes += AWAY_MIN
    if test.instrument != "eye":
        opened = {place for t in taken for place in _places(t)}
        minutes += PLACE_MIN * sum(1 for p in _places(test) if p not in opened)
    return minutes


def _places(test: Test) -> set[str]:
    ends = (test.probe.plus, test.probe.minus)
    found = {t.device for t in ends if t is not None} or {test.probe.wire}
    return found - {"BAT"}


def _outcomes(
    matrix: Matrix,
    values: Floats,
    column: int,
    weights: Floats,
    owners: Ints,
) -> tuple[Outcome, ...]:
    labels = _labels(values, float(matrix.sigma[column]))
    found = []
    for label in range(labels.max() + 1):
        mine = labels == label
        share = float(weights[mine].sum())
        by_owner = np.bincount(owners[mine], weights=weights[mine])
        leading = np.argsort(-by_owner)[:3]
        means = tuple(
            (
                NOTHING if c == len(matrix.candidates) else matrix.candidates[c].key,
                float(by_owner[c] / share),
            )
            for c in leading
            if by_owner[c] > 0.02 * share
        )
        finite = values[mine][np.isfinite(values[mine])]
        low, high = (float(finite.min()), float(finite.max())) if finite.size else (np.nan, np.nan)
        found.append(Outcome(low=low, high=high, share=share, means=means))
    return tuple(sorted(found, key=lambda o: -o.share))
