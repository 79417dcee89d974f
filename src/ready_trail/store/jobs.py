"""Jobs and their revisions. Functions take a connection and never commit."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from functools import lru_cache

from ready_trail.core.datasheet import Figure
from ready_trail.core.job import Job, lifted
from ready_trail.core.job.lift import cleaned
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError, NothingToUndoError, StaleWriteError
from ready_trail.store.packing import pack, unpack
from ready_trail.store.shelf import list_figures
from ready_trail.store.summaries import Summary

_INSERT_JOB = """
INSERT INTO job (head, created_at, document) VALUES (1, :now, :document) RETURNING job_id
"""
_INSERT_REVISION = """
INSERT INTO revision (job_id, number, parent, kind, title, base, depth, form, body, made_at)
VALUES (:job_id, :number, :parent, :kind, :title, NULL, 0, 'whole', :body, :now)
"""
_SELECT_JOBS = """
SELECT job.job_id,
       job.head,
       job.archived_at,
       revision.made_at,
       CASE WHEN line.job_id IS NULL THEN job.document ->> '$.name' ELSE line.name END AS name,
       CASE WHEN line.job_id IS NULL THEN job.document ->> '$.place' ELSE line.place END AS place,
       CASE WHEN line.job_id IS NULL THEN job.document ->> '$.vehicle.kind'
            ELSE line.vehicle_kind END AS vehicle_kind,
       CASE WHEN line.job_id IS NULL THEN job.document ->> '$.vehicle.nominal_v'
            ELSE line.nominal_v END AS nominal_v,
       CASE WHEN line.job_id IS NULL THEN json_array_length(job.document, '$.circuits')
            ELSE line.circuits END AS circuits,
       line.reckoned_by, line.ready, line.stops, line.cautions, line.trouble
  FROM job
  JOIN revision ON revision.job_id = job.job_id AND revision.number = job.head
  LEFT JOIN job_summary AS line ON line.job_id = job.job_id AND line.revision = job.head
 WHERE (job.archived_at IS NOT NULL) = :archived
 ORDER BY revision.made_at DESC, job.job_id DESC
"""
_SELECT_HEAD = """
SELECT job.job_id, job.head, job.archived_at, job.document, revision.title,
       revision.kind, revision.parent, revision.made_at
  FROM job
  JOIN revision ON revision.job_id = job.job_id AND revision.number = job.head
 WHERE job.job_id = :job_id
"""
_SELECT_HEAD_ONLY = """
SELECT job.head, revision.title
  FROM job
  JOIN revision ON revision.job_id = job.job_id AND revision.number = job.head
 WHERE job.job_id = :job_id
"""
_SELECT_NEXT_NUMBER = """
SELECT max(number) + 1 AS next FROM revision WHERE job_id = :job_id
"""
_MOVE_HEAD = """
UPDATE job SET head = :to, document = :document
 WHERE job_id = :job_id AND head = :seen
RETURNING head
"""
_SELECT_NEWEST_CHILD = """
SELECT max(number) AS child FROM revision WHERE job_id = :job_id AND parent = :head
"""
_SELECT_REVISIONS = """
SELECT number, parent, kind, title, made_at
  FROM revision
 WHERE job_id = :job_id
 ORDER BY number DESC
"""
_SELECT_REVISION = """
SELECT number, parent, kind, title, made_at, base, form, body
  FROM revision
 WHERE job_id = :job_id AND number = :number
"""
_SELECT_OLD = """
SELECT job_id, number
  FROM revision
 WHERE form <> 'whole'
 ORDER BY job_id, number
 LIMIT 500
"""
_MAKE_WHOLE = """
UPDATE revision SET base = NULL, depth = 0, form = 'whole', body = :body
 WHERE job_id = :job_id AND number = :number
