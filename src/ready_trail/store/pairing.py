"""The code that lets one device in, and who sent wrong ones: the same for every process."""

from __future__ import annotations

import secrets
import sqlite3
import time
from collections.abc import Callable

CODE_DIGITS, CODE_S = 6, 600.0
TRIES_MOST, TRIES_S = 8, 600.0
"""Wrong codes from one address in ten minutes, after which that one is not heard for as long."""

_TRIES_KEPT = 2_000
_CODE_WRONG_MOST = 3
"""Wrong codes after which another one counts: nobody works through one."""

_CODE = "SELECT code, until_at, wrong FROM pairing_code"
_NEW = """
INSERT INTO pairing_code (only, code, until_at, wrong) VALUES (1, :code, :until_at, 0)
    ON CONFLICT (only) DO UPDATE SET code = :code, until_at = :until_at, wrong = 0
"""
_WRONG = "UPDATE pairing_code SET wrong = wrong + 1"
_USED = "DELETE FROM pairing_code"
_TRY = "INSERT INTO pairing_try (peer, at) VALUES (:peer, :now)"
_OLD = """
DELETE FROM pairing_try
 WHERE at <= :since OR try_id <= (SELECT max(try_id) FROM pairing_try) - :most
"""
_COUNT = "SELECT count(*) AS n FROM pairing_try WHERE peer = :peer AND at > :since"
_BY_PEER = """
SELECT peer, count(*) AS n FROM pairing_try WHERE at > :since GROUP BY peer ORDER BY max(try_id)
"""
_HEAR_AGAIN = "DELETE FROM pairing_try"

now_s: Callable[[], float] = time.time


def code(conn: sqlite3.Connection) -> tuple[str, float]:
    """Return the code that counts now and how long it does yet; a new one where none does. [s]"""
    row = conn.execute(_CODE).fetchone()
    if row is None or now_s() > row["until_at"]:
        made = "".join(secrets.choice("0123456789") for _ in range(CODE_DIGITS))
        conn.execute(_NEW, {"code": made, "until_at": now_s() + CODE_S})
        row = conn.execute(_CODE).fetchone()
    return str(row["code"]), max(0.0, row["until_at"] - now_s())


def is_shut(conn: sqlite3.Connection, peer: str) -> bool:
    """Whether too many wrong codes came from an address lately."""
    row = conn.execute(_COUNT, {"peer": peer, "since": now_s() - TRIES_S}).fetchone()
    return int(row["n"]) >= TRIES_MOST


def wrong(conn: sqlite3.Connection) -> tuple[tuple[str, int, bool], ...]:
    """Return who sent wrong codes lately: the address, how many, whether it is shut out."""
    rows = conn.execute(_BY_PEER, {"since": now_s() - TRIES_S})
    return tuple((r["peer"], r["n"], r["n"] >= TRIES_MOST) for r in rows)


def take(conn: sqlite3.Connection, typed: str, peer: str) -> bool:
    """Return whether a code lets in; it is used up then. A wrong one is counted.

    Runs in a transaction: of two who type one code at a time, one comes in.
    """
    if is_shut(conn, peer):
        return False
    row = conn.execute(_CODE).fetchone()
    counts = row is not None and now_s() <= row["until_at"]
    if counts and secrets.compare_digest(typed.encode(), row["code"].encode()):
        conn.execute(_USED)
        return True
    conn.execute(_TRY, {"peer": peer, "now": now_s()})
    conn.execute(_OLD, {"since": now_s() - TRIES_S, "most": _TRIES_KEPT})
    conn.execute(_USED if row is not None and row["wrong"] + 1 >= _CODE_WRONG_MOST else _WRONG)
    return False


def clear(conn: sqlite3.Connection) -> None:
    """Hear everybody again, with a new code."""
    conn.execute(_HEAR_AGAIN)
    conn.execute(_USED)
