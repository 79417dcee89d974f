"""Revisions are kept whole: nothing is lost, those of older programs are made so."""

from __future__ import annotations

import os
import sqlite3
import struct
import time
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ready_trail.core.edits import RenameJob, apply
from ready_trail.core.job import Job
from ready_trail.store import db, jobs
from ready_trail.store.backup import backup, restore
from ready_trail.store.errors import DatabaseUnusableError, MigrationError
from ready_trail.store.opening import COPIES_KEPT, keep_daily_copy, open_database
from ready_trail.store.packing import pack, unpack
from support import demo


def shared_start(a: bytes, b: bytes) -> int:
    return next(
        (at for at, (x, y) in enumerate(zip(a, b, strict=False)) if x != y), min(len(a), len(b))
    )


def changed(document: bytes, base: bytes) -> bytes:
    """A document as the program before kept it: what stands between what it shares with another."""
    start = shared_start(document, base)
    most = min(len(document), len(base)) - start
    end = min(shared_start(document[::-1], base[::-1]), most)
    return struct.pack(">II", start, end) + zlib.compress(document[start : len(document) - end])


@given(st.binary(max_size=200), st.binary(max_size=60), st.binary(max_size=60), st.booleans())
def test_any_document_packs_and_comes_back(
    shared: bytes, mine: bytes, base_own: bytes, flip: bool
) -> None:
    document = shared + mine + shared if flip else mine + shared
    assert unpack("whole", pack(document), None) == document
    base = shared + base_own + shared if flip else base_own + shared
    for against in (base, document, b""):
        assert unpack("change", changed(document, against), against) == document


def test_damage_is_told_not_guessed() -> None:
    body = changed(b"abcdef" * 9, b"abcdef" * 8)
    for form, wrong in (
        ("change", body[:5]),
        ("change", b""),
        ("change", body[:-3]),
        ("whole", pack(b"abc")[:-3]),
    ):
        with pytest.raises(ValueError, match="damaged"):
            unpack(form, wrong, b"abcdef" * 8)
    with pytest.raises(ValueError, match="another document"):
        unpack("change", body, b"a")
    with pytest.raises(ValueError, match="without"):
        unpack("change", body, None)


def old_database(path: Path, documents: list[Job]) -> None:
    """A database as the program before kept it: every revision a plain text."""
    conn = db.connect(path)
    conn.execute("PRAGMA journal_mode=WAL")
    db.migrate(conn, db.shipped_migrations()[:3])
    now = db.utc_now()
    with db.transaction(conn):
        conn.execute(
            "INSERT INTO job (job_id, head, created_at) VALUES (1, ?, ?)", (len(documents) - 1, now)
        )
        for number, job in enumerate(documents, start=1):
            parent = None if number == 1 else number - 1
            conn.execute(
                "INSERT INTO revision VALUES (1, ?, ?, 'k', 't', ?, ?)",
                (number, parent, job.model_dump_json(), now),
            )
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()


def changes_database(path: Path, documents: list[Job]) -> None:
    """A database as the program before kept it: chains of changes since a whole copy."""
    conn = db.connect(path)
    conn.execute("PRAGMA journal_mode=WAL")
    db.migrate(conn, db.shipped_migrations()[:6])
    now, texts = db.utc_now(), [job.model_dump_json().encode() for job in documents]
    with db.transaction(conn):
        conn.execute(
            "INSERT INTO job (job_id, head, created_at, document) VALUES (1, ?, ?, ?)",
            (len(documents) - 1, now, texts[-2].decode()),
        )
        for at, text in enumerate(texts):
            depth = at % 33
            form = ("change", changed(text, texts[at - 1])) if depth else ("whole", pack(text))
            base = at if depth else None
            conn.execute(
                "INSERT INTO revision (job_id, number, parent, kind, title, base, depth, form, "
                "body, made_at) VALUES (1, ?, ?, 'k', 't', ?, ?, ?, ?, ?)",
                (at + 1, at or None, base, depth, *form, now),
            )
    conn.close()


@pytest.mark.parametrize("older", [old_database, changes_database])
def test_old_databases_lose_nothing_and_each_revision_stands_by_itself(
    tmp_path: Path, older: Callable[[Path, list[Job]], None]
) -> None:
    path = tmp_path / "old.db"
    documents = [demo()]
    for number in range(1, 90):
        documents.append(apply(documents[-1], RenameJob(name=f"Marmot {number}")))
    older(path, documents)
    open_database(path)
    open_database(path)  # a second start finds nothing to do
    conn = db.connect(path)
    for number, job in enumerate(documents, start=1):
        assert jobs.get_revision(conn, 1, number)[1] == job
    stored = jobs.get_job(conn, 1)
    assert (stored.revision, stored.can_redo, stored.job) == (89, True, documents[88])
    assert [row.name for row in jobs.list_jobs(conn)] == ["Marmot 88"]
    with db.transaction(conn):
        assert jobs.redo(conn, 1, 89) == 90
        assert jobs.undo(conn, 1, 90) == 89
    assert jobs.get_job(conn, 1).job == documents[88]
    assert conn.execute("PRAGMA foreign_key_check").fetchall() == []
    kept = conn.execute("SELECT DISTINCT form, base, depth FROM revision").fetchall()
    assert [tuple(row) for row in kept] == [("whole", None, 0)]
    with pytest.raises(sqlite3.IntegrityError, match="append-only"):
        conn.execute("UPDATE revision SET body = x'00' WHERE number = 3")
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()
    empty = tmp_path / "empty.db"  # its tables take pages too, whatever is in them
    open_database(empty)
    grown = path.stat().st_size - empty.stat().st_size
    assert grown / len(documents) < 8_500
    copies = list((tmp_path / "old-copies").iterdir())
    assert len(copies) == 1, "what was there before is kept for the day"


