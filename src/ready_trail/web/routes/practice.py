"""Practice: learners, short drills, hunts. Nothing of it touches a job."""

from __future__ import annotations

import csv
import io
import sqlite3
from collections.abc import Mapping
from datetime import UTC, datetime
from random import Random
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Request
from fastapi import Path as PathParam
from starlette.responses import Response

from ready_trail.core.practice import hunt
from ready_trail.core.practice.facts import Answered, HuntActed, HuntBegun
from ready_trail.core.practice.mistakes import NoMistakeError
from ready_trail.core.practice.questions import KINDS, Question, items_of, question
from ready_trail.core.practice.spacing import next_item
from ready_trail.drawing.lane import face_pins
from ready_trail.drawing.trail import draw_trail
from ready_trail.formats.cells import guarded
from ready_trail.store import jobs, practice
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError
from ready_trail.store.practice import Learner, Practised
from ready_trail.store.works import Work
from ready_trail.web.context import Conn, Form, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, press_key, whole_number
from ready_trail.web.pages.practice import (
    DrillRow,
    drill_rows,
    facts_of,
    ground_of,
    hunt_rows,
    hunt_view,
    learned_by,
    seeded,
)
from ready_trail.web.pages.prove import digest, known_plan, start_plans
from ready_trail.web.pages.shell import Shell, shell_of

router = APIRouter(prefix="/practice", include_in_schema=False)

LearnerId = Annotated[int, PathParam(ge=1, le=2**62)]
ASKED_MOST = 60
"""Questions of one session; then it is enough for today."""
_ACTS = ("read", "name", "danger", "give_up")


@router.get("")
def show_learners(request: Request, conn: Conn) -> Response:
    """Show who practises, and let somebody begin."""
    return _learners(request, conn)


def _learners(
    request: Request,
    conn: sqlite3.Connection,
    *,
    name: str = "",
    errors: Mapping[str, str] | None = None,
) -> Response:
    learners = practice.list_learners(conn)
    return page(
        request,
        "pages/practice.html",
        status=422 if errors else 200,
        learners=learners,
        name=name,
        errors=errors or {},
    )


@router.post("")
def add_learner(request: Request, conn: Conn, form: Form) -> Response:
    """Add somebody by name."""
    name = " ".join(form.get("name", "").split())
    errors = {}
    if not 1 <= len(name) <= 60 or not name.isprintable():
        errors["name"] = "A name of 1 to 60 characters."
    elif practice.known_as(conn, name) is not None:
        errors["name"] = "Somebody practises under this name already: pick it above."
    if errors:
        return _learners(request, conn, name=name, errors=errors)
    with transaction(conn):
        own = practice.add_learner(conn, name)
    return go(f"/practice/{own}")


def _job(conn: sqlite3.Connection, asked: str) -> Shell | None:
    """The job that is practised on: that asked for, else the one changed last that has circuits."""
    number = whole_number(asked)
    if number is not None:
        return shell_of(jobs.get_job(conn, number), "practice")
    for row in jobs.list_jobs(conn):
        if row.circuits:
            return shell_of(jobs.get_job(conn, row.job_id), "practice")
    return None


@router.get("/{learner_id}")
def show_learner(request: Request, conn: Conn, learner_id: LearnerId, job: str = "") -> Response:
    """Show what sits, what is due, and what can be practised on a job."""
    return _learner(request, conn, practice.get_learner(conn, learner_id), job)


def _learner(
    request: Request,
    conn: sqlite3.Connection,
    learner: Learner,
    job: str,
    *,
    typed: Mapping[str, str] | None = None,
    errors: Mapping[str, str] | None = None,
) -> Response:
    shell = _job(conn, job)
    facts = facts_of(conn, learner.learner_id)
    rows: tuple[DrillRow, ...] = ()
    if shell is not None:
        rows = drill_rows(ground_of(shell.design, shell.catalogue), learned_by(facts))
    return page(
        request,
        "pages/practice_learner.html",
        status=422 if errors else 200,
        learner=learner,
        on=shell,
        jobs=[row for row in jobs.list_jobs(conn) if row.circuits],
        rows=rows,
        hunts=hunt_rows(facts),
        levels=hunt.LEVELS,
        typed=typed or {},
        errors=errors or {},
        key=str(uuid4()),
    )


