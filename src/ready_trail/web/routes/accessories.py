"""Stage Accessories: what is wanted, from a preset or from the label."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator, Mapping
from typing import Any, get_args

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue, LoadPreset
from ready_trail.core.design import CircuitDesign
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    ChangeAccessory,
    PutOnCircuit,
    RemoveAccessory,
    SetCircuitUse,
)
from ready_trail.core.grouping import suggestions
from ready_trail.core.job import Accessory, Job, Switch, Use, accessory_form
from ready_trail.core.job.accessory import Unless
from ready_trail.core.loads import MODEL_INRUSH
from ready_trail.core.states import LIGHT_STATES
from ready_trail.formats.accessory_csv import read_accessories, write_accessories
from ready_trail.formats.errors import FileRefusedError
from ready_trail.store import forms, jobs
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError, StaleWriteError
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, Upload, go, page
from ready_trail.web.fields import (
    FieldsRefusedError,
    build,
    figures_of,
    mapping,
    nested,
    rows,
    without_blanks,
)
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/accessories", include_in_schema=False)

_SHARE = re.compile(r"(?<=^outputs\.\d)\.(watts|amps)$")
_FIGURES = figures_of(Accessory)
_LISTS = ("use", "inputs", "outputs", "modes", "posts")
MODEL_VOLTS = {
    "constant_power": 13.5,
    "filament": 12.0,
    "motor": 13.0,
    "resistive": 12.0,
    "electronics": 13.8,
    "winch": 12.0,
}
"""The voltage at which makers usually state watts, by load model (typical, 12 V)."""


@router.get("")
def show_accessories(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    preset: str = "",
    add: bool = False,
    copy: str = "",
) -> Response:
    """List the accessories; with ``preset``, ``add`` or ``copy``, open the form for a new one."""
    shown: dict[str, Any] | None = None
    if copy:
        shown = _copy_of(jobs.get_job(conn, job_id).job, copy)
    elif preset in tables.presets:
        volts = jobs.get_job(conn, job_id).job.vehicle.nominal_v
        shown = preset_fields(tables, preset, volts)
    elif add:
        shown = {
            "id": "new",
            "name": "",
            "at_v": None,
            "inrush_x": None,
            "inrush_s": None,
            "use": {"key": "run"},
        }
    return _page(request, conn, tables, job_id, shown=shown)


def _copy_of(job: Job, accessory_id: str) -> dict[str, Any] | None:
    """A new accessory with everything that was stated of another, under the next free name; its
    function wires and what it waits for are its own.
    """
    known = next((a for a in job.accessories if a.id == accessory_id), None)
    if known is None:
        return None
    names = {a.name for a in job.accessories}
    stem = known.name[:70]
    name = next(n for n in (f"{stem} {at}" for at in range(2, 500)) if n not in names)
    alike = known.model_dump()
    alike["inputs"] = [{**w, "ends": "cap", "at": ""} for w in alike["inputs"]]
    return {**alike, "id": "new", "name": name, "outputs": alike["outputs"]}


@router.post("/import")
def import_accessories(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form, data: Upload
) -> Response:
    """Take in a CSV list; one revision for all of it, or nothing."""
    try:
        data = data or forms.held_file(conn, form.get("held", ""))
        if not data:
            raise FileRefusedError("", "choose a CSV list first")
        commit(conn, job_id, seen_revision(form), read_accessories(data))
    except StaleWriteError:  # the file waits for "apply mine on top"
        with transaction(conn):
            request.state.held = forms.hold_file(conn, data)
        raise
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
        job = jobs.get_job(conn, job_id).job
        document = _document(typed, job)
        switch = _switch(typed, job)
        site = str(typed.get("site", ""))[:20]
        if typed.get("id", "new") != "new":
            kept = _kept(conn, job_id, str(typed["id"]))
            edit = ChangeAccessory(accessory=build(Accessory, {**kept, **document}), switch=switch)
            commit(conn, job_id, seen, edit)
            return go(f"/jobs/{job_id}/accessories#{typed['id']}")
        draft = build(AccessoryDraft, document)
        add = AddAccessory(
            accessory=draft,
            switch=switch,
            site=site,
            split_outputs=True,
            output_uses=tuple(_output_uses(typed, draft.use)),
        )
        after = commit(conn, job_id, seen, add)
        if draft.outputs:
            return go(f"/jobs/{job_id}/accessories/{after.accessories[-1].id}#outputs-on")
    except FieldsRefusedError as refused:
        errors = {_FIELD_OF.get(k, k): v for k, v in refused.errors.items()}
        errors = dict(_beside(k, v) for k, v in errors.items())
        return _page(request, conn, tables, job_id, shown=typed, errors=errors, status=422)
    return go(f"/jobs/{job_id}/circuits/{after.circuits[-1].id}/run")


def _beside(field: str, words: str) -> tuple[str, str]:
    """Put what is wrong with a list as a whole, or with an output's share, beside it."""
    name, colon, rest = words.partition(": ")
    if field == "form" and colon and name in _LISTS:
        return name, rest
    return _SHARE.sub(".value", field), words


