"""Stage Layout: where things sit on the vehicle, and which way the wires go."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import bundle_ratio
from ready_trail.core.edits import (
    AddPoint,
    ChangeLeg,
    Edit,
    JoinPoints,
    KeepApart,
    MovePoint,
    PlaceCircuit,
    PlaceMany,
    RemovePoint,
    RenamePoint,
    SetLayout,
)
from ready_trail.core.edits.off_layout import TakenOff, taken_off
from ready_trail.core.job import Job
from ready_trail.core.layout.templates import offered_layout, vehicle_shape
from ready_trail.core.looms import earth_loads, looms
from ready_trail.core.places import SIGNAL_WORDS, what_sits_where, when_loaded
from ready_trail.drawing.plan import draw_plan
from ready_trail.drawing.section import draw_section
from ready_trail.formats.rendering import environment
from ready_trail.store import jobs
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Tables, go, page
from ready_trail.web.fields import FieldsRefusedError, build, mapping, nested, rows
from ready_trail.web.pages.shell import shell_of
from ready_trail.web.papers.common import drawing_css

router = APIRouter(prefix="/jobs/{job_id}/layout", include_in_schema=False)


@router.get("")
def show_layout(
    request: Request,
    conn: Conn,
    tables: Tables,
    job_id: JobId,
    leg: str = "",
    point: str = "",
    placing: str = "",
) -> Response:
    """Show plan and side view with one leg or point picked, or one thing being placed."""
    return _layout(request, conn, tables, job_id, leg=leg, point=point, placing=placing)


def _layout(
    request: Request,
    conn: sqlite3.Connection,
    tables: Catalogue,
    job_id: int,
    *,
    leg: str = "",
    point: str = "",
    placing: str = "",
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    made, layout = shell.design, shell.stored.job.layout
    every = looms(made, tables)
    picked = next((x for x in every if x.leg.id == leg), None)
    points = {p.id: p for p in layout.points} if layout else {}
    things = things_to_place(shell.stored.job)
    return page(
        request,
        "pages/layout.html",
        status=status,
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
        typed=dict(typed or {}),
        errors=dict(errors or {}),
        removal=_removal(shell.stored.job, point),
        things=things,
        spot_words=spot_words(shell.stored.job),
        typed_rows={str(r.get("circuit_id")): r for r in rows((typed or {}).get("rows"))},
        typed_things={
            str(r["key"]): r.get("place")
            for r in rows((typed or {}).get("things"))
            if isinstance(r.get("key"), str)
        },
        placing=next((t for t in things if t.key == placing), None),
        found_earths=[i for i in shell.stored.job.survey.items if i.is_a.is_earth],
    )


def spot_words(job: Job) -> dict[str, str]:
    """By point of the layout: its name; where two have the same one, with what tells them apart."""
    points = job.layout.points if job.layout else ()
    names = [p.name.casefold() for p in points]
    return {
        p.id: p.name if names.count(p.name.casefold()) == 1 else f"{p.name} ({p.id})"
        for p in points
    }


def _spot_of(job: Job, field: str, text: object) -> str | None:
    """The point that is meant by what was typed or chosen; None for a blank."""
    wanted = str(text or "").strip().casefold()
    if not wanted:
        return None
    for key, words in spot_words(job).items():
        if wanted in (key.casefold(), words.casefold()):
            return key
    raise FieldsRefusedError({field: f"No point is called {text}; choose one of the list."})


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """Something that can sit on the layout: what it is, its name, where it sits now."""

    what: str
    name: str
    words: str
    place: str | None

    @property
    def key(self) -> str:
        """Its name in a form."""
        return f"{self.what}:{self.name}"


def things_to_place(job: Job) -> tuple[Thing, ...]:
    """Return accessories, points, switches and the signals that this job uses."""
    found = [
        Thing(what="circuit", name=c.id, words=c.name, place=c.place.load if c.place else None)
        for c in job.circuits
        if not c.is_feeder
    ]
    found += [
        Thing(what="branch", name=f"{c.id} {b.id}", words=b.name, place=b.place)
        for c in job.circuits
        for b in c.branches
    ]
    found += [Thing(what="point", name=p.id, words=p.name, place=p.place) for p in job.points]
    found += [
        Thing(what="switch", name=s.name, words=s.name, place=s.place)
        for s in job.switches
        if s.panel is None or s.place is not None
    ]
    used = {u.follows for u in job.uses()} - {"always"}
    found += [
        Thing(what="signal", name=name, words=words, place=job.signal_place(name))
        for name, words in SIGNAL_WORDS.items()
        if name in used
    ]
    return tuple(found)


@router.get(".svg")
def plan_svg(conn: Conn, tables: Tables, job_id: JobId) -> Response:
    """The plan as a self-contained SVG file."""
    shell = shell_of(jobs.get_job(conn, job_id), "layout")
    plan = draw_plan(shell.design, looms(shell.design, tables), tables, "plan")
    template = environment().get_template("drawing/plan_file.svg.html")
    text = template.render(plan=plan, css=drawing_css(), shell=shell)
    return Response(text, media_type="image/svg+xml")


@router.post("/{part}")
def change_layout(
    request: Request, conn: Conn, tables: Tables, job_id: JobId, part: str, form: Form
) -> Response:
    """Change one thing: take the offer, move or add a point, change a leg, place a circuit."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "leg", "point")})
    leg, point = form.get("leg", ""), form.get("point", "")
    try:
        job = jobs.get_job(conn, job_id).job
        after = commit(conn, job_id, seen_revision(form), _edit(part, typed, job))
    except FieldsRefusedError as refused:
        return _layout(
            request,
            conn,
            tables,
            job_id,
            leg=leg,
            point=point,
            typed=typed,
            errors=refused.errors,
            status=422,
        )
    if part == "add" and after.layout is not None:
        point = after.layout.points[-1].id  # the inspector goes on with what was added
    query = f"?leg={leg}" if leg else (f"?point={point}" if point else "")
    return go(f"/jobs/{job_id}/layout{query}")


