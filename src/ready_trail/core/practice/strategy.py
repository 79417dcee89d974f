"""What a hunt took, what was best: the readings that Prove proposes, and what each act did."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ready_trail.core.practice.broken import Broken, shown, symptom
from ready_trail.core.prove.diagnose import SURE, Ranking, rank
from ready_trail.core.prove.matrix import Matrix
from ready_trail.core.prove.next_reading import minutes_to, propose, walk_minutes
from ready_trail.core.prove.pairs import pairs
from ready_trail.core.prove.records import NOTHING, Test

WRONG_MIN, NAME_MIN = 15.0, 1.0
"""What a wrong name costs, as parts go in for nothing; and a right one. [min] (house)"""
_READINGS_MOST, _WRONG_MOST = 25, 3
_PAIR_READINGS = 3
"""So many readings that no single fault explains make one look for two. (house)"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """Something done in a hunt: a test read, or a name given."""

    what: Literal["read", "name"]
    key: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A part of a hunt, from a complaint to a right name: the vehicle as it was then."""

    vehicle: Broken
    symptom: int
    tests: tuple[Test, ...] = ()
    places: tuple[float, ...] = ()
    wrong: tuple[str, ...] = ()
    named: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Best:
    """The best strategy, part by part, and whether it finds everything."""

    stages: tuple[Stage, ...]
    is_found: bool

    @property
    def tests(self) -> tuple[Test, ...]:
        """What it reads, in order."""
        return tuple(t for stage in self.stages for t in stage.tests)

    @property
    def minutes(self) -> float:
        """What it takes. [min]"""
        return minutes_of(self.stages)


@dataclass(frozen=True, slots=True, kw_only=True)
class Act:
    """One reading of a hunt: what it showed, its minutes, and how the candidates stood then: the
    leaders with their shares, and what would have told more per minute.
    """

    test: Test
    place: float
    shown: str
    minutes: float
    leaders: tuple[tuple[str, float], ...]
    better: Test | None


def stages(broken: Broken, steps: Sequence[Step]) -> tuple[Stage, ...]:
    """Return a hunt part by part: each right name mends its fault and opens the next part."""
    found: list[Stage] = []
    vehicle, keys, wrong = broken, list[str](), list[str]()
    for step in (*steps, Step(what="name", key="")):
        if step.what == "read":
            keys.append(step.key)
            continue
        means = vehicle.means(step.key) if step.key else ""
        if step.key and not means:
            wrong.append(step.key)
            continue
        if not vehicle.rows:
            break
        tests = vehicle.tests(keys)
        at = symptom(vehicle)
        found.append(
            Stage(
                vehicle=vehicle,
                symptom=at if at is not None else 0,
                tests=tests,
                places=tuple(float(p) for p in vehicle.reads(tests)),
                wrong=tuple(wrong),
                named=means,
            )
        )
        vehicle, keys, wrong = vehicle.without(means), [], []
    return tuple(found)


def minutes_of(hunt: Sequence[Stage]) -> float:
    """Return what a hunt took so far: places that were opened once stay open. [min]"""
    if not hunt:
        return 0.0
    first = hunt[0].vehicle.matrix.tests[hunt[0].symptom]
    tests = [first, *(t for stage in hunt for t in stage.tests)]
    walked = walk_minutes(tests) - walk_minutes(tests[:1])
    wrong = sum(len(stage.wrong) for stage in hunt)
    return walked + wrong * WRONG_MIN + sum(NAME_MIN for stage in hunt if stage.named)


def best_hunt(broken: Broken) -> Best:
    """Return what Prove would read and name on this vehicle, to the last fault."""
    found: list[Stage] = []
    vehicle, wrong = broken, 0
    while vehicle.rows and wrong <= _WRONG_MOST:
        at = symptom(vehicle)
        if at is None:
            break
        hunter = _Hunter(vehicle, at)
        stage = hunter.hunt(_WRONG_MOST - wrong)
        found.append(stage)
        wrong += len(stage.wrong)
        if not stage.named:
            break
        vehicle = vehicle.without(stage.named)
    return Best(stages=tuple(found), is_found=not vehicle.rows)


