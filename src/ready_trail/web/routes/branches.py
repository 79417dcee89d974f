"""The branches of one circuit: which unit hangs where, each branch's run and way back."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.forms import merged, rows
from ready_trail.core.kinds.joint import JOINT_WORDS
from ready_trail.store import jobs
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.routes.circuits import BLANK_SEGMENTS, find

router = APIRouter(prefix="/jobs/{job_id}/circuits/{circuit_id}/branches", include_in_schema=False)


@router.get("")
def show_branches(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, told: Refusal, circuit_id: str
) -> Response:
    """Show every branch with its form."""
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    design = find(shell, circuit_id)
    route = shell.design.routes.get(circuit_id)
    at = str(told.typed.get("branch_id", ""))
    typed = told.of("change_branch")
    shown = {}
    for branch in design.circuit.branches:
        values = branch.model_dump()
        lines = [*values["run"], *({} for _ in range(BLANK_SEGMENTS))]
        if typed and branch.id == at:
            values = merged(values, typed)
            lines = rows(typed.get("run")) or lines
        shown[branch.id] = (branch, values, lines)
    wire = design.sizing.request.wire
    wires = tables.wires(wire.system, wire.kind)
    units = sum(a.quantity for a in design.accessories)
    return page(
        request,
        "pages/branches.html",
        shell=shell,
        design=design,
        shown=shown,
        units=units,
        joints=tuple(JOINT_WORDS.items()),
        zones=tables.zones,
        at=at,
        routed=route.branches if route is not None else {},
        group_choices=[("", f"{units}, one a unit"), *((str(n), str(n)) for n in range(2, units))],
        size_choices=[("", "as it follows"), *((c.size, c.label) for c in wires)],
        errors={},
    )
