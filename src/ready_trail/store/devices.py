"""Devices that were let in from the workshop's network. Only the hash of a token is kept."""

from __future__ import annotations

import hashlib
import secrets
import sqlite3
from dataclasses import dataclass

from ready_trail.store.db import utc_now

_INSERT = """
INSERT INTO device (name, token, read_only, paired_at, seen_at)
VALUES (:name, :token, 0, :now, :now)
RETURNING device_id
"""
_FIND = "SELECT * FROM device WHERE token = :token AND gone_at IS NULL"
_LIST = "SELECT * FROM device WHERE gone_at IS NULL ORDER BY paired_at DESC, device_id DESC"
_SEEN = (
    "UPDATE device SET seen_at = :now WHERE device_id = :id AND substr(seen_at, 1, 16) < :minute"
)
_READ_ONLY = "UPDATE device SET read_only = :read_only WHERE device_id = :id"
_OUT = "UPDATE device SET gone_at = :now WHERE device_id = :id AND gone_at IS NULL"


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """A paired device."""

    device_id: int
    name: str
    read_only: bool
    paired_at: str
    seen_at: str


def add_device(conn: sqlite3.Connection, name: str) -> str:
    """Let a device in; return its token, which is kept nowhere else."""
    token = secrets.token_urlsafe(32)
    conn.execute(_INSERT, {"name": name, "token": _hash(token), "now": utc_now()}).fetchone()
    return token


def find_device(conn: sqlite3.Connection, token: str) -> Device | None:
    """Return the device that holds a token, unless it was put out. Writes nothing."""
    row = conn.execute(_FIND, {"token": _hash(token)}).fetchone()
    return None if row is None else _device(row)


def note_seen(conn: sqlite3.Connection, device: Device) -> None:
    """Note that a device was seen, once a minute at most."""
    now = utc_now()
    if device.seen_at[:16] < now[:16]:
        conn.execute(_SEEN, {"id": device.device_id, "now": now, "minute": now[:16]})


def list_devices(conn: sqlite3.Connection) -> tuple[Device, ...]:
    """Return the devices that are let in, the newest first."""
    return tuple(_device(row) for row in conn.execute(_LIST))


def set_read_only(conn: sqlite3.Connection, device_id: int, *, read_only: bool) -> None:
    """Let a device look only, or work again."""
    conn.execute(_READ_ONLY, {"id": device_id, "read_only": int(read_only)})


def put_out(conn: sqlite3.Connection, device_id: int) -> None:
    """Let a device in no more."""
    conn.execute(_OUT, {"id": device_id, "now": utc_now()})


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _device(row: sqlite3.Row) -> Device:
    return Device(
        device_id=row["device_id"],
        name=row["name"],
        read_only=bool(row["read_only"]),
        paired_at=row["paired_at"],
        seen_at=row["seen_at"],
    )
