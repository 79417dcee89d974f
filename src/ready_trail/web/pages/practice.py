"""What the practice pages show: how learning stands, a question, a hunt as far as it is."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design
from ready_trail.core.practice import hunt
from ready_trail.core.practice.facts import Answered, HuntActed, HuntBegun
from ready_trail.core.practice.mistakes import Mistake, mistake
from ready_trail.core.practice.questions import KINDS, Ground, items_of
from ready_trail.core.practice.spacing import Item, Learned, learned
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Test
from ready_trail.core.prove.verdict import expected_words
from ready_trail.store import practice
from ready_trail.store.practice import Practised


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillRow:
    """One kind of question: how many there are, sit, are due, were never asked."""

    key: str
    words: str
    count: int
    sits: int
    due: int
    new: int


@dataclass(frozen=True, slots=True, kw_only=True)
class HuntRow:
    """A hunt on the list: its key, what it was, and how it ended."""

    key: str
    begun: HuntBegun
    readings: int
    dangers: int
    ended: str


def drill_rows(ground: Ground, known: Mapping[Item, Learned]) -> tuple[DrillRow, ...]:
    """Return how each kind of question stands for a learner."""
    now = datetime.now(UTC)
    by_kind: dict[str, list[Item]] = {}
    for item in items_of(ground):
        by_kind.setdefault(item[0], []).append(item)
    return tuple(
        DrillRow(
            key=kind.key,
            words=kind.words,
            count=len(own),
            sits=sum(i in known and known[i].sits for i in own),
            due=sum(i in known and known[i].due <= now for i in own),
            new=sum(i not in known for i in own),
        )
        for kind in KINDS.values()
        if (own := by_kind.get(kind.key, []))
    )


def learned_by(facts: Sequence[Practised]) -> Mapping[Item, Learned]:
    """Return how everything stands that a learner was asked."""
    return learned(f.fact for f in facts if isinstance(f.fact, Answered))


def hunt_rows(facts: Sequence[Practised]) -> tuple[HuntRow, ...]:
    """Return a learner's hunts, the newest first."""
    acts: dict[str, list[HuntActed]] = {}
    for each in facts:
        if isinstance(each.fact, HuntActed):
            acts.setdefault(each.fact.hunt, []).append(each.fact)
    rows = [
        HuntRow(
            key=each.key,
            begun=each.fact,
            readings=sum(a.what == "read" for a in acts.get(each.key, ())),
            dangers=sum(a.what == "danger" for a in acts.get(each.key, ())),
            ended=_ended(acts.get(each.key, ())),
        )
        for each in facts
        if isinstance(each.fact, HuntBegun)
    ]
    return tuple(reversed(rows))


def _ended(acts: Sequence[HuntActed]) -> str:
    if any(a.what == "name" and a.is_right for a in acts):
        return "found"
    return "given up" if any(a.what == "give_up" for a in acts) else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A reading of a hunt as the page shows it, with what a sound one reads."""

    test: Test
    shown: str
    sound: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HuntView:
    """A hunt as far as it is; ``replay`` and ``best`` once it has ended."""

    begun: HuntBegun
    complaint: str
    readings: tuple[Reading, ...]
    minutes: float
    wrong: tuple[str, ...]
    dangers: tuple[str, ...]
    ended: str
    groups: tuple[tuple[str, tuple[Test, ...]], ...]
    names: tuple[tuple[str, str], ...]
    truth: str
    replay: tuple[hunt.Act, ...]
    best: tuple[Test, ...]
    best_minutes: float
    tests: Mapping[str, Test]


def hunt_view(plan: Plan, begun: HuntBegun, acts: Sequence[HuntActed]) -> HuntView:
    """Return a hunt from its facts."""
    matrix = plan.matrix
    hidden = hunt.Hidden(candidate=begun.candidate, row=begun.row, symptom=begun.symptom)
    words = {c.key: c.words for c in matrix.candidates}
    columns = [
        column
        for act in acts
        if act.what == "read" and (column := matrix.column(act.key)) is not None
    ]
    wrong = [words.get(a.key, a.key) for a in acts if a.what == "name" and not a.is_right]
    ended = _ended(acts)
    by_setting: dict[str, list[Test]] = {}
    for test in matrix.tests:
        by_setting.setdefault(test.setting.words, []).append(test)
    best: tuple[int, ...] = ()
    best_min = 0.0
    if ended:
        best, best_min, _ = hunt.best_hunt(plan, hidden)
    return HuntView(
        begun=begun,
        complaint=hunt.complaint(matrix, hidden),
        readings=tuple(
            Reading(
                test=matrix.tests[c],
                shown=hunt.shown(matrix.tests[c], hunt.place_of(matrix, hidden, c)),
                sound=expected_words(matrix.tests[c]),
            )
            for c in columns
        ),
        minutes=hunt.minutes_of(plan, hidden, columns, len(wrong), named=ended == "found"),
        wrong=tuple(wrong),
        dangers=tuple(a.key for a in acts if a.what == "danger"),
        ended=ended,
        groups=tuple((words, tuple(tests)) for words, tests in by_setting.items()),
        names=tuple(sorted(words.items(), key=lambda kv: kv[1])),
        truth=words.get(begun.candidate, begun.candidate),
        replay=hunt.replay(plan, hidden, columns) if ended else (),
        best=tuple(matrix.tests[c] for c in best),
        best_minutes=best_min,
        tests={t.key: t for t in matrix.tests},
    )


def ground_of(made: Design, catalogue: Catalogue) -> Ground:
    """Return what questions are made from."""
    return Ground(made=made, catalogue=catalogue)


def facts_of(conn: sqlite3.Connection, learner_id: int) -> tuple[Practised, ...]:
    """Return what a learner did."""
    return practice.list_practice(conn, learner_id)


@lru_cache(maxsize=64)
def seeded(
    made: Design, titles: frozenset[tuple[str, str]], catalogue: Catalogue, seed: int
) -> Mistake:
    """Return a seeded mistake, worked out once for a question and its answer."""
    return mistake(made, dict(titles), catalogue, seed)
