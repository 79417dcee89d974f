"""Committing an edit: one transaction, on the revision that the page showed."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import Design
from ready_trail.core.edits import KINDS, Edit, apply
from ready_trail.core.errors import CoreError, EditRefusedError
from ready_trail.core.job import Job
from ready_trail.core.references import unknown_references
from ready_trail.store import jobs
from ready_trail.store.db import transaction
from ready_trail.store.errors import StaleWriteError
from ready_trail.store.summaries import keep_summary
from ready_trail.web.designs import designed
from ready_trail.web.fields import FieldsRefusedError, whole_number
from ready_trail.web.pages.summary import summary_of


def seen_revision(form: Mapping[str, str]) -> int:
    """Return the revision that the posted page showed."""
    number = whole_number(form.get("revision", ""))
    if number is None:
        raise FieldsRefusedError({"form": "This form lacks its revision; reload it."})
    return number


def commit(
    conn: sqlite3.Connection,
    job_id: int,
    seen: int,
    edit: Edit,
    *,
    also: Callable[[Job], None] = lambda _: None,
) -> Job:
    """Apply an edit to the head and store it as a revision; ``also`` goes in the same transaction.

    Raises StaleWriteError when the job moved on since the page was made, FieldsRefusedError
    when the edit does not fit; nothing is stored then.
    """
    while True:
        # outside the transaction: designing takes a while, and others want to write meanwhile
        stored = jobs.get_job(conn, job_id)
        if stored.revision != seen and not _may_merge(conn, job_id, seen, stored.revision, edit):
            raise StaleWriteError(job_id, seen, stored.revision)
        after = checked(stored.job, edit)
        if after == stored.job:
            return after
        made = _must_be_designed(after, stored)
        kind = str(getattr(edit, "kind", "edit"))
        amend = stored.can_undo and edit.continues(stored.job, stored.kind, stored.title)
        with transaction(conn):
            if jobs.head_of(conn, job_id)[0] == stored.revision:
                number = jobs.append_revision(
                    conn,
                    job_id,
                    stored.revision,
                    after,
                    kind=kind,
                    title=edit.title(stored.job)[:300],
                    amend=amend,
                )
                keep_summary(conn, job_id, summary_of(after, number, stored.figures, made))
                also(after)
                return after


def _may_merge(conn: sqlite3.Connection, job_id: int, seen: int, head: int, edit: Edit) -> bool:
    """Whether only presses of the same kind came in between: then none of them is stale."""
    if not edit.merges or seen > head:
        return False
    newer = [r for r in jobs.list_revisions(conn, job_id) if seen < r.number <= head]
    return all(r.kind in KINDS and KINDS[r.kind].merges for r in newer)


def _must_be_designed(job: Job, before: jobs.StoredJob) -> Design:
    """Refuse what the design cannot even speak of: whatever is stored can be opened again."""
    try:
        return designed(job, before.figures)
    except CoreError as error:
        raise FieldsRefusedError({"form": f"This cannot be designed: {error}."}) from error


def checked(job: Job, edit: Edit) -> Job:
    """Return the job after an edit whose names all stand in the catalogue."""
    try:
        after = apply(job, edit)
    except EditRefusedError as error:
        raise FieldsRefusedError({error.field: error.message}) from error
    for path, message in unknown_references(after, load_catalogue()):
        raise FieldsRefusedError({path: message})
    return after
