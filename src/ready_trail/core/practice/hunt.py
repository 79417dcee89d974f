"""A hunt for a hidden fault: what is complained of, what each reading shows, what was best.

The vehicle is the one that Prove plays: the same tests, faults and minutes. Who hunts sees only
readings; the score sets minutes against those of the strategy that Prove proposes by itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random
from typing import Literal

import numpy as np

from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.diagnose import SURE, rank
from ready_trail.core.prove.matrix import FAIL_SIGMA, PASS_SIGMA, Matrix
from ready_trail.core.prove.next_reading import minutes_to, propose
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import NOTHING, Test

Level = Literal["open", "joint", "other"]
LEVELS: dict[Level, str] = {
    "open": "One open wire, fuse or earth",
    "joint": "Bad joints and earths",
    "other": "Shorts, stuck contacts, swapped pins",
}
_KINDS: dict[Level, frozenset[str]] = {
    "open": frozenset({"open", "blown", "lost", "dead", "coil"}),
    "joint": frozenset({"bad", "rusty", "tired"}),
    "other": frozenset(
        {"body", "welded", "swapped", "pins", "pins85", "pins87a", "backwards", "through", "short"}
    ),
}
_LEVEL_OF = {kind: level for level, kinds in _KINDS.items() for kind in kinds}
WRONG_MIN, NAME_MIN = 15.0, 1.0
"""What a wrong name costs, as parts go in for nothing; and a right one. [min] (house)"""
_READINGS_MOST = 25

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
    """A hidden fault: its candidate, the row of what it reads, and the complaint's column."""

    candidate: str
    row: int
    symptom: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Act:
    """One reading of a hunt: its column, what it showed, its minutes, and how the candidates stood
    then: the leaders with their shares, and what would have told more per minute.
    """

    column: int
    place: float
    shown: str
    minutes: float
    leaders: tuple[tuple[str, float], ...]
    better: tuple[str, float] | None


def hidden_faults(matrix: Matrix, level: Level) -> tuple[Hidden, ...]:
    """Return every fault of a level that an owner would notice, in each size that shows."""
    eyes = [n for n, t in enumerate(matrix.tests) if t.instrument == "eye"]
    found = []
    for row, owner in enumerate(matrix.owner):
        candidate = matrix.candidates[int(owner)]
        if _LEVEL_OF.get(candidate.kind) != level:
            continue
        off = np.abs(matrix.readings[row, eyes] - matrix.middle[eyes]) / matrix.sigma[eyes]
        off = np.where(np.isfinite(off), off, 0.0)
        if len(eyes) and float(off.max()) > FAIL_SIGMA:
            symptom = eyes[int(np.argmax(off > FAIL_SIGMA))]
            found.append(Hidden(candidate=candidate.key, row=row, symptom=symptom))
    return tuple(found)


def hide(matrix: Matrix, level: Level, chance: Random) -> Hidden:
    """Hide one: each candidate as likely as another. Raises NothingShowsError."""
    found = hidden_faults(matrix, level)
    if not found:
        raise NothingShowsError("no fault of this level would be noticed on this circuit")
    key = chance.choice(sorted({h.candidate for h in found}))
    return chance.choice([h for h in found if h.candidate == key])


def complaint(matrix: Matrix, hidden: Hidden) -> str:
    """Say what an owner notices, in their words."""
    test = matrix.tests[hidden.symptom]
    got = matrix.readings[hidden.row, hidden.symptom]
    sound = float(matrix.middle[hidden.symptom])
    when = test.setting.words
    when = when[:1].lower() + when[1:]
    if sound < 0.5:
        return f"{test.title} runs by itself: {when}, and it is on."
    if got < 0.3:
        return f"{test.title} does not work: {when}, and nothing happens."
    return f"{test.title} is weak: {when}, and it only just runs."


def place_of(matrix: Matrix, hidden: Hidden, column: int) -> float:
    """Return what an instrument reads, as a place on its scale; NaN where it cannot be read."""
    return float(matrix.readings[hidden.row, column])


