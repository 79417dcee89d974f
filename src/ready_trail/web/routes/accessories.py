"""Stage Accessories: what is wanted, from a preset or from the label."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from typing import Any, get_args

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue, LoadPreset
from ready_trail.core.design import CircuitDesign
from ready_trail.core.edits.accessory_typed import beside
from ready_trail.core.forms import mapping, rows
from ready_trail.core.grouping import suggestions
from ready_trail.core.job import Job, accessory_form
from ready_trail.core.job.accessory import Unless
from ready_trail.formats.accessory_csv import read_accessories, write_accessories
from ready_trail.formats.errors import FileRefusedError
from ready_trail.store import forms, jobs
from ready_trail.store.db import transaction
from ready_trail.store.errors import StaleWriteError
from ready_trail.web.again import Again, Refusal, Told
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, Upload, go, page
from ready_trail.web.fields import FieldsRefusedError
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/accessories", include_in_schema=False)


@router.get("")
def show_accessories(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    told: Refusal,
    preset: str = "",
    add: bool = False,
    copy: str = "",
) -> Response:
    """List the accessories; with ``preset``, ``add`` or ``copy``, open the form for a new one."""
    job = jobs.get_job(conn, job_id).job
    shown: Mapping[str, Any] | None = told.of("add_accessory") or None
    if shown is None and copy:
        shown = _copy_of(job, copy)
    elif shown is None and preset in tables.presets:
        shown = preset_fields(tables, preset, job.vehicle.nominal_v)
    elif shown is None and add:
        shown = dict.fromkeys(("at_v", "inrush_x", "inrush_s"))
        shown = {**shown, "id": "new", "name": "", "use": {"key": "run"}}
    return _page(request, conn, tables, job_id, told, shown)


@router.get("/list.csv")
def accessories_csv(conn: Conn, job_id: JobId) -> Response:
    """The accessories as a CSV list."""
    text = write_accessories(jobs.get_job(conn, job_id).job)
    headers = {"Content-Disposition": 'attachment; filename="accessories.csv"'}
    return Response(text, media_type="text/csv", headers=headers)


@router.get("/{accessory_id}")
def show_accessory(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, told: Refusal, accessory_id: str
) -> Response:
    """Open one accessory's form."""
    try:
        accessory = jobs.get_job(conn, job_id).job.accessory(accessory_id)
    except KeyError:
        return go(f"/jobs/{job_id}/accessories")
    shown = told.of("change_accessory") or accessory.model_dump()
    return _page(request, conn, tables, job_id, told, shown)


@router.get("/{accessory_id}/next")
def show_next(conn: Conn, job_id: JobId, accessory_id: str) -> Response:
    """Go on with an accessory that was added: to its outputs, or to the run of its circuit."""
    job = jobs.get_job(conn, job_id).job
    found = next((a for a in job.accessories if a.id == accessory_id), None)
    circuit = job.circuit_of(accessory_id)
    if found is None or found.outputs or circuit is None:
        return go(f"/jobs/{job_id}/accessories/{accessory_id}#outputs-on")
    return go(f"/jobs/{job_id}/circuits/{circuit.id}/run")


def _page(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    told: Told,
    shown: Mapping[str, Any] | None,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "accessories")
    circuits: dict[str, list[CircuitDesign]] = {}
    for made in shell.design.circuits:
        for accessory_id in made.circuit.accessory_ids:
            circuits.setdefault(accessory_id, []).append(made)
    job = shell.stored.job
    groups: dict[str, list[LoadPreset]] = {}
    for preset in tables.presets.values():
        groups.setdefault(preset.group, []).append(preset)
    opened = _opened(job, shown) if shown is not None else None
    channels = [
        (f"{p.id}:{position.name}", f"{p.name} {position.name}")
        for p in job.points
        if p.switches_its_positions
        for position in p.positions
    ]
    return page(
        request,
        "pages/accessories.html",
        shell=shell,
        circuits=circuits,
        groups=groups,
        shown=opened,
        errors=dict(beside(k, v) for k, v in told.errors.items()),
        told=told,
        follows=_follows(told),
        channels=channels,
        told_use=mapping(told.of("set_circuit_use").get("use")),
        told_of=str(told.of("set_circuit_use").get("circuit_id", "")),
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


def _follows(told: Told) -> dict[str, Any]:
    """The edit that puts an accessory where it was refused because their uses differ."""
    asked = told.of("put_on_circuit")
    differs = any("follow" in words for words in told.errors.values())
    return {**asked, "follow": True} if asked and differs else {}


def _opened(job: Job, shown: Mapping[str, Any]) -> dict[str, Any]:
    """What the form shows, as stored or as typed: its switch, and every list with its rows."""
    opened = dict(shown)
    opened["use"] = mapping(opened.get("use"))
    stated = job.switch(str(opened["use"].get("switch") or ""))
    opened["switch"] = mapping(opened.get("switch")) or (
        stated.model_dump() if stated is not None else {}
    )
    opened["switch"].setdefault("of", stated.name if stated is not None else "")
    for name in ("inputs", "outputs", "modes", "posts"):
        opened[name] = rows(list(opened.get(name) or ()))
    for mode in opened["modes"]:
        if not isinstance(mode.get("wires"), str):
            mode["wires"] = ", ".join(mode.get("wires") or ())
    for wire in opened["inputs"]:
        ends, at = wire.get("ends", "controller"), wire.get("at")
        wire.setdefault("end", f"{ends}:{at}" if at else ends)
    return opened


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
        told = Told(edit="add_accessories", errors=errors)
        return Again(f"/jobs/{job_id}/accessories", told)
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
