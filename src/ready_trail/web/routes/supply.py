"""Stage Supply: sources, feeders, points with their positions, and the hand switches."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue, PointPreset
from ready_trail.core.edits import (
    AddSupply,
    AddSwitch,
    ChangePoint,
    ChangeSwitch,
    Edit,
    FeedPoint,
    FillChannels,
    PointDraft,
    RemoveSupply,
    RemoveSwitch,
    SetTogether,
    StartAt,
    WakePoint,
)
from ready_trail.core.job import Battery, Job, Position, Switch, Use
from ready_trail.core.kinds.points import POINT_KINDS
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, go, page
from ready_trail.web.fields import (
    FieldsRefusedError,
    build,
    mapping,
    merged,
    nested,
    rows,
    without_blanks,
)
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.pages.supply import supply_of

CHANNEL_CHOICES = (
    (
        "mode",
        "Mode",
        (("steady", "stays on"), ("momentary", "springs back"), ("flash", "flashes")),
    ),
    (
        "memory",
        "At the next start",
        (("", "start: not stated"), ("off", "comes up off"), ("remembers", "remembers")),
    ),
    (
        "wakes",
        "Wakes",
        (
            ("", "wakes as its point"),
            ("always", "always"),
            ("accessory", "accessory key"),
            ("run", "ignition"),
        ),
    ),
)
"""What is stated of a channel besides its rating."""

router = APIRouter(prefix="/jobs/{job_id}/supply", include_in_schema=False)


@router.get("")
def show_supply(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    point: str = "",
    switch: str = "",
    add: str = "",
    scenario: str = "",
) -> Response:
    """Show the tree, with one point, one switch or the presets opened, or in one scenario."""
    return _supply(
        request, conn, tables, job_id, point=point, switch=switch, add=add, scenario=scenario
    )


def _supply(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    point: str = "",
    switch: str = "",
    add: str = "",
    scenario: str = "",
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "supply")
    job = shell.stored.job
    picked = next((p for p in job.points if p.id == point), None)
    chosen = job.switch(switch) if switch else None
    shown = dict(typed or {})
    if picked is not None and not typed:
        shown = picked.model_dump()
    groups: dict[str, list[PointPreset]] = {}
    for preset in tables.point_presets.values():
        fits = preset.for_v is None or preset.for_v == job.vehicle.nominal_v
        if fits:
            groups.setdefault(preset.group, []).append(preset)
    return page(
        request,
        "pages/supply.html",
        status=status,
        shell=shell,
        view=supply_of(shell, tables, scenario),
        scenario=scenario,
        picked=picked,
        chosen=chosen,
        adding=bool(add),
        shown=shown,
        legends=[job.legend(picked, p) for p in picked.positions] if picked else [],
        errors=dict(errors or {}),
        groups=groups,
        zones=tables.zones,
        kinds={k: v.words for k, v in POINT_KINDS.items()},
        channel_choices=CHANNEL_CHOICES,
        new_switch=switch == "new",
        typed=dict(typed or {}),
    )


@router.post("/add")
def add_point(conn: Conn, tables: Tables, job_id: JobId, form: Form) -> Response:
    """Add a point from a preset, with its feeder: the second of two presses."""
    job = jobs.get_job(conn, job_id).job
    preset = tables.point_presets.get(form.get("preset", ""))
    if preset is None:
        raise FieldsRefusedError({"preset": "There is no such preset."})
    commit(conn, job_id, seen_revision(form), from_preset(preset, job))
    added = jobs.get_job(conn, job_id).job.points[-1]
    return go(f"/jobs/{job_id}/supply?point={added.id}#point")


def from_preset(preset: PointPreset, job: Job) -> AddSupply:
    """Return the edit that adds a preset's point."""
    ratings = preset.ratings_a
    positions = tuple(
        Position(
            name=str(at + 1),
            rating_a=ratings[at] if at < len(ratings) else (ratings[-1] if ratings else None),
        )
        for at in range(preset.positions)
    )
    names = {p.name for p in job.points}
    kind = POINT_KINDS[preset.kind]
    name, at = preset.name, 2
    while name in names:
        name, at = f"{preset.name} {at}", at + 1
    document: dict[str, Any] = {
        "kind": preset.kind,
        "name": name,
        "zone": preset.zone,
        "positions": positions,
        "total_a": preset.total_a,
        "continuous_a": preset.continuous_a,
        "fuse_a": preset.fuse_a,
        "earth_bus": preset.earth_bus,
        "output_v": int(preset.output_v or 0) or None,
        "output_a": preset.output_a,
        **preset.states,
    }
    if not job.vehicle.has_cabin and preset.zone in ("cabin", "engine_bay"):
        document["zone"] = "engine_bay"
    if kind.stores:
        document["battery"] = Battery(capacity_ah=100, resistance_mohm=5)
    if kind.fed_by_vehicle or kind.charges:
        document["key"] = preset.wake
    switches = (
        tuple(
            build(
                Switch,
                {
                    "name": f"{name} {p.name}"[:60],
                    "rating_a": preset.switch_a or 20.0,
                    "lamp": preset.lamp or "none",
                },
            )
            for p in positions
        )
        if preset.switch_a
        else ()
    )
    asleep = not kind.fed_by_vehicle
    woken = preset.wake
    if kind.has_switches:
        woken = "run" if job.rules.panel_feed == "keyed" else "always"
    wake = build(Use, {"key": woken if asleep else "always"})
    return AddSupply(point=build(PointDraft, document), wake=wake, new_switches=switches)


