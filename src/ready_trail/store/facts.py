"""The record of a vehicle: facts, append-only; one sent twice counts once."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from ready_trail.core.record.facts import FACT_ADAPTER, AnyFact, Photographed, Visited
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError

_INSERT = """
INSERT INTO fact (key, vehicle_id, kind, document, received_at)
VALUES (:key, :vehicle_id, :kind, :document, :now)
ON CONFLICT (key) DO NOTHING
"""
_SELECT = "SELECT key, document FROM fact WHERE vehicle_id = :vehicle_id ORDER BY fact_id"
_HAS = "SELECT 1 FROM vehicle WHERE vehicle_id = :vehicle_id"
_DIGESTS = "SELECT document FROM fact WHERE kind = 'photographed'"


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredFact:
    """A fact with its key."""

    key: str
    fact: AnyFact


def add_facts(
    conn: sqlite3.Connection, vehicle_id: int, facts: Iterable[tuple[str, AnyFact]]
) -> int:
    """Append facts by their keys; return how many are new. A time after now counts as now.

    Raises NotFoundError.
    """
    if conn.execute(_HAS, {"vehicle_id": vehicle_id}).fetchone() is None:
        raise NotFoundError("vehicle", vehicle_id)
    now, new = utc_now(), 0
    for key, fact in facts:
        made = fact.model_copy(update={"made_at": min(fact.made_at or now, now)})
        row = {
            "key": key,
            "vehicle_id": vehicle_id,
            "kind": made.kind,
            "document": made.model_dump_json(),
            "now": now,
        }
        new += conn.execute(_INSERT, row).rowcount
    return new


def list_facts(conn: sqlite3.Connection, vehicle_id: int) -> tuple[StoredFact, ...]:
    """Return every fact of a vehicle as it arrived."""
    return tuple(
        StoredFact(key=row["key"], fact=FACT_ADAPTER.validate_json(row["document"]))
        for row in conn.execute(_SELECT, {"vehicle_id": vehicle_id})
    )


def photo_digests(conn: sqlite3.Connection) -> frozenset[str]:
    """Return the digest of every picture that any vehicle's record names."""
    facts = (FACT_ADAPTER.validate_json(row["document"]) for row in conn.execute(_DIGESTS))
    return frozenset(f.digest for f in facts if isinstance(f, Photographed))


def failed_before(conn: sqlite3.Connection, vehicle_id: int) -> dict[str, int]:
    """Return how often visits found each wire or device of a vehicle at fault."""
    visits = (f.fact for f in list_facts(conn, vehicle_id))
    return dict(Counter(f.part for f in visits if isinstance(f, Visited) and f.part))