_FIELD_OF = {
    "rating_a": "switch.rating_a",
    "switches": "use.switch",
    "surge_a": "switch.surge_a",
    "run": "form",
}


def _document(typed: Mapping[str, Any], job: Job) -> dict[str, Any]:
    """The accessory as typed; blanks take the model's usual volts and start current."""
    document = without_blanks(dict(typed), *_FIGURES)
    for name in ("switch", "site"):
        document.pop(name, None)
    document["outputs"] = _outputs(document)
    if document["outputs"] and not {"watts", "amps"} & set(document):
        document["watts"] = _sum_of(document["outputs"])
    model = str(document.get("model", "constant_power"))
    if "at_v" not in document and model in MODEL_VOLTS:
        document["at_v"] = MODEL_VOLTS[model] * job.vehicle.nominal_v / 12
    inrush_x, inrush_s = MODEL_INRUSH.get(model, (1.0, 0.0))
    document.setdefault("inrush_x", inrush_x)
    document.setdefault("inrush_s", inrush_s)
    document["inputs"] = [_input(w) for w in rows(typed.get("inputs")) if w.get("name")]
    document["posts"] = [p for p in rows(typed.get("posts")) if p.get("name")]
    document["modes"] = [_mode(m) for m in rows(typed.get("modes")) if m.get("name")]
    use = mapping(typed.get("use"))
    channel = str(use.pop("channel", "") or "")
    if channel:
        point, _, position = channel.partition(":")
        use["channel"] = {"point": point, "position": position}
    if "use" in typed:  # an accessory whose outputs are apart states none
        document["use"] = use
    return document


