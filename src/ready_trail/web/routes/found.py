"""Kits and circuits as found: their leads, what becomes of each, what to redo first."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.build.found import changed, redo_plan
from ready_trail.core.build.kit import kit_plans
from ready_trail.core.edits import ForgetFound, RecordFound, SetKit
from ready_trail.core.job.kit import SPOT_WORDS, Found, Kit
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.fields import FieldsRefusedError, build, mapping, nested, rows
from ready_trail.web.pages.build import built
from ready_trail.web.pages.effects import effects_of_all
from ready_trail.web.pages.inspector import colour_choices
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/build/found", include_in_schema=False)

SYSTEMS = ("awg", "metric")
_FIRST_LEADS = (
    {"name": "", "start": "fuse", "end": "relay_30"},
    {"name": "", "start": "relay_87", "end": "plus"},
    {"name": "", "start": "minus", "end": "earth"},
    {"name": "", "start": "switch_out", "end": "relay_86"},
)
"""What most kits have, to start from."""


@router.get("")
def show_found(
    request: Request, conn: Conn, job_id: JobId, circuit: str = "", what: str = "kit"
) -> Response:
    """Show every circuit with what is there of it; one may be open to be stated."""
    return _found(request, conn, job_id, chosen=circuit, what=what)


def _found(
    request: Request,
    conn: sqlite3.Connection,
    job_id: int,
    *,
    chosen: str,
    what: str,
    errors: Mapping[str, str] | None = None,
    typed: Mapping[str, Any] | None = None,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "build")
    made = shell.design
    opened = next((c for c in made.circuits if c.circuit.id == chosen), None)
    leads: list[Mapping[str, Any]] = []
    record: Mapping[str, Any] = {}
    if opened is not None:
        kit, found = opened.circuit.kit, opened.circuit.found
        leads = [lead.model_dump() for lead in kit.leads] if kit else list(_FIRST_LEADS)
        record = found.model_dump() if found else {}
    if typed is not None:
        leads = list(_named(typed)) or leads
        record = typed
    redo = redo_plan(made)
    findings = tuple(r.finding for r in redo)
    return page(
        request,
        "pages/build_found.html",
        status=422 if errors else 200,
        shell=shell,
        tab="found",
        opened=opened,
        what="found" if what == "found" else "kit",
        plans=kit_plans(made, shell.catalogue),
        redo=redo,
        changed=changed(made),
        leads=leads,
        record=record,
        typed=typed or {},
        errors=dict(errors or {}),
        spots=list(SPOT_WORDS.items()),
        cut_count=len(built(shell).cuts.there),
        effects=effects_of_all(shell, findings),
        sizes={s: [c.size for c in shell.catalogue.wires(s)] for s in SYSTEMS},
        colours=list(colour_choices(str(record.get("colour") or ""), shell.catalogue)),
        relays=[(k, r.label) for k, r in shell.catalogue.relays.items()],
        families=[(k, f.label) for k, f in shell.catalogue.fuse_families.items()],
    )


@router.post("/kit")
def keep_kit(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Keep a kit's leads; rows without a name are left out, and no row at all takes it away."""
    circuit_id = form.get("circuit_id", "")
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "circuit_id")})
    system = jobs.get_job(conn, job_id).job.rules.system
    named = [{"system": system, **row} for row in _named(typed)]
    try:
        kit = None
        if named and form.get("part") != "remove":
            relay = typed.get("relay") or None
            ticked = typed.get("also")
            also = [str(i) for i in ticked] if isinstance(ticked, list) else []
            kit = build(
                Kit,
                {"leads": named, "relay": relay, "also": also, "note": typed.get("note", "")},
            )
        commit(conn, job_id, seen_revision(form), SetKit(circuit_id=circuit_id, kit=kit))
    except FieldsRefusedError as refused:
        return _found(
            request,
            conn,
            job_id,
            chosen=circuit_id,
            what="kit",
            typed=typed,
            errors=_by_row(refused.errors),
        )
    return go(f"/jobs/{job_id}/build/found?circuit={circuit_id}#plan")


def _named(typed: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The rows in which something was typed."""
    return [
        row
        for row in rows(typed.get("leads"))
        if any(row.get(name) for name in ("name", "length_m", "fuse_a"))
    ]


def _by_row(errors: Mapping[str, str]) -> dict[str, str]:
    """Errors of the document's path as the form's fields are named: circuits.3.kit.leads.0.size."""
    found = {}
    for path, words in errors.items():
        at = path.find("leads.")
        found[path[at:] if at >= 0 else path.rsplit(".", 1)[-1]] = words
    return found


@router.post("/record")
def keep_record(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Record a circuit as it was found, or treat it as new again."""
    circuit_id = form.get("circuit_id", "")
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "circuit_id")})
    try:
        if form.get("part") == "remove":
            commit(conn, job_id, seen_revision(form), ForgetFound(circuit_id=circuit_id))
        else:
            names = tuple(Found.model_fields)
            stated = {k: v for k, v in mapping(typed).items() if k in names}
            found = build(Found, stated)
            commit(
                conn, job_id, seen_revision(form), RecordFound(circuit_id=circuit_id, found=found)
            )
    except FieldsRefusedError as refused:
        return _found(
            request,
            conn,
            job_id,
            chosen=circuit_id,
            what="found",
            typed=typed,
            errors=_by_row(refused.errors),
        )
    return go(f"/jobs/{job_id}/build/found?circuit={circuit_id}&what=found#plan")
