"""Backup, restore, and a server killed in the middle of its writes."""

from __future__ import annotations

import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.job import Job
from ready_trail.store import db, jobs
from ready_trail.store.backup import backup, restore
from ready_trail.store.errors import DatabaseUnusableError
from ready_trail.store.in_use import in_use
from ready_trail.web.app import create_app

SRC = Path(__file__).parents[2] / "src"


def fresh(path: Path, name: str = "A") -> Path:
    db.initialise(path)
    conn = db.connect(path)
    with db.transaction(conn):
        jobs.create_job(conn, Job(name=name), kind="new", title="Start")
    conn.close()
    return path


def names(path: Path) -> list[str]:
    conn = db.connect(path)
    try:
        return [row.name for row in jobs.list_jobs(conn)]
    finally:
        conn.close()


def test_backup_while_a_writer_is_open_and_restore(tmp_path: Path) -> None:
    path = fresh(tmp_path / "a.db")
    other = db.connect(path)
    other.execute("BEGIN")
    other.execute("SELECT count(*) FROM job").fetchone()
    backup(path, tmp_path / "copy.db")
    other.execute("COMMIT")
    other.close()
    assert not (tmp_path / "copy.db-wal").exists()
    fresh(tmp_path / "b.db", "B")
    restore(tmp_path / "copy.db", tmp_path / "b.db")
    assert names(tmp_path / "b.db") == ["A"]
    assert list(tmp_path.glob("*.restoring*")) == []


def test_what_backup_and_restore_refuse(tmp_path: Path) -> None:
    path = fresh(tmp_path / "a.db")
    (tmp_path / "text.db").write_text("not a database at all, just words" * 50)
    (tmp_path / "empty.db").touch()
    for wrong in ("text.db", "empty.db", "missing.db"):
        with pytest.raises(DatabaseUnusableError):
            restore(tmp_path / wrong, path)
    assert names(path) == ["A"]
    with pytest.raises(DatabaseUnusableError, match="exists already"):
        backup(path, tmp_path / "text.db")
    with pytest.raises(DatabaseUnusableError, match="no database"):
        backup(tmp_path / "missing.db", tmp_path / "x.db")


def test_restore_refuses_a_database_in_use(tmp_path: Path) -> None:
    path = fresh(tmp_path / "a.db")
    backup(path, tmp_path / "copy.db")
    conn = db.connect(path)
    conn.execute("BEGIN IMMEDIATE")
    with pytest.raises(DatabaseUnusableError, match="stop the server"):
        restore(tmp_path / "copy.db", path)
    conn.execute("ROLLBACK")
    conn.close()


def test_restore_refuses_a_database_that_a_server_has_open_though_it_writes_nothing(
    tmp_path: Path,
) -> None:
    path = fresh(tmp_path / "a.db")
    backup(path, tmp_path / "copy.db")
    with TestClient(create_app(path), base_url="http://127.0.0.1") as client:
        assert client.get("/").status_code == 200
        with pytest.raises(DatabaseUnusableError, match="stop the server first"):
            restore(tmp_path / "copy.db", path)
        key = "a" * 32
        client.post("/jobs", data={"name": "B", "vehicle.kind": "van", "form_key": key})
        assert names(path) == ["B", "A"], "what was acknowledged is there"
    restore(tmp_path / "copy.db", path)
    assert names(path) == ["A"]


def test_a_server_does_not_begin_on_a_database_that_is_being_restored(tmp_path: Path) -> None:
    path = fresh(tmp_path / "a.db")
    with in_use(path, alone=True):
        app = create_app(path)
        with pytest.raises(DatabaseUnusableError, match="being restored"), TestClient(app):
            pass
    with in_use(path), in_use(path):  # several processes may serve it
        pass


def test_pages_that_only_read_are_readable_while_nothing_can_be_written(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As on a full disk: every write is refused, by the database itself."""
    path = fresh(tmp_path / "a.db")
    with TestClient(create_app(path), base_url="http://127.0.0.1") as client:
        real = db.connect

        def read_only(*args: object, **more: object) -> sqlite3.Connection:
            conn = real(*args, **more)  # type: ignore[arg-type]
            conn.execute("PRAGMA query_only=ON")
            return conn

        monkeypatch.setattr(db, "connect", read_only)
        for page in ("/", "/jobs/1/accessories", "/jobs/1/build", "/shelf", "/jobs/1/history"):
            assert client.get(page).status_code == 200, page
        answer = client.post("/jobs", data={"name": "B", "vehicle.kind": "van"})
        assert answer.status_code == 503
        assert "Nothing was stored" in answer.text


_WRITER = """
import sys
from pathlib import Path
from ready_trail.core.job import Job
from ready_trail.store import db, jobs
conn = db.connect(Path(sys.argv[1]))
seen = jobs.get_job(conn, 1).revision
while True:
    with db.transaction(conn):
        seen = jobs.append_revision(conn, 1, seen, Job(name=f"R{seen + 1}"), kind="k", title="t")
    print(seen, flush=True)
"""


def test_kill_in_the_middle_of_writes_loses_nothing_acknowledged(tmp_path: Path) -> None:
    path = fresh(tmp_path / "a.db")
    pick = random.Random(20261125)
    acknowledged = 1
    for _ in range(6):
        writer = subprocess.Popen(
            [sys.executable, "-c", _WRITER, str(path)],
            stdout=subprocess.PIPE,
            text=True,
            env={**os.environ, "PYTHONPATH": str(SRC)},
        )
        assert writer.stdout is not None
        lines = [writer.stdout.readline()]
        time.sleep(pick.uniform(0.01, 0.12))
        writer.send_signal(signal.SIGKILL)
        lines += writer.stdout.read().split("\n")
        writer.wait()
        writer.stdout.close()
        acknowledged = max(int(line) for line in lines if line.strip())
        conn = sqlite3.connect(path)
        assert conn.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        conn.close()
        conn = db.connect(path)
        stored = jobs.get_job(conn, 1)
        history = jobs.list_revisions(conn, 1)
        conn.close()
        assert stored.revision in (acknowledged, acknowledged + 1)  # written, not yet told
        assert stored.job.name == f"R{stored.revision}"
        assert len(history) == stored.revision
    assert acknowledged > 20
