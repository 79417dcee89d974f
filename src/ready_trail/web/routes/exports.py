"""Everything that leaves: PDF, SVG, job file, wire list, SPICE deck."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from starlette.responses import RedirectResponse, Response

from ready_trail.core.design import job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.solver import solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, SIGNALS, VehicleState
from ready_trail.formats.job_json import write_job
from ready_trail.formats.rendering import environment
from ready_trail.formats.rules_json import write_rules
from ready_trail.formats.spice import spice_deck
from ready_trail.formats.wire_csv import wire_list_csv
from ready_trail.store import jobs
from ready_trail.web.context import Conn, JobId, Tables
from ready_trail.web.documents import download
from ready_trail.web.pages.sheet import sheet_of
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.papers.circuit import circuits_paper
from ready_trail.web.papers.common import answer, drawing_css, printing
from ready_trail.web.papers.review import review_paper
from ready_trail.web.routes.circuits import find

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@router.get("/circuits/{circuit_id}/sheet")
@router.get("/review/print")
def moved(request: Request) -> Response:
    """Where pages for printing were: the PDF prints the same everywhere."""
    path = request.url.path
    return RedirectResponse(f"{path.removesuffix('/print')}.pdf", 308)


@router.get("/circuits/{circuit_id}/sheet.pdf")
def circuit_pdf(
    conn: Conn, job_id: JobId, circuit_id: str, paper: str = "", why: bool = False
) -> Response:
    """One circuit's sheet as PDF; with ``why`` the derivations follow as an appendix."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    made = find(shell, circuit_id)
    name = f"{made.circuit.name}-why" if why else made.circuit.name
    return answer(shell, name, circuits_paper(printing(shell, paper), [made], why=why))


@router.get("/build/sheets.pdf")
def sheets_pdf(conn: Conn, job_id: JobId, paper: str = "", why: bool = False) -> Response:
    """Every circuit's sheet in one PDF."""
    shell = shell_of(jobs.get_job(conn, job_id), "build")
    name = "sheets-and-why" if why else "sheets"
    sheets = circuits_paper(printing(shell, paper), shell.design.circuits, why=why)
    return answer(shell, name, sheets)


@router.get("/review.pdf")
def review_pdf(conn: Conn, job_id: JobId, paper: str = "") -> Response:
    """The review as PDF: what is open, what was accepted and why."""
    shell = shell_of(jobs.get_job(conn, job_id), "review")
    return answer(shell, "review", review_paper(printing(shell, paper)))


@router.get("/circuits/{circuit_id}/trail.svg")
def circuit_svg(conn: Conn, tables: Tables, job_id: JobId, circuit_id: str) -> Response:
    """The trail's drawing as one self-contained SVG file."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    sheet = sheet_of(find(shell, circuit_id), shell.design, tables)
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
        point = solve(
            network, VehicleState(key=key, lights=lights, on=network.switches, signals=live)
        )
    except NotConvergedError as error:
        raise HTTPException(422, f"the job has no steady state here: {error}") from error
    name = shell.design.job.name
    return download(spice_deck(name, network, point), "text/plain", f"{name}.cir")
