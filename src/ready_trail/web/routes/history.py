"""Undo, redo, the history of named revisions, restore."""

from __future__ import annotations

from contextlib import suppress

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from ready_trail.store import jobs, ticks
from ready_trail.store.db import transaction
from ready_trail.store.errors import NothingToUndoError, StaleWriteError
from ready_trail.web.commit import seen_revision
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.fields import FieldsRefusedError, whole_number
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/head")
def show_head(conn: Conn, job_id: JobId) -> Response:
    """Tell where the job stands, for pages that are open."""
    revision, title = jobs.head_of(conn, job_id)
    return JSONResponse(
        {"revision": revision, "title": title, "ticks": ticks.count_ticks(conn, job_id)}
    )


@router.get("/history")
def show_history(request: Request, conn: Conn, job_id: JobId) -> Response:
    """List the revisions, newest first; undone ones are marked."""
    shell = shell_of(jobs.get_job(conn, job_id), "history")
    revisions = jobs.list_revisions(conn, job_id)
    parents = {r.number: r.parent for r in revisions}
    line = set()
    at: int | None = shell.stored.revision
    while at is not None:
        line.add(at)
        at = parents[at]
    return page(request, "pages/history.html", shell=shell, revisions=revisions, line=line)


@router.post("/undo")
def post_undo(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Go back one revision; pressing it with nothing to undo changes nothing."""
    with transaction(conn), suppress(NothingToUndoError):
        jobs.undo(conn, job_id, seen_revision(form))
    return go(_back(form, job_id))


@router.post("/redo")
def post_redo(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Go forward again."""
    with transaction(conn), suppress(NothingToUndoError):
        jobs.redo(conn, job_id, seen_revision(form))
    return go(_back(form, job_id))


@router.post("/restore")
def post_restore(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Make an old revision the newest again."""
    seen, number = seen_revision(form), whole_number(form.get("number", ""))
    if number is None:
        raise FieldsRefusedError({"number": "Name the revision to restore by its number."})
    with transaction(conn):
        revision, job = jobs.get_revision(conn, job_id, number)
        if jobs.get_job(conn, job_id).revision != seen:
            raise StaleWriteError(job_id, seen, jobs.get_job(conn, job_id).revision)
        title = f"Restore revision {number}: {revision.title}"
        jobs.append_revision(conn, job_id, seen, job, kind="restore", title=title[:300])
    return go(f"/jobs/{job_id}/history")


def _back(form: Form, job_id: JobId) -> str:
    back = form.get("back", "")
    return back if back.startswith(f"/jobs/{job_id}/") else f"/jobs/{job_id}"
