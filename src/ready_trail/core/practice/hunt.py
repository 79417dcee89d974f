"""Hunts for hidden faults: their levels, what may be hidden, what nobody should do.

The vehicle is the one that Prove plays: the same tests, faults and minutes. Who hunts sees only
readings; the score sets minutes against those of the strategy that Prove proposes by itself.
"""

from __future__ import annotations

from dataclasses import dataclass
from random import Random
from typing import Literal

import numpy as np

from ready_trail.core.practice.broken import Broken, symptom
from ready_trail.core.practice.strategy import best_hunt
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.matrix import FAIL_SIGMA, Matrix

Level = Literal["open", "joint", "other", "two"]
LEVELS: dict[Level, str] = {
    "open": "One open wire, fuse or earth",
    "joint": "Bad joints and earths",
    "other": "Shorts, stuck contacts, swapped pins",
    "two": "Two faults at once",
}
_KINDS: dict[Level, frozenset[str]] = {
    "open": frozenset({"open", "blown", "lost", "dead", "coil"}),
    "joint": frozenset({"bad", "rusty", "tired"}),
    "other": frozenset(
        {"body", "welded", "swapped", "pins", "pins85", "pins87a", "backwards", "through", "short"}
    ),
}
_LEVEL_OF = {kind: level for level, kinds in _KINDS.items() for kind in kinds}
_PAIRS_TRIED = 8

DANGEROUS = {
    "bridge": "Bridge the fuse with a wire: a short then burns the loom.",
    "bigger": "Fit a bigger fuse: the wire becomes the fuse.",
    "ohms": "Measure ohms with the power on: the meter reads nonsense, or dies.",
    "lamp": "Put a test lamp on a data wire: it draws more than a controller stands.",
}
"""Acts that help nobody, each with what comes of it."""


class NothingShowsError(ValueError):
    """No fault of this level shows on this circuit."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hidden:
    """A hidden fault: its candidate, and the row of what it reads."""

    candidate: str
    row: int


def hidden_faults(matrix: Matrix, level: Level) -> tuple[Hidden, ...]:
    """Return every fault of a level that an owner would notice, in each size that shows."""
    eyes = [n for n, t in enumerate(matrix.tests) if t.instrument == "eye"]
    found = []
    for row, owner in enumerate(matrix.owner):
        candidate = matrix.candidates[int(owner)]
        if level not in ("two", _LEVEL_OF.get(candidate.kind)):
            continue
        off = np.abs(matrix.readings[row, eyes] - matrix.middle[eyes]) / matrix.sigma[eyes]
        if len(eyes) and float(np.nan_to_num(off, nan=0.0, posinf=0.0).max()) > FAIL_SIGMA:
            found.append(Hidden(candidate=candidate.key, row=row))
    return tuple(found)


def hide(bench: Bench, matrix: Matrix, level: Level, chance: Random) -> tuple[Hidden, ...]:
    """Hide one fault, each candidate as likely as another; or two that the best strategy finds
    both. Raises NothingShowsError.
    """
    found = hidden_faults(matrix, level)
    if not found:
        raise NothingShowsError("no fault of this level would be noticed on this circuit")
    if level != "two":
        return (_one_of(found, chance),)
    subjects = {c.key: c.subject for c in matrix.candidates}
    for _ in range(_PAIRS_TRIED):
        first, second = _one_of(found, chance), _one_of(found, chance)
        if subjects[first.candidate] == subjects[second.candidate]:
            continue
        both = Broken(bench=bench, matrix=matrix, rows=(first.row, second.row))
        if symptom(both) is not None and best_hunt(both).is_found:
            return first, second
    raise NothingShowsError("no two faults were found here that readings tell apart")


def _one_of(found: tuple[Hidden, ...], chance: Random) -> Hidden:
    key = chance.choice(sorted({h.candidate for h in found}))
    return chance.choice([h for h in found if h.candidate == key])
