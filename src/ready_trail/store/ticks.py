"""Ticks: facts of a build, append-only, apart from the design's history.

Each carries a key that its maker chose, so that one sent twice counts once.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ready_trail.core.build.progress import Tick
from ready_trail.store.db import utc_now
from ready_trail.store.vehicles import vehicle_of

_INSERT = """
INSERT INTO tick (key, job_id, vehicle_id, item, done, print, asked, who, made_at, received_at)
VALUES (:key, :job_id, :vehicle_id, :item, :done, :print, :asked, :who, :made_at, :now)
ON CONFLICT (key) DO NOTHING
"""
_SELECT = """
SELECT item, done, print, asked, who, made_at
  FROM tick
 WHERE job_id = :job_id AND vehicle_id = :vehicle_id
 ORDER BY tick_id
"""
_COUNT = "SELECT count(*) AS count FROM tick WHERE job_id = :job_id"


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTick:
    """A tick as it comes in, with its maker's key."""

    key: str
    tick: Tick


def add_ticks(
    conn: sqlite3.Connection,
    job_id: int,
    ticks: tuple[NewTick, ...],
    vehicle_id: int | None = None,
) -> int:
    """Append ticks in their order; those whose key is known count once. Returns how many are new.

    They are of one of the job's vehicles, of its first where none is named. A time after now (a
    phone's clock that runs ahead) counts as now. Raises NotFoundError.
    """
    vehicle = vehicle_of(conn, job_id, vehicle_id)
    now, new = utc_now(), 0
    for each in ticks:
        tick = each.tick
        row = {
            "key": each.key,
            "job_id": job_id,
            "vehicle_id": vehicle.vehicle_id,
            "item": tick.item,
            "done": int(tick.done),
            "print": tick.print,
            "asked": tick.asked,
            "who": tick.who,
            "made_at": min(tick.made_at or now, now),
            "now": now,
        }
        new += conn.execute(_INSERT, row).rowcount
    return new


def count_ticks(conn: sqlite3.Connection, job_id: int) -> int:
    """Return how many ticks a job has, whatever they say."""
    return int(conn.execute(_COUNT, {"job_id": job_id}).fetchone()["count"])


def list_ticks(
    conn: sqlite3.Connection, job_id: int, vehicle_id: int | None = None
) -> tuple[Tick, ...]:
    """Return every tick of one of a job's vehicles as it arrived, of its first by default."""
    vehicle = vehicle_of(conn, job_id, vehicle_id)
    return tuple(
        Tick(
            item=r["item"],
            done=bool(r["done"]),
            print=r["print"],
            asked=r["asked"],
            who=r["who"],
            made_at=r["made_at"],
        )
        for r in conn.execute(_SELECT, {"job_id": job_id, "vehicle_id": vehicle.vehicle_id})
    )
