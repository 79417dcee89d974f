"""Stage Accessories: what is wanted, from a preset or from the label."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessories,
    AddAccessory,
    ChangeAccessory,
    PutOnCircuit,
    RemoveAccessory,
)
from ready_trail.core.grouping import suggestions
from ready_trail.core.job import Accessory
from ready_trail.core.loads import MODEL_INRUSH
from ready_trail.formats.accessory_csv import read_accessories, write_accessories
from ready_trail.formats.errors import FileRefusedError
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, Tables, Upload, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested, without_blanks
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/accessories", include_in_schema=False)

OPTIONAL = ("watts", "amps", "fuse_max_a", "min_v", "idle_a")


@router.get("")
def show_accessories(
    request: Request, conn: Conn, tables: Tables, job_id: int, preset: str = "", add: bool = False
) -> Response:
    """List the accessories; with ``preset`` or ``add``, open the form for a new one."""
    shown: dict[str, Any] | None = None
    if preset in tables.presets:
        shown = preset_fields(tables, preset)
    elif add:
        shown = {"id": "new", "name": "", "use": {"key": "run"}}
    return _page(request, conn, tables, job_id, shown=shown)


@router.post("/import")
def import_accessories(
    request: Request, conn: Conn, tables: Tables, job_id: int, form: Form, data: Upload
) -> Response:
    """Take in a CSV list; one revision for all of it, or nothing."""
    try:
        if not data:
            raise FileRefusedError("", "choose a CSV list first")
        edit = AddAccessories(accessories=read_accessories(data))
        commit(conn, job_id, seen_revision(form), edit)
    except FileRefusedError as refused:
        errors = {"list": f"The list was not taken: {refused}"}
        return _page(request, conn, tables, job_id, errors=errors, status=422)
    return go(f"/jobs/{job_id}/accessories")


@router.get("/list.csv")
def accessories_csv(conn: Conn, job_id: int) -> Response:
    """The accessories as a CSV list."""
    text = write_accessories(jobs.get_job(conn, job_id).job)
    headers = {"Content-Disposition": 'attachment; filename="accessories.csv"'}
    return Response(text, media_type="text/csv", headers=headers)


@router.get("/{accessory_id}")
def show_accessory(
    request: Request, conn: Conn, tables: Tables, job_id: int, accessory_id: str
) -> Response:
    """Open one accessory's form."""
    try:
        accessory = jobs.get_job(conn, job_id).job.accessory(accessory_id)
    except KeyError:
        return go(f"/jobs/{job_id}/accessories")
    return _page(request, conn, tables, job_id, shown=accessory.model_dump())


@router.post("")
def save_accessory(
    request: Request, conn: Conn, tables: Tables, job_id: int, form: Form
) -> Response:
    """Add an accessory, or change one; adding goes on to its circuit."""
    fields = {k: v for k, v in form.items() if k != "revision"}
    typed = nested(fields)
    try:
        seen = seen_revision(form)
        document = without_blanks(typed, *OPTIONAL)
        document["inputs"] = [w for w in typed.get("inputs", []) if w.get("name")]
        if typed.get("id", "new") != "new":
            document.pop("second", None)
            edit = ChangeAccessory(accessory=build(Accessory, document))
            commit(conn, job_id, seen, edit)
            return go(f"/jobs/{job_id}/accessories#{typed['id']}")
        second = document.pop("second", {})
        draft = build(AccessoryDraft, document)
        if second.get("watts"):
            return _add_outputs(conn, job_id, seen, draft, second)
        after = commit(conn, job_id, seen, AddAccessory(accessory=draft))
    except FieldsRefusedError as refused:
        return _page(request, conn, tables, job_id, shown=typed, errors=refused.errors, status=422)
    return go(f"/jobs/{job_id}/circuits/{after.circuits[-1].id}/run")


def _add_outputs(
    conn: sqlite3.Connection,
    job_id: int,
    seen: int,
    draft: AccessoryDraft,
    second: dict[str, Any],
) -> Response:
    """Add a dual-output light: each output is a circuit of its own."""
    names = [second.get(n) or default for n, default in (("first_name", "first output"),
                                                         ("name", "second output"))]  # fmt: skip
    note = f"Two outputs on one light; which lead is which is its maker's matter. {draft.note}"
    common = {**draft.model_dump(), "note": note.strip()}
    drafts = (
        build(AccessoryDraft, {**common, "name": f"{draft.name}, {names[0]}"}),
        build(
            AccessoryDraft,
            {**common, "name": f"{draft.name}, {names[1]}", "watts": second["watts"],
             "amps": None},
        ),
    )  # fmt: skip
    commit(conn, job_id, seen, AddAccessories(accessories=drafts))
    return go(f"/jobs/{job_id}/accessories")


@router.post("/{accessory_id}/circuit")
def regroup(conn: Conn, job_id: int, accessory_id: str, form: Form) -> Response:
    """Put an accessory on another circuit, or on one of its own."""
    edit = PutOnCircuit(accessory_id=accessory_id, circuit_id=form.get("circuit_id", ""))
    commit(conn, job_id, seen_revision(form), edit)
    return go(f"/jobs/{job_id}/accessories")


@router.post("/{accessory_id}/remove")
def remove_accessory(conn: Conn, job_id: int, accessory_id: str, form: Form) -> Response:
    """Remove an accessory with its circuit; undo brings both back."""
    commit(conn, job_id, seen_revision(form), RemoveAccessory(accessory_id=accessory_id))
    return go(f"/jobs/{job_id}/accessories")


def preset_fields(tables: Catalogue, key: str) -> dict[str, Any]:
    """Return the fields that a preset fills in."""
    preset = tables.presets[key]
    return {
        "id": "new",
        "name": preset.label.replace(" (each)", ""),
        "model": preset.model,
        "watts": preset.watts or None,
        "at_v": preset.at_v,
        "duty": preset.duty,
        "drop_class": preset.drop_class,
        "inrush_x": preset.inrush_x,
        "inrush_s": preset.inrush_s,
        "quantity": 1,
        "note": preset.note,
        "use": {"key": "run"},
    }


def _page(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    shown: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "accessories")
    circuits = {i: c for c in shell.design.circuits for i in c.circuit.accessory_ids}
    form_errors = dict(errors or {})
    if "form" in form_errors and "either watts or amps" in form_errors["form"]:
        form_errors["watts"] = form_errors.pop("form")
    return page(
        request, "pages/accessories.html", status=status, shell=shell, circuits=circuits,
        presets=tables.presets.values(), shown=shown, errors=form_errors,
        inrush=MODEL_INRUSH,
        suggestions=suggestions(shell.design),
    )  # fmt: skip
