"""Connections, transactions, migrations."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib.resources import files
from pathlib import Path

from ready_trail.store.errors import DatabaseUnusableError, MigrationError

BUSY_TIMEOUT_S = 5.0

_CREATE_LEDGER = """
CREATE TABLE IF NOT EXISTS migration (
    number     INTEGER PRIMARY KEY,
    name       TEXT NOT NULL,
    sha256     TEXT NOT NULL,
    applied_at TEXT NOT NULL
) STRICT
"""
_SELECT_APPLIED = "SELECT number, name, sha256 FROM migration ORDER BY number"
_INSERT_APPLIED = """
INSERT INTO migration (number, name, sha256, applied_at)
VALUES (:number, :name, :sha256, :applied_at)
"""


def utc_now() -> str:
    """Return the time as the store writes it."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")


def connect(path: Path, *, timeout_s: float = BUSY_TIMEOUT_S) -> sqlite3.Connection:
    """Open a connection for one request; one thread at a time may use it."""
    try:
        conn = sqlite3.connect(
            path, isolation_level=None, timeout=timeout_s, check_same_thread=False
        )
        conn.row_factory = sqlite3.Row
        conn.execute("PRAGMA foreign_keys=ON")
        conn.execute("PRAGMA synchronous=FULL")
    except sqlite3.Error as error:
        raise DatabaseUnusableError(f"cannot open {path}: {error}") from error
    return conn


@contextmanager
def transaction(conn: sqlite3.Connection) -> Iterator[None]:
    """Run a block as one transaction, all of it or nothing."""
    conn.execute("BEGIN IMMEDIATE")
    try:
        yield
        conn.execute("COMMIT")  # deferred foreign keys are checked here, and may refuse
    except BaseException:
        if conn.in_transaction:
            conn.execute("ROLLBACK")
        raise


def initialise(path: Path) -> None:
    """Create or migrate the database. Raises DatabaseUnusableError or MigrationError."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        conn = connect(path)
        try:
            conn.execute("PRAGMA journal_mode=WAL")
            migrate(conn, shipped_migrations())
        finally:
            conn.close()
    except (sqlite3.Error, OSError) as error:
        raise DatabaseUnusableError(f"cannot use {path} as the database: {error}") from error


def shipped_migrations() -> tuple[tuple[str, str], ...]:
    """Return ``(file name, text)`` of every migration, in order."""
    folder = files("ready_trail.store").joinpath("migrations")
    return tuple(
        (entry.name, entry.read_text(encoding="utf-8"))
        for entry in sorted(folder.iterdir(), key=lambda entry: entry.name)
        if entry.name.endswith(".sql")
    )


def migrate(conn: sqlite3.Connection, migrations: tuple[tuple[str, str], ...]) -> int:
    """Apply what is missing, each with its record in one transaction; return how many.

    Raises MigrationError when an applied file was changed or is unknown (a newer program's).
    """
    conn.execute(_CREATE_LEDGER)
    applied = {row["number"]: row for row in conn.execute(_SELECT_APPLIED)}
    known = {int(name.split("_")[0]): (name, text) for name, text in migrations}
    for number, row in applied.items():
        if number not in known:
            raise MigrationError(
                f"this database was made by a newer Ready Trail (migration {row['name']})"
            )
        if _digest(known[number][1]) != row["sha256"]:
            raise MigrationError(f"migration {row['name']} was changed after it was applied")
    missing = [number for number in sorted(known) if number not in applied]
    for number in missing:
        _apply(conn, number, *known[number])
    return len(missing)


def _apply(conn: sqlite3.Connection, number: int, name: str, text: str) -> None:
    conn.execute("PRAGMA foreign_keys=OFF")  # before the transaction: inside it, no effect
    try:
        with transaction(conn):
            for statement in _statements(text):
                conn.execute(statement)
            broken = conn.execute("PRAGMA foreign_key_check").fetchall()
            if broken:
                raise MigrationError(f"{name} leaves {len(broken)} broken references")
            record = {
                "number": number,
                "name": name,
                "sha256": _digest(text),
                "applied_at": utc_now(),
            }
            conn.execute(_INSERT_APPLIED, record)
    finally:
        conn.execute("PRAGMA foreign_keys=ON")


def _statements(text: str) -> Iterator[str]:
    """Split a script at complete statements; executescript would commit by itself."""
    statement = ""
    for line in text.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
    if statement.strip():
        raise MigrationError("a migration ends inside a statement")


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8")).hexdigest()
