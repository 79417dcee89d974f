"""Stage Drawing, what each fault does: reckoned beside the server, shown when it is there."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.sweep import SYMPTOMS
from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.pages.faults import SYMPTOM_WORDS, fault_view, start_faults
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/drawing/faults")
def show_faults(
    request: Request, conn: Conn, job_id: JobId, circuit: str = "", seen: str = ""
) -> Response:
    """Show what is noticed of every single fault, by circuit; or how far that is."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    work = start_faults(shell.stored) if shell.design.circuits else None
    view = None
    if work is not None and work.state == "done":
        view = fault_view(shell.design, work.path.read_bytes(), circuit, seen)
    return page(request, "pages/faults.html", shell=shell, work=work, view=view,
                symptoms=SYMPTOMS, symptom_words=SYMPTOM_WORDS)  # fmt: skip