@router.get("/{learner_id}/drill")
def show_drill(
    request: Request, conn: Conn, learner_id: LearnerId, job: str = "", asked: str = ""
) -> Response:
    """Ask the next short question."""
    learner, shell = practice.get_learner(conn, learner_id), _job(conn, job)
    if shell is None:
        return go(f"/practice/{learner_id}")
    ground = ground_of(shell.design, shell.catalogue)
    done = _asked(asked)
    known = learned_by(facts_of(conn, learner_id))
    item = None
    if len(done) < ASKED_MOST:
        item = next_item(list(items_of(ground)), known, done, datetime.now(UTC))
    seed = Random().randrange(1_000_000)
    return _drill(
        request,
        learner,
        shell,
        question(ground, *item, seed) if item is not None else None,
        seed=seed,
        asked=asked,
    )


def _asked(text: str) -> list[tuple[str, str]]:
    pairs = [each.partition("~") for each in text.split("|") if each]
    return [(kind, item) for kind, _, item in pairs][:ASKED_MOST]


def _drill(
    request: Request,
    learner: Learner,
    shell: Shell,
    asks: Question | None,
    *,
    seed: int,
    asked: str,
    answer: int | None = None,
    words: str = "",
) -> Response:
    return page(
        request,
        "pages/practice_drill.html",
        status=422 if words else 200,
        learner=learner,
        on=shell,
        q=asks,
        pins=face_pins(asks.face.letters) if asks is not None and asks.face is not None else (),
        seed=seed,
        asked=asked,
        count=len(_asked(asked)),
        answer=answer,
        words=words,
        kinds=KINDS,
        key=str(uuid4()),
    )


@router.post("/{learner_id}/drill")
def answer_drill(request: Request, conn: Conn, learner_id: LearnerId, form: Form) -> Response:
    """Take an answer; show the derivation. The same press twice counts once."""
    learner, shell = practice.get_learner(conn, learner_id), _job(conn, form.get("job", ""))
    key, seed = press_key(form), whole_number(form.get("seed", "")) or 0
    kind, item = form.get("kind", ""), form.get("item", "")
    if shell is None:
        return go(f"/practice/{learner_id}")
    ground = ground_of(shell.design, shell.catalogue)
    if (kind, item) not in set(items_of(ground)):
        raise FieldsRefusedError({"form": "The job changed meanwhile: this question is gone."})
    asks, asked = question(ground, kind, item, seed), form.get("asked", "")[:6000]
    answer = whole_number(form.get("answer", ""))
    if answer is None or not 0 <= answer < len(asks.choices):
        return _drill(
            request, learner, shell, asks, seed=seed, asked=asked, words="Pick an answer first."
        )
    fact = Answered(drill=kind, item=item, is_right=answer == asks.right)
    with transaction(conn):
        practice.add_practice(conn, learner_id, key, fact)
    asked = f"{asked}|{kind}~{item}" if asked else f"{kind}~{item}"
    return _drill(request, learner, shell, asks, seed=seed, asked=asked, answer=answer)


@router.get("/{learner_id}/error")
def show_error(
    request: Request, conn: Conn, learner_id: LearnerId, job: str = "", seed: str = ""
) -> Response:
    """Show a circuit with one mistake in it, to be named before the review does."""
    learner, shell = practice.get_learner(conn, learner_id), _job(conn, job)
    if shell is None:
        return go(f"/practice/{learner_id}")
    number = whole_number(seed)
    if number is None:
        number = Random().randrange(1_000_000)
    return _error(request, learner, shell, number)


def _error(
    request: Request,
    learner: Learner,
    shell: Shell,
    seed: int,
    *,
    answer: int | None = None,
    words: str = "",
) -> Response:
    titles = frozenset((c, r.rule) for c, r in shell.catalogue.finding_rules.items())
    try:
        found = seeded(shell.design, titles, shell.catalogue, seed)
    except NoMistakeError as error:
        found, words = None, f"{str(error)[:1].upper()}{str(error)[1:]}."
    return page(
        request,
        "pages/practice_error.html",
        status=422 if words else 200,
        learner=learner,
        on=shell,
        m=found,
        trail=draw_trail(found.circuit, shell.catalogue) if found is not None else None,
        seed=seed,
        answer=answer,
        words=words,
        key=str(uuid4()),
    )


