"""Stage Review: every finding of the job by severity and place, with ways out and their effect."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool
from starlette.responses import JSONResponse, Response

from ready_trail.formats.saying import saying_of
from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.pages.effects import (
    ASKED_MOST,
    effects_of_all,
    keep_effects,
    known_effects,
    reckon_effects,
)
from ready_trail.web.pages.review import AREAS, review_of
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.work import ask

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)
_EDIT_MOST = 4_000
_LOOK_S = 0.5


@router.get("/review")
def show_review(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, area: str = "", notes: str = ""
) -> Response:
    """Show the whole review, or one area of it; ``notes`` shows what is only worth knowing."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    view = review_of(shell, tables, area if area in AREAS else "")
    shown = [line.finding for group in view.groups for line in group.lines]
    return page(
        request,
        "pages/review.html",
        shell=shell,
        view=view,
        notes=bool(notes),
        effects=effects_of_all(shell, shown),
    )


@router.get("/findings/{code}")
def explain_finding(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, code: str
) -> Response:
    """Show what a finding's rule is, its source, and where it stands in this job."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    rule = tables.finding_rules.get(code)
    sits = [(c, f) for c in shell.design.circuits for f in c.findings if f.code == code]
    whole = [f for f in shell.design.findings if f.code == code]
    return page(
        request,
        "pages/finding.html",
        status=200 if rule else 404,
        shell=shell,
        rule=rule,
        sits=sits,
        whole=whole,
    )


@router.get("/effects")
async def tell_effects(
    request: Request, conn: Conn, job_id: JobId, revision: int, edit: Annotated[list[str], Query()]
) -> Response:
    """Tell what some edits would change, in their order, without a thread that waits for it.

    409 when the job has moved on from the revision that the page shows.
    """
    asked = [text for text in edit if len(text) <= _EDIT_MOST][:ASKED_MOST]
    stored = await run_in_threadpool(jobs.get_job, conn, job_id)

    if stored.revision != revision:
        return JSONResponse({"detail": "the job has moved on"}, 409)
    told, pending = known_effects(stored.job, stored.figures, asked)
    if pending:
        database: Path = request.app.state.database
        answer = ask(reckon_effects, database, job_id, revision, tuple(pending))
        try:
            while not answer.done() and not await request.is_disconnected():
                await asyncio.wait([asyncio.wrap_future(answer)], timeout=_LOOK_S)
        except asyncio.CancelledError:  # the server stops; nobody reads this any more
            answer.cancel()
        if not answer.done():
            answer.cancel()
        new = None if answer.cancelled() or not answer.done() else answer.result()
        if new is None:
            return JSONResponse({"detail": "the job has moved on"}, 409)
        told |= new
        keep_effects(stored.job, stored.figures, new)
    saying = saying_of(stored.job.rules, stored.job)
    return JSONResponse({"effects": [saying.words(told.get(text, "")) for text in edit]})
