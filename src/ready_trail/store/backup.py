"""Backup and restore by SQLite's online backup: safe while others write."""

from __future__ import annotations

import os
import shutil
import sqlite3
from datetime import UTC, datetime
from pathlib import Path

from ready_trail.store.db import connect, migrate, shipped_migrations
from ready_trail.store.errors import DatabaseUnusableError
from ready_trail.store.in_use import in_use
from ready_trail.store.photos import copy_photos


def backup(path: Path, to: Path) -> None:
    """Copy the database into one self-contained file; an existing file is refused."""
    if not path.exists():
        raise DatabaseUnusableError(f"there is no database at {path}")
    if to.exists():
        raise DatabaseUnusableError(f"{to} exists already; name another file")
    source = connect(path)
    try:
        _copy(source, to)
        copy_photos(path, to)
    finally:
        source.close()


def restore(backup_file: Path, path: Path) -> None:
    """Put a backup in place of the database, after checking that it is whole.

    A server that runs on it holds it, and keeps it from being replaced under its writes.
    The copy is made beside the database and swapped in, so a failure leaves the old one; the
    database that it takes the place of is kept aside under a name with the time.
    """
    if not backup_file.exists():
        raise DatabaseUnusableError(f"there is no file at {backup_file}")
    with in_use(path, alone=True):
        _restore(backup_file, path)


def _restore(backup_file: Path, path: Path) -> None:
    source = connect(backup_file)
    beside = path.with_name(path.name + ".restoring")
    beside.unlink(missing_ok=True)
    try:
        _require_whole(source, backup_file)
        _require_unused(path)
        path.parent.mkdir(parents=True, exist_ok=True)
        _copy(source, beside)
        restored = connect(beside)
        restored.execute("PRAGMA journal_mode=WAL")
        migrate(restored, shipped_migrations())
        restored.close()
        for suffix in ("-wal", "-shm"):
            path.with_name(path.name + suffix).unlink(missing_ok=True)
        if path.exists():
            aside = f"{path.stem}-before-{datetime.now(UTC):%Y-%m-%d-%H%M%S-%f}{path.suffix}"
            shutil.copy2(path, path.with_name(aside))
        os.replace(beside, path)
        copy_photos(backup_file, path)
    except sqlite3.Error as error:
        raise DatabaseUnusableError(f"cannot restore {backup_file}: {error}") from error
    finally:
        source.close()
        beside.unlink(missing_ok=True)


def _copy(source: sqlite3.Connection, to: Path) -> None:
    try:
        target = sqlite3.connect(to)
        try:
            source.backup(target)
            target.execute("PRAGMA journal_mode=DELETE")
        finally:
            target.close()
    except sqlite3.Error as error:
        raise DatabaseUnusableError(f"cannot write {to}: {error}") from error


def _require_whole(source: sqlite3.Connection, name: Path) -> None:
    try:
        verdict = source.execute("PRAGMA integrity_check").fetchone()[0]
        source.execute("SELECT count(*) FROM revision").fetchone()
    except sqlite3.Error as error:
        raise DatabaseUnusableError(f"{name} is not a Ready Trail backup: {error}") from error
    if verdict != "ok":
        raise DatabaseUnusableError(f"{name} is damaged: {verdict}")


def _require_unused(path: Path) -> None:
    """Refuse to swap a database that somebody is writing to right now."""
    if not path.exists():
        return
    conn = connect(path, timeout_s=0.5)
    try:
        conn.execute("BEGIN EXCLUSIVE")
        conn.execute("ROLLBACK")
        conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except sqlite3.OperationalError as error:
        raise DatabaseUnusableError(f"{path} is in use: stop the server first") from error
    finally:
        conn.close()
