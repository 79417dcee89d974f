"""From readings to causes: how well each thing that may be wrong agrees with what was read."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.batch import Floats, Ints
from ready_trail.core.prove.matrix import Matrix
from ready_trail.core.prove.records import NOTHING

SURE = 0.90
"""Share from which a cause is named, once a further reading has confirmed it. (house)"""

WRONG_READING = 0.01
"""How often a reading is wrong in itself. (house)"""

_MODEL_RATIO, _BEND_RATIO = 0.04, 0.03
"""How far a faulty vehicle may be from how it was played; between two rungs of one fault more."""

_RANGES: Mapping[str, float] = {"volts": 15.0, "ohms": 7.5, "load": 12.0, "clamp": 40.0}
FAILED_X, KIND_X = 4.0, 1.25
"""How much sooner what failed before is suspected, and the same kind elsewhere (house)."""
_UNREADABLE = 12.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """One candidate with its share, and what it would read where something was read."""

    key: str
    share: float
    reads: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking:
    """Candidates by share, the likeliest first; ``shares`` by place in the matrix, nothing last.

    ``rows`` and ``weights`` are what is played of them, for choosing what to read next; ``fits``
    tells whether any single one explains the readings at all.
    """

    causes: tuple[Cause, ...]
    shares: Floats
    rows: Floats
    weights: Floats
    owners: Ints
    fits: bool

    @property
    def leader(self) -> Cause:
        """The likeliest."""
        return self.causes[0]


@dataclass(frozen=True, slots=True)
class _Segments:
    """Lines between neighbouring rungs of each candidate; a point where it has one alone."""

    a: Floats
    b: Floats
    owner: Ints


_CAUSES = 12
"""So many of the likeliest are told."""


def _priors(matrix: Matrix, failed: Mapping[str, int]) -> Floats:
    """How likely each candidate is before anything is read."""
    alike = dict.fromkeys((c.kind for c in matrix.candidates if c.subject in failed), KIND_X)
    sooner = [
        FAILED_X * failed[c.subject] if c.subject in failed else alike.get(c.kind, 1.0)
        for c in matrix.candidates
    ]
    priors = np.array([c.prior for c in matrix.candidates])
    return np.asarray(priors * np.array(sooner), dtype=np.float64)


def rank(
    matrix: Matrix, taken: Sequence[tuple[int, float]], failed: Mapping[str, int] | None = None
) -> Ranking:
    """Return the candidates by how well they agree with readings: (column, place on its scale).

    What ``failed`` before, by the wire or device and how often, is suspected sooner; so are, a
    little, faults of the same kind elsewhere.

    Notes
    -----
    Gaussian, with the instruments' errors, the spread that sound vehicles share, and a few
    percent for how faults are played. A fault that has sizes is a line through its rungs: between
    two of them the readings lie about on that line, as all of them follow one current.
    """
    columns = [c for c, _ in taken]
    y = np.array([v for _, v in taken])
    segments = _segments(matrix)
    # the last row is "nothing": all sound
    a = np.vstack((segments.a, matrix.middle[None]))
    b = np.vstack((segments.b, matrix.middle[None]))
    owner = np.append(segments.owner, len(matrix.candidates))
    mid = matrix.middle[columns]
    ga, gb = a[:, columns], b[:, columns]
    unreadable = ~np.isfinite(ga) | ~np.isfinite(gb)
    ga, gb = np.where(unreadable, mid, ga), np.where(unreadable, mid, gb)
    d = gb - ga
    log_like, t, distance = _fit(matrix, columns, y, ga, d)
    log_like = log_like - _UNREADABLE * unreadable.sum(axis=1)
    log_like[-1] = _nothing(matrix, columns, y, float(log_like[-1]))
    per_owner = np.bincount(owner, minlength=len(matrix.candidates) + 1)
    priors = _priors(matrix, failed or {})
    weights = np.append(priors, priors.sum())
    log_post = log_like + np.log(weights[owner] / per_owner[owner])
    post = np.exp(log_post - log_post.max())
    post /= post.sum()
    shares = np.zeros(len(matrix.candidates) + 1)
    np.add.at(shares, owner, post)
    rows = a + t[:, None] * (b - a)
    causes = []
    for c in np.argsort(-shares)[:_CAUSES]:
        mine = np.flatnonzero(owner == c)
        best = mine[np.argmax(post[mine])]
        key = NOTHING if c == len(matrix.candidates) else matrix.candidates[c].key
        causes.append(Cause(key=key, share=float(shares[c]), reads=rows[best, columns]))
    count = len(taken)
    fits = not count or bool(distance[np.argmax(post)] < count + 5.0 * (1.0 + (2.0 * count) ** 0.5))
    return Ranking(
        causes=tuple(causes),
        shares=shares,
        rows=rows,
        weights=post,
        owners=owner,
        fits=fits,
    )


def apart(matrix: Matrix, column: int, place: float, would: float) -> float:
    """Return how many errors a reading is from what a candidate would read, as it is ranked."""
    model = _MODEL_RATIO * abs(would - float(matrix.middle[column]))
    return abs(place - would) / float(np.hypot(matrix.sigma[column], model))


def _fit(
    matrix: Matrix, columns: Sequence[int], y: Floats, a: Floats, d: Floats
) -> tuple[Floats, Floats, Floats]:
    """Log likelihood of the nearest place on each line, how far along it lies, and how far from
    the readings, in squared errors.
    """
    if not len(columns):
        return np.zeros(len(a)), np.full(len(a), 0.5), np.zeros(len(a))
    mid = matrix.middle[list(columns)]
    shared = np.cov(matrix.spread[:, list(columns)], rowvar=False, bias=True)
    shared = np.atleast_2d(shared)
    own = np.array(
        [
            INSTRUMENTS[matrix.tests[c].instrument].sigma(float(v))
            for c, v in zip(columns, y, strict=True)
        ]
    )
    base = shared + np.diag(own**2)
    model = _MODEL_RATIO * np.abs(a + d / 2 - mid) + _BEND_RATIO * np.abs(d)
    cov = base[None] + np.einsum("si,ij->sij", model**2, np.eye(len(columns)))
    w = np.linalg.inv(cov)
    wd = (w @ d[:, :, None])[:, :, 0]
    along = np.einsum("si,si->s", wd, y - a)
    length = np.einsum("si,si->s", wd, d)
    t = np.clip(np.where(length > 1e-12, along / np.maximum(length, 1e-12), 0.5), 0.0, 1.0)
    r = y - a - t[:, None] * d
    distance = np.einsum("si,sij,sj->s", r, w, r)
    return -0.5 * distance - 0.5 * np.linalg.slogdet(cov)[1], t, distance


def _nothing(matrix: Matrix, columns: Sequence[int], y: Floats, plain: float) -> float:
    """All is sound, at the most one reading was wrong."""
    best = plain
    for at in range(len(columns)):
        rest = [c for i, c in enumerate(columns) if i != at]
        others = np.delete(y, at)
        mid = matrix.middle[rest][None]
        fit = float(_fit(matrix, rest, others, mid, np.zeros_like(mid))[0][0]) if rest else 0.0
        span = _RANGES.get(matrix.tests[columns[at]].instrument, 1.0)
        best = max(best, fit + float(np.log(WRONG_READING / span)))
    return best


def _segments(matrix: Matrix) -> _Segments:
    a, b, owner = [], [], []
    for c in range(len(matrix.candidates)):
        mine = np.flatnonzero(matrix.owner == c)
        pairs = list(itertools.pairwise(mine)) or [(mine[0], mine[0])]
        for i, j in pairs:
            a.append(i)
            b.append(j)
            owner.append(c)
    return _Segments(matrix.readings[a], matrix.readings[b], np.array(owner, dtype=np.intp))
