"""A large job file, read and designed beside the server before it becomes a job.

A file from anywhere may be wrong in a way that takes long to find, and the design of hundreds of
circuits takes seconds: other people's pages do not wait for either.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import design
from ready_trail.core.errors import CoreError
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.store import db, forms, jobs
from ready_trail.store.works import Work
from ready_trail.web.work import Made, Report, WorkRefusedError, start

LARGE_BYTES = 150_000
"""Some 60 circuits: a smaller file is taken at once."""


def start_import(database: Path, data: bytes, figures: tuple[Figure, ...], form_key: str) -> Work:
    """Start taking a file, or return what this same form started already.

    Raises TooMuchWorkError.
    """
    return start(
        database, f"import {form_key}", "Taking the job file", take_file, data, figures, form_key
    )


def take_file(
    conn: sqlite3.Connection,
    data: bytes,
    figures: tuple[Figure, ...],
    form_key: str,
    *,
    report: Report,
) -> Made:
    """Make a job of a file, once for its form: in the process.

    Raises WorkRefusedError with what is wrong with the file.
    """
    report(0, 2, "Reading the file")
    catalogue = catalogue_with(figures)
    try:
        job = read_job(data, catalogue)
        report(1, 2, f"Designing {len(job.circuits)} circuits")
        design(job, catalogue)
    except FileRefusedError as refused:
        raise WorkRefusedError(f"The job file was not taken: {refused}.") from refused
    except CoreError as error:
        raise WorkRefusedError(
            f"The job file was not taken: it cannot be designed: {error}."
        ) from error

    def make() -> str:
        return f"/jobs/{jobs.create_job(conn, job, kind='import', title='Import job file')}"

    with db.transaction(conn):
        report(2, 2, "Keeping it")  # one that was stopped makes no job
        return Made(leads_to=forms.once(conn, form_key, make))
