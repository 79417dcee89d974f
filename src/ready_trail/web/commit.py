"""Committing an edit: one transaction, on the revision that the page showed."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.edits import Edit, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job
from ready_trail.core.references import unknown_references
from ready_trail.store import jobs
from ready_trail.store.db import transaction
from ready_trail.store.errors import StaleWriteError
from ready_trail.web.fields import FieldsRefusedError


def seen_revision(form: Mapping[str, str]) -> int:
    """Return the revision that the posted page showed."""
    try:
        return int(form["revision"])
    except (KeyError, ValueError):
        raise FieldsRefusedError({"form": "This form lacks its revision; reload it."}) from None


def commit(conn: sqlite3.Connection, job_id: int, seen: int, edit: Edit) -> Job:
    """Apply an edit to the head and store it as a revision.

    Raises StaleWriteError when the job moved on since the page was made, FieldsRefusedError
    when the edit does not fit; nothing is stored then.
    """
    with transaction(conn):
        stored = jobs.get_job(conn, job_id)
        if stored.revision != seen:
            raise StaleWriteError(job_id, seen, stored.revision)
        after = checked(stored.job, edit)
        if after != stored.job:
            kind = str(getattr(edit, "kind", "edit"))
            title = edit.title(stored.job)
            jobs.append_revision(conn, job_id, seen, after, kind=kind, title=title)
    return after


def checked(job: Job, edit: Edit) -> Job:
    """Return the job after an edit whose names all stand in the catalogue."""
    try:
        after = apply(job, edit)
    except EditRefusedError as error:
        raise FieldsRefusedError({error.field: error.message}) from error
    for path, message in unknown_references(after, load_catalogue()):
        raise FieldsRefusedError({path: message})
    return after
