"""Stage Review: every finding of the job by severity and place, with ways out and their effect."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.pages.effects import effects_of_all
from ready_trail.web.pages.review import AREAS, review_of
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/review")
def show_review(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, area: str = "", notes: str = ""
) -> Response:
    """Show the whole review, or one area of it; ``notes`` shows what is only worth knowing."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    view = review_of(shell, tables, area if area in AREAS else "")
    shown = [line.finding for group in view.groups for line in group.lines]
    return page(request, "pages/review.html", shell=shell, view=view, notes=bool(notes),
                effects=effects_of_all(shell, shown))  # fmt: skip


@router.get("/findings/{code}")
def explain_finding(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, code: str
) -> Response:
    """Show what a finding's rule is, its source, and where it stands in this job."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    rule = tables.finding_rules.get(code)
    sits = [(c, f) for c in shell.design.circuits for f in c.findings if f.code == code]
    whole = [f for f in shell.design.findings if f.code == code]
    return page(request, "pages/finding.html", status=200 if rule else 404, shell=shell, rule=rule,
                sits=sits, whole=whole)  # fmt: skip
