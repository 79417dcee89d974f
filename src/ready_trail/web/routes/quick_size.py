"""Quick size: one circuit, the two-minute answer. What it shows is what *Keep* would make."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl, urlencode

from fastapi import APIRouter, Request
from pydantic import BaseModel
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.core.edits import AccessoryDraft, AddAccessory
from ready_trail.core.errors import CoreError
from ready_trail.core.job import (
    BATTERY,
    Channel,
    HeldChoices,
    HouseRules,
    Job,
    Return,
    Segment,
    Switch,
)
from ready_trail.core.job.parts import NominalVolts
from ready_trail.core.loads import MODEL_INRUSH
from ready_trail.core.sizing import ways_out
from ready_trail.formats.size_json import SizeInputs
from ready_trail.store import forms, jobs, rule_sets, shelf
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError, PressedBeforeError
from ready_trail.web.commit import checked, commit
from ready_trail.web.context import Conn, Form, Tables, go, page
from ready_trail.web.designs import Figures, designed
from ready_trail.web.fields import FieldsRefusedError, build, nested, whole_number
from ready_trail.web.pages import why

router = APIRouter(include_in_schema=False)

_LAST_MOST = 2_000
"""Signs of the last answer's fields, as a page sends them back."""
DEFAULTS: dict[str, Any] = {
    "watts": "280",
    "at_v": "13.5",
    "current_a": "",
    "model": "constant_power",
    "engine_only": "true",
    "run_m": "5.2",
    "return_kind": "chassis",
    "return_m": "0.5",
    "drop_class": "normal",
    "duty": "continuous",
    "ambient_c": "70",
    "loaded_conductors": "1",
    "insulation_c": "105",
    "system": "awg",
    "nominal_v": "12",
    "relay": "auto",
}
_SIZE_FIELDS = (
    "run_m",
    "return_kind",
    "return_m",
    "drop_class",
    "duty",
    "ambient_c",
    "loaded_conductors",
    "insulation_c",
    "system",
    "nominal_v",
)


class _System(BaseModel):
    nominal_v: NominalVolts


_SWITCHES_A = (20.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0, 150.0, 200.0, 300.0)
_SWITCH_X = 1.8
"""A fuse takes up to this over a warm load; the switch behind it is rated no less (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What the form asks for: the edit, and the job that it would be made in.

    ``stored`` is the chosen job; a new one otherwise.
    """

    job: Job
    edit: AddAccessory
    figures: Figures
    stored: jobs.StoredJob | None


@router.get("/size")
def show_quick_size(request: Request, conn: Conn, tables: Tables) -> Response:
    """Show the form with its answer; every change redraws the answer."""
    typed = {**DEFAULTS, **_flat(request.query_params)}
    made, switch, errors = _made(conn, typed, tables)
    last = urlencode({k: typed[k] for k in DEFAULTS})
    if errors:  # the last answer stays beside what is wrong
        last = request.query_params.get("last", "")[:_LAST_MOST]
        if last:
            made, switch, _ = _made(conn, {**DEFAULTS, **_flat(dict(parse_qsl(last)))}, tables)
    partial = request.headers.get("hx-target", "").endswith("answer")
    return _page(
        request, conn, tables, typed, errors, made, partial=partial, switch=switch, last=last
    )


def _made(
    conn: sqlite3.Connection, typed: dict[str, Any], tables: Catalogue
) -> tuple[CircuitDesign | None, Switch | None, dict[str, str]]:
    """What a form's fields make, or what is wrong with them."""
    try:
        wanted = _wanted(conn, typed, tables)
        return _as_kept(wanted), wanted.edit.switch, {}
    except FieldsRefusedError as refused:
        return None, None, refused.errors
    except CoreError as error:
        return None, None, {"form": f"{error}."}