def _edit(part: str, typed: dict[str, Any], job: Job) -> Edit:
    makers: dict[str, Callable[[dict[str, Any], Job], Edit]] = {
        "offer": _offer,
        "move": _move,
        "rename": lambda d, _: build(RenamePoint, d),
        "add": lambda d, _: build(AddPoint, d),
        "join": lambda d, _: build(JoinPoints, d),
        "leg": _leg,
        "place": _place_all,
        "put": _put,
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
                sizes[name] = float(str(typed[name]))
            except ValueError:
                raise FieldsRefusedError({name: "Type a number, such as 5.3."}) from None
            if not 0.3 <= sizes[name] <= 20:
                raise FieldsRefusedError({name: "Must be from 0.3 to 20 m."})
    try:
        layout = offered_layout(job.vehicle.kind, drive=job.vehicle.drive, **sizes)
        return SetLayout(layout=layout)
    except ValueError as error:
        raise FieldsRefusedError({"length_m": "No vehicle has these sizes."}) from error


def _leg(typed: dict[str, Any], _: Job) -> Edit:
    document = dict(typed)
    hole = mapping(document.pop("hole", {}))
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


def _move(typed: dict[str, Any], job: Job) -> Edit:
    """Move a point; where it comes to lie in another part of the vehicle, its legs follow."""
    edit = build(MovePoint, typed)
    layout = job.layout
    was = next((p for p in layout.points if p.id == edit.point_id), None) if layout else None
    if layout is None or was is None:
        return edit
    shape = vehicle_shape(job.vehicle.kind)
    before = shape.zone_at(was.x_m / layout.length_m)
    after = shape.zone_at(edit.x_m / layout.length_m)
    return edit if before == after else edit.model_copy(update={"zone": after})


def _place_all(typed: dict[str, Any], job: Job) -> Edit:
    """Every row of the table at once: only what differs from the job is an edit."""
    places: list[dict[str, Any]] = []
    for at, row in enumerate(rows(typed.get("rows"))):
        circuit = next((c for c in job.circuits if c.id == row.get("circuit_id")), None)
        if circuit is None:
            continue
        now = circuit.place.model_dump() if circuit.place else {}
        names = ("load", "switching", "earth")
        wanted = {k: _spot_of(job, f"rows.{at}.{k}", row.get(k)) for k in names}
        placed = bool(wanted["load"]) or (circuit.is_feeder and any(wanted.values()))
        place = {**now, **wanted, "via": now.get("via", ())} if placed else None
        if place != (now or None):
            places.append({"circuit_id": circuit.id, "place": place})
    spots = {
        row.get("key"): _spot_of(job, f"things.{at}.place", row.get("place"))
        for at, row in enumerate(rows(typed.get("things")))
    }
    things = [
        {"what": thing.what, "name": thing.name, "place": spots[thing.key]}
        for thing in things_to_place(job)
        if thing.key in spots and spots[thing.key] != thing.place
    ]
    return build(PlaceMany, {"places": places, "things": things})


def _put(typed: dict[str, Any], job: Job) -> Edit:
    """Put one thing on a spot: picked, then pressed or dropped on the drawing."""
    what, _, name = str(typed.get("key", "")).partition(":")
    spot = str(typed.get("place", "")) or None
    if what != "circuit":
        return build(PlaceMany, {"things": [{"what": what, "name": name, "place": spot}]})
    circuit = next((c for c in job.circuits if c.id == name), None)
    if circuit is None:
        raise FieldsRefusedError({"key": "Pick what to place first."})
    now = circuit.place.model_dump() if circuit.place else {}
    place = {**now, "load": spot} if spot else None
    return build(PlaceMany, {"places": [{"circuit_id": name, "place": place}]})
