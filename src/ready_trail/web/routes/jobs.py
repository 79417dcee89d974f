"""The list of jobs: new, open, duplicate, archive, import."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.job import Job, Vehicle
from ready_trail.formats.demo import demo_jobs
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.store import jobs
from ready_trail.store.db import transaction
from ready_trail.web.context import Conn, Form, Tables, Upload, designed, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested
from ready_trail.web.pages.shell import VEHICLE_WORDS, worst

router = APIRouter(include_in_schema=False)


@router.get("/")
def show_jobs(request: Request, conn: Conn, archived: bool = False) -> Response:
    """List the jobs, or those put aside."""
    return _list(request, conn, archived=archived)


def _list(
    request: Request, conn: Conn, *, archived: bool = False, problem: str = "", status: int = 200
) -> Response:
    rows = []
    for row in jobs.list_jobs(conn, archived=archived):
        made = designed(jobs.get_job(conn, row.job_id).job)
        rows.append((row, made, worst(made) if made.circuits else "empty"))
    return page(request, "pages/jobs.html", status=status, rows=rows, archived=archived,
                vehicle_words=VEHICLE_WORDS, problem=problem)  # fmt: skip


@router.get("/jobs/new")
def show_new_job(request: Request) -> Response:
    """Show the form for a new job."""
    return _new(request, Vehicle().model_dump(), {}, "")


def _new(
    request: Request, vehicle: object, errors: dict[str, str], name: str, status: int = 200
) -> Response:
    return page(request, "pages/job_new.html", status=status, vehicle=vehicle, errors=errors,
                name=name, vehicle_words=VEHICLE_WORDS)  # fmt: skip


@router.post("/jobs")
def make_job(request: Request, conn: Conn, form: Form) -> Response:
    """Make a job and open its accessories."""
    typed = nested(form)
    try:
        job = build(Job, typed)
    except FieldsRefusedError as refused:
        vehicle = typed.get("vehicle", {})
        return _new(request, vehicle, refused.errors, form.get("name", ""), 422)
    with transaction(conn):
        job_id = jobs.create_job(conn, job, kind="new_job", title=f"Start job {job.name}")
    return go(f"/jobs/{job_id}/accessories")


@router.post("/jobs/import")
def import_job(request: Request, conn: Conn, tables: Tables, data: Upload) -> Response:
    """Take a job file as a new job."""
    try:
        if not data:
            raise FileRefusedError("", "choose a job file first")
        job = read_job(data, tables)
    except FileRefusedError as refused:
        return _list(request, conn, problem=f"The job file was not taken: {refused}.", status=422)
    with transaction(conn):
        job_id = jobs.create_job(conn, job, kind="import", title="Import job file")
    return go(f"/jobs/{job_id}")


@router.post("/jobs/demo")
def add_demo_jobs(conn: Conn, tables: Tables) -> Response:
    """Put the demo jobs into the list."""
    with transaction(conn):
        for job in reversed(demo_jobs(tables)):
            jobs.create_job(conn, job, kind="demo", title="Demo job")
    return go("/")


@router.get("/jobs/{job_id}")
def open_job(conn: Conn, job_id: int) -> Response:
    """Open a job where its work stands."""
    stored = jobs.get_job(conn, job_id)
    stage = "circuits" if stored.job.circuits else "accessories"
    return go(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/duplicate")
def duplicate_job(conn: Conn, job_id: int) -> Response:
    """Make a copy of a job at its head."""
    with transaction(conn):
        job = jobs.get_job(conn, job_id).job
        copy = job.model_copy(update={"name": f"{job.name[:73]} (copy)"})
        jobs.create_job(conn, copy, kind="duplicate", title=f"Copy of {job.name}")
    return go("/")


@router.post("/jobs/{job_id}/archive")
def archive_job(conn: Conn, job_id: int, form: Form) -> Response:
    """Put a job aside, or take it back."""
    away = form.get("archived") != "no"
    with transaction(conn):
        jobs.set_archived(conn, job_id, archived=away)
    return go("/" if away else "/?archived=true")
