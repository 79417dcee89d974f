"""Documents that take a while: the build book, all sheets; made in a process of their own."""

from __future__ import annotations

import hashlib
import sqlite3
from datetime import UTC, datetime

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from ready_trail.store import jobs, shelf, ticks
from ready_trail.store.errors import NotFoundError
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.documents import file_of, safe_name
from ready_trail.web.pages.book import BookOrder, make_book, make_sheets
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.work import WORKS, TooMuchWorkError, Work

router = APIRouter(include_in_schema=False)

_KINDS = {"book": "build-book", "sheets": "sheets", "sheets-why": "sheets-and-why"}


@router.get("/jobs/{job_id}/build/book")
def show_book(request: Request, conn: Conn, job_id: JobId, work: str = "") -> Response:
    """Show what the book holds, or how far it is."""
    shell = _shell(conn, job_id)
    found = WORKS.get(work) if work else None
    return page(request, "pages/build_book.html", shell=shell, tab="book", work=found,
                lost=bool(work) and found is None, words="")  # fmt: skip


@router.post("/jobs/{job_id}/build/book")
def start_book(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Start making a document, or go to the one that is made already from the same facts."""
    shell = _shell(conn, job_id)
    kind = form.get("what", "book")
    kind = kind if kind in _KINDS else "book"
    paper = "letter" if form.get("paper", "").lower() == "letter" else "A4"
    order = _order(conn, shell, paper)
    key = hashlib.sha256(f"{kind} {order!r}".encode()).hexdigest()
    name = safe_name(f"{shell.design.job.name}-{_KINDS[kind]}.pdf")
    try:
        if kind == "book":
            work = WORKS.start(key, name, "application/pdf", make_book, order)
        else:
            work = WORKS.start(key, name, "application/pdf", make_sheets, order,
                               kind == "sheets-why")  # fmt: skip
    except TooMuchWorkError as error:
        return page(request, "pages/build_book.html", status=429, shell=shell, tab="book",
                    work=None, lost=False, words=f"{error}.")  # fmt: skip
    return go(f"{shell.base}/build/book?work={work.id}")


def _order(conn: sqlite3.Connection, shell: Shell, paper: str) -> BookOrder:
    stored = shell.stored
    return BookOrder(
        job_id=stored.job_id, revision=stored.revision, title=stored.title,
        document=stored.job.model_dump_json(), figures=stored.figures,
        ticks=ticks.list_ticks(conn, stored.job_id),
        parts=tuple(p.part for p in shelf.list_parts(conn)), paper=paper,
        printed=datetime.now(UTC).strftime("%Y-%m-%d"),
    )  # fmt: skip


@router.get("/work/{work_id}")
def work_state(work_id: str) -> Response:
    """Tell how far a piece of long work is."""
    work = _work(work_id)
    return JSONResponse({"state": work.state, "done": work.done, "total": work.total,
                         "words": work.words, "leads_to": work.leads_to})  # fmt: skip


@router.get("/work/{work_id}/file")
def work_file(work_id: str) -> Response:
    """Give the result of long work."""
    work = _work(work_id)
    if work.state != "done":
        raise NotFoundError("result", work_id)
    return file_of(work)


@router.get("/work/{work_id}/page")
def show_work(request: Request, work_id: str, back: str = "/") -> Response:
    """Show how far a document is that took longer than a moment."""
    return page(request, "pages/work.html", work=_work(work_id),
                back=back if back.startswith("/jobs/") else "/")  # fmt: skip


@router.post("/work/{work_id}/stop")
def stop_work(work_id: str, form: Form) -> Response:
    """Stop long work."""
    _work(work_id)
    WORKS.stop(work_id)
    back = form.get("back", "/")
    return go(back if back.startswith("/jobs/") else "/")


def _work(work_id: str) -> Work:
    work = WORKS.get(work_id)
    if work is None:
        raise NotFoundError("work", work_id[:40])
    return work


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "build")
