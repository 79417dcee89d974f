"""Opening the database for a server: a copy of the day, migrations, old revisions made whole."""

from __future__ import annotations

import logging
import re
import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from threading import Event

from ready_trail.store import db, jobs
from ready_trail.store.backup import backup
from ready_trail.store.errors import DatabaseUnusableError, StoreError

COPIES_KEPT = 7
_LOOK_S = 3600.0
_COPY = re.compile(r"^\d{4}-\d\d-\d\d\.db$")
_log = logging.getLogger("ready_trail")


def open_database(path: Path) -> None:
    """Make the database ready to serve. Raises DatabaseUnusableError or MigrationError.

    Before anything is changed a copy is kept; a copy that cannot be made is told in the log and
    keeps nobody from working.
    """
    keep_daily_copy(path)
    db.initialise(path)
    try:
        conn = db.connect(path)
        try:
            packed = 0
            while True:
                with db.transaction(conn):
                    count = jobs.make_whole(conn)
                packed += count
                if not count:
                    break
            if packed:
                conn.execute("VACUUM")
        finally:
            conn.close()
    except (sqlite3.Error, ValueError) as error:
        raise DatabaseUnusableError(f"cannot use {path} as the database: {error}") from error


def copy_each_day(path: Path, stop: Event) -> None:
    """Keep the day's copy of a database that is served for longer than a day, until stopped."""
    while not stop.wait(_LOOK_S):
        keep_daily_copy(path)


def keep_daily_copy(path: Path) -> Path | None:
    """Copy the database once a day into the folder beside it; the last seven are kept.

    Returns the copy, or None where there is one of today already, or none could be made.
    """
    if not path.exists() or path.stat().st_size == 0:
        return None
    folder = path.with_name(f"{path.stem}-copies")
    today = folder / f"{datetime.now(UTC):%Y-%m-%d}.db"
    if today.exists():
        return None
    try:
        folder.mkdir(exist_ok=True)
        partial = folder / "copying.part"
        partial.unlink(missing_ok=True)
        backup(path, partial)
        partial.rename(today)
        copies = sorted(p for p in folder.iterdir() if _COPY.match(p.name))
        past = [p for p in copies if p.name <= today.name]
        future = [p for p in copies if p.name > today.name]  # made by a clock that was ahead
        for old in (*past[:-COPIES_KEPT], *future[:-COPIES_KEPT]):
            old.unlink()
    except (StoreError, OSError) as error:
        _log.warning("no copy of today could be kept: %s", error)
        return None
    return today
