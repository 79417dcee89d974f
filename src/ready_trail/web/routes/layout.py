"""Stage Layout: where things sit on the vehicle, and which way the wires go."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import bundle_ratio
from ready_trail.core.design import Design
from ready_trail.core.edits import (
    AddPoint,
    ChangeLeg,
    Edit,
    JoinPoints,
    KeepApart,
    MovePoint,
    PlaceCircuit,
    SetLayout,
)
from ready_trail.core.job import Job
from ready_trail.core.layout.templates import offered_layout
from ready_trail.core.looms import earth_loads, looms
from ready_trail.drawing.plan import draw_plan, what_sits_where
from ready_trail.drawing.section import draw_section
from ready_trail.formats.rendering import environment
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested, without_blanks
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/layout", include_in_schema=False)


@router.get("")
def show_layout(
    request: Request, conn: Conn, tables: Tables, job_id: int, leg: str = "", point: str = ""
) -> Response:
    """Show plan and side view with one leg or point picked."""
    return _layout(request, conn, tables, job_id, leg=leg, point=point)


def _layout(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    leg: str = "",
    point: str = "",
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    made, layout = shell.design, shell.stored.job.layout
    every = looms(made, tables)
    picked = next((x for x in every if x.leg.id == leg), None)
    points = {p.id: p for p in layout.points} if layout else {}
    return page(
        request, "pages/layout.html", status=status, shell=shell, layout=layout, looms=every,
        plans_drawn=[draw_plan(made, every, tables, view) for view in ("plan", "side")],
        picked=picked, section=draw_section(picked) if picked else None,
        bundle_ratio=bundle_ratio, spot=points.get(point), points=points,
        sits=what_sits_where(made), earths=earth_loads(made), zones=tables.zones,
        when=when_loaded(made), typed=dict(typed or {}), errors=dict(errors or {}),
    )  # fmt: skip


def when_loaded(made: Design) -> dict[str, str]:
    """When each circuit's wires carry current, in the words of its accessory's use."""
    keys = {"always": "at any time", "accessory": "from key at accessory", "run": "at key run"}
    beams = {"side": "with the side lights", "low": "on low beam", "high": "on high beam"}
    words = {}
    for circuit in made.circuits:
        use = circuit.accessories[0].use
        words[circuit.circuit.id] = beams.get(use.lights, keys[use.key])
    return words


@router.get(".svg")
def plan_svg(conn: Conn, tables: Tables, job_id: int) -> Response:
    """The plan as a self-contained SVG file."""
    from ready_trail.web.routes.exports import drawing_css

    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    plan = draw_plan(shell.design, looms(shell.design, tables), tables, "plan")
    template = environment().get_template("drawing/plan_file.svg.html")
    text = template.render(plan=plan, css=drawing_css(), shell=shell)
    return Response(text, media_type="image/svg+xml")


@router.post("/{part}")
def change_layout(
    request: Request, conn: Conn, tables: Tables, job_id: int, part: str, form: Form
) -> Response:
    """Change one thing: take the offer, move or add a point, change a leg, place a circuit."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "leg", "point")})
    leg, point = form.get("leg", ""), form.get("point", "")
    try:
        job = jobs.get_job(conn, job_id).job
        commit(conn, job_id, seen_revision(form), _edit(part, typed, job))
    except FieldsRefusedError as refused:
        return _layout(request, conn, tables, job_id, leg=leg, point=point, typed=typed,
                       errors=refused.errors, status=422)  # fmt: skip
    query = f"?leg={leg}" if leg else (f"?point={point}" if point else "")
    return go(f"/jobs/{job_id}/layout{query}")


def _edit(part: str, typed: dict[str, Any], job: Job) -> Edit:
    makers: dict[str, Callable[[dict[str, Any], Job], Edit]] = {
        "offer": _offer,
        "move": lambda d, _: build(MovePoint, d),
        "add": lambda d, _: build(AddPoint, d),
        "join": lambda d, _: build(JoinPoints, d),
        "leg": _leg,
        "place": _place,
        "apart": _apart,
        "via": _via,
    }
    if part not in makers:
        raise FieldsRefusedError({"form": "There is no such change."})
    return makers[part](typed, job)


def _offer(typed: dict[str, Any], job: Job) -> Edit:
    sizes = {}
    for name in ("length_m", "width_m", "height_m"):
        if typed.get(name):
            try:
                sizes[name] = float(typed[name])
            except ValueError:
                raise FieldsRefusedError({name: "Type a number, such as 5.3."}) from None
            if not 0.3 <= sizes[name] <= 20:
                raise FieldsRefusedError({name: "Must be from 0.3 to 20 m."})
    try:
        return SetLayout(layout=offered_layout(job.vehicle.kind, **sizes))
    except ValueError as error:
        raise FieldsRefusedError({"length_m": "No vehicle has these sizes."}) from error


def _leg(typed: dict[str, Any], _: Job) -> Edit:
    document = without_blanks(typed, "taped_m")
    hole = document.pop("hole", {})
    if hole.get("panel"):
        document["hole"] = hole
    return build(ChangeLeg, document)


def _via(typed: dict[str, Any], job: Job) -> Edit:
    """Send a circuit's wires past a point, or no longer."""
    point, circuit_id = str(typed.get("via", "")), str(typed.get("circuit_id", ""))
    circuit = next((c for c in job.circuits if c.id == circuit_id), None)
    if circuit is None or circuit.place is None:
        raise FieldsRefusedError({"circuit_id": "Place this circuit first."})
    via = tuple(v for v in circuit.place.via if v != point)
    if point not in circuit.place.via:
        via = (*via, point)
    place = circuit.place.model_copy(update={"via": via})
    return build(PlaceCircuit, {"circuit_id": circuit_id, "place": place.model_dump()})


def _apart(typed: dict[str, Any], job: Job) -> Edit:
    """State that two circuits never run together, or take it back."""
    a, b = str(typed.get("circuit_id", "")), str(typed.get("other_id", ""))
    circuit = next((c for c in job.circuits if c.id == a), None)
    if circuit is None or a == b:
        raise FieldsRefusedError({"other_id": "Choose two different circuits."})
    known = circuit.never_with
    others = tuple(c for c in known if c != b) if b in known else (*known, b)
    return build(KeepApart, {"circuit_id": a, "never_with": others})


def _place(typed: dict[str, Any], _: Job) -> Edit:
    place = without_blanks(typed.get("place", {}), "switching", "control", "earth", "via")
    if isinstance(place.get("via"), str):
        place["via"] = tuple(v for v in place["via"].split() if v)
    document = {
        "circuit_id": typed.get("circuit_id"),
        "place": place if place.get("load") else None,
    }
    return build(PlaceCircuit, document)
