"""Hunts for hidden faults: begun, read, named, given up; each waits as long as one likes."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from random import Random
from urllib.parse import urlencode
from uuid import uuid4

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.practice import hunt
from ready_trail.core.practice.facts import HuntActed, HuntBegun
from ready_trail.core.prove.bench import bench_of
from ready_trail.store import jobs, practice
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError
from ready_trail.store.practice import Learner
from ready_trail.web.context import Conn, Form, go, page
from ready_trail.web.fields import FieldsRefusedError, press_key
from ready_trail.web.pages.hunt import (
    ACTS,
    BETWEEN,
    ON_PIECE,
    asked_test,
    ended_of,
    hunt_view,
    vehicle_now,
)
from ready_trail.web.pages.practice import facts_of
from ready_trail.web.pages.prove import digest, known_plan, plan_with, start_plans
from ready_trail.web.pages.sheet_drawn import RowCard, circuit_cards
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.routes.practice import LearnerId, job_of, learner_page

router = APIRouter(prefix="/practice", include_in_schema=False)

_ACTS = ("read", "name", "danger", "give_up")
_KEPT = ("red", "black", "set", "piece")
"""What stays chosen from one reading to the next."""


@router.post("/{learner_id}/hunt")
def begin_hunt(request: Request, conn: Conn, learner_id: LearnerId, form: Form) -> Response:
    """Hide a fault on a circuit of a job, or on any of them."""
    learner, shell = practice.get_learner(conn, learner_id), job_of(conn, form.get("job", ""))
    key = press_key(form)
    level = next((name for name in hunt.LEVELS if name == form.get("level")), None)
    if shell is None:
        return go(f"/practice/{learner_id}")
    own = str(shell.stored.job_id)
    errors = {}
    if level is None:
        errors["level"] = "Pick a level."
    wanted = form.get("circuit", "")
    able = [c for c in shell.design.circuits if _can_be_hunted(c) and wanted in ("", c.circuit.id)]
    if not able:
        errors["circuit"] = "No circuit of this job can be hunted on: each has a stop, or no wires."
    if level is None or not able:
        return learner_page(request, conn, learner, own, typed=form, errors=errors)
    begun, is_ready = _hidden(conn, shell, able, level)
    if begun is not None:
        with transaction(conn):
            practice.add_practice(conn, learner_id, key, begun)
        return go(f"/practice/{learner_id}/hunt/{key}")
    if is_ready:
        errors["level"] = "No fault of this level would be noticed there: pick another."
        return learner_page(request, conn, learner, own, typed=form, errors=errors)
    return _wait(request, learner, shell, wanted)


def _can_be_hunted(made: CircuitDesign) -> bool:
    return made.is_ready and not made.circuit.is_feeder and made.installation is not None


def _hidden(
    conn: sqlite3.Connection, shell: Shell, able: list[CircuitDesign], level: hunt.Level
) -> tuple[HuntBegun | None, bool]:
    """What is hidden, on one of these circuits; and whether all their plans are reckoned."""
    chance = Random()
    chance.shuffle(able)
    is_ready = True
    for made in able:
        circuit_id = made.circuit.id
        plan, bench = known_plan(conn, shell, circuit_id), bench_of(shell.design, circuit_id)
        if plan is None or bench is None:
            is_ready = False
            continue
        try:
            first, *more = hunt.hide(bench, plan.matrix, level, chance)
        except hunt.NothingShowsError:
            continue
        begun = HuntBegun(
            job_id=shell.stored.job_id,
            circuit_id=circuit_id,
            level=level,
            plan=digest(shell, circuit_id),
            candidate=first.candidate,
            row=first.row,
            second=more[0].row if more else None,
        )
        return begun, is_ready
    return None, is_ready


def _wait(request: Request, learner: Learner, shell: Shell, circuit_id: str) -> Response:
    work = start_plans(request.app.state.database, shell.stored, circuit_id)
    return page(request, "pages/practice_wait.html", learner=learner, on=shell, work=work)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Hunt:
    """A hunt with the job that it is on; ``stands`` tells that the circuit is as it was."""

    begun: HuntBegun
    acts: list[HuntActed]
    shell: Shell
    stands: bool


def _hunted(conn: sqlite3.Connection, learner_id: int, key: str) -> _Hunt:
    facts = facts_of(conn, learner_id)
    begun = next((f.fact for f in facts if f.key == key and isinstance(f.fact, HuntBegun)), None)
    if begun is None:
        raise NotFoundError("hunt", key[:64])
    acts = [f.fact for f in facts if isinstance(f.fact, HuntActed) and f.fact.hunt == key]
    shell = shell_of(jobs.get_job(conn, begun.job_id), "practice")
    has_it = any(c.circuit.id == begun.circuit_id for c in shell.design.circuits)
    stands = has_it and digest(shell, begun.circuit_id) == begun.plan
    return _Hunt(begun=begun, acts=acts, shell=shell, stands=stands)


@router.get("/{learner_id}/hunt/{key}")
def show_hunt(request: Request, conn: Conn, learner_id: LearnerId, key: str) -> Response:
    """Show a hunt as far as it is."""
    chosen = {name: request.query_params.get(name, "") for name in _KEPT}
    return _hunt(request, conn, practice.get_learner(conn, learner_id), key, chosen=chosen)


def _hunt(
    request: Request,
    conn: sqlite3.Connection,
    learner: Learner,
    key: str,
    *,
    chosen: Mapping[str, str],
    errors: Mapping[str, str] | None = None,
) -> Response:
    found = _hunted(conn, learner.learner_id, key)
    shell, circuit_id = found.shell, found.begun.circuit_id
    view = None
    cards: tuple[RowCard, ...] = ()
    if found.stands:
        ended = ended_of(found.begun, found.acts)
        keys = [a.key for a in found.acts if a.what == "read" and ended]
        plan, bench = plan_with(conn, shell, circuit_id, keys), bench_of(shell.design, circuit_id)
        if plan is None or bench is None:
            return _wait(request, learner, shell, circuit_id)
        view = hunt_view(plan, bench, found.begun, found.acts)
        cards = circuit_cards(shell, circuit_id)
    return page(
        request,
        "pages/practice_hunt.html",
        status=422 if errors else 200,
        learner=learner,
        on=shell,
        hunt_key=key,
        view=view,
        cards=cards,
        circuit=shell.design.circuit(circuit_id) if found.stands else None,
        between=BETWEEN,
        on_piece=ON_PIECE,
        dangerous=hunt.DANGEROUS,
        chosen=chosen,
        errors=errors or {},
        key=str(uuid4()),
    )


@router.post("/{learner_id}/hunt/{key}")
def act_in_hunt(
    request: Request, conn: Conn, learner_id: LearnerId, key: str, form: Form
) -> Response:
    """Read, name, give up, or do what one must not."""
    learner, here = practice.get_learner(conn, learner_id), f"/practice/{learner_id}/hunt/{key}"
    press, found = press_key(form), _hunted(conn, learner_id, key)
    circuit_id = found.begun.circuit_id
    plan = known_plan(conn, found.shell, circuit_id) if found.stands else None
    bench = bench_of(found.shell.design, circuit_id) if found.stands else None
    if plan is None or bench is None or ended_of(found.begun, found.acts):
        return go(here)
    vehicle = vehicle_now(found.begun, bench, plan.matrix, found.acts)
    what, asked = form.get("what", ""), form.get(form.get("what", ""), "")[:400]
    try:
        if what in ACTS:
            what, asked = "read", asked_test(bench, plan.matrix, what, form).key
        elif what == "read" and not vehicle.tests([asked]):
            raise FieldsRefusedError({"read": "Pick a reading first."})
        elif what == "name" and all(c.key != asked for c in plan.matrix.candidates):
            raise FieldsRefusedError({"name": "Pick what you think it is."})
        elif what not in _ACTS or (what == "danger" and asked not in hunt.DANGEROUS):
            raise FieldsRefusedError({"form": "There is no such act."})
    except FieldsRefusedError as refused:
        return _hunt(request, conn, learner, key, chosen=form, errors=refused.errors)
    is_right = what == "name" and bool(vehicle.means(asked))
    fact = HuntActed.model_validate({"hunt": key, "what": what, "key": asked, "is_right": is_right})
    with transaction(conn):
        practice.add_practice(conn, learner_id, press, fact)
    kept = {name: form[name] for name in _KEPT if form.get(name) and not is_right}
    return go(f"{here}?{urlencode(kept)}#read" if kept else here)