class _Hunter:
    """One part of the best hunt: reads what tells most a minute, names what is sure."""

    def __init__(self, vehicle: Broken, at: int) -> None:
        self.vehicle, self.matrix = vehicle, vehicle.matrix
        self.own = vehicle.reads(self.matrix.tests)
        self.seen, self.struck = [at], list[str]()

    def hunt(self, wrong_most: int) -> Stage:
        """Read and name until a name is right, or too many were wrong."""
        means = ""
        while not means and len(self.struck) <= wrong_most:
            name = self._next_name()
            if not name:
                break
            means = self.vehicle.means(name)
            if not means:
                self.struck.append(name)
        return Stage(
            vehicle=self.vehicle,
            symptom=self.seen[0],
            tests=tuple(self.matrix.tests[c] for c in self.seen[1:]),
            places=tuple(float(self.own[c]) for c in self.seen[1:]),
            wrong=tuple(self.struck),
            named=means,
        )

    def _next_name(self) -> str:
        while True:
            taken = _known([(c, float(self.own[c])) for c in self.seen])
            ranking = rank(self.matrix, taken)
            proposal = propose(self.matrix, ranking, self.seen)
            if proposal is None or self._is_enough(ranking):
                return self._name(ranking, taken)
            self.seen.append(proposal.column)

    def _is_enough(self, ranking: Ranking) -> bool:
        read, leader = len(self.seen), ranking.leader
        if len(self.vehicle.rows) > 1 and not ranking.fits:
            return read > _PAIR_READINGS + 2 * len(self.struck)
        sure = leader.share >= SURE and read > 1 and leader.key not in self.struck
        return sure or read > _READINGS_MOST

    def _name(self, ranking: Ranking, taken: list[tuple[int, float]]) -> str:
        names = [cause.key for cause in ranking.causes]
        if len(self.vehicle.rows) > 1 and not ranking.fits:
            priors = {c.key: c.prior for c in self.matrix.candidates}
            found = pairs(self.matrix, taken)
            together = [sorted(pair, key=lambda key: -priors[key]) for pair in found]
            names = [key for pair in together for key in pair] + names
        return next((n for n in names if n != NOTHING and n not in self.struck), "")


def replay(hunt: Sequence[Stage]) -> tuple[Act, ...]:
    """Return a hunt act by act: what each reading showed and did, and what would have been
    better. Every test of it is one of its vehicle's matrix.
    """
    acts: list[Act] = []
    before: list[Test] = []
    for stage in hunt:
        matrix = stage.vehicle.matrix
        words = {c.key: c.words for c in matrix.candidates} | {NOTHING: "nothing is wrong"}
        told = float(stage.vehicle.reads([matrix.tests[stage.symptom]])[0])
        taken = [(stage.symptom, told)]
        before = before or [matrix.tests[stage.symptom]]
        better = _best_next(matrix, taken)
        for test, place in zip(stage.tests, stage.places, strict=True):
            column = matrix.column(test.key)
            assert column is not None
            taken.append((column, place))
            ranking = rank(matrix, _known(taken))
            acts.append(
                Act(
                    test=test,
                    place=place,
                    shown=shown(test, place),
                    minutes=minutes_to(test, before),
                    leaders=tuple((words.get(c.key, c.key), c.share) for c in ranking.causes[:3]),
                    better=better if better is not None and better.key != test.key else None,
                )
            )
            before.append(test)
            better = _best_next(matrix, taken)
    return tuple(acts)


def _best_next(matrix: Matrix, taken: Sequence[tuple[int, float]]) -> Test | None:
    proposal = propose(matrix, rank(matrix, _known(taken)), [c for c, _ in taken])
    return proposal.test if proposal is not None else None


def _known(taken: Sequence[tuple[int, float]]) -> list[tuple[int, float]]:
    return [(c, p) for c, p in taken if np.isfinite(p)]
