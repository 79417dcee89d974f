"""Stage Circuits: the trail sheet, its what-ifs, its run."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from pydantic import ValidationError
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.compare import scheme_choices
from ready_trail.core.design import CircuitDesign, choose_outlet, what_if
from ready_trail.core.edits import (
    EDIT_ADAPTER,
    SetFeederUse,
    SetRestStart,
    SetReturn,
    SetRun,
    StartAt,
)
from ready_trail.core.explain import explain_circuit
from ready_trail.core.job import Channel
from ready_trail.core.job.plain import plain_errors
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.limits import require_modest_text
from ready_trail.store import jobs
from ready_trail.store.errors import NotFoundError
from ready_trail.web.commit import checked, commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, go, page
from ready_trail.web.fields import (
    FieldsRefusedError,
    build,
    mapping,
    nested,
    without_blanks,
)
from ready_trail.web.fields import rows as rows_of
from ready_trail.web.pages.effects import NO_EFFECTS, effects_of, start_choices
from ready_trail.web.pages.sheet import sheet_of
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.pages.what_if import WhatIfView, what_if_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)

BLANK_SEGMENTS = 2


@router.get("/circuits")
def show_first_circuit(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Open the first circuit, or say how to get one."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    if not shell.design.circuits:
        return page(request, "pages/no_circuits.html", shell=shell)
    circuits = shell.design.circuits
    first = next((c for c in circuits if not c.circuit.is_feeder), circuits[0])
    return go(f"{shell.base}/circuits/{first.circuit.id}")


@router.get("/circuits/{circuit_id}")
def show_circuit(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """Show a circuit's trail sheet, as designed or as the sliders ask."""
    stored = jobs.get_job(conn, job_id)
    shell = shell_of(stored, "circuits")
    as_designed = find(shell, circuit_id)
    asked = dict(request.query_params)
    errors: dict[str, str] = {}
    try:
        sliders = what_if_of(as_designed, tables, asked)
        shown = _as_asked(shell, as_designed, sliders, tables)
    except FieldsRefusedError as refused:
        errors = refused.errors
        sliders = what_if_of(as_designed, tables, {})
        shown = as_designed
    unit = asked.get("unit", "")
    if any(end.outlet.branch == unit for end in shown.outlets):
        shown = choose_outlet(shown, unit)
    else:
        unit = ""
    partial = request.headers.get("hx-target", "").endswith("sheet")
    selected = asked.get("at", "")
    sheet = sheet_of(
        shown, shell.design, tables, selected=selected, query=sliders.query, with_truth=not partial
    )
    template = "partials/_sheet.html" if partial else "pages/circuit.html"
    return page(
        request,
        template,
        shell=shell,
        sheet=sheet,
        effects=NO_EFFECTS if partial or sliders.active else effects_of(shell, shown),
        starts=start_choices(shell, as_designed),
        what_if=sliders,
        selected=selected,
        rest_points=[(p.id, p.name) for p in shell.stored.job.points],
        unit=unit,
        errors=errors,
        back=_here(request),
        status=422 if errors else 200,
    )


def _as_asked(
    shell: Shell, as_designed: CircuitDesign, sliders: WhatIfView, tables: Catalogue
) -> CircuitDesign:
    """Design the circuit as the sliders ask; the rest of the job stays."""
    if not sliders.active:
        return as_designed
    job = shell.design.routed
    if sliders.edit is not None:
        job = checked(job, sliders.edit)
    return what_if(job, as_designed.circuit.id, tables, emf_v=sliders.feed_v)


