"""Jobs and revisions: append-only, undo moves the head, stale writers are told."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from ready_trail.core.job import Job
from ready_trail.store import db, jobs
from ready_trail.store.errors import (
    MigrationError,
    NotFoundError,
    NothingToUndoError,
    StaleWriteError,
)


@pytest.fixture
def path(tmp_path: Path) -> Path:
    path = tmp_path / "t.db"
    db.initialise(path)
    return path


@pytest.fixture
def conn(path: Path) -> Iterator[sqlite3.Connection]:
    conn = db.connect(path)
    yield conn
    conn.close()


def named(name: str) -> Job:
    return Job(name=name)


def start(conn: sqlite3.Connection, *names: str) -> int:
    with db.transaction(conn):
        job_id = jobs.create_job(conn, named(names[0]), kind="new", title=f"Start {names[0]}")
    for seen, name in enumerate(names[1:], start=1):
        write(conn, job_id, seen, name)
    return job_id


def write(conn: sqlite3.Connection, job_id: int, seen: int, name: str) -> int:
    with db.transaction(conn):
        return jobs.append_revision(conn, job_id, seen, named(name), kind="rename", title=name)


def test_undo_redo_and_a_new_branch_keep_everything(conn: sqlite3.Connection) -> None:
    job_id = start(conn, "A", "B", "C")
    with db.transaction(conn):
        assert jobs.undo(conn, job_id, 3) == 2
    assert jobs.get_job(conn, job_id).job.name == "B"
    assert jobs.get_job(conn, job_id).can_redo
    with db.transaction(conn):
        assert jobs.redo(conn, job_id, 2) == 3
        assert jobs.undo(conn, job_id, 3) == 2
    assert write(conn, job_id, 2, "D") == 4
    stored = jobs.get_job(conn, job_id)
    assert (stored.job.name, stored.can_redo) == ("D", False)
    assert [r.number for r in jobs.list_revisions(conn, job_id)] == [4, 3, 2, 1]
    assert jobs.get_revision(conn, job_id, 3)[1].name == "C"
    with db.transaction(conn):
        assert jobs.undo(conn, job_id, 4) == 2


def test_nothing_to_undo_or_redo(conn: sqlite3.Connection) -> None:
    job_id = start(conn, "A")
    for step in (jobs.undo, jobs.redo):
        with pytest.raises(NothingToUndoError), db.transaction(conn):
            step(conn, job_id, 1)


def test_a_stale_writer_is_told_and_writes_nothing(conn: sqlite3.Connection) -> None:
    job_id = start(conn, "A", "B")
    with pytest.raises(StaleWriteError) as stale:
        write(conn, job_id, 1, "mine")
    assert (stale.value.seen, stale.value.head) == (1, 2)
    assert len(jobs.list_revisions(conn, job_id)) == 2
    with pytest.raises(StaleWriteError), db.transaction(conn):
        jobs.undo(conn, job_id, 1)


def test_writers_at_once_lose_nothing(path: Path, conn: sqlite3.Connection) -> None:
    """Eight threads race on one head: exactly one wins each round, the others are told."""
    job_id = start(conn, "A")
    outcomes: list[str] = []

    def race(name: str) -> None:
        own = db.connect(path)
        try:
            for _ in range(10):
                seen = jobs.get_job(own, job_id).revision
                try:
                    write(own, job_id, seen, name)
                    outcomes.append("won")
                except StaleWriteError:
                    outcomes.append("told")
        finally:
            own.close()

    threads = [threading.Thread(target=race, args=(f"T{n}",)) for n in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(outcomes) == 80
    assert len(jobs.list_revisions(conn, job_id)) == 1 + outcomes.count("won")


@pytest.mark.parametrize(
    "statement",
    [
        "DELETE FROM revision",
        "UPDATE revision SET title = 'x'",
        "DELETE FROM job",
        "UPDATE revision SET body = x'00', form = 'whole'",
        "UPDATE job SET document = 'not json'",
        "INSERT INTO revision VALUES (1, 2, 9, 'k', 't', NULL, 0, 'whole', x'00', "
        "'2026-01-01T00:00:00.0Z')",
        "INSERT INTO revision VALUES (1, 2, 1, 'k', 't', NULL, 1, 'change', x'00', "
        "'2026-01-01T00:00:00.0Z')",
        "UPDATE job SET head = 99",
    ],
)
def test_the_database_itself_guards_its_rules(conn: sqlite3.Connection, statement: str) -> None:
    start(conn, "A")
    with pytest.raises(sqlite3.IntegrityError), db.transaction(conn):
        conn.execute(statement)
    assert jobs.get_job(conn, 1).job.name == "A"


def test_archive_and_list(conn: sqlite3.Connection) -> None:
    first, second = start(conn, "A"), start(conn, "B")
    with db.transaction(conn):
        jobs.set_archived(conn, first, archived=True)
    assert [r.job_id for r in jobs.list_jobs(conn)] == [second]
    assert [r.name for r in jobs.list_jobs(conn, archived=True)] == ["A"]
    for missing in (lambda: jobs.get_job(conn, 99), lambda: jobs.get_revision(conn, first, 99)):
        with pytest.raises(NotFoundError):
            missing()


def test_a_failed_transaction_leaves_nothing(conn: sqlite3.Connection) -> None:
    def fail_half_way() -> None:
        with db.transaction(conn):
            jobs.create_job(conn, named("A"), kind="new", title="Start")
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fail_half_way()
    assert jobs.list_jobs(conn) == ()


def test_migrations_run_once_and_refuse_edited_files(path: Path) -> None:
    conn = db.connect(path)
    shipped = db.shipped_migrations()
    assert db.migrate(conn, shipped) == 0
    edited = ((shipped[0][0], shipped[0][1] + "-- later thought\n"), *shipped[1:])
    with pytest.raises(MigrationError, match="was changed"):
        db.migrate(conn, edited)
    with pytest.raises(MigrationError, match="newer Ready Trail"):
        db.migrate(conn, ())
    more = (*shipped, ("0099_more.sql", "CREATE TABLE more (a TEXT) STRICT;"))
    assert db.migrate(conn, more) == 1
    broken = (
        *more,
        ("0100_broken.sql", "CREATE TABLE b (a TEXT);\nCREATE TABLE b (a TEXT);"),
    )
    with pytest.raises(sqlite3.OperationalError):
        db.migrate(conn, broken)
    assert conn.execute("SELECT count(*) FROM sqlite_schema WHERE name = 'b'").fetchone()[0] == 0
    conn.close()
