"""Learners by name, and what they did: append-only."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ready_trail.core.practice.facts import PRACTICE_ADAPTER, AnyPractice
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError

_LEARNERS = "SELECT learner_id, name FROM learner ORDER BY name"
_ONE = "SELECT learner_id, name FROM learner WHERE learner_id = :learner_id"
_BY_NAME = "SELECT learner_id FROM learner WHERE name = :name"
_ADD = "INSERT INTO learner (name, made_at) VALUES (:name, :now) RETURNING learner_id"
_PUT = """
INSERT INTO practice (key, learner_id, document, received_at)
VALUES (:key, :learner_id, :document, :now)
ON CONFLICT (key) DO NOTHING
"""
_FACTS = "SELECT key, document FROM practice WHERE learner_id = :learner_id ORDER BY practice_id"


@dataclass(frozen=True, slots=True, kw_only=True)
class Learner:
    """Somebody who practises."""

    learner_id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Practised:
    """What a learner did, with its key."""

    key: str
    fact: AnyPractice


def list_learners(conn: sqlite3.Connection) -> tuple[Learner, ...]:
    """Return everybody, by name."""
    return tuple(Learner(**dict(row)) for row in conn.execute(_LEARNERS))


def get_learner(conn: sqlite3.Connection, learner_id: int) -> Learner:
    """Return one. Raises NotFoundError."""
    row = conn.execute(_ONE, {"learner_id": learner_id}).fetchone()
    if row is None:
        raise NotFoundError("learner", learner_id)
    return Learner(**dict(row))


def known_as(conn: sqlite3.Connection, name: str) -> int | None:
    """Return who has a name, whatever its capitals."""
    row = conn.execute(_BY_NAME, {"name": name}).fetchone()
    return int(row["learner_id"]) if row is not None else None


def add_learner(conn: sqlite3.Connection, name: str) -> int:
    """Add somebody and return their id."""
    return int(conn.execute(_ADD, {"name": name, "now": utc_now()}).fetchone()["learner_id"])


def add_practice(conn: sqlite3.Connection, learner_id: int, key: str, fact: AnyPractice) -> bool:
    """Append what was done; False where its key is known."""
    made = fact.model_copy(update={"at": fact.at or utc_now()})
    row = {
        "key": key,
        "learner_id": learner_id,
        "document": made.model_dump_json(),
        "now": utc_now(),
    }
    return conn.execute(_PUT, row).rowcount > 0


def list_practice(conn: sqlite3.Connection, learner_id: int) -> tuple[Practised, ...]:
    """Return everything that a learner did, as it came."""
    return tuple(
        Practised(key=row["key"], fact=PRACTICE_ADAPTER.validate_json(row["document"]))
        for row in conn.execute(_FACTS, {"learner_id": learner_id})
    )
