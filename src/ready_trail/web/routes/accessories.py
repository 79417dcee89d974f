"""Stage Accessories: what is wanted, from a preset or from the label."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue, LoadPreset
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessories,
    AddAccessory,
    ChangeAccessory,
    PutOnCircuit,
    RemoveAccessory,
)
from ready_trail.core.grouping import suggestions
from ready_trail.core.job import Accessory, Job, Switch
from ready_trail.core.loads import MODEL_INRUSH
from ready_trail.formats.accessory_csv import read_accessories, write_accessories
from ready_trail.formats.errors import FileRefusedError
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, Upload, go, page
from ready_trail.web.fields import (
    FieldsRefusedError,
    build,
    mapping,
    nested,
    rows,
    without_blanks,
)
from ready_trail.web.pages.inspector import MODEL_WORDS
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/accessories", include_in_schema=False)

OPTIONAL = ("watts", "amps", "at_v", "low_v", "high_v", "fuse_max_a", "min_v", "idle_a",
            "inrush_x", "inrush_s")  # fmt: skip
MODEL_VOLTS = {"constant_power": 13.5, "filament": 12.0, "motor": 13.0, "resistive": 12.0,
               "electronics": 13.8, "winch": 12.0}  # fmt: skip
"""The voltage at which makers usually state watts, by load model (typical, 12 V)."""


@router.get("")
def show_accessories(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, preset: str = "", add: bool = False
) -> Response:
    """List the accessories; with ``preset`` or ``add``, open the form for a new one."""
    shown: dict[str, Any] | None = None
    if preset in tables.presets:
        volts = jobs.get_job(conn, job_id).job.vehicle.nominal_v
        shown = preset_fields(tables, preset, volts)
    elif add:
        shown = {"id": "new", "name": "", "at_v": None, "inrush_x": None, "inrush_s": None,
                 "use": {"key": "run"}}  # fmt: skip
    return _page(request, conn, tables, job_id, shown=shown)


@router.post("/import")
def import_accessories(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form, data: Upload
) -> Response:
    """Take in a CSV list; one revision for all of it, or nothing."""
    try:
        if not data:
            raise FileRefusedError("", "choose a CSV list first")
        commit(conn, job_id, seen_revision(form), read_accessories(data))
    except (FileRefusedError, FieldsRefusedError) as refused:
        errors = {"list": f"The list was not taken: {refused}"}
        return _page(request, conn, tables, job_id, errors=errors, status=422)
    return go(f"/jobs/{job_id}/accessories")


@router.get("/list.csv")
def accessories_csv(conn: Conn, job_id: JobId) -> Response:
    """The accessories as a CSV list."""
    text = write_accessories(jobs.get_job(conn, job_id).job)
    headers = {"Content-Disposition": 'attachment; filename="accessories.csv"'}
    return Response(text, media_type="text/csv", headers=headers)


@router.get("/{accessory_id}")
def show_accessory(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, accessory_id: str
) -> Response:
    """Open one accessory's form."""
    try:
        accessory = jobs.get_job(conn, job_id).job.accessory(accessory_id)
    except KeyError:
        return go(f"/jobs/{job_id}/accessories")
    return _page(request, conn, tables, job_id, shown=accessory.model_dump())


@router.post("")
def save_accessory(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form
) -> Response:
    """Add an accessory, or change one; adding goes on to its circuit."""
    fields = {k: v for k, v in form.items() if k != "revision"}
    typed = nested(fields)
    try:
        seen = seen_revision(form)
        document = _document(typed, jobs.get_job(conn, job_id).job)
        switch = _switch(typed)
        site = str(typed.get("site", ""))[:20]
        if typed.get("id", "new") != "new":
            kept = _kept(conn, job_id, str(typed["id"]))
            edit = ChangeAccessory(accessory=build(Accessory, {**kept, **document}), switch=switch)
            commit(conn, job_id, seen, edit)
            return go(f"/jobs/{job_id}/accessories#{typed['id']}")
        draft = build(AccessoryDraft, document)
        second = mapping(typed.get("second"))
        if second.get("watts"):
            return _add_outputs(conn, job_id, seen, draft, switch, second)
        after = commit(conn, job_id, seen, AddAccessory(accessory=draft, switch=switch, site=site))
    except FieldsRefusedError as refused:
        errors = {_FIELD_OF.get(k, k): v for k, v in refused.errors.items()}
        return _page(request, conn, tables, job_id, shown=typed, errors=errors, status=422)
    return go(f"/jobs/{job_id}/circuits/{after.circuits[-1].id}/run")


