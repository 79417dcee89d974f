"""Everything of a job out of the database, and into another as a job of its own."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from typing import Any

from ready_trail.core.job import Job
from ready_trail.core.prove.progress import Reading
from ready_trail.core.record.archived import ArchivedVehicle, Kept, Table
from ready_trail.core.record.facts import FACT_ADAPTER, Settled
from ready_trail.store import jobs, vehicles
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotAFactError

_COLUMNS: dict[Table, tuple[str, ...]] = {
    "tick": ("key", "item", "done", "print", "asked", "who", "made_at"),
    "reading": (
        "key",
        "circuit_id",
        "test",
        "asked",
        "instrument",
        "value",
        "skipped",
        "middle",
        "sigma",
        "verdict",
        "source",
        "design",
        "who",
        "made_at",
    ),
    "fact": ("key", "kind", "document"),
}
_EVERY = "SELECT {columns} FROM {table} WHERE vehicle_id = :vehicle_id ORDER BY {table}_id"
_PUT = "INSERT INTO {table} ({columns}) VALUES ({values})"


def vehicles_of(conn: sqlite3.Connection, job_id: int) -> tuple[ArchivedVehicle, ...]:
    """Return a job's vehicles with every fact of each. Raises NotFoundError."""
    found = []
    for vehicle in vehicles.list_vehicles(conn, job_id):
        facts = []
        for table, columns in _COLUMNS.items():
            query = _EVERY.format(columns=", ".join(columns), table=table)
            for row in conn.execute(query, {"vehicle_id": vehicle.vehicle_id}):
                facts.append(Kept(table=table, row=dict(row)))
        found.append(ArchivedVehicle(name=vehicle.name, facts=tuple(facts)))
    return tuple(found)


def put_vehicles(
    conn: sqlite3.Connection, job_id: int, archived: Sequence[ArchivedVehicle]
) -> None:
    """Give a new job its vehicles with their facts. Raises NotAFactError.

    Keys get the job's number before them: the same archive may be read in twice.
    """
    first = vehicles.list_vehicles(conn, job_id)[0]
    for at, vehicle in enumerate(archived):
        if at == 0:
            own = first.vehicle_id
            if vehicle.name:
                vehicles.rename_vehicle(conn, job_id, own, vehicle.name)
        else:
            own = vehicles.add_vehicle(conn, job_id, vehicle.name)
        for number, kept in enumerate(vehicle.facts, start=1):
            try:
                _put(conn, kept, job_id, own)
            except (sqlite3.Error, ValueError, TypeError, KeyError) as error:
                where = f"facts of vehicle {at + 1}, line {number}"
                raise NotAFactError(where) from error


def free_name(conn: sqlite3.Connection, job: Job) -> Job:
    """Return the job under a name that no other has."""
    known = {row.name for away in (False, True) for row in jobs.list_jobs(conn, archived=away)}
    name, number = job.name, 2
    while name in known:
        tail = f" ({number})"
        name, number = f"{job.name[: 120 - len(tail)]}{tail}", number + 1
    return job if name == job.name else job.model_copy(update={"name": name})


def _put(conn: sqlite3.Connection, kept: Kept, job_id: int, vehicle_id: int) -> None:
    columns = _COLUMNS[kept.table]
    if set(kept.row) != set(columns):
        raise ValueError("another set of columns")
    row: dict[str, Any] = dict(kept.row)
    if kept.table == "fact":
        fact = FACT_ADAPTER.validate_json(row["document"])
        if isinstance(fact, Settled):  # it names the difference by its key
            key = _renamed(fact.key, job_id)
            row["document"] = fact.model_copy(update={"key": key}).model_dump_json()
    if kept.table == "reading":
        Reading(**{k: v for k, v in row.items() if k != "key"})
    row["key"] = _renamed(str(row["key"]), job_id)
    row |= {"vehicle_id": vehicle_id, "received_at": utc_now()}
    if kept.table == "tick":
        row["job_id"] = job_id
    put = _PUT.format(
        table=kept.table,
        columns=", ".join(row),
        values=", ".join(f":{name}" for name in row),
    )
    conn.execute(put, row)


def _renamed(key: str, job_id: int) -> str:
    return f"{job_id}.{key.rpartition('.')[2]}"[-64:]