def _page(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    typed: dict[str, Any],
    errors: dict[str, str],
    made: CircuitDesign | None,
    *,
    partial: bool = False,
    switch: Switch | None = None,
    last: str = "",
) -> Response:
    sizing = made.sizing if made is not None else None
    return page(
        request,
        "partials/_answer.html" if partial else "pages/quick_size.html",
        status=422 if errors else 200,
        typed=typed,
        errors=errors,
        sizing=sizing,
        why=why,
        made=made,
        switch=switch,
        last=last,
        ladder=why.ladder_rows(sizing) if sizing else (),
        ways=ways_out(sizing, tables) if sizing and not sizing.ok else (),
        job_rows=() if partial else jobs.list_jobs(conn),
        house=rule_sets.shops_rules(conn),
    )


def _flat(fields: Mapping[str, str]) -> dict[str, str]:
    """The form's own fields; anything else in the address is left out."""
    known = {*DEFAULTS, "name", "job_id"}
    return nested({k: v for k, v in fields.items() if k in known})


def _wanted(conn: sqlite3.Connection, typed: dict[str, Any], tables: Catalogue) -> Wanted:
    """Read the form for the chosen job, or for a new one under the shop's rules."""
    label = _label(typed)
    chosen = whole_number(typed.get("job_id", ""))
    stored = jobs.get_job(conn, chosen) if chosen is not None else None
    nominal_v = build(_System, {"nominal_v": typed["nominal_v"]}).nominal_v
    if stored is not None and stored.job.vehicle.nominal_v != nominal_v:
        has_v = stored.job.vehicle.nominal_v
        raise FieldsRefusedError({"nominal_v": f"{stored.job.name} is a {has_v} V job."})
    if typed.get("current_a"):  # volts of a label that nobody looked at
        label["at_v"] = 13.5 * nominal_v / 12
    accessory = build(AccessoryDraft, {"name": str(typed.get("name") or "New accessory"), **label})
    if not accessory.bears_v(nominal_v):
        words = f"No label of a {nominal_v} V system: type the volts that its own label states."
        raise FieldsRefusedError({"at_v": words})
    inputs = _inputs(typed, accessory)
    job = stored.job if stored is not None else _new_job(conn, typed)
    edit = _as_accessory(typed, accessory, inputs, job, tables)
    return Wanted(
        job=job,
        edit=edit,
        stored=stored,
        figures=stored.figures if stored else shelf.list_figures(conn),
    )


def _label(typed: dict[str, Any]) -> dict[str, Any]:
    if typed.get("current_a"):
        return {"amps": typed["current_a"], "at_v": typed["at_v"], "model": typed["model"]}
    if typed.get("watts") in ("", None):
        raise FieldsRefusedError({"watts": "Type the watts of the label, or its amps."})
    return {"watts": typed["watts"], "at_v": typed["at_v"], "model": typed["model"]}


def _inputs(typed: dict[str, Any], accessory: AccessoryDraft) -> SizeInputs:
    """The form's other fields, within the limits of quick sizing."""
    document = {name: typed[name] for name in _SIZE_FIELDS if typed.get(name) not in ("", None)}
    inrush_x, inrush_s = MODEL_INRUSH.get(accessory.model, (1.0, 0.0))
    document |= {"inrush_x": inrush_x, "inrush_s": inrush_s, "current_a": accessory.rated_a}
    document["relay"] = "auto" if typed.get("relay") == "auto" else None
    return build(SizeInputs, document)


def _new_job(conn: sqlite3.Connection, typed: dict[str, Any]) -> Job:
    """A job named after the accessory: the shop's rules, with the form's sizes."""
    own = {"system": typed["system"]}
    rules = build(HouseRules, {**rule_sets.shops_rules(conn).model_dump(), **own})
    document = {
        "name": typed.get("name") or "New job",
        "rules": rules.model_dump(),
        "vehicle": {"nominal_v": typed["nominal_v"]},
    }
    return build(Job, document)


