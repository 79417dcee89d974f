"""Forms that make something: one pressed twice counts once; a file waits for its second press."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from uuid import uuid4

from ready_trail.store.db import utc_now
from ready_trail.store.errors import PressedBeforeError

_KNOWN = "SELECT location FROM pressed_form WHERE key = :key"
_KEEP = "INSERT INTO pressed_form (key, location, made_at) VALUES (:key, :location, :now)"
_OLD_FORMS = "DELETE FROM pressed_form WHERE made_at < date('now', '-7 days')"
_HOLD = "INSERT INTO held_file (key, data, made_at) VALUES (:key, :data, :now)"
_HELD = "SELECT data FROM held_file WHERE key = :key"
_OLD_FILES = "DELETE FROM held_file WHERE made_at < date('now', '-1 days')"


def once(conn: sqlite3.Connection, key: str, make: Callable[[], str]) -> str:
    """Return where a form leads: made now, or when it was pressed first. Runs in a transaction."""
    if not 8 <= len(key) <= 64:
        return make()
    known = conn.execute(_KNOWN, {"key": key}).fetchone()
    if known is not None:
        return str(known["location"])
    location = make()
    conn.execute(_OLD_FORMS)
    conn.execute(_KEEP, {"key": key, "location": location, "now": utc_now()})
    return location


def keep(conn: sqlite3.Connection, key: str, location: str) -> None:
    """Keep where a form led, inside the transaction of what it did.

    Raises PressedBeforeError when it was pressed before: nothing of this press is stored then.
    """
    if not 8 <= len(key) <= 64:
        return
    before = known(conn, key)
    if before:
        raise PressedBeforeError(before)
    conn.execute(_OLD_FORMS)
    conn.execute(_KEEP, {"key": key, "location": location, "now": utc_now()})


def known(conn: sqlite3.Connection, key: str) -> str:
    """Return where a form led when it was pressed before, or an empty text."""
    row = conn.execute(_KNOWN, {"key": key[:64]}).fetchone()
    return str(row["location"]) if row is not None else ""


def hold_file(conn: sqlite3.Connection, data: bytes) -> str:
    """Keep a file for a day; return the key under which a form may name it."""
    key = uuid4().hex
    conn.execute(_OLD_FILES)
    conn.execute(_HOLD, {"key": key, "data": data, "now": utc_now()})
    return key


def held_file(conn: sqlite3.Connection, key: str) -> bytes:
    """Return a file that waits; empty where there is none."""
    row = conn.execute(_HELD, {"key": key[:64]}).fetchone()
    return bytes(row["data"]) if row is not None else b""