def test_a_revision_takes_little_and_branches_keep_their_documents(tmp_path: Path) -> None:
    path = tmp_path / "t.db"
    open_database(path)
    conn = db.connect(path)
    documents = {1: demo()}
    with db.transaction(conn):
        jobs.create_job(conn, demo(), kind="demo", title="Demo")
    head = 1
    for number in range(1, 201):
        if number % 9 == 0:
            with db.transaction(conn):
                head = jobs.undo(conn, 1, head)
        after = apply(documents[head], RenameJob(name=f"Name {number}"))
        with db.transaction(conn):
            head = jobs.append_revision(conn, 1, head, after, kind="k", title="t")
        documents[head] = after
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    for number, job in documents.items():
        assert jobs.get_revision(conn, 1, number)[1] == job
    conn.close()
    assert path.stat().st_size / len(documents) < 9_000


def test_a_copy_a_day_the_last_seven_kept(tmp_path: Path) -> None:
    path = tmp_path / "t.db"
    assert keep_daily_copy(path) is None, "nothing to copy yet"
    open_database(path)
    folder = tmp_path / "t-copies"
    folder.mkdir()
    for day in range(1, 12):
        (folder / f"2020-01-{day:02}.db").write_bytes(b"old")
    (folder / "mine.db").write_bytes(b"somebody's own")
    for day in range(1, 12):  # a clock that was ahead
        (folder / f"2098-01-{day:02}.db").write_bytes(b"odd")
    made = keep_daily_copy(path)
    assert made is not None
    assert keep_daily_copy(path) is None, "one a day"
    every = sorted(p.name for p in folder.iterdir() if p.name != "mine.db")
    kept = [name for name in every if name < "2098"]
    assert len(kept) == COPIES_KEPT
    assert kept[-1] == made.name
    assert len(every) == 2 * COPIES_KEPT
    assert (folder / "mine.db").exists()
    other = tmp_path / "other.db"
    restore(made, other)
    conn = db.connect(other)
    assert jobs.list_jobs(conn) == ()
    conn.close()


def test_restore_keeps_the_old_one_aside_and_refuses_what_is_none_of_ours(tmp_path: Path) -> None:
    path, copy = tmp_path / "t.db", tmp_path / "copy.db"
    open_database(path)
    backup(path, copy)
    conn = db.connect(path)
    with db.transaction(conn):
        jobs.create_job(conn, Job(name="Newer"), kind="new", title="Start")
    conn.close()
    for name, content in (("text", b"hello"), ("empty", b""), ("picture", os.urandom(9000))):
        odd = tmp_path / name
        odd.write_bytes(content)
        with pytest.raises(DatabaseUnusableError):
            restore(odd, path)
    restore(copy, path)
    aside = list(tmp_path.glob("t-before-*.db"))
    assert len(aside) == 1
    conn = db.connect(aside[0])
    assert [row.name for row in jobs.list_jobs(conn)] == ["Newer"]
    conn.close()


def test_every_way_a_database_can_fail_is_a_plain_message(tmp_path: Path) -> None:
    newer = tmp_path / "newer.db"
    open_database(newer)
    conn = db.connect(newer)
    conn.execute("INSERT INTO migration VALUES (99, '0099_later.sql', 'x', '2030')")
    conn.close()
    with pytest.raises(MigrationError, match="newer Ready Trail"):
        open_database(newer)
    corrupt = tmp_path / "corrupt.db"
    corrupt.write_bytes(b"SQLite format 3\x00" + os.urandom(8000))
    with pytest.raises(DatabaseUnusableError, match=r"cannot (use|open)"):
        open_database(corrupt)
    folder = tmp_path / "folder.db"
    folder.mkdir()
    with pytest.raises(DatabaseUnusableError):
        open_database(folder)
    missing = tmp_path / "not" / "there" / "t.db"
    open_database(missing)
    assert missing.exists(), "a missing folder is made"


def test_a_locked_database_is_waited_for_and_then_told(tmp_path: Path) -> None:
    path = tmp_path / "t.db"
    open_database(path)
    holder = sqlite3.connect(path, isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    conn = db.connect(path, timeout_s=0.2)
    begin = time.monotonic()
    with pytest.raises(sqlite3.OperationalError, match="locked"), db.transaction(conn):
        pass
    assert time.monotonic() - begin < 5
    holder.execute("ROLLBACK")
    with db.transaction(conn):
        jobs.create_job(conn, Job(name="A"), kind="new", title="Start")
    holder.close()
    conn.close()
