"""Stage Layout: where things sit on the vehicle, and which way the wires go."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.conductors import bundle_ratio
from ready_trail.core.edits import RemovePoint
from ready_trail.core.edits.off_layout import TakenOff, taken_off
from ready_trail.core.edits.placing import spot_words, things_to_place
from ready_trail.core.forms import mapping, rows
from ready_trail.core.job import Job
from ready_trail.core.looms import Loom, earth_loads, looms
from ready_trail.core.places import what_sits_where, when_loaded
from ready_trail.drawing.plan import draw_plan
from ready_trail.drawing.section import draw_section
from ready_trail.formats.rendering import environment
from ready_trail.store import jobs
from ready_trail.web.again import Refusal, Told
from ready_trail.web.context import Conn, JobId, Tables, page
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.papers.common import drawing_css

router = APIRouter(prefix="/jobs/{job_id}/layout", include_in_schema=False)


@router.get("")
def show_layout(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    told: Refusal,
    leg: str = "",
    point: str = "",
    placing: str = "",
) -> Response:
    """Show plan and side view with one leg or point picked, or one thing being placed."""
    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    made, layout = shell.design, shell.stored.job.layout
    every = looms(made, tables)
    picked = next((x for x in every if x.leg.id == leg), None)
    points = {p.id: p for p in layout.points} if layout else {}
    things = things_to_place(shell.stored.job)
    placed = told.of("place_many")
    return page(
        request,
        "pages/layout.html",
        shell=shell,
        layout=layout,
        looms=every,
        plans_drawn=[draw_plan(made, every, tables, view) for view in ("plan", "side")],
        picked=picked,
        section=draw_section(picked) if picked else None,
        bundle_ratio=bundle_ratio,
        spot=points.get(point),
        points=points,
        sits=what_sits_where(made),
        earths=earth_loads(made),
        zones=tables.zones,
        when=when_loaded(made),
        waits=_waits(shell.stored.job),
        told=told,
        hole=_hole(picked, told),
        errors={},
        removal=_removal(shell.stored.job, point),
        things=things,
        spot_words=spot_words(shell.stored.job),
        typed_rows={str(r.get("circuit_id")): r for r in rows(placed.get("rows"))},
        typed_things={
            str(r["key"]): r.get("place")
            for r in rows(placed.get("things"))
            if isinstance(r.get("key"), str)
        },
        placing=next((t for t in things if t.key == placing), None),
        found_earths=[i for i in shell.stored.job.survey.items if i.is_a.is_earth],
    )


def _hole(picked: Loom | None, told: Told) -> dict[str, Any]:
    """The hole of the picked leg as the form shows it: as typed, or as it stands."""
    if told.of("change_leg"):
        return mapping(told.typed.get("hole"))
    hole = picked.leg.hole if picked is not None else None
    return hole.model_dump() if hole is not None else {}


def _removal(job: Job, point: str) -> TakenOff | None:
    """What removing the picked point would take off the layout, if anything."""
    layout = job.layout
    if layout is None or point == layout.battery or all(p.id != point for p in layout.points):
        return None
    return taken_off(job, RemovePoint(point_id=point).bare(job)) or None


def _waits(job: Job) -> dict[str, str]:
    """By circuit that is placed: the name of the point that must be placed before its way is."""
    unplaced = {p.id: p.name for p in job.points if p.place is None and not p.fed_by_vehicle}
    return {
        c.id: unplaced[c.start.point]
        for c in job.circuits
        if c.place is not None and c.start.point in unplaced
    }


@router.get(".svg")
def plan_svg(conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """The plan as a self-contained SVG file."""
    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    plan = draw_plan(shell.design, looms(shell.design, tables), tables, "plan")
    template = environment().get_template("drawing/plan_file.svg.html")
    text = template.render(plan=plan, css=drawing_css(), shell=shell)
    return Response(text, media_type="image/svg+xml")
