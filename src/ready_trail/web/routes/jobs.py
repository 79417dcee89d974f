"""The list of jobs: new, open, duplicate, archive, import."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from uuid import uuid4

from fastapi import APIRouter, Request
from starlette.background import BackgroundTask
from starlette.responses import Response

from ready_trail.core.errors import CoreError
from ready_trail.core.forms import mapping
from ready_trail.core.house import differences
from ready_trail.core.job import Battery, HouseRules, Job, Vehicle
from ready_trail.formats.archive import from_zip
from ready_trail.formats.demo import demo_jobs, demo_shelf
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.store import archives, forms, jobs, photos, rule_sets, shelf
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotAFactError, NotFoundError
from ready_trail.web.context import (
    Conn,
    Form,
    JobId,
    Tables,
    Upload,
    go,
    page,
)
from ready_trail.web.designs import designed
from ready_trail.web.fields import FieldsRefusedError, build, nested
from ready_trail.web.importing import LARGE_BYTES, start_import
from ready_trail.web.pages.shell import VEHICLE_WORDS
from ready_trail.web.pages.summary import AT_ONCE_S, reckon_lines, reckon_rest, reckoned_by
from ready_trail.web.work import TooMuchWorkError

router = APIRouter(include_in_schema=False)


@router.get("/")
def show_jobs(
    request: Request, conn: Conn, archived: bool = False, said: str = "", job: int = 0
) -> Response:
    """List the jobs, or those put aside; with a word about what was just done, and its undoing."""
    return _list(request, conn, archived=archived, said=_said(conn, said, job))


@router.get("/jobs")
def go_to_jobs() -> Response:
    """The jobs stand on the first page."""
    return go("/")


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What was done to a job, and the press that undoes it."""

    job_id: int
    words: str
    press: str
    undo: str


_SAID = {
    "copied": ("{} stands beside the job it was copied from.", "Put the copy aside", "yes"),
    "aside": ("{} is put aside; nothing of it is lost.", "Take it back", "no"),
    "back": ("{} is back among the current jobs.", "Put it aside", "yes"),
}


def _said(conn: sqlite3.Connection, said: str, job_id: int) -> Said | None:
    if said not in _SAID:
        return None
    try:
        name = jobs.get_job(conn, job_id).job.name
    except NotFoundError:
        return None
    words, press, undo = _SAID[said]
    return Said(job_id=job_id, words=words.format(name), press=press, undo=undo)


def _list(
    request: Request,
    conn: Conn,
    *,
    archived: bool = False,
    said: Said | None = None,
    problem: str = "",
    status: int = 200,
) -> Response:
    rows = jobs.list_jobs(conn, archived=archived)
    by = reckoned_by(shelf.list_figures(conn))
    lacking = tuple(r for r in rows if r.counted is None or r.counted.reckoned_by != by)
    made = reckon_lines(conn, lacking, AT_ONCE_S) if lacking else {}
    rest = tuple(r for r in lacking if r.job_id not in made)
    lines = [(row, made.get(row.job_id) or (None if row in rest else row.counted)) for row in rows]
    answer = page(
        request,
        "pages/jobs.html",
        status=status,
        rows=lines,
        archived=archived,
        said=said,
        vehicle_words=VEHICLE_WORDS,
        problem=problem,
        counting=len(rest),
    )
    if rest:
        answer.background = BackgroundTask(reckon_rest, request.app.state.database, rest)
    return answer


@router.get("/jobs/new")
def show_new_job(request: Request, conn: Conn, kind: str = "pickup", name: str = "") -> Response:
    """Show the form for a new job, with what is usual for the vehicle kind."""
    kind = kind if kind in VEHICLE_WORDS else "pickup"
    return _new(request, conn, usual_vehicle(kind).model_dump(), {}, name[:80])


def usual_vehicle(kind: str) -> Vehicle:
    """Return what is usual for a vehicle kind, to be corrected (typical)."""
    usual: dict[str, dict[str, object]] = {
        "motorcycle": {"battery": Battery(capacity_ah=14, resistance_mohm=12), "charging_a": 35.0},
        "side_by_side": {"battery": Battery(capacity_ah=30, resistance_mohm=9), "charging_a": 50.0},
        "lorry": {
            "nominal_v": 24,
            "charging_a": 110.0,
            "battery": Battery(capacity_ah=180, resistance_mohm=8, chemistry="flooded"),
        },
        "van": {"battery": Battery(capacity_ah=95), "charging_a": 150.0},
    }
    return Vehicle.model_validate({"kind": kind, **usual.get(kind, {})})


def _new(
    request: Request,
    conn: sqlite3.Connection,
    vehicle: object,
    errors: dict[str, str],
    name: str,
    status: int = 200,
) -> Response:
    own = next((s for s in rule_sets.list_sets(conn) if s.is_shops), None)
    rules = own.rules if own is not None else HouseRules()
    return page(
        request,
        "pages/job_new.html",
        status=status,
        vehicle=vehicle,
        errors=errors,
        name=name,
        vehicle_words=VEHICLE_WORDS,
        own=own,
        house=rules,
        unusual=differences(HouseRules(), rules),
    )


