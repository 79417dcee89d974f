"""Stage Circuits: the trail sheet, its what-ifs, its run."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.compare import scheme_choices
from ready_trail.core.design import CircuitDesign, choose_outlet, what_if
from ready_trail.core.explain import explain_circuit
from ready_trail.core.forms import rows
from ready_trail.store import jobs
from ready_trail.store.errors import NotFoundError
from ready_trail.web.again import Refusal
from ready_trail.web.commit import checked
from ready_trail.web.context import Conn, JobId, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError
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


@router.get("/circuits/{circuit_id}/run")
def show_run(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, told: Refusal, circuit_id: str
) -> Response:
    """Show the form of the run: segments, return, where fuse and relay sit."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    design = find(shell, circuit_id)
    shown = design.circuit.model_dump()
    lines = [*shown["run"], *({} for _ in range(BLANK_SEGMENTS))]
    typed = told.of("set_run", "set_return")
    return page(
        request,
        "pages/run.html",
        shell=shell,
        design=design,
        shown=shown | typed,
        back_kinds=_back_kinds(design),
        rows=rows(typed.get("run")) or lines,
        errors={},
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
