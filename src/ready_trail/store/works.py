"""Long work, so that every process of the server can tell how far it is, and stop it."""

from __future__ import annotations

import os
import sqlite3
from dataclasses import dataclass
from typing import Literal
from uuid import uuid4

from ready_trail.store.db import utc_now

State = Literal["running", "done", "failed", "stopped"]
KEPT_MOST = 30
"""So many that have ended are kept."""

_COLUMNS = "work_id, key, name, owner, state, done, total, words, leads_to"
_INSERT = """
INSERT INTO work (work_id, key, name, owner, state, done, total, words, leads_to, made_at)
VALUES (:work_id, :key, :name, :owner, 'running', 0, 1, 'Waits for its turn', '', :now)
"""
_FIND = f"SELECT {_COLUMNS} FROM work WHERE work_id = :work_id"
_SAME = f"""
SELECT {_COLUMNS} FROM work
 WHERE key = :key AND state IN ('running', 'done')
 ORDER BY made_at DESC
"""
_RUNNING = f"SELECT {_COLUMNS} FROM work WHERE state = 'running'"
_RESULT = "SELECT result FROM work WHERE work_id = :work_id AND state = 'done'"
_REPORT = """
UPDATE work SET done = :done, total = :total, words = :words
 WHERE work_id = :work_id AND state = 'running'
RETURNING work_id
"""
_END = """
UPDATE work SET state = :state, words = :words, result = :result, leads_to = :leads_to
 WHERE work_id = :work_id AND state = 'running'
RETURNING work_id
"""
_FORGET = """
DELETE FROM work WHERE state <> 'running' AND work_id NOT IN (
    SELECT work_id FROM work WHERE state <> 'running' ORDER BY made_at DESC LIMIT :most)
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """One piece of long work; ``leads_to`` is the page where its result is, if it has one."""

    work_id: str
    key: str
    name: str
    state: State
    done: int
    total: int
    words: str
    leads_to: str


def begin(conn: sqlite3.Connection, key: str, name: str) -> str:
    """Note that work begins in this process; return its id. Runs in a transaction."""
    work_id = uuid4().hex
    conn.execute(
        _INSERT,
        {"work_id": work_id, "key": key, "name": name, "owner": os.getpid(), "now": utc_now()},
    )
    conn.execute(_FORGET, {"most": KEPT_MOST})
    return work_id


def get(conn: sqlite3.Connection, work_id: str) -> Work | None:
    """Return a piece of work; one whose server is gone has failed."""
    row = conn.execute(_FIND, {"work_id": work_id[:64]}).fetchone()
    return None if row is None else _work(row)


def same(conn: sqlite3.Connection, key: str) -> Work | None:
    """Return what runs or is done for a key."""
    found = (_work(row) for row in conn.execute(_SAME, {"key": key}).fetchall())
    return next((w for w in found if w.state in ("running", "done")), None)


def running(conn: sqlite3.Connection) -> tuple[Work, ...]:
    """Return what runs or waits."""
    found = (_work(row) for row in conn.execute(_RUNNING).fetchall())
    return tuple(w for w in found if w.state == "running")


def result(conn: sqlite3.Connection, work_id: str) -> bytes | None:
    """Return what work made, once it is done."""
    row = conn.execute(_RESULT, {"work_id": work_id}).fetchone()
    return None if row is None or row["result"] is None else bytes(row["result"])


def report(conn: sqlite3.Connection, work_id: str, done: int, total: int, words: str) -> bool:
    """Tell how far work is; False where it was stopped meanwhile."""
    row = {"work_id": work_id, "done": done, "total": max(1, total), "words": words}
    return conn.execute(_REPORT, row).fetchone() is not None


def end(
    conn: sqlite3.Connection,
    work_id: str,
    state: State,
    words: str,
    *,
    made: bytes | None = None,
    leads_to: str = "",
) -> bool:
    """Tell that work ended; False where it had ended before."""
    row = {"work_id": work_id, "state": state, "words": words, "result": made, "leads_to": leads_to}
    return conn.execute(_END, row).fetchone() is not None


def _work(row: sqlite3.Row) -> Work:
    state, words = row["state"], row["words"]
    if state == "running" and not _is_alive(row["owner"]):
        state, words = "failed", "The server was started anew meanwhile; begin it again."
    return Work(
        work_id=row["work_id"],
        key=row["key"],
        name=row["name"],
        state=state,
        done=row["done"],
        total=row["total"],
        words=words,
        leads_to=row["leads_to"],
    )


def _is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:  # somebody else's
        return True
    return True
