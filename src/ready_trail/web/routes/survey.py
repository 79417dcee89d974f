"""Stage Survey: the probe sheet, filled while going around the vehicle."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.edits import AddProbe, NoteEarthTest, NoteItem, ReadProbe
from ready_trail.core.job.survey import PROBE_STATES
from ready_trail.core.survey import classify, room
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested, without_blanks
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/survey", include_in_schema=False)

NEXT_LEVEL = {None: "lit", "lit": "dark", "dark": "dim", "dim": None}
KIND_WORDS = {
    "factory_channel": "factory channel",
    "tapped_circuit": "circuit to tap",
    "spare_fuse": "spare fuse position",
    "converter": "converter output",
    "fuse_panel": "fuse panel",
    "earth_point": "earth point",
    "panel": "panel with a hole",
    "mount": "mounting place",
    "switch_place": "switch place",
    "hazard": "hazard: hot, moving, sharp",
}
ITEM_OPTIONAL = (
    "fuse_a", "limit_a", "carries_a", "drop_mv_at_10_a", "diameter_mm", "temperature_c",
)  # fmt: skip
SHEET_STATES = (*PROBE_STATES, "unplugged")


@router.get("")
def show_survey(request: Request, conn: Conn, job_id: int) -> Response:
    """Show the probe sheet with a verdict for each wire."""
    return _survey(request, conn, job_id)


def _survey(
    request: Request,
    conn: sqlite3.Connection,
    job_id: int,
    *,
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "survey")
    job = shell.stored.job
    rows = []
    for probe in job.survey.probes:
        verdict = classify(
            probe,
            nominal_v=job.vehicle.nominal_v,
            supervised=job.vehicle.data_bus == "supervised",
        )
        values = {r.state: r.value for r in probe.readings}
        cells = []
        for state in SHEET_STATES:
            value = probe.unplugged if state == "unplugged" else values.get(state)  # type: ignore[call-overload]
            after = NEXT_LEVEL.get(value) if not isinstance(value, float) else None
            edit = {"kind": "read_probe", "probe_id": probe.id, "state": state, "value": after}
            cells.append((state, value, edit))
        known = any(k.probe_id == probe.id for k in job.survey.known)
        rows.append((probe, verdict, cells, known))
    return page(
        request, "pages/survey.html", status=status, shell=shell, rows=rows, kinds=KIND_WORDS,
        items=[(item, room(item)) for item in job.survey.items], states=SHEET_STATES,
        typed=typed or {}, errors=dict(errors or {}),
    )  # fmt: skip


@router.post("/items")
def note_item(request: Request, conn: Conn, job_id: int, form: Form) -> Response:
    """Note something found on the vehicle."""
    fields = {k: v for k, v in form.items() if k != "revision"}
    typed = nested(fields)
    try:
        item = without_blanks(typed, *ITEM_OPTIONAL)
        commit(conn, job_id, seen_revision(form), build(NoteItem, {"item": item}))
    except FieldsRefusedError as refused:
        errors = {f"item_{k.removeprefix('item.')}": v for k, v in refused.errors.items()}
        return _survey(request, conn, job_id, typed={"item": typed}, errors=errors, status=422)
    return go(f"/jobs/{job_id}/survey#found")


@router.post("/probes")
def add_probe(request: Request, conn: Conn, job_id: int, form: Form) -> Response:
    """Put a wire on the sheet."""
    fields = {k: v for k, v in form.items() if k != "revision"}
    try:
        commit(conn, job_id, seen_revision(form), build(AddProbe, nested(fields)))
    except FieldsRefusedError as refused:
        return _survey(request, conn, job_id, typed=fields, errors=refused.errors, status=422)
    return go(f"/jobs/{job_id}/survey")


@router.post("/probes/{probe_id}/meter")
def meter_probe(request: Request, conn: Conn, job_id: int, probe_id: str, form: Form) -> Response:
    """Note a meter's volts in one state, or what is left under the earth-test lamp."""
    state = form.get("state", "")
    try:
        if state == "lamp_left":
            edit = build(NoteEarthTest, {"probe_id": probe_id, "lamp_left_v": _volts(form)})
        else:
            document = {"probe_id": probe_id, "state": state, "value": _volts(form)}
            edit = build(ReadProbe, document)  # type: ignore[assignment]
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        errors = {probe_id: "; ".join(refused.errors.values())}
        return _survey(request, conn, job_id, typed=form, errors=errors, status=422)
    return go(f"/jobs/{job_id}/survey#{probe_id}")


def _volts(form: Mapping[str, str]) -> float:
    text = form.get("volts", "").strip().replace(",", ".")
    try:
        return float(text)
    except ValueError:
        raise FieldsRefusedError({"volts": "Type the volts, such as 12.4."}) from None
