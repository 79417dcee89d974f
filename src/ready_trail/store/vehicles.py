"""The vehicles of a job: alike ones share its design, what is read of each stays with it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError

VEHICLES_MOST = 200

_SELECT = "SELECT vehicle_id, name FROM vehicle WHERE job_id = :job_id ORDER BY vehicle_id"
_ADD = """
INSERT INTO vehicle (job_id, name, made_at) VALUES (:job_id, :name, :now) RETURNING vehicle_id
"""
_RENAME = """
UPDATE vehicle SET name = :name WHERE vehicle_id = :vehicle_id AND job_id = :job_id
RETURNING vehicle_id
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredVehicle:
    """One vehicle; where its ``name`` is empty it goes by its job's."""

    vehicle_id: int
    name: str


def list_vehicles(conn: sqlite3.Connection, job_id: int) -> tuple[StoredVehicle, ...]:
    """Return a job's vehicles, the first one first: it came with the job. Raises NotFoundError."""
    found = conn.execute(_SELECT, {"job_id": job_id}).fetchall()
    if not found:
        raise NotFoundError("job", job_id)
    return tuple(StoredVehicle(vehicle_id=r["vehicle_id"], name=r["name"]) for r in found)


def add_vehicle(conn: sqlite3.Connection, job_id: int, name: str) -> int:
    """Add a vehicle to a job, beside its first, and return its id. Raises NotFoundError."""
    list_vehicles(conn, job_id)
    row = {"job_id": job_id, "name": name.strip()[:80], "now": utc_now()}
    return int(conn.execute(_ADD, row).fetchone()["vehicle_id"])


def rename_vehicle(conn: sqlite3.Connection, job_id: int, vehicle_id: int, name: str) -> None:
    """Give a vehicle another name. Raises NotFoundError."""
    row = {"job_id": job_id, "vehicle_id": vehicle_id, "name": name.strip()[:80]}
    if conn.execute(_RENAME, row).fetchone() is None:
        raise NotFoundError("vehicle", vehicle_id)


def vehicle_of(conn: sqlite3.Connection, job_id: int, vehicle_id: int | None) -> StoredVehicle:
    """Return a job's vehicle, its first where none is named. Raises NotFoundError."""
    found = list_vehicles(conn, job_id)
    if vehicle_id is None:
        return found[0]
    chosen = next((v for v in found if v.vehicle_id == vehicle_id), None)
    if chosen is None:
        raise NotFoundError("vehicle", vehicle_id)
    return chosen
