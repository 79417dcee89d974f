"""Long work: how far it is, its page, its stop."""

from __future__ import annotations

import sqlite3

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from ready_trail.store import works
from ready_trail.store.errors import NotFoundError
from ready_trail.store.works import Work
from ready_trail.web.context import Conn, Form, go, page

router = APIRouter(include_in_schema=False)


@router.get("/work/{work_id}")
def work_state(conn: Conn, work_id: str) -> Response:
    """Tell how far a piece of long work is."""
    work = _work(conn, work_id)
    return JSONResponse(
        {
            "state": work.state,
            "done": work.done,
            "total": work.total,
            "words": work.words,
            "leads_to": work.leads_to,
        }
    )


@router.get("/work/{work_id}/page")
def show_work(request: Request, conn: Conn, work_id: str, back: str = "/") -> Response:
    """Show how far it is, and where its result is then."""
    return page(
        request,
        "pages/work.html",
        work=_work(conn, work_id),
        back=back if back.startswith("/jobs/") else "/",
    )


@router.post("/work/{work_id}/stop")
def stop_work(conn: Conn, work_id: str, form: Form) -> Response:
    """Stop long work; what it has made so far is dropped."""
    works.end(conn, _work(conn, work_id).work_id, "stopped", "It was stopped.")
    back = form.get("back", "/")
    return go(back if back.startswith("/jobs/") else "/")


def _work(conn: sqlite3.Connection, work_id: str) -> Work:
    work = works.get(conn, work_id)
    if work is None:
        raise NotFoundError("work", work_id[:40])
    return work
