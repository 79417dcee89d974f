"""Quick size: one circuit, no job, the two-minute answer."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import AccessoryDraft, AddAccessory
from ready_trail.core.errors import CoreError
from ready_trail.core.job import BATTERY, Channel, Job, Return, Segment
from ready_trail.core.loads import MODEL_INRUSH, design_current_a
from ready_trail.core.sizing import Sizing, size, ways_out
from ready_trail.formats.size_json import SizeInputs
from ready_trail.store import forms, jobs
from ready_trail.store.db import transaction
from ready_trail.web.commit import commit
from ready_trail.web.context import Conn, Form, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested, whole_number
from ready_trail.web.pages import why

router = APIRouter(include_in_schema=False)

DEFAULTS: dict[str, Any] = {
    "watts": "280", "at_v": "13.5", "current_a": "", "model": "constant_power",
    "engine_only": "true", "run_m": "5.2", "return_kind": "chassis", "return_m": "0.5",
    "drop_class": "normal", "duty": "continuous", "ambient_c": "70", "loaded_conductors": "1",
    "insulation_c": "105", "system": "awg", "nominal_v": "12", "relay": "auto",
}  # fmt: skip
_SIZE_FIELDS = (
    "run_m", "return_kind", "return_m", "drop_class", "duty", "ambient_c", "loaded_conductors",
    "insulation_c", "system", "nominal_v",
)  # fmt: skip


@router.get("/size")
def show_quick_size(request: Request, conn: Conn, tables: Tables) -> Response:
    """Show the form with its answer; every change redraws the answer."""
    typed = {**DEFAULTS, **_flat(request.query_params)}
    errors: dict[str, str] = {}
    sizing: Sizing | None = None
    current_a: float | None = None
    try:
        inputs = inputs_of(typed)
        current_a = inputs.current_a
        sizing = size(inputs.to_request(), tables, whole_ladder=True)
    except FieldsRefusedError as refused:
        errors = refused.errors
    except CoreError as error:
        errors = {"form": f"{error}."}
    partial = request.headers.get("hx-target", "").endswith("answer")
    return page(
        request, "partials/_answer.html" if partial else "pages/quick_size.html",
        status=422 if errors else 200, typed=typed, errors=errors, sizing=sizing, why=why,
        current_a=current_a, ladder=why.ladder_rows(sizing) if sizing else (),
        ways=ways_out(sizing, tables) if sizing and not sizing.ok else (),
        job_rows=() if partial else jobs.list_jobs(conn),
    )  # fmt: skip


def _flat(fields: Mapping[str, str]) -> dict[str, str]:
    """The form's own fields; anything else in the address is left out."""
    known = {*DEFAULTS, "name", "job_id"}
    return nested({k: v for k, v in fields.items() if k in known})


def inputs_of(typed: dict[str, Any]) -> SizeInputs:
    """Return the sizing inputs of the form: amps as typed, or from watts at volts."""
    document = {name: typed[name] for name in _SIZE_FIELDS if typed.get(name) not in ("", None)}
    inrush_x, inrush_s = MODEL_INRUSH.get(str(typed["model"]), (1.0, 0.0))
    document |= {"inrush_x": inrush_x, "inrush_s": inrush_s, "fuse_min_a": 3}
    document["relay"] = "auto" if typed.get("relay") == "auto" else None
    if typed.get("current_a"):
        document["current_a"] = typed["current_a"]
    else:
        document["current_a"] = _current_a(typed)
    return build(SizeInputs, document)


def _current_a(typed: dict[str, Any]) -> float:
    label = build(AccessoryDraft, {"name": "load", **_label(typed)})
    return design_current_a(
        model=label.model,
        watts=label.rated_w,
        at_v=label.at_v,
        engine_only=typed.get("engine_only") == "true",
        nominal_v={"24": 24, "48": 48}.get(str(typed.get("nominal_v")), 12),
    )


def _label(typed: dict[str, Any]) -> dict[str, Any]:
    if typed.get("watts") in ("", None):
        raise FieldsRefusedError({"watts": "Type the watts of the label, or its amps."})
    return {"watts": typed["watts"], "at_v": typed["at_v"], "model": typed["model"]}


@router.post("/size/keep")
def keep_as_circuit(request: Request, conn: Conn, tables: Tables, form: Form) -> Response:
    """Make the sized circuit part of a job, or of a new one."""
    typed = {**DEFAULTS, **_flat(form)}
    try:
        inputs = inputs_of(typed)
        edit = _as_accessory(typed, inputs, tables)
        key = form.get("form_key", "")
        known = forms.known(conn, key)
        if known:
            return go(known)
        job_id = _job_for(conn, typed)
        stored = jobs.get_job(conn, job_id)
        after = commit(conn, job_id, stored.revision, edit)
        location = f"/jobs/{job_id}/circuits/{after.circuits[-1].id}"
        with transaction(conn):
            forms.once(conn, key, lambda: location)
    except FieldsRefusedError as refused:
        return page(
            request, "pages/quick_size.html", status=422, typed=typed, errors=refused.errors,
            sizing=None, why=why, current_a=None, ladder=(), ways=(), job_rows=jobs.list_jobs(conn),
        )  # fmt: skip
    return go(location)


def _as_accessory(typed: dict[str, Any], inputs: SizeInputs, tables: Catalogue) -> AddAccessory:
    label: dict[str, Any] = (
        {"amps": inputs.current_a, "at_v": typed["at_v"], "model": typed["model"]}
        if typed.get("current_a")
        else _label(typed)
    )
    name = str(typed.get("name") or "New accessory")
    zone = min(tables.zones.values(), key=lambda z: abs(z.ambient_c - inputs.ambient_c))
    return_m = inputs.return_m if inputs.return_m else 0.5
    return AddAccessory(
        accessory=build(AccessoryDraft, {
            **label, "name": name, "duty": inputs.duty,
            "drop_class": inputs.drop_class, "inrush_x": inputs.inrush_x,
            "inrush_s": inputs.inrush_s,
            "use": {"key": "run" if inputs.relay else "always",
                    "switch": f"{name[:50]} switch" if inputs.relay else "",
                    "engine_only": typed.get("engine_only") == "true"},
        }),
        start=Channel(point=BATTERY),
        run=_segments(zone.zone, inputs),
        back=build(Return, {"kind": inputs.return_kind, "stub_m": return_m}),
    )  # fmt: skip


def _segments(zone: str, inputs: SizeInputs) -> tuple[Segment, ...]:
    """The run in segments that a job's document holds: at most 30 m each."""
    count = math.ceil(inputs.run_m / 30)
    document = {"zone": zone, "length_m": round(inputs.run_m / count, 4),
                "ambient_c": inputs.ambient_c,
                "loaded_conductors": min(60, inputs.loaded_conductors)}  # fmt: skip
    return tuple(build(Segment, document) for _ in range(count))


def _job_for(conn: sqlite3.Connection, typed: dict[str, Any]) -> int:
    """The chosen job, or a new one named after the accessory."""
    chosen = whole_number(typed.get("job_id", ""))
    if chosen is not None:
        return chosen
    rules = {"system": typed["system"], "insulation_c": typed["insulation_c"]}
    vehicle = {"nominal_v": typed["nominal_v"]}
    name = typed.get("name") or "New job"
    job = build(Job, {"name": name, "rules": rules, "vehicle": vehicle})
    with transaction(conn):
        return jobs.create_job(conn, job, kind="new_job", title=f"Start job {job.name}")
