"""Stage Brief: name and vehicle."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.forms import merged
from ready_trail.store import jobs
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.pages.shell import VEHICLE_WORDS, shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/brief")
def show_brief(request: Request, conn: Conn, job_id: JobId, told: Refusal) -> Response:
    """Show what is stated of the job as a whole."""
    stored = jobs.get_job(conn, job_id)
    return page(
        request,
        "pages/brief.html",
        shell=shell_of(stored, "brief"),
        shown=merged(stored.job.model_dump(), told.of("rename_job", "set_vehicle")),
        errors={},
        vehicle_words=VEHICLE_WORDS,
    )