@router.post("/{learner_id}/error")
def answer_error(request: Request, conn: Conn, learner_id: LearnerId, form: Form) -> Response:
    """Take a name for the mistake; show what the review says."""
    learner, shell = practice.get_learner(conn, learner_id), _job(conn, form.get("job", ""))
    key, seed = press_key(form), whole_number(form.get("seed", "")) or 0
    if shell is None:
        return go(f"/practice/{learner_id}")
    titles = frozenset((c, r.rule) for c, r in shell.catalogue.finding_rules.items())
    try:
        found = seeded(shell.design, titles, shell.catalogue, seed)
    except NoMistakeError:
        return _error(request, learner, shell, seed)
    answer = whole_number(form.get("answer", ""))
    if answer is None or not 0 <= answer < len(found.choices):
        return _error(request, learner, shell, seed, words="Pick an answer first.")
    fact = Answered(drill="errors", item=found.finding.code, is_right=answer == found.right)
    with transaction(conn):
        practice.add_practice(conn, learner_id, key, fact)
    return _error(request, learner, shell, seed, answer=answer)


@router.post("/{learner_id}/hunt")
def begin_hunt(request: Request, conn: Conn, learner_id: LearnerId, form: Form) -> Response:
    """Hide a fault on a circuit of a job, or on any of them."""
    learner, shell = practice.get_learner(conn, learner_id), _job(conn, form.get("job", ""))
    key = press_key(form)
    level = next((name for name in hunt.LEVELS if name == form.get("level")), None)
    if shell is None:
        return go(f"/practice/{learner_id}")
    own = str(shell.stored.job_id)
    errors = {}
    if level is None:
        errors["level"] = "Pick a level."
    able = [
        c
        for c in shell.design.circuits
        if c.is_ready and not c.circuit.is_feeder and c.installation is not None
    ]
    wanted = form.get("circuit", "")
    able = [c for c in able if wanted in ("", c.circuit.id)]
    if not able:
        errors["circuit"] = "No circuit of this job can be hunted on: each has a stop, or no wires."
    if level is None or not able:
        return _learner(request, conn, learner, own, typed=form, errors=errors)
    chance = Random()
    chance.shuffle(able)
    for circuit in able:
        plan = known_plan(conn, shell, circuit.circuit.id)
        if plan is None:
            continue
        try:
            hidden = hunt.hide(plan.matrix, level, chance)
        except hunt.NothingShowsError:
            continue
        fact = HuntBegun(
            job_id=shell.stored.job_id,
            circuit_id=circuit.circuit.id,
            level=level,
            plan=digest(shell, circuit.circuit.id),
            candidate=hidden.candidate,
            row=hidden.row,
            symptom=hidden.symptom,
        )
        with transaction(conn):
            practice.add_practice(conn, learner_id, key, fact)
        return go(f"/practice/{learner_id}/hunt/{key}")
    if all(known_plan(conn, shell, c.circuit.id) is not None for c in able):
        errors["level"] = "No fault of this level would be noticed there: pick another."
        return _learner(request, conn, learner, own, errors=errors)
    work = start_plans(request.app.state.database, shell.stored, wanted)
    return _wait(request, learner, shell, work)


def _wait(request: Request, learner: Learner, shell: Shell, work: Work) -> Response:
    return page(request, "pages/practice_wait.html", learner=learner, on=shell, work=work)


def _hunted(
    conn: sqlite3.Connection, learner_id: int, key: str
) -> tuple[HuntBegun, list[HuntActed], tuple[Practised, ...]]:
    facts = facts_of(conn, learner_id)
    begun = next((f.fact for f in facts if f.key == key and isinstance(f.fact, HuntBegun)), None)
    if begun is None:
        raise NotFoundError("hunt", key[:64])
    acts = [f.fact for f in facts if isinstance(f.fact, HuntActed) and f.fact.hunt == key]
    return begun, acts, facts