@router.post("/points/{point_id}")
def change_point(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, point_id: str, form: Form
) -> Response:
    """Change what is stated of a point."""
    typed = nested({k: v for k, v in form.items() if k != "revision"})
    try:
        stored = jobs.get_job(conn, job_id).job
        before = next((p for p in stored.points if p.id == point_id), None)
        if before is None:
            raise FieldsRefusedError({"form": "This point is no longer in the job."})
        document = merged(before.model_dump(), typed)
        if "positions" in typed:
            document["positions"] = [r for r in rows(typed["positions"]) if r.get("name")]
        point = build(type(before), {**document, "id": point_id, "number": before.number})
        commit(conn, job_id, seen_revision(form), ChangePoint(point=point))
    except FieldsRefusedError as refused:
        return _supply(
            request,
            conn,
            tables,
            job_id,
            point=point_id,
            typed=typed,
            errors=refused.errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/supply?point={point_id}#point")


@router.post("/fill")
def fill_channels(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form
) -> Response:
    """Put the circuits that were ticked on a module's free channels, in one act."""
    point_id = form.get("point_id", "")
    ticked = nested(dict(form)).get("circuit_ids")
    chosen = [str(value) for value in ticked] if isinstance(ticked, list) else []
    try:
        if not chosen:
            raise FieldsRefusedError({"circuit_ids": "Tick at least one circuit."})
        edit = build(FillChannels, {"point_id": point_id, "circuit_ids": chosen})
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        return _supply(
            request, conn, tables, job_id, point=point_id, errors=refused.errors, status=422
        )
    return go(f"/jobs/{job_id}/supply?point={point_id}#point")


@router.post("/switches")
def save_switch(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, form: Form
) -> Response:
    """Add a switch, or change one; its name follows everywhere."""
    typed = nested({k: v for k, v in form.items() if k != "revision"})
    was = str(typed.pop("was", "") or "")
    try:
        document = without_blanks(typed, "rating_a")
        document["pins"] = [row for row in rows(typed.get("pins")) if row.get("printed")]
        if was:
            before = jobs.get_job(conn, job_id).job.switch(was)
            kept = before.model_dump() if before is not None else {}
            switch = build(Switch, {**kept, **document})
            edit: Edit = ChangeSwitch(was=was, switch=switch)
        else:
            edit = AddSwitch(switch=build(Switch, document))
        commit(conn, job_id, seen_revision(form), edit)
    except FieldsRefusedError as refused:
        errors = {f"switch_{k.removeprefix('switch.')}": v for k, v in refused.errors.items()}
        return _supply(
            request,
            conn,
            tables,
            job_id,
            switch=was or "new",
            typed=typed,
            errors=errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/supply#switches")


@router.post("/{part}")
def change_supply(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, part: str, form: Form
) -> Response:
    """Move a circuit, wake or remove a point, state what runs together."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "back")})
    point = str(typed.get("point_id", ""))
    try:
        commit(conn, job_id, seen_revision(form), _edit(part, typed))
    except FieldsRefusedError as refused:
        return _supply(
            request, conn, tables, job_id, point=point, errors=refused.errors, status=422
        )
    gone = part == "remove"
    return go(f"/jobs/{job_id}/supply{f'?point={point}#point' if point and not gone else ''}")


def _edit(part: str, typed: dict[str, Any]) -> Edit:
    if part == "move":
        point, _, position = str(typed.get("start", "")).partition(":")
        start = {"point": point, "position": position}
        return build(StartAt, {"circuit_id": typed.get("circuit_id"), "start": start})
    if part == "wake":
        return build(WakePoint, typed)
    if part == "together":
        return build(
            SetTogether,
            {"point_id": typed.get("point_id"), "together_a": typed.get("together_a") or None},
        )
    if part == "feed":
        wake = mapping(typed.get("wake")) or {"key": "always"}
        return build(FeedPoint, {"point_id": typed.get("point_id"), "wake": wake})
    if part == "remove":
        move_to = {"point": typed["move_to"]} if typed.get("move_to") else None
        return build(RemoveSupply, {"point_id": typed.get("point_id"), "move_to": move_to})
    if part == "remove-switch":
        return build(RemoveSwitch, {"name": typed.get("name")})
    raise FieldsRefusedError({"form": "There is no such change."})
