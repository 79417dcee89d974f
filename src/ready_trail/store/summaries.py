"""What the list of jobs shows of each: kept beside the jobs, made anew when it is of old."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass

_KEEP = """
INSERT INTO job_summary (job_id, revision, reckoned_by, name, place, vehicle_kind, nominal_v,
                         circuits, ready, stops, cautions, trouble)
VALUES (:job_id, :revision, :reckoned_by, :name, :place, :vehicle_kind, :nominal_v,
        :circuits, :ready, :stops, :cautions, :trouble)
ON CONFLICT (job_id) DO UPDATE
   SET revision = excluded.revision, reckoned_by = excluded.reckoned_by, name = excluded.name,
       place = excluded.place, vehicle_kind = excluded.vehicle_kind,
       nominal_v = excluded.nominal_v, circuits = excluded.circuits, ready = excluded.ready,
       stops = excluded.stops, cautions = excluded.cautions, trouble = excluded.trouble
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Summary:
    """A job in one line. ``reckoned_by`` names the rules and figures that its counts are by;
    ``trouble`` says why it cannot be designed, if so.
    """

    revision: int
    reckoned_by: str
    name: str
    place: str
    vehicle_kind: str
    nominal_v: int
    circuits: int
    ready: int = 0
    stops: int = 0
    cautions: int = 0
    trouble: str = ""


def keep_summary(conn: sqlite3.Connection, job_id: int, summary: Summary) -> None:
    """Keep a job's line; the one before goes."""
    conn.execute(_KEEP, {"job_id": job_id, **asdict(summary)})
