"""Stage Drawing, what each fault does: reckoned beside the server, shown when it is there."""

from __future__ import annotations

from urllib.parse import urlencode

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.sweep import SYMPTOMS
from ready_trail.store import jobs, works
from ready_trail.web.context import Conn, JobId, go, page
from ready_trail.web.pages.faults import (
    SYMPTOM_WORDS,
    fault_view,
    kept_faults,
    key_of,
    start_faults,
)
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.papers.common import answer, printing
from ready_trail.web.papers.faults import faults_paper

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/drawing/faults.pdf")
def faults_pdf(conn: Conn, job_id: JobId, paper: str = "") -> Response:
    """The same on paper; what was not worked out yet is said."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    made = kept_faults(conn, shell.stored)
    return answer(shell, "faults", faults_paper(printing(shell, paper), made))


@router.get("/drawing/faults")
def show_faults(
    request: Request, conn: Conn, job_id: JobId, circuit: str = "", seen: str = "", work: str = ""
) -> Response:
    """Show what is noticed of every single fault, by circuit; or how far that is.

    While it is reckoned the address names the work, so that loading the page again shows how it
    ended instead of starting it anew.
    """
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    found = works.get(conn, work) if work else None
    if found is not None and found.key != key_of(shell.stored):
        found = None  # of another revision, or of something else
    if found is None and shell.design.circuits:
        found = start_faults(request.app.state.database, shell.stored)
        if found.state == "running":
            asked = urlencode({"circuit": circuit, "seen": seen, "work": found.work_id})
            return go(f"{shell.base}/drawing/faults?{asked}")
    made = works.result(conn, found.work_id) if found is not None else None
    view = fault_view(shell.design, made, circuit, seen) if made is not None else None
    return page(
        request,
        "pages/faults.html",
        shell=shell,
        work=found,
        view=view,
        symptoms=SYMPTOMS,
        symptom_words=SYMPTOM_WORDS,
    )