_FIELD_OF = {
    "rating_a": "switch.rating_a", "switches": "use.switch", "surge_a": "switch.surge_a",
    "run": "form",
}  # fmt: skip


def _document(typed: Mapping[str, Any], job: Job) -> dict[str, Any]:
    """The accessory as typed; blanks take the model's usual volts and start current."""
    document = without_blanks(dict(typed), *OPTIONAL)
    for name in ("second", "switch", "site"):
        document.pop(name, None)
    model = str(document.get("model", "constant_power"))
    if "at_v" not in document and model in MODEL_VOLTS:
        document["at_v"] = MODEL_VOLTS[model] * job.vehicle.nominal_v / 12
    inrush_x, inrush_s = MODEL_INRUSH.get(model, (1.0, 0.0))
    document.setdefault("inrush_x", inrush_x)
    document.setdefault("inrush_s", inrush_s)
    document["inputs"] = [w for w in rows(typed.get("inputs")) if w.get("name")]
    use = mapping(typed.get("use"))
    channel = str(use.pop("channel", "") or "")
    if channel:
        point, _, position = channel.partition(":")
        use["channel"] = {"point": point, "position": position}
    document["use"] = use
    return document


def _kept(conn: sqlite3.Connection, job_id: int, accessory_id: str) -> dict[str, Any]:
    """What stands of an accessory, for figures that the form does not show."""
    try:
        before = jobs.get_job(conn, job_id).job.accessory(accessory_id).model_dump()
    except KeyError:
        raise FieldsRefusedError({"form": "This accessory is no longer in the job."}) from None
    return {k: v for k, v in before.items() if k not in (*OPTIONAL, "use", "inputs")}


def _switch(typed: Mapping[str, Any]) -> Switch | None:
    """The switch that the use names, as typed beside it."""
    name = mapping(typed.get("use")).get("switch")
    if not name:
        return None
    stated = without_blanks(mapping(typed.get("switch")), "rating_a", "surge_a")
    return build(Switch, {**stated, "name": name})


def _add_outputs(
    conn: sqlite3.Connection,
    job_id: int,
    seen: int,
    draft: AccessoryDraft,
    switch: Switch | None,
    second: dict[str, Any],
) -> Response:
    """Add a dual-output light: each output is a circuit of its own, by a switch of its own."""
    names = [second.get(n) or default for n, default in (("first_name", "first output"),
                                                         ("name", "second output"))]  # fmt: skip
    note = f"Two outputs on one light; which lead is which is its maker's matter. {draft.note}"
    common = {**draft.model_dump(), "note": note.strip()[:400]}
    use = draft.use.model_dump()
    switches = [switch] if switch is not None else []
    if switch is not None:
        other = f"{switch.name[:40]}, {names[1]}"[:60]
        use = {**use, "switch": other}
        switches.append(switch.model_copy(update={"name": other}))
    drafts = (
        build(AccessoryDraft, {**common, "name": f"{draft.name}, {names[0]}"}),
        build(
            AccessoryDraft,
            {**common, "name": f"{draft.name}, {names[1]}", "watts": second["watts"],
             "amps": None, "use": use},
        ),
    )  # fmt: skip
    commit(conn, job_id, seen, AddAccessories(accessories=drafts, switches=tuple(switches)))
    return go(f"/jobs/{job_id}/accessories")


