"""Buying: plans of fewer spools, and keeping one."""

from __future__ import annotations

import sqlite3

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.pages.buy import spools_of
from ready_trail.web.pages.shell import Shell, shell_of

router = APIRouter(prefix="/jobs/{job_id}/build", include_in_schema=False)

_GONE = (
    "This plan is not offered any more: the job or the shelf changed. Look at the plans as they "
    "are now."
)


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "build")


@router.get("/spools")
def show_spools(request: Request, conn: Conn, job_id: JobId, plan: str = "") -> Response:
    """Show the plans from exactly as designed to the fewest spools, and one of them closely."""
    shell = _shell(conn, job_id)
    view = spools_of(conn, shell, plan)
    errors = {"plan": _GONE} if plan and view.chosen is None else {}
    return page(
        request,
        "pages/build_spools.html",
        status=404 if errors else 200,
        shell=shell,
        tab="parts",
        view=view,
        errors=errors,
    )


@router.post("/spools/keep")
def keep_plan(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Hold a plan: one edit, one undo."""
    seen = seen_revision(form)
    shell = _shell(conn, job_id)
    view = spools_of(conn, shell, form.get("plan", ""))
    errors = {}
    if view.kept is None:
        errors["plan"] = _GONE
    elif view.kept.opens_a_stop:
        errors["plan"] = "This plan would open a stop; take one with more spools."
    if errors or view.kept is None:
        return page(
            request,
            "pages/build_spools.html",
            status=422,
            shell=shell,
            tab="parts",
            view=view,
            errors=errors,
        )
    commit(conn, job_id, seen, view.kept.edit)
    return go(f"{shell.base}/build/spools")
