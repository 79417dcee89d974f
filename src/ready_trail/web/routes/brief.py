"""Stage Brief: name and vehicle."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import Edit, RenameJob, SetVehicle
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError, build, mapping, nested
from ready_trail.web.pages.shell import VEHICLE_WORDS, shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/brief")
def show_brief(request: Request, conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """Show what is stated of the job as a whole."""
    return _brief(request, conn, tables, job_id)


def _brief(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: JobId,
    *,
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    stored = jobs.get_job(conn, job_id)
    shown = stored.job.model_dump()
    for name, value in (typed or {}).items():
        shown[name] = {**mapping(shown.get(name)), **value} if isinstance(value, dict) else value
    return page(
        request,
        "pages/brief.html",
        status=status,
        shell=shell_of(stored, "brief"),
        shown=shown,
        errors=dict(errors or {}),
        vehicle_words=VEHICLE_WORDS,
    )


@router.post("/brief/{part}")
def change_brief(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, part: str, form: Form
) -> Response:
    """Change one part of the brief: name or vehicle."""
    fields = {k: v for k, v in form.items() if k not in ("revision", "back")}
    typed = nested(fields)
    try:
        commit(conn, job_id, seen_revision(form), _edit(part, typed))
    except FieldsRefusedError as refused:
        shown = typed if part == "name" else {part: mapping(typed.get(part))}
        return _brief(request, conn, tables, job_id, typed=shown, errors=refused.errors, status=422)
    return go(f"/jobs/{job_id}/brief#{part}")


def _edit(part: str, typed: dict[str, Any]) -> Edit:
    if part == "name":
        return build(RenameJob, typed)
    if part == "vehicle":
        vehicle = mapping(typed.get("vehicle"))
        return build(SetVehicle, {"vehicle": vehicle})
    raise FieldsRefusedError({"form": "There is no such part of the brief."})