def _as_accessory(
    typed: dict[str, Any],
    accessory: AccessoryDraft,
    inputs: SizeInputs,
    job: Job,
    tables: Catalogue,
) -> AddAccessory:
    zone = min(tables.zones.values(), key=lambda z: abs(z.ambient_c - inputs.ambient_c))
    # a hand switch that carries the load follows no key: what it works is live while it is closed
    use = {
        "key": "run" if inputs.relay else "always",
        "switch": _free_switch(job, accessory.name),
        "engine_only": typed.get("engine_only") == "true",
    }
    held: dict[str, Any] = {} if inputs.relay else {"scheme": "direct"}
    if inputs.insulation_c != job.rules.insulation_c:
        held["insulation_c"] = inputs.insulation_c
    switch = None
    if not inputs.relay:  # the hand switch carries the load: one that bears its fuse is asked for
        least_a = accessory.rated_a * _SWITCH_X
        rating_a = next((r for r in _SWITCHES_A if r >= least_a), _SWITCHES_A[-1])
        switch = Switch(name=str(use["switch"]), rating_a=rating_a)
    return AddAccessory(
        switch=switch,
        accessory=build(
            AccessoryDraft,
            {
                **accessory.model_dump(),
                "duty": inputs.duty,
                "drop_class": inputs.drop_class,
                "inrush_x": inputs.inrush_x,
                "inrush_s": inputs.inrush_s,
                "use": use,
            },
        ),
        start=Channel(point=BATTERY),
        run=_segments(zone.zone, inputs),
        back=build(Return, {"kind": inputs.return_kind, "stub_m": inputs.return_m or 0.5}),
        held=build(HeldChoices, held),
    )


def _free_switch(job: Job, name: str) -> str:
    """A switch of its own: never one that works something else already."""
    plain = f"{name[:50]} switch"
    names = (plain, *(f"{plain} {n}" for n in range(2, 1000)))
    return next(n for n in names if job.switch(n) is None)


def _segments(zone: str, inputs: SizeInputs) -> tuple[Segment, ...]:
    """The run in segments that a job's document holds: at most 30 m each."""
    count = math.ceil(inputs.run_m / 30)
    document = {
        "zone": zone,
        "length_m": round(inputs.run_m / count, 4),
        "ambient_c": inputs.ambient_c,
        "loaded_conductors": min(60, inputs.loaded_conductors),
    }
    return tuple(build(Segment, document) for _ in range(count))


def _as_kept(wanted: Wanted) -> CircuitDesign:
    """The circuit as it would be in the job, once it is kept."""
    after = checked(wanted.job, wanted.edit)
    made = designed(after, wanted.figures)
    return made.circuits[-1]


@router.post("/size/keep")
def keep_as_circuit(request: Request, conn: Conn, tables: Tables, form: Form) -> Response:
    """Make the sized circuit part of a job, or of a new one; two presses of a form count once."""
    typed = {**DEFAULTS, **_flat(form)}
    key = form.get("form_key", "")
    try:
        known = forms.known(conn, key)
        return go(known or _keep(conn, _wanted(conn, typed, tables), key))
    except PressedBeforeError as pressed:
        return go(pressed.location)
    except (FieldsRefusedError, CoreError, NotFoundError) as refused:
        words = {"job_id": "This job is gone; choose another."}
        if not isinstance(refused, NotFoundError):
            words = {"form": f"{refused}."}
        errors = refused.errors if isinstance(refused, FieldsRefusedError) else words
        return _page(request, conn, tables, typed, errors, None)


def _keep(conn: sqlite3.Connection, wanted: Wanted, key: str) -> str:
    if wanted.stored is not None:
        job_id = wanted.stored.job_id

        def also(after: Job) -> None:
            forms.keep(conn, key, _location(job_id, after))

        after = commit(conn, job_id, wanted.stored.revision, wanted.edit, also=also)
        return _location(job_id, after)
    job = checked(wanted.job, wanted.edit)
    designed(job, wanted.figures)
    with transaction(conn):
        title = f"Start job {job.name} from quick size"
        location = _location(jobs.create_job(conn, job, kind="new_job", title=title), job)
        forms.keep(conn, key, location)
    return location


def _location(job_id: int, job: Job) -> str:
    return f"/jobs/{job_id}/circuits/{job.circuits[-1].id}"