@router.get("/circuits/{circuit_id}/schemes")
def show_choices(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """Show every scheme that could serve a circuit, side by side."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    made = find(shell, circuit_id)
    return page(
        request,
        "pages/compare.html",
        shell=shell,
        d=made,
        choices=scheme_choices(shell.design, circuit_id, tables),
    )


@router.get("/circuits/{circuit_id}/why")
def explain_figures(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """Show how every figure of a circuit came about."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    made = find(shell, circuit_id)
    here = f"{shell.base}/circuits/{circuit_id}"
    return page(
        request,
        "pages/why.html",
        shell=shell,
        heading=made.circuit.name,
        design=made,
        derivations=explain_circuit(made, shell.design, tables),
        back=here,
        pdf=f"{here}/sheet.pdf?why=true",
    )


@router.post("/edit")
def post_edit(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Apply a typed edit: a way out, a hold, a what-if to keep."""
    try:
        text = form.get("edit", "{}")
        require_modest_text(text.encode("utf-8", "replace"))
        document = json.loads(text)
    except (ValueError, RecursionError, FileRefusedError) as error:
        raise FieldsRefusedError({"edit": "This is not an edit."}) from error
    if isinstance(document, dict):  # typed by hand beside a prepared edit
        if "value" in form:
            document["value"] = form["value"]
        if form.get("note"):
            document["note"] = form["note"]
        if "reason" in form and isinstance(document.get("accepted"), dict):
            document["accepted"]["reason"] = form["reason"]
    try:
        edit = EDIT_ADAPTER.validate_python(document)
    except ValidationError as error:
        raise FieldsRefusedError(plain_errors(error)) from error
    commit(conn, job_id, seen_revision(form), edit)
    return go(_own_page(form.get("back", ""), job_id))


@router.post("/circuits/{circuit_id}/start")
def save_start(conn: Conn, job_id: JobId, circuit_id: str, form: Form) -> Response:
    """Say where a circuit starts: ``point:position``."""
    point, _, position = form.get("start", "").partition(":")
    edit = StartAt(
        circuit_id=circuit_id, start=build(Channel, {"point": point, "position": position})
    )
    commit(conn, job_id, seen_revision(form), edit)
    return go(_own_page(form.get("back", ""), job_id))


@router.post("/circuits/{circuit_id}/rest")
def save_rest(conn: Conn, job_id: JobId, circuit_id: str, form: Form) -> Response:
    """Say what feeds a circuit while its relay is at rest, or that nothing does."""
    at = form.get("start", "")
    document = {"circuit_id": circuit_id, "start": {"point": at} if at else None}
    commit(conn, job_id, seen_revision(form), build(SetRestStart, document))
    return go(_own_page(form.get("back", ""), job_id))


@router.post("/circuits/{circuit_id}/use")
def save_feeder_use(conn: Conn, job_id: JobId, circuit_id: str, form: Form) -> Response:
    """Say what wakes a feeder, and which switch or isolator sits in it."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "back")})
    switch = mapping(typed.get("switch"))
    use = mapping(typed.get("use"))
    document: dict[str, Any] = {"circuit_id": circuit_id, "use": use}
    if use.get("switch"):
        named = {**without_blanks(switch, "rating_a"), "name": use["switch"]}
        document["switch"] = named
    commit(conn, job_id, seen_revision(form), build(SetFeederUse, document))
    return go(_own_page(form.get("back", ""), job_id))


@router.get("/circuits/{circuit_id}/run")
def show_run(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """Show the form of the run: segments, return, where fuse and relay sit."""
    return _run(request, conn, tables, job_id, circuit_id)


@router.post("/circuits/{circuit_id}/run")
def save_run(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str, form: Form
) -> Response:
    """State the run."""
    typed = nested({k: v for k, v in form.items() if k != "revision"})
    try:
        shell = shell_of(jobs.get_job(conn, job_id), "circuits")
        edit: SetRun | SetReturn
        if circuit_id in shell.design.routes:
            if "run" in typed:
                words = "The layout gives this run: change it there, or type it instead."
                raise FieldsRefusedError({"form": words})
            kept = find(shell, circuit_id).circuit.back.model_dump()
            back = {**kept, **mapping(typed.get("back"))}
            edit = build(SetReturn, {"circuit_id": circuit_id, "back": back})
        else:
            edit = build(SetRun, {**_run_document(typed), "circuit_id": circuit_id})
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        return _run(
            request,
            conn,
            tables,
            job_id,
            circuit_id,
            typed=typed,
            errors=refused.errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/circuits/{circuit_id}")


def _run_document(typed: dict[str, Any]) -> dict[str, Any]:
    """Leave out blank rows; a blank panel name means that none is passed."""
    return {**typed, "back": mapping(typed.get("back")), "run": run_rows(typed)}


def run_rows(typed: dict[str, Any]) -> list[dict[str, Any]]:
    """Return the segments of a posted run, without blank rows."""
    run = []
    for row in rows_of(typed.get("run")):
        panel = mapping(row.get("passes"))
        if not row.get("length_m") and not panel.get("name"):
            continue
        run.append({**row, "passes": panel if panel.get("name") else None})
    return run


def _run(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: JobId,
    circuit_id: str,
    *,
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    design = find(shell, circuit_id)
    shown = dict(typed) if typed else design.circuit.model_dump()
    rows = [*rows_of(shown.get("run"))] if typed else [*shown["run"]]
    if not typed:
        rows += [{} for _ in range(BLANK_SEGMENTS)]
    return page(
        request,
        "pages/run.html",
        status=status,
        shell=shell,
        design=design,
        shown=shown,
        back_kinds=_back_kinds(design),
        rows=rows,
        errors=dict(errors or {}),
        zones=tables.zones,
    )


def _back_kinds(design: CircuitDesign) -> tuple[tuple[str, str], ...]:
    start = next((p for p in design.job.points if p.id == design.circuit.start.point), None)
    kinds = [("chassis", "an earth point near it"), ("wire", "a wire to the battery")]
    if start is not None and (start.earth_bus or start.starts_a_system):
        kinds.append(("bus", f"a wire back to {start.name}"))
    return tuple(kinds)


def find(shell: Shell, circuit_id: str) -> CircuitDesign:
    """Return a circuit of the job, or answer 404."""
    try:
        return shell.design.circuit(circuit_id)
    except KeyError:
        raise NotFoundError("circuit", circuit_id) from None


def _here(request: Request) -> str:
    query = f"?{request.url.query}" if request.url.query else ""
    return f"{request.url.path}{query}"


def _own_page(back: str, job_id: JobId) -> str:
    """Only a page of this job is a place to go back to."""
    base = f"/jobs/{job_id}"
    return back if back.startswith(f"{base}/") and "\\" not in back else base
