"""The branches of one circuit: which unit hangs where, each branch's run and way back."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    ChangeBranch,
    Edit,
    GiveBranches,
    MoveBranch,
    MoveUnits,
    SetJoint,
)
from ready_trail.core.kinds.joint import JOINT_WORDS
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError, build, mapping, nested
from ready_trail.web.fields import rows as rows_of
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.routes.circuits import BLANK_SEGMENTS, find, run_rows

router = APIRouter(prefix="/jobs/{job_id}/circuits/{circuit_id}/branches", include_in_schema=False)

_EDITS: dict[str, type[Edit]] = {
    "give": GiveBranches,
    "joint": SetJoint,
    "move": MoveBranch,
    "unit": MoveUnits,
}


@router.get("")
def show_branches(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, circuit_id: str
) -> Response:
    """Show every branch with its form."""
    return _branches(request, conn, tables, job_id, circuit_id)


@router.post("/edit/{what}")
def change(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    circuit_id: str,
    what: str,
    form: Form,
) -> Response:
    """Make one small change: a joint's kind, where a branch begins, where a unit hangs."""
    model = _EDITS.get(what)
    if model is None:
        raise FieldsRefusedError({"form": "There is no such change."})
    typed = {k: v for k, v in form.items() if (k != "revision" and v != "") or k == "behind"}
    try:
        edit = build(model, {**typed, "circuit_id": circuit_id})
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        return _branches(
            request,
            conn,
            tables,
            job_id,
            circuit_id,
            at=form.get("branch_id", ""),
            errors=refused.errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/circuits/{circuit_id}/branches")


@router.post("/{branch_id}")
def save_branch(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    circuit_id: str,
    branch_id: str,
    form: Form,
) -> Response:
    """State one branch: its name, run, way back and size."""
    typed = nested({k: v for k, v in form.items() if k != "revision"})
    document = {
        **typed,
        "circuit_id": circuit_id,
        "branch_id": branch_id,
        "back": mapping(typed.get("back")),
        "size": typed.get("size") or None,
    }
    if "run" in typed:
        document["run"] = run_rows(typed)
    else:  # the layout gives it
        circuit = find(shell_of(jobs.get_job(conn, job_id), "circuits"), circuit_id).circuit
        branch = next((b for b in circuit.branches if b.id == branch_id), None)
        document["run"] = [s.model_dump() for s in branch.run] if branch is not None else []
    try:
        commit(conn, job_id, seen_revision(form), build(ChangeBranch, document))
    except FieldsRefusedError as refused:
        return _branches(
            request,
            conn,
            tables,
            job_id,
            circuit_id,
            at=branch_id,
            typed=typed,
            errors=refused.errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/circuits/{circuit_id}/branches#branch-{branch_id}")


def _branches(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: JobId,
    circuit_id: str,
    *,
    at: str = "",
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "circuits")
    design = find(shell, circuit_id)
    route = shell.design.routes.get(circuit_id)
    shown = {}
    for branch in design.circuit.branches:
        values = branch.model_dump()
        rows = [*values["run"], *({} for _ in range(BLANK_SEGMENTS))]
        if typed and branch.id == at:
            values |= typed
            rows = rows_of(typed.get("run")) or rows
        shown[branch.id] = (branch, values, rows)
    rules = shell.design.job.rules
    wires = tables.wires(rules.system, rules.wire_kind)
    units = sum(a.quantity for a in design.accessories)
    return page(
        request,
        "pages/branches.html",
        status=status,
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
        errors=dict(errors or {}),
    )
