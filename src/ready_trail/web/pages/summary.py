"""Lines of the list of jobs: reckoned as a job is stored, or after the answer where they lack."""

from __future__ import annotations

import hashlib
import logging
import sqlite3
import time
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from threading import Lock

from pydantic import ValidationError

from ready_trail.core.design import Design
from ready_trail.core.job import Job
from ready_trail.store import db, jobs, shelf
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError
from ready_trail.store.summaries import Summary, keep_summary
from ready_trail.web.designs import Figures, designed_or_bare

AT_ONCE_S = 0.1
"""So long the list itself reckons lines that lack; the rest is done after the answer."""

_log = logging.getLogger("ready_trail")
_counting = Lock()


@lru_cache(maxsize=1)
def _rules_digest() -> str:
    """Digest of the core with its tables: other rules, other counts."""
    found = hashlib.sha256()
    root = Path(str(files("ready_trail")))
    for folder, pattern in (("core", "**/*.py"), ("data/tables", "*.csv")):
        for path in sorted(root.joinpath(folder).glob(pattern)):
            found.update(path.read_bytes())
    return found.hexdigest()[:16]


@lru_cache(maxsize=8)
def reckoned_by(figures: Figures) -> str:
    """Name the rules and the shelf's figures by which counts are reckoned."""
    told = repr(figures) if figures else ""
    return f"{_rules_digest()}-{hashlib.sha256(told.encode()).hexdigest()[:8]}"


def summary_of(
    job: Job, revision: int, figures: Figures, made: Design | None, trouble: str = ""
) -> Summary:
    """Return the line of a job with its design, or with why there is none."""
    counted = (
        {}
        if made is None or trouble
        else {
            "ready": made.ready_count,
            "stops": made.count("stop"),
            "cautions": made.count("caution"),
        }
    )
    return Summary(
        revision=revision,
        reckoned_by=reckoned_by(figures),
        name=job.name,
        place=job.place,
        vehicle_kind=job.vehicle.kind,
        nominal_v=job.vehicle.nominal_v,
        trouble=trouble,
        circuits=len(job.circuits),
        **counted,
    )


def reckon_lines(
    conn: sqlite3.Connection, rows: tuple[jobs.JobRow, ...], most_s: float
) -> dict[int, Summary]:
    """Reckon the lines of some jobs and keep them, for so long at most; return those made."""
    begin, found, may_keep = time.monotonic(), {}, True
    for row in rows:
        if time.monotonic() - begin > most_s:
            break
        try:
            stored = jobs.get_job(conn, row.job_id)
            made, trouble = designed_or_bare(stored.job, stored.figures)
            line = summary_of(stored.job, stored.revision, stored.figures, made, trouble)
        except NotFoundError:
            continue
        except ValidationError:
            words = "This job's document is damaged; its history may hold an older one."
            line = Summary(
                revision=row.head,
                reckoned_by=reckoned_by(shelf.list_figures(conn)),
                name=row.name,
                place=row.place,
                vehicle_kind=row.vehicle_kind,
                nominal_v=row.nominal_v,
                circuits=0,
                trouble=words,
            )
        found[row.job_id] = line
        if may_keep:
            may_keep = _keep(conn, row.job_id, line)
    return found


def _keep(conn: sqlite3.Connection, job_id: int, line: Summary) -> bool:
    """Keep a line; False where nothing can be written just now: the list is read all the same."""
    try:
        with transaction(conn):
            if jobs.head_of(conn, job_id)[0] == line.revision:
                keep_summary(conn, job_id, line)
    except sqlite3.OperationalError as error:
        _log.warning("the line of job %d could not be kept: %s", job_id, error)
        return False
    return True


def reckon_rest(database: Path, rows: tuple[jobs.JobRow, ...]) -> None:
    """Reckon lines after the answer is out; one at a time does so."""
    if not _counting.acquire(blocking=False):
        return
    try:
        conn = db.connect(database)
        try:
            reckon_lines(conn, rows, float("inf"))
        finally:
            conn.close()
    except sqlite3.Error as error:
        _log.warning("the list of jobs could not be counted: %s", error)
    finally:
        _counting.release()