def _outputs(document: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Each output's share, in the label's measure: watts, unless only amps are typed."""
    measure = "amps" if "amps" in document and "watts" not in document else "watts"
    found = []
    for row in rows(document.get("outputs")):
        if row.get("name") or row.get("value"):
            value = row.get("value") or None
            found.append(
                {
                    "name": row.get("name", ""),
                    measure: value,
                    "lead": row.get("lead", ""),
                    "proved": row.get("proved", False),
                }
            )
    return found


def _output_uses(typed: Mapping[str, Any], usual: Use) -> Iterator[Use | None]:
    """When each output of a new accessory is on, where its row says so."""
    for row in rows(typed.get("outputs")):
        if row.get("name") or row.get("value"):
            on_with = str(row.get("on_with") or "")
            if not on_with:
                yield None
            elif on_with in LIGHT_STATES:
                yield build(Use, {"key": usual.key, "lights": on_with})
            else:
                yield build(Use, {"key": usual.key, "signal": on_with})


def _sum_of(outputs: list[dict[str, Any]]) -> float | str:
    """The whole of the outputs, where the label's total is left blank."""
    try:
        return round(sum(float(o["watts"]) for o in outputs), 4)
    except (TypeError, ValueError):
        return ""


def _input(row: dict[str, Any]) -> dict[str, Any]:
    """One function wire; ``end`` tells where it goes, with the name of that."""
    ends, _, at = str(row.pop("end", "controller")).partition(":")
    return {**row, "ends": ends, "at": at}


def _mode(row: dict[str, Any]) -> dict[str, Any]:
    """One line of the mode table; its wires as a list in words."""
    wires = [part.strip() for part in str(row.get("wires", "")).split(",") if part.strip()]
    return {**row, "wires": wires}


def _kept(conn: sqlite3.Connection, job_id: int, accessory_id: str) -> dict[str, Any]:
    """What stands of an accessory, for figures that the form does not show."""
    try:
        before = jobs.get_job(conn, job_id).job.accessory(accessory_id).model_dump()
    except KeyError:
        raise FieldsRefusedError({"form": "This accessory is no longer in the job."}) from None
    return {k: v for k, v in before.items() if k not in (*_FIGURES, *_LISTS) or k == "use"}


def _switch(typed: Mapping[str, Any], job: Job) -> Switch | None:
    """The switch that the use names, as typed beside it; the rest of a known one stays.

    The fields are those of the switch that the form was opened with (``of``): of another one
    that is there already they say nothing.
    """
    name = str(mapping(typed.get("use")).get("switch") or "")
    stated = without_blanks(mapping(typed.get("switch")), "rating_a")
    shown = str(stated.pop("of", ""))
    known = job.switch(name) if name else None
    if not name or (known is not None and name != shown):
        return None
    kept = known.model_dump() if known is not None else {}
    return build(Switch, {**kept, **stated, "name": name})


@router.post("/regroup")
def regroup(request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form) -> Response:
    """Put an accessory on another circuit, or on one of its own; ask where their uses differ."""
    asked = {
        "accessory_id": form.get("accessory_id", ""),
        "circuit_id": form.get("circuit_id", ""),
        "follow": form.get("follow") == "true",
    }
    try:
        commit(conn, job_id, seen_revision(form), build(PutOnCircuit, asked))
    except FieldsRefusedError as refused:
        words = next(iter(refused.errors.values()))
        ask = None
        if "follow" in words:
            follows = build(PutOnCircuit, {**asked, "follow": True})
            ask = {"words": words, "edit": follows.model_dump_json()}
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
        "hazard": preset.hazard,
        "note": "",
        "help": preset.note,
        "outputs": [
            {"name": o.name, "watts": o.watts, "lead": o.lead, "on_with": o.on_with}
            for o in preset.outputs
        ],
        "site": preset.site,
        "use": {
            "key": "run",
            "switch": preset.label.split(" (")[0] if winch else "",
            "engine_only": winch,
        },
        "switch": {"guarded": winch, "momentary": winch},
    }


def _page(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    shown: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    ask: Mapping[str, str] | None = None,
    output: tuple[str, Mapping[str, Any]] = ("", {}),
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "accessories")
    circuits: dict[str, list[CircuitDesign]] = {}
    for made in shell.design.circuits:
        for accessory_id in made.circuit.accessory_ids:
            circuits.setdefault(accessory_id, []).append(made)
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
        opened["switch"].setdefault("of", stated.name if stated is not None else "")
        opened["inputs"] = rows(list(opened.get("inputs") or ()))
        for name in ("outputs", "modes", "posts"):
            opened[name] = rows(list(opened.get(name) or ()))
        for mode in opened["modes"]:
            if not isinstance(mode.get("wires"), str):
                mode["wires"] = ", ".join(mode.get("wires") or ())
        for wire in opened["inputs"]:
            wire.setdefault(
                "end",
                f"{wire.get('ends', 'controller')}:{wire.get('at', '')}"
                if wire.get("at")
                else wire.get("ends", "controller"),
            )
    channels = [
        (f"{p.id}:{position.name}", f"{p.name} {position.name}")
        for p in job.points
        if p.switches_its_positions
        for position in p.positions
    ]
    return page(
        request,
        "pages/accessories.html",
        status=status,
        shell=shell,
        circuits=circuits,
        groups=groups,
        shown=opened,
        errors=form_errors,
        ask=ask,
        channels=channels,
        refused_output=output[0],
        typed_use=output[1],
        form=accessory_form,
        suggestions=suggestions(shell.design),
        names={c.id: c.name for c in job.circuits},
        ends=_ends(job, opened),
        wants=tuple(TRIGGER_WORDS.items()),
        unless=tuple(_unless()),
        on_with=(*_ON_WITH, *_signals()),
        works=_works_also(job, opened),
        two_sided=any(s.throws == 2 for s in job.switches),
    )


