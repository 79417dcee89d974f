"""Stage Drawing: the whole job on one sheet, worked, measured and broken; nothing is saved."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from ready_trail.core.truth import truth_table
from ready_trail.core.working import working_state
from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.designs import designed_or_bare
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError
from ready_trail.web.pages.drawing import (
    asked_of,
    controls_of,
    heat_of,
    meter_json,
    read,
    state_json,
)
from ready_trail.web.pages.picked import picked_of
from ready_trail.web.pages.sheet_drawn import row_cards, sheet_body, sheet_drawn
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.papers.common import answer, printing
from ready_trail.web.papers.drawing import drawing_paper
from ready_trail.web.papers.whole_sheet import sheet_file

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


def _query(request: Request) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for name, value in request.query_params.multi_items():
        found.setdefault(name, []).append(value)
    return found


@router.get("/drawing")
def show_drawing(request: Request, conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """Show the sheet in the state that the address asks for; at rest without one."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    errors: dict[str, str] = {}
    query = _query(request)
    try:
        asked = asked_of(shell.design, query)
        reading = read(shell.design, asked)
    except FieldsRefusedError as refused:
        errors = refused.errors
        asked = asked_of(shell.design, {})
        reading = read(shell.design, asked)
    sheet = sheet_drawn(shell) if shell.design.circuits else None
    return page(
        request,
        "pages/drawing.html",
        status=422 if errors else 200,
        shell=shell,
        sheet=sheet,
        body=sheet_body(shell) if sheet is not None else "",
        controls=controls_of(shell.design),
        asked=asked,
        errors=errors,
        state=state_json(shell.design, asked, reading),
        picked=query.get("pick", [""])[0],
    )


@router.get("/drawing/rows")
def drawing_rows(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Return every row of the sheet by itself, as a phone shows them."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    return page(request, "partials/_row_cards.html", shell=shell, cards=row_cards(shell))


@router.get("/drawing/state")
def drawing_state(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Return one solved state, for the page to paint."""
    return _answer(
        request, conn, job_id, lambda design, asked, reading: state_json(design, asked, reading)
    )


@router.get("/drawing/meter")
def drawing_meter(
    request: Request,
    conn: Conn,
    job_id: JobId,
    red: str = "",
    black: str = "0",
    clamp: str = "",
    mode: str = "volts",
) -> Response:
    """Return one reading of the meter beside what the design expects."""
    return _answer(
        request,
        conn,
        job_id,
        lambda design, asked, reading: meter_json(
            design, asked, reading, red=red, black=black, clamp=clamp, mode=mode
        ),
    )


def _answer(request: Request, conn: Conn, job_id: int, make: Any) -> Response:
    """Answer from the stored job; a page that shows an older revision is told so."""
    stored = jobs.get_job(conn, job_id)
    query = _query(request)
    seen = query.get("revision", [""])[0]
    if seen and seen != str(stored.revision):
        words = "The job has changed since this page was loaded. Load it again."
        return JSONResponse({"stale": True, "words": words}, status_code=409)
    design, _ = designed_or_bare(stored.job, stored.figures)
    try:
        asked = asked_of(design, query)
        return JSONResponse(make(design, asked, read(design, asked)))
    except FieldsRefusedError as refused:
        words = next(iter(refused.errors.values()))
        return JSONResponse({"words": words}, status_code=422)


@router.get("/drawing/pick")
def drawing_pick(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, ref: str = ""
) -> Response:
    """Show what is known of one wire or device: its words, its places, what can break."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    return page(
        request, "partials/_picked.html", shell=shell, picked=picked_of(shell.design, ref, tables)
    )


@router.get("/drawing/heat")
def drawing_heat(request: Request, conn: Conn, job_id: JobId, wire: str = "") -> Response:
    """Show how a wire heats at what it carries now, with and without its fuse."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    try:
        asked = asked_of(shell.design, _query(request))
        found = heat_of(shell.design, read(shell.design, asked), wire)
    except FieldsRefusedError as refused:
        return page(
            request,
            "partials/_heat.html",
            status=422,
            plot=None,
            words=list(refused.errors.values()),
            wire=wire,
        )
    plot, words = found if found is not None else (None, ["There is no steady state to heat it."])
    return page(request, "partials/_heat.html", plot=plot, words=words, wire=wire)


@router.get("/drawing/truth")
def drawing_truth(conn: Conn, job_id: JobId, circuit: str = "") -> Response:
    """Return the states of a circuit's truth table, to be stepped through."""
    design = shell_of(jobs.get_job(conn, job_id), "drawing").design
    made = next((c for c in design.circuits if c.circuit.id == circuit), None)
    table = truth_table(made, design.plan) if made is not None else None
    if made is None or table is None:
        return JSONResponse({"words": "This circuit has no truth table."}, status_code=422)
    working = working_state(design.plan, made.circuit).on
    steps = [
        {
            "key": cell.key,
            "lights": cell.lights,
            "signal": [cell.signal] if cell.signal and cell.signal != "charging" else [],
            "engine": "on" if cell.signal == "charging" and cell.key == "run" else "",
            "on": sorted(working if cell.switch_on else working - {made.use.contact}),
            "is_on": cell.is_on,
        }
        for cell in table.cells
    ]
    return JSONResponse({"name": made.circuit.name, "steps": steps})


@router.get("/drawing.svg")
def drawing_svg(conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """The whole sheet as one self-contained SVG file."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    text = sheet_file(shell)
    return download(text, "image/svg+xml", f"{shell.design.job.name}-drawing.svg")


@router.get("/drawing.pdf")
def drawing_pdf(conn: Conn, job_id: JobId, paper: str = "", whole: bool = False) -> Response:
    """The sheet as PDF: cut between rows onto pages, or one large page with ``whole``."""
    shell = shell_of(jobs.get_job(conn, job_id), "drawing")
    return answer(shell, "drawing", drawing_paper(printing(shell, paper), whole=whole))
