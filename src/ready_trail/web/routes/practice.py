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
from ready_trail.core.practice.mistakes import CODES, DRILL, NoMistakeError, seed_for
from ready_trail.core.practice.questions import KINDS, Question, items_of, question
from ready_trail.core.practice.spacing import next_item
from ready_trail.core.practice.stated import stated
from ready_trail.drawing.lane import face_pins
from ready_trail.drawing.trail import draw_trail
from ready_trail.formats.cells import guarded
from ready_trail.store import jobs, practice
from ready_trail.store.db import transaction
from ready_trail.store.practice import Learner
from ready_trail.web.context import Conn, Form, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, press_key, whole_number
from ready_trail.web.pages.practice import (
    DrillRow,
    drill_rows,
    facts_of,
    ground_of,
    hunt_rows,
    learned_by,
    seeded,
)
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


def job_of(conn: sqlite3.Connection, asked: str) -> Shell | None:
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
    return learner_page(request, conn, practice.get_learner(conn, learner_id), job)


def learner_page(
    request: Request,
    conn: sqlite3.Connection,
    learner: Learner,
    job: str,
    *,
    typed: Mapping[str, str] | None = None,
    errors: Mapping[str, str] | None = None,
) -> Response:
    """Answer with a learner's page on a job, with what was typed and what is wrong with it."""
    shell = job_of(conn, job)
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
    learner, shell = practice.get_learner(conn, learner_id), job_of(conn, job)
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
    learner, shell = practice.get_learner(conn, learner_id), job_of(conn, form.get("job", ""))
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
    learner, shell = practice.get_learner(conn, learner_id), job_of(conn, job)
    if shell is None:
        return go(f"/practice/{learner_id}")
    number = whole_number(seed)
    if number is None:
        number = _next_seed(conn, learner_id)
    return _error(request, learner, shell, number)


def _next_seed(conn: sqlite3.Connection, learner_id: int) -> int:
    """A mistake that was missed and is due comes before any other."""
    known = learned_by(facts_of(conn, learner_id))
    missed = [(DRILL, code) for code in CODES if (DRILL, code) in known]
    item = next_item(missed, known, (), datetime.now(UTC))
    return seed_for(item[1] if item is not None else None, Random())


def _error(
    request: Request,
    learner: Learner,
    shell: Shell,
    seed: int,
    *,
    following: int = 0,
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
        trail=draw_trail(found.circuit, shell.catalogue)
        if found is not None and found.circuit is not None
        else None,
        told=stated(found.made.job, found.circuit) if found is not None else (),
        seed=seed,
        following=following,
        answer=answer,
        words=words,
        key=str(uuid4()),
    )


@router.post("/{learner_id}/error")
def answer_error(request: Request, conn: Conn, learner_id: LearnerId, form: Form) -> Response:
    """Take a name for the mistake; show what the review says."""
    learner, shell = practice.get_learner(conn, learner_id), job_of(conn, form.get("job", ""))
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
    fact = Answered(drill=DRILL, item=found.finding.code, is_right=answer == found.right)
    with transaction(conn):
        practice.add_practice(conn, learner_id, key, fact)
    following = _next_seed(conn, learner_id)
    return _error(request, learner, shell, seed, answer=answer, following=following)


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