@router.post("/{accessory_id}/circuit")
def regroup(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, accessory_id: str, form: Form
) -> Response:
    """Put an accessory on another circuit, or on one of its own; ask where their uses differ."""
    to = form.get("circuit_id", "")
    edit = PutOnCircuit(accessory_id=accessory_id, circuit_id=to,
                        follow=form.get("follow") == "true")  # fmt: skip
    try:
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        words = next(iter(refused.errors.values()))
        follows = edit.model_copy(update={"follow": True})
        ask = {"words": words, "edit": follows.model_dump_json()} if "follow" in words else None
        return _page(request, conn, tables, job_id, errors={"join": words}, ask=ask, status=422)
    return go(f"/jobs/{job_id}/accessories")


@router.post("/{accessory_id}/remove")
def remove_accessory(conn: Conn, job_id: JobId, accessory_id: str, form: Form) -> Response:
    """Remove an accessory with its circuit; undo brings both back."""
    commit(conn, job_id, seen_revision(form), RemoveAccessory(accessory_id=accessory_id))
    return go(f"/jobs/{job_id}/accessories")


def preset_fields(tables: Catalogue, key: str, nominal_v: int = 12) -> dict[str, Any]:
    """Return the fields that a preset fills in, at the job's own voltage."""
    preset = tables.presets[key]
    own_v = 24 if preset.at_v > 17 else 12
    ratio = nominal_v / own_v if nominal_v in (12, 24) else 1.0
    winch = preset.model == "winch"
    return {
        "id": "new",
        "name": preset.label.replace(" (each)", ""),
        "model": preset.model,
        "watts": preset.watts,
        "amps": None if preset.amps is None else round(preset.amps / ratio, 2),
        "idle_a": None if preset.idle_a is None else round(preset.idle_a / ratio, 2),
        "at_v": preset.at_v * ratio,
        "min_v": None if preset.min_v is None else preset.min_v * ratio,
        "duty": preset.duty,
        "drop_class": preset.drop_class,
        "inrush_x": preset.inrush_x,
        "inrush_s": preset.inrush_s,
        "quantity": 1,
        "hazard": preset.note.startswith("needs an interlock"),
        "note": "",
        "help": preset.note,
        "site": preset.site,
        "use": {"key": "run", "switch": preset.label.split(" (")[0] if winch else "",
                "engine_only": winch},
        "switch": {"guarded": winch, "momentary": winch},
    }  # fmt: skip


def _page(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    shown: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    ask: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "accessories")
    circuits = {i: c for c in shell.design.circuits for i in c.circuit.accessory_ids}
    form_errors = dict(errors or {})
    if "form" in form_errors and "either watts or amps" in form_errors["form"]:
        form_errors["watts"] = form_errors.pop("form")
    job = shell.stored.job
    groups: dict[str, list[LoadPreset]] = {}
    for preset in tables.presets.values():
        groups.setdefault(preset.group, []).append(preset)
    opened = dict(shown) if shown is not None else None
    if opened is not None:
        opened["use"] = mapping(opened.get("use"))
        stated = job.switch(str(opened["use"].get("switch") or ""))
        opened["switch"] = mapping(opened.get("switch")) or (
            stated.model_dump() if stated is not None else {}
        )
        opened["inputs"] = rows(list(opened.get("inputs") or ()))
        opened["second"] = mapping(opened.get("second"))
    channels = [
        (f"{p.id}:{position.name}", f"{p.name} {position.name}")
        for p in job.points if p.switches_its_positions for position in p.positions
    ]  # fmt: skip
    return page(
        request, "pages/accessories.html", status=status, shell=shell, circuits=circuits,
        groups=groups, shown=opened, errors=form_errors, ask=ask, channels=channels,
        models=MODEL_WORDS, suggestions=suggestions(shell.design),
        names={c.id: c.name for c in job.circuits},
    )  # fmt: skip
