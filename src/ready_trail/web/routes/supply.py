"""Stage Supply: sources, feeders, points with their positions, and the hand switches."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import PointPreset
from ready_trail.core.edits.point_preset import from_preset
from ready_trail.core.forms import mapping
from ready_trail.core.kinds.points import POINT_KINDS
from ready_trail.store import jobs
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, Tables, page
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
    told: Refusal,
    point: str = "",
    switch: str = "",
    add: str = "",
    scenario: str = "",
) -> Response:
    """Show the tree, with one point, one switch or the presets opened, or in one scenario."""
    shell = shell_of(jobs.get_job(conn, job_id), "supply")
    job = shell.stored.job
    picked = next((p for p in job.points if p.id == point), None)
    chosen = job.switch(switch) if switch else None
    groups: dict[str, list[tuple[PointPreset, str]]] = {}
    for preset in tables.point_presets.values() if add else ():
        if preset.for_v is None or preset.for_v == job.vehicle.nominal_v:
            groups.setdefault(preset.group, []).append((preset, from_preset(preset, job).press()))
    stated = picked.model_dump() if picked else {}
    set_up = chosen.model_dump() if chosen else {}
    return page(
        request,
        "pages/supply.html",
        shell=shell,
        view=supply_of(shell, tables, scenario),
        scenario=scenario,
        picked=picked,
        chosen=chosen,
        adding=bool(add),
        shown=stated | mapping(told.of("change_point").get("point")),
        legends=[job.legend(picked, p) for p in picked.positions] if picked else [],
        errors={},
        groups=groups,
        zones=tables.zones,
        kinds={k: v.words for k, v in POINT_KINDS.items()},
        channel_choices=CHANNEL_CHOICES,
        new_switch=switch == "new",
        set_up=set_up | mapping(told.of("add_switch", "change_switch").get("switch")),
    )