@router.post("/jobs")
def make_job(request: Request, conn: Conn, form: Form) -> Response:
    """Make a job and open its accessories."""
    typed = nested({k: v for k, v in form.items() if k != "form_key"})
    try:
        rules = rule_sets.shops_rules(conn)
        job = build(Job, {**typed, "vehicle": mapping(typed.get("vehicle")), "rules": rules})
    except FieldsRefusedError as refused:
        vehicle = typed.get("vehicle", {})
        return _new(request, conn, vehicle, refused.errors, form.get("name", ""), 422)

    def make() -> str:
        job_id = jobs.create_job(conn, job, kind="new_job", title=f"Start job {job.name}")
        return f"/jobs/{job_id}/accessories"

    with transaction(conn):
        return go(forms.once(conn, form.get("form_key", ""), make))


@router.post("/jobs/import")
def import_job(request: Request, conn: Conn, tables: Tables, form: Form, data: Upload) -> Response:
    """Take a job file as a new job."""
    try:
        if not data:
            raise FileRefusedError("", "choose a job file first")
        if len(data) >= LARGE_BYTES:
            key = form.get("form_key") or uuid4().hex
            work = start_import(request.app.state.database, data, shelf.list_figures(conn), key)
            return go(f"/work/{work.work_id}/page")
        job = read_job(data, tables)
        designed(job, shelf.list_figures(conn))
    except CoreError as error:
        problem = f"The job file was not taken: it cannot be designed: {error}."
        return _list(request, conn, problem=problem, status=422)
    except FileRefusedError as refused:
        return _list(request, conn, problem=f"The job file was not taken: {refused}.", status=422)
    except TooMuchWorkError as error:
        return _list(request, conn, problem=f"The job file was not taken: {error}.", status=429)

    def make() -> str:
        return f"/jobs/{jobs.create_job(conn, job, kind='import', title='Import job file')}"

    with transaction(conn):
        return go(forms.once(conn, form.get("form_key", ""), make))


@router.post("/jobs/archive")
def take_archive(
    request: Request, conn: Conn, tables: Tables, form: Form, data: Upload
) -> Response:
    """Take an archive as a job of its own, with its vehicles, facts and photos."""
    try:
        if not data:
            raise FileRefusedError("", "choose an archive first")
        archive = from_zip(data)
        job = read_job(archive.job, tables)
        designed(job, shelf.list_figures(conn))

        def make() -> str:
            named = archives.free_name(conn, job)
            job_id = jobs.create_job(conn, named, kind="import", title="Take an archive")
            archives.put_vehicles(conn, job_id, archive.vehicles)
            return f"/jobs/{job_id}/record"

        for photo in archive.photos.values():
            photos.keep_photo(request.app.state.database, photo)
        with transaction(conn):
            leads_to = forms.once(conn, form.get("form_key", ""), make)
    except CoreError as error:
        problem = f"The archive was not taken: its job cannot be designed: {error}."
        return _list(request, conn, problem=problem, status=422)
    except (FileRefusedError, NotAFactError) as refused:
        return _list(request, conn, problem=f"The archive was not taken: {refused}.", status=422)
    return go(leads_to)


@router.post("/jobs/demo")
def add_demo_jobs(conn: Conn, tables: Tables, form: Form) -> Response:
    """Put the demo jobs into the list."""

    def make() -> str:
        for job in reversed(demo_jobs(tables)):
            jobs.create_job(conn, job, kind="demo", title="Demo job")
        if not shelf.list_parts(conn):
            shelf.take_parts(conn, demo_shelf(), "demo")
        return "/"

    with transaction(conn):
        return go(forms.once(conn, form.get("form_key", ""), make))


@router.get("/jobs/{job_id}")
def open_job(conn: Conn, job_id: JobId) -> Response:
    """Open a job where its work stands."""
    stored = jobs.get_job(conn, job_id)
    stage = "circuits" if stored.job.circuits else "accessories"
    return go(f"/jobs/{job_id}/{stage}")


@router.post("/jobs/{job_id}/duplicate")
def duplicate_job(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Make a copy of a job at its head."""

    def make() -> str:
        job = jobs.get_job(conn, job_id).job
        copy = job.model_copy(update={"name": f"{job.name[:73]} (copy)"})
        made = jobs.create_job(conn, copy, kind="duplicate", title=f"Copy of {job.name}")
        return f"/?said=copied&job={made}"

    with transaction(conn):
        return go(forms.once(conn, form.get("form_key", ""), make))


@router.post("/jobs/{job_id}/archive")
def archive_job(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Put a job aside, or take it back."""
    away = form.get("archived") != "no"
    with transaction(conn):
        jobs.set_archived(conn, job_id, archived=away)
    return go(f"/?said={'aside' if away else 'back'}&job={job_id}")
