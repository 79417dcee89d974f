"""Readings: facts about a vehicle, append-only; a correction is a reading that comes later.

Each carries a key that its maker chose, so that one sent twice counts once.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from ready_trail.core.prove.progress import Reading
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError

_COLUMNS = (
    "circuit_id, test, asked, instrument, value, skipped, middle, sigma, verdict, source, design, "
    "who, made_at"
)
_INSERT = f"""
INSERT INTO reading (key, vehicle_id, {_COLUMNS}, received_at)
VALUES (:key, :vehicle_id, :circuit_id, :test, :asked, :instrument, :value, :skipped, :middle,
        :sigma, :verdict, :source, :design, :who, :made_at, :now)
ON CONFLICT (key) DO NOTHING
"""
_SELECT = f"SELECT {_COLUMNS} FROM reading WHERE vehicle_id = :vehicle_id ORDER BY reading_id"
_HAS = "SELECT 1 FROM vehicle WHERE vehicle_id = :vehicle_id"


@dataclass(frozen=True, slots=True, kw_only=True)
class NewReading:
    """A reading as it comes in, with its maker's key."""

    key: str
    reading: Reading


def add_readings(conn: sqlite3.Connection, vehicle_id: int, readings: Sequence[NewReading]) -> int:
    """Append readings in their order; those whose key is known count once. Return how many are
    new.

    A time after now counts as now. Raises NotFoundError.
    """
    if conn.execute(_HAS, {"vehicle_id": vehicle_id}).fetchone() is None:
        raise NotFoundError("vehicle", vehicle_id)
    now, new = utc_now(), 0
    for each in readings:
        r = each.reading
        row = {
            "key": each.key,
            "vehicle_id": vehicle_id,
            "circuit_id": r.circuit_id,
            "test": r.test,
            "asked": r.asked,
            "instrument": r.instrument,
            "value": r.value,
            "skipped": r.skipped,
            "middle": r.middle,
            "sigma": r.sigma,
            "verdict": r.verdict,
            "source": r.source,
            "design": r.design,
            "who": r.who,
            "made_at": min(r.made_at or now, now),
            "now": now,
        }
        new += conn.execute(_INSERT, row).rowcount
    return new


def list_readings(conn: sqlite3.Connection, vehicle_id: int) -> tuple[Reading, ...]:
    """Return every reading of a vehicle as it arrived."""
    return tuple(Reading(**dict(row)) for row in conn.execute(_SELECT, {"vehicle_id": vehicle_id}))