"""
_SET_ARCHIVED = """
UPDATE job SET archived_at = :archived_at WHERE job_id = :job_id RETURNING job_id
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobRow:
    """One line of the list of jobs; ``counted`` is None where nobody reckoned this revision."""

    job_id: int
    head: int
    name: str
    place: str
    vehicle_kind: str
    nominal_v: int
    circuits: int
    made_at: str
    archived: bool
    counted: Summary | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredJob:
    """A job at its head revision, with the shelf's figures that it is designed with."""

    job_id: int
    revision: int
    kind: str
    title: str
    made_at: str
    archived: bool
    can_undo: bool
    can_redo: bool
    job: Job
    figures: tuple[Figure, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """One entry of the history."""

    number: int
    parent: int | None
    kind: str
    title: str
    made_at: str


def create_job(conn: sqlite3.Connection, job: Job, *, kind: str, title: str) -> int:
    """Store a new job with its first revision; return its id."""
    now = utc_now()
    document = job.model_dump_json()
    row = {"now": now, "document": document}
    job_id = int(conn.execute(_INSERT_JOB, row).fetchone()["job_id"])
    _insert(conn, job_id, 1, None, kind, title, document, now)
    return job_id


def list_jobs(conn: sqlite3.Connection, *, archived: bool = False) -> tuple[JobRow, ...]:
    """Return the jobs, the one changed last first."""
    return tuple(_row(row) for row in conn.execute(_SELECT_JOBS, {"archived": int(archived)}))


def _row(row: sqlite3.Row) -> JobRow:
    facts = {
        "name": row["name"],
        "place": row["place"] or "",
        "circuits": row["circuits"],
        "vehicle_kind": row["vehicle_kind"],
        "nominal_v": int(row["nominal_v"]),
    }
    counted = None
    if row["reckoned_by"] is not None:
        counted = Summary(
            revision=row["head"],
            reckoned_by=row["reckoned_by"],
            ready=row["ready"],
            stops=row["stops"],
            cautions=row["cautions"],
            trouble=row["trouble"],
            **facts,
        )
    return JobRow(
        job_id=row["job_id"],
        head=row["head"],
        made_at=row["made_at"],
        archived=row["archived_at"] is not None,
        counted=counted,
        **facts,
    )


def get_job(conn: sqlite3.Connection, job_id: int) -> StoredJob:
    """Return a job at its head. Raises NotFoundError."""
    row = conn.execute(_SELECT_HEAD, {"job_id": job_id}).fetchone()
    if row is None:
        raise NotFoundError("job", job_id)
    child = conn.execute(_SELECT_NEWEST_CHILD, {"job_id": job_id, "head": row["head"]}).fetchone()[
        "child"
    ]
    return StoredJob(
        job_id=row["job_id"],
        revision=row["head"],
        kind=row["kind"],
        title=row["title"],
        made_at=row["made_at"],
        archived=row["archived_at"] is not None,
        can_undo=row["parent"] is not None,
        can_redo=child is not None,
        job=_job(row["document"]),
        figures=list_figures(conn),
    )


def head_of(conn: sqlite3.Connection, job_id: int) -> tuple[int, str]:
    """Return a job's head revision and its title, without its document. Raises NotFoundError."""
    row = conn.execute(_SELECT_HEAD_ONLY, {"job_id": job_id}).fetchone()
    if row is None:
        raise NotFoundError("job", job_id)
    return int(row["head"]), str(row["title"])


def append_revision(
    conn: sqlite3.Connection,
    job_id: int,
    seen: int,
    job: Job,
    *,
    kind: str,
    title: str,
    amend: bool = False,
) -> int:
    """Append a revision on the head that the writer saw and move the head to it.

    With ``amend`` it goes on with the head: its parent is the head's own, so that one undo takes
    back both. The head stays in the history like one that was undone.

    Returns the new revision's number. Raises StaleWriteError if the head is another, then
    nothing was written.
    """
    number = int(conn.execute(_SELECT_NEXT_NUMBER, {"job_id": job_id}).fetchone()["next"] or 0)
    if number == 0:
        raise NotFoundError("job", job_id)
    _require_head(conn, job_id, seen)
    parent: int | None = seen
    if amend:
        parent = get_revision(conn, job_id, seen)[0].parent or seen
    document = job.model_dump_json()
    _insert(conn, job_id, number, parent, kind, title, document, utc_now())
    _move(conn, job_id, seen, number, document)
    return number


def undo(conn: sqlite3.Connection, job_id: int, seen: int) -> int:
    """Move the head to its parent; return the new head. Nothing is deleted."""
    stored = get_job(conn, job_id)
    _require_head(conn, job_id, seen)
    if not stored.can_undo:
        raise NothingToUndoError("there is nothing to undo")
    parent = get_revision(conn, job_id, stored.revision)[0].parent
    return _move_back(conn, job_id, seen, int(parent or 0))


def redo(conn: sqlite3.Connection, job_id: int, seen: int) -> int:
    """Move the head to its newest child; return the new head."""
    _require_head(conn, job_id, seen)
    child = conn.execute(_SELECT_NEWEST_CHILD, {"job_id": job_id, "head": seen}).fetchone()
    if child["child"] is None:
        raise NothingToUndoError("there is nothing to redo")
    return _move_back(conn, job_id, seen, int(child["child"]))


def list_revisions(conn: sqlite3.Connection, job_id: int) -> tuple[Revision, ...]:
    """Return the history, newest first."""
    rows = conn.execute(_SELECT_REVISIONS, {"job_id": job_id}).fetchall()
    if not rows:
        raise NotFoundError("job", job_id)
    return tuple(_revision(row) for row in rows)


def get_revision(conn: sqlite3.Connection, job_id: int, number: int) -> tuple[Revision, Job]:
    """Return one revision with its document. Raises NotFoundError."""
    row = conn.execute(_SELECT_REVISION, {"job_id": job_id, "number": number}).fetchone()
    if row is None:
        raise NotFoundError("revision", f"{number} of job {job_id}")
    return _revision(row), _job(_document(conn, job_id, number).decode())


def make_whole(conn: sqlite3.Connection) -> int:
    """Make up to 500 revisions whole that an older program kept otherwise; return how many."""
    rows = conn.execute(_SELECT_OLD).fetchall()
    for row in rows:
        key = {"job_id": row["job_id"], "number": row["number"]}
        document = _document(conn, row["job_id"], row["number"])
        conn.execute(_MAKE_WHOLE, {**key, "body": pack(document)})
    return len(rows)


def _document(conn: sqlite3.Connection, job_id: int, number: int) -> bytes:
    """The document of a revision; of an older program's, from its whole copy and the changes."""
    changes: list[tuple[str, bytes]] = []
    at: int | None = number
    while at is not None:
        row = conn.execute(_SELECT_REVISION, {"job_id": job_id, "number": at}).fetchone()
        changes.append((row["form"], row["body"]))
        at = row["base"]
    document: bytes | None = None
    for form, body in reversed(changes):
        document = unpack(form, body, document)
    return document or b""


def set_archived(conn: sqlite3.Connection, job_id: int, *, archived: bool) -> None:
    """Put a job aside, or take it back."""
    at = utc_now() if archived else None
    row = conn.execute(_SET_ARCHIVED, {"job_id": job_id, "archived_at": at}).fetchone()
    if row is None:
        raise NotFoundError("job", job_id)


@lru_cache(maxsize=128)
def _job(document: str) -> Job:
    """The job of a stored document, lifted where it is old; jobs are frozen and may be shared."""
    parsed = json.loads(document)
    if "\\u" in document or "\\n" in document or "\\t" in document:
        parsed = cleaned(parsed)
    return Job.model_validate_json(json.dumps(lifted(parsed)))


def _insert(
    conn: sqlite3.Connection,
    job_id: int,
    number: int,
    parent: int | None,
    kind: str,
    title: str,
    document: str,
    now: str,
) -> None:
    """Keep a revision: each stands by itself."""
    row = {
        "job_id": job_id,
        "number": number,
        "parent": parent,
        "kind": kind,
        "title": title,
        "body": pack(document.encode()),
        "now": now,
    }
    conn.execute(_INSERT_REVISION, row)


def _require_head(conn: sqlite3.Connection, job_id: int, seen: int) -> sqlite3.Row:
    row: sqlite3.Row | None = conn.execute(_SELECT_HEAD, {"job_id": job_id}).fetchone()
    if row is None:
        raise NotFoundError("job", job_id)
    if row["head"] != seen:
        raise StaleWriteError(job_id, seen, row["head"])
    return row


def _move_back(conn: sqlite3.Connection, job_id: int, seen: int, to: int) -> int:
    return _move(conn, job_id, seen, to, _document(conn, job_id, to).decode())


def _move(conn: sqlite3.Connection, job_id: int, seen: int, to: int, document: str) -> int:
    values = {"job_id": job_id, "seen": seen, "to": to, "document": document}
    row = conn.execute(_MOVE_HEAD, values).fetchone()
    if row is None:
        raise StaleWriteError(job_id, seen, -1)
    return int(row["head"])


def _revision(row: sqlite3.Row) -> Revision:
    return Revision(
        number=row["number"],
        parent=row["parent"],
        kind=row["kind"],
        title=row["title"],
        made_at=row["made_at"],
    )
