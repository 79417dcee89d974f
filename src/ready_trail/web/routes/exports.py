"""Everything that leaves: PDF, SVG, job file, wire list, SPICE deck."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from fastapi import APIRouter, HTTPException, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.solver import solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, SIGNALS, VehicleState
from ready_trail.formats.job_json import write_job
from ready_trail.formats.rendering import environment
from ready_trail.formats.rules_json import write_rules
from ready_trail.formats.spice import spice_deck
from ready_trail.formats.wire_csv import wire_list_csv
from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.documents import download, pdf_answer
from ready_trail.web.pages.paper import drawing_css, paper_context
from ready_trail.web.pages.review import review_of
from ready_trail.web.pages.scenarios import (
    ENGINE_WORDS,
    KEY_WORDS,
    LIGHT_WORDS,
    scenarios_of,
)
from ready_trail.web.pages.sheet import Sheet, sheet_of
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.routes.circuits import find

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/circuits/{circuit_id}/sheet")
def print_view(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """The sheet for the browser's own printing."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    sheets = [_sheet(find(shell, circuit_id), shell, tables)]
    context = {**_print_context(shell, sheets, "A4"), "css": ""}  # linked there, as the CSP wants
    return page(request, "print/view.html", **context)


@router.get("/circuits/{circuit_id}/sheet.pdf")
def circuit_pdf(
    conn: Conn, tables: Tables, job_id: JobId, circuit_id: str, paper: str = "A4",
    why: bool = False,
) -> Response:  # fmt: skip
    """One circuit's sheet as PDF; with ``why`` the derivations follow as an appendix."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    design = find(shell, circuit_id)
    name = f"{shell.design.job.name}-{design.circuit.name}"
    return _pdf(shell, [_sheet(design, shell, tables)], paper, name, why=why)


@router.get("/review/print")
def print_review(request: Request, conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """The review for the browser's own printing."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    context = {**_review_context(shell, tables, "A4"), "css": ""}  # linked there
    return page(request, "print/review.html", **context)


@router.get("/review.pdf")
def review_pdf(conn: Conn, tables: Tables, job_id: JobId, paper: str = "A4") -> Response:
    """The review as PDF: what is open, what was accepted and why."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    context = {**_review_context(shell, tables, paper), "asset": None}
    html = environment().get_template("print/review.html").render(**context)
    name = f"{shell.design.job.name}-review.pdf"
    return pdf_answer(name, (("Review", html),))


@router.get("/circuits/{circuit_id}/trail.svg")
def circuit_svg(conn: Conn, tables: Tables, job_id: JobId, circuit_id: str) -> Response:
    """The trail's drawing as one self-contained SVG file."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    sheet = _sheet(find(shell, circuit_id), shell, tables)
    text = (
        environment()
        .get_template("drawing/file.svg.html")
        .render(sheet=sheet, css=drawing_css(), shell=shell)
    )
    name = f"{shell.design.job.name}-{sheet.design.circuit.name}"
    return download(text, "image/svg+xml", f"{name}.svg")


@router.get("/job.json")
def job_file(conn: Conn, job_id: JobId) -> Response:
    """The job file."""
    job = jobs.get_job(conn, job_id).job
    return download(write_job(job), "application/json", f"{job.name}.json")


@router.get("/rules.json")
def rules_file(conn: Conn, job_id: JobId) -> Response:
    """The job's house rules as a file."""
    job = jobs.get_job(conn, job_id).job
    return download(write_rules(job.rules, job.name), "application/json", f"{job.name} rules.json")


@router.get("/wires.csv")
def wires_file(conn: Conn, job_id: JobId) -> Response:
    """The wire list."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    return download(wire_list_csv(shell.design), "text/csv", f"{shell.design.job.name}-wires.csv")


@router.get("/netlist.cir")
def netlist_file(
    conn: Conn, job_id: JobId, key: str = "run", lights: str = "off", signal: str = ""
) -> Response:
    """The netlist with every switch on, as a SPICE deck."""
    if key not in KEY_STATES or lights not in LIGHT_STATES:
        raise HTTPException(422, f"key is one of {KEY_STATES}, lights one of {LIGHT_STATES}")
    if signal and signal not in SIGNALS:
        raise HTTPException(422, f"signal is one of {SIGNALS}")
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    network = job_network(shell.design)
    live = frozenset({signal} - {""})
    try:
        point = solve(network, VehicleState(key=key, lights=lights, on=network.switches,
                                            signals=live))  # fmt: skip
    except NotConvergedError as error:
        raise HTTPException(422, f"the job has no steady state here: {error}") from error
    name = shell.design.job.name
    return download(spice_deck(name, network, point), "text/plain", f"{name}.cir")


def _sheet(design: CircuitDesign, shell: Shell, tables: Catalogue) -> Sheet:
    return sheet_of(design, shell.design, tables)


def _print_context(shell: Shell, sheets: list[Sheet], paper: str) -> dict[str, Any]:
    printed = datetime.now(UTC).strftime("%Y-%m-%d")
    return {**paper_context(shell, paper, printed), "sheets": sheets}


def _review_context(shell: Shell, tables: Catalogue, paper: str) -> dict[str, Any]:
    return {
        **_print_context(shell, [], paper),
        "view": review_of(shell, tables),
        "battery": scenarios_of(shell, {}),
        "key_words": KEY_WORDS,
        "light_words": LIGHT_WORDS,
        "engine_words": ENGINE_WORDS,
    }


def _pdf(
    shell: Shell, sheets: list[Sheet], paper: str, name: str, *, why: bool = False
) -> Response:
    html = (
        environment()
        .get_template("print/document.html")
        .render(**_print_context(shell, sheets, paper), why=why)
    )
    return pdf_answer(f"{name}.pdf", (("Sheet", html),))
