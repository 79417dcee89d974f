"""What was reckoned of circuits, kept by a digest of what it was reckoned from."""

from __future__ import annotations

import sqlite3

from ready_trail.store.db import utc_now

KEPT_MOST = 160
"""So many circuits' plans are kept, those made last."""

_GET = "SELECT arrays FROM plan WHERE digest = :digest"
_HAS = "SELECT 1 FROM plan WHERE digest = :digest"
_PUT = """
INSERT INTO plan (digest, arrays, made_at) VALUES (:digest, :arrays, :now)
ON CONFLICT (digest) DO UPDATE SET arrays = excluded.arrays, made_at = excluded.made_at
"""
_FORGET = """
DELETE FROM plan WHERE digest NOT IN (SELECT digest FROM plan ORDER BY made_at DESC LIMIT :most)
"""


def get_plan(conn: sqlite3.Connection, digest: str) -> bytes | None:
    """Return what is kept under a digest."""
    row = conn.execute(_GET, {"digest": digest}).fetchone()
    return None if row is None else bytes(row["arrays"])


def has_plan(conn: sqlite3.Connection, digest: str) -> bool:
    """Return whether something is kept under a digest."""
    return conn.execute(_HAS, {"digest": digest}).fetchone() is not None


def put_plan(conn: sqlite3.Connection, digest: str, arrays: bytes) -> None:
    """Keep what was reckoned; what was made longest ago goes."""
    conn.execute(_PUT, {"digest": digest, "arrays": arrays, "now": utc_now()})
    conn.execute(_FORGET, {"most": KEPT_MOST})