@router.get("/{learner_id}/hunt/{key}")
def show_hunt(request: Request, conn: Conn, learner_id: LearnerId, key: str) -> Response:
    """Show a hunt as far as it is: it waits as long as one likes."""
    return _hunt(request, conn, practice.get_learner(conn, learner_id), key)


def _hunt(
    request: Request,
    conn: sqlite3.Connection,
    learner: Learner,
    key: str,
    *,
    errors: Mapping[str, str] | None = None,
) -> Response:
    begun, acts, _ = _hunted(conn, learner.learner_id, key)
    shell = shell_of(jobs.get_job(conn, begun.job_id), "practice")
    is_same = digest(shell, begun.circuit_id) == begun.plan if _has(shell, begun) else False
    plan = known_plan(conn, shell, begun.circuit_id) if is_same else None
    if is_same and plan is None:
        work = start_plans(request.app.state.database, shell.stored, begun.circuit_id)
        return _wait(request, learner, shell, work)
    return page(
        request,
        "pages/practice_hunt.html",
        status=422 if errors else 200,
        learner=learner,
        on=shell,
        hunt_key=key,
        view=hunt_view(plan, begun, acts) if plan is not None else None,
        circuit=shell.design.circuit(begun.circuit_id) if plan is not None else None,
        levels=hunt.LEVELS,
        dangerous=hunt.DANGEROUS,
        errors=errors or {},
        key=str(uuid4()),
    )


def _has(shell: Shell, begun: HuntBegun) -> bool:
    return any(c.circuit.id == begun.circuit_id for c in shell.design.circuits)


@router.post("/{learner_id}/hunt/{key}")
def act_in_hunt(
    request: Request, conn: Conn, learner_id: LearnerId, key: str, form: Form
) -> Response:
    """Read, name, give up, or do what one must not."""
    learner = practice.get_learner(conn, learner_id)
    begun, acts, _ = _hunted(conn, learner_id, key)
    press, what = press_key(form), form.get("what", "")
    shell = shell_of(jobs.get_job(conn, begun.job_id), "practice")
    plan = known_plan(conn, shell, begun.circuit_id) if _has(shell, begun) else None
    if plan is None or digest(shell, begun.circuit_id) != begun.plan:
        return _hunt(request, conn, learner, key)
    ended = any(a.what == "give_up" or (a.what == "name" and a.is_right) for a in acts)
    if ended:
        return go(f"/practice/{learner_id}/hunt/{key}")
    matrix, asked = plan.matrix, form.get(what, "")[:400]
    hidden = hunt.Hidden(candidate=begun.candidate, row=begun.row, symptom=begun.symptom)
    errors = {}
    if what == "read" and matrix.column(asked) is None:
        errors["read"] = "Pick a reading first."
    elif what == "name" and all(c.key != asked for c in matrix.candidates):
        errors["name"] = "Pick what you think it is."
    elif what not in _ACTS or (what == "danger" and asked not in hunt.DANGEROUS):
        errors["form"] = "There is no such act."
    if errors:
        return _hunt(request, conn, learner, key, errors=errors)
    fact = HuntActed(
        hunt=key,
        what=what,  # type: ignore[arg-type]
        key=asked,
        is_right=what == "name" and hunt.is_found(matrix, hidden, asked),
    )
    with transaction(conn):
        practice.add_practice(conn, learner_id, press, fact)
    return go(f"/practice/{learner_id}/hunt/{key}")


@router.get("/{learner_id}/progress.csv")
def progress_file(conn: Conn, learner_id: LearnerId) -> Response:
    """Everything that a learner did, as CSV."""
    learner = practice.get_learner(conn, learner_id)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(("at", "what", "of", "item", "right"))
    for each in facts_of(conn, learner_id):
        match each.fact:
            case Answered() as f:
                row = (f.at, "answered", f.drill, f.item, "yes" if f.is_right else "no")
            case HuntBegun() as f:
                row = (f.at, "hunt begun", f.level, f.circuit_id, "")
            case HuntActed() as f:
                row = (f.at, f"hunt {f.what}", f.hunt, f.key, "yes" if f.is_right else "")
        writer.writerow([guarded(cell) for cell in row])
    return download(out.getvalue(), "text/csv", f"{learner.name}-practice.csv")