def shown(test: Test, place: float) -> str:
    """Return a place as the instrument shows it."""
    if not np.isfinite(place):
        return "cannot be read"
    instrument = INSTRUMENTS[test.instrument]
    if instrument.choices:
        return min(instrument.choices, key=lambda choice: abs(choice[1] - place))[0]
    return instrument.shown(instrument.value(place))


def is_found(matrix: Matrix, hidden: Hidden, named: str) -> bool:
    """Whether a name is right: the wire or device itself, whatever is said to be wrong with it, or
    a fault that no reading tells from the hidden one.
    """
    subjects = {c.key: c.subject for c in matrix.candidates}
    if named in subjects and subjects[named] == subjects[hidden.candidate]:
        return True
    own = matrix.readings[hidden.row]
    for row, owner in enumerate(matrix.owner):
        if matrix.candidates[int(owner)].key == named:
            off = np.abs(matrix.readings[row] - own) / matrix.sigma
            if float(np.nan_to_num(off, nan=0.0).max()) <= PASS_SIGMA:
                return True
    return False


def best_hunt(plan: Plan, hidden: Hidden) -> tuple[tuple[int, ...], float, str]:
    """Return the readings of the best strategy, its minutes, and what it names in the end."""
    matrix = plan.matrix
    taken = _told(matrix, hidden)
    minutes = 0.0
    while True:
        ranking = rank(matrix, _known(taken))
        leader = ranking.causes[0]
        proposal = propose(matrix, ranking, [c for c, _ in taken])
        sure = leader.share >= SURE and len(taken) > 1
        if sure or proposal is None or len(taken) > _READINGS_MOST:
            return tuple(c for c, _ in taken[1:]), minutes + NAME_MIN, leader.key
        minutes += minutes_to(proposal.test, [matrix.tests[c] for c, _ in taken])
        taken.append((proposal.column, place_of(matrix, hidden, proposal.column)))


def _told(matrix: Matrix, hidden: Hidden) -> list[tuple[int, float]]:
    """What the complaint tells: it costs nothing."""
    return [(hidden.symptom, place_of(matrix, hidden, hidden.symptom))]


def replay(plan: Plan, hidden: Hidden, columns: Sequence[int]) -> tuple[Act, ...]:
    """Return a hunt act by act: what each reading showed and did, and what would have been
    better.
    """
    matrix = plan.matrix
    words = {c.key: c.words for c in matrix.candidates} | {NOTHING: "nothing is wrong"}
    acts: list[Act] = []
    taken = _told(matrix, hidden)
    first = propose(matrix, rank(matrix, _known(taken)), [hidden.symptom])
    better = (first.test.key, first.minutes) if first is not None else None
    for column in columns:
        test = matrix.tests[column]
        place = place_of(matrix, hidden, column)
        minutes = minutes_to(test, [matrix.tests[c] for c, _ in taken])
        taken.append((column, place))
        ranking = rank(matrix, _known(taken))
        acts.append(
            Act(
                column=column,
                place=place,
                shown=shown(test, place),
                minutes=minutes,
                leaders=tuple((words.get(c.key, c.key), c.share) for c in ranking.causes[:3]),
                better=better if better is not None and better[0] != test.key else None,
            )
        )
        proposal = propose(matrix, ranking, [c for c, _ in taken])
        better = (proposal.test.key, proposal.minutes) if proposal is not None else None
    return tuple(acts)


def minutes_of(
    plan: Plan, hidden: Hidden, columns: Sequence[int], wrong: int, *, named: bool
) -> float:
    """Return what a hunt took. [min]"""
    tests = [plan.matrix.tests[c] for c in (hidden.symptom, *columns)]
    walked = sum(minutes_to(tests[at], tests[:at]) for at in range(1, len(tests)))
    return walked + wrong * WRONG_MIN + (NAME_MIN if named else 0.0)


def _known(taken: Sequence[tuple[int, float]]) -> list[tuple[int, float]]:
    return [(c, p) for c, p in taken if np.isfinite(p)]
