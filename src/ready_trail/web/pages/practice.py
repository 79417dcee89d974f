"""What the practice pages show: how learning stands, a question, a hunt as far as it is."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design
from ready_trail.core.practice.facts import Answered, HuntActed, HuntBegun
from ready_trail.core.practice.mistakes import CODES, DRILL, Mistake, mistake
from ready_trail.core.practice.questions import KINDS, Ground, items_of
from ready_trail.core.practice.spacing import Item, Learned, learned
from ready_trail.store import practice
from ready_trail.store.practice import Practised
from ready_trail.web.pages.hunt import ended_of


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
    by_kind[DRILL] = [(DRILL, code) for code in CODES]
    words = {kind.key: kind.words for kind in KINDS.values()} | {DRILL: "Mistakes, by what breaks"}
    return tuple(
        DrillRow(
            key=key,
            words=said,
            count=len(own),
            sits=sum(i in known and known[i].sits for i in own),
            due=sum(i in known and known[i].due <= now for i in own),
            new=sum(i not in known for i in own),
        )
        for key, said in words.items()
        if (own := by_kind.get(key, []))
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
            ended=ended_of(each.fact, acts.get(each.key, ())),
        )
        for each in facts
        if isinstance(each.fact, HuntBegun)
    ]
    return tuple(reversed(rows))


def ground_of(made: Design, catalogue: Catalogue) -> Ground:
    """Return what questions are made from."""
    return Ground(made=made, catalogue=catalogue)


def facts_of(conn: sqlite3.Connection, learner_id: int) -> tuple[Practised, ...]:
    """Return what a learner did."""
    return practice.list_practice(conn, learner_id)


@lru_cache(maxsize=4)
def seeded(
    made: Design, titles: frozenset[tuple[str, str]], catalogue: Catalogue, seed: int
) -> Mistake:
    """Return a seeded mistake, worked out once for a question and its answer."""
    return mistake(made, dict(titles), catalogue, seed)
