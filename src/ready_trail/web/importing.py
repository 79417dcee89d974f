"""A large job file, read and designed in a process of its own before it becomes a job.

A file from anywhere may be wrong in a way that takes long to find, and the design of hundreds of
circuits takes seconds: other people's pages do not wait for either.
"""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import design
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.store import db, forms, jobs
from ready_trail.web.work import WORKS, Report, Work, WorkRefusedError

LARGE_BYTES = 150_000
"""Some 60 circuits: a smaller file is taken at once."""


def start_import(database: Path, data: bytes, figures: tuple[Figure, ...], form_key: str) -> Work:
    """Start taking a file, or return what this same form started already.

    Raises TooMuchWorkError.
    """
    return WORKS.start(
        f"import {form_key}", "Taking the job file", "application/json", check_file, data, figures,
        then=partial(_keep, database, form_key),
    )  # fmt: skip


def check_file(data: bytes, figures: tuple[Figure, ...], *, report: Report) -> bytes:
    """Return the job in a file as this version writes it: in the process.

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
    return json.dumps(job.model_dump(mode="json")).encode()


def _keep(database: Path, form_key: str, path: Path) -> str:
    """Store the checked job, once for its form, and return where it is."""
    job = Job.model_validate_json(path.read_bytes())
    conn = db.connect(database)

    def make() -> str:
        return f"/jobs/{jobs.create_job(conn, job, kind='import', title='Import job file')}"

    try:
        with db.transaction(conn):
            return forms.once(conn, form_key, make)
    finally:
        conn.close()