TRIGGER_WORDS = {
    "": "none",
    "accessory": "accessory key",
    "run": "ignition",
    "side": "side lights",
    "low": "low beam",
    "high": "high beam",
    "brake": "brake",
    "left": "left turn",
    "right": "right turn",
    "reverse": "reverse",
    "charging": "charging",
}


_ON_WITH = (("", "by its switch"), ("side", "with the side lights"), ("low", "with the low beam"))


def _signals() -> Iterator[tuple[str, str]]:
    for key in ("brake", "left", "right", "reverse"):
        yield key, f"with {TRIGGER_WORDS[key]}"


def _unless() -> Iterator[tuple[str, str]]:
    """What may take something off."""
    yield "", "with its key, lights or switch alone"
    for key in get_args(Unless)[1:]:
        yield key, f"also while {TRIGGER_WORDS[key]} {'are' if key == 'side' else 'is'} on"


def _works_also(job: Job, opened: Mapping[str, Any] | None) -> tuple[str, ...]:
    """What else the switch of the opened accessory works, by name."""
    name = str(opened["use"].get("switch") or "") if opened is not None else ""
    if opened is None or not name:
        return ()
    others = (c for c in job.circuits if opened.get("id") not in c.accessory_ids)
    return tuple(c.name for c in others if job.use_of(c).switch == name)


def _ends(job: Job, opened: Mapping[str, Any] | None) -> tuple[tuple[str, str], ...]:
    """Where a function wire may end, for the form's list."""
    found = [("controller", "a controller's output"), ("cap", "capped")]
    found += [(f"switch:{s.name}", f"switch {s.name}") for s in job.switches]
    found += [(f"signal:{k}", f"{v} signal") for k, v in TRIGGER_WORDS.items() if k]
    own = opened.get("id") if opened is not None else None
    found += [
        (f"accessory:{a.id} {w.name}", f"{a.name}, {w.name}")
        for a in job.accessories
        for w in a.inputs
        if a.id != own
    ]
    return tuple(found)


_OUTPUT_FIELDS = ("use.switch", "use.throw", "use.key", "use.lights", "use.channel")


def _two_sided(name: str, throw: str, job: Job) -> Switch | None:
    """The switch of an output with two sides, where a side is named: a new one, or one that works
    nothing else.
    """
    known = job.switch(name)
    if not name or not throw or (known is not None and known.throws == 2):
        return None
    if known is None:
        return build(Switch, {"name": name, "throws": 2})
    if sum(use.switch == name for use in job.uses()) > 1:
        words = f"{name} has one side and works something else too: name another switch"
        raise FieldsRefusedError({"use.throw": words})
    return known.model_copy(update={"throws": 2})


@router.post("/{accessory_id}/outputs/{circuit_id}")
def save_output_use(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    accessory_id: str,
    circuit_id: str,
    form: Form,
) -> Response:
    """State when one output is on, and by which switch."""
    typed = nested({k: v for k, v in form.items() if k != "revision"})
    use = mapping(typed.get("use"))
    document: dict[str, Any] = dict(use)
    try:
        known = jobs.get_job(conn, job_id).job
        before = next((c.use for c in known.circuits if c.id == circuit_id), None)
        document = {**(before.model_dump() if before is not None else {}), **use}
        if "channel" in use:
            point, _, position = str(use["channel"] or "").partition(":")
            document["channel"] = {"point": point, "position": position} if point else None
        stated = _two_sided(str(use.get("switch") or ""), str(use.get("throw") or ""), known)
        edit = build(SetCircuitUse, {"circuit_id": circuit_id, "use": document, "switch": stated})
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        job = jobs.get_job(conn, job_id).job
        if all(a.id != accessory_id for a in job.accessories):
            raise NotFoundError("accessory", accessory_id[:40]) from refused
        shown = job.accessory(accessory_id).model_dump()
        errors = {k if k in _OUTPUT_FIELDS else "outputs_on": v for k, v in refused.errors.items()}
        return _page(
            request,
            conn,
            tables,
            job_id,
            shown=shown,
            errors=errors,
            output=(circuit_id, document),
            status=422,
        )
    return go(f"/jobs/{job_id}/accessories/{accessory_id}#outputs-on")
