"""What was reckoned of circuits, kept by a digest of what it was reckoned from."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from ready_trail.store.db import utc_now

KEPT_MOST = 160
"""So many circuits' plans are kept, those used last."""

_GET = "UPDATE plan SET used_at = :now WHERE digest = :digest RETURNING arrays"
_HAS = "SELECT digest FROM plan WHERE digest = :digest"
_PUT = """
INSERT INTO plan (digest, arrays, used_at) VALUES (:digest, :arrays, :now)
ON CONFLICT (digest) DO UPDATE SET arrays = excluded.arrays, used_at = excluded.used_at
"""
_FORGET = """
DELETE FROM plan WHERE digest NOT IN (SELECT digest FROM plan ORDER BY used_at DESC LIMIT :most)
"""


def get_plan(conn: sqlite3.Connection, digest: str) -> bytes | None:
    """Return what is kept under a digest."""
    row = conn.execute(_GET, {"digest": digest, "now": utc_now()}).fetchone()
    return None if row is None else bytes(row["arrays"])


def known_plans(conn: sqlite3.Connection, digests: Sequence[str]) -> frozenset[str]:
    """Return which of some digests something is kept under."""
    return frozenset(d for d in digests if conn.execute(_HAS, {"digest": d}).fetchone())


def put_plan(conn: sqlite3.Connection, digest: str, arrays: bytes) -> None:
    """Keep what was reckoned; what was not used for longest goes."""
    conn.execute(_PUT, {"digest": digest, "arrays": arrays, "now": utc_now()})
    conn.execute(_FORGET, {"most": KEPT_MOST})
