"""Stage Record: as built, hand-over, care, visits, of one vehicle."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from contextlib import suppress
from datetime import UTC, date, datetime
from typing import Annotated, Literal
from urllib.parse import urlencode
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field, StringConstraints
from starlette.responses import Response

from ready_trail.core.errors import CoreError
from ready_trail.core.record.as_built import WHAT_WORDS, differences_of, taken_over
from ready_trail.core.record.care import every_care
from ready_trail.core.record.facts import (
    AnyFact,
    CareDone,
    Different,
    HandedOver,
    Photographed,
    Said,
    Settled,
    Visited,
    What,
)
from ready_trail.core.record.hand_over import Handing
from ready_trail.core.record.judged import why_not_left, why_unread
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.photo import prepared
from ready_trail.store import facts, jobs, photos, readings, vehicles
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError
from ready_trail.store.vehicles import StoredVehicle
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, Picture, go, page
from ready_trail.web.fields import FieldsRefusedError, build, press_key, whole_number
from ready_trail.web.pages.build import built
from ready_trail.web.pages.prove import digest, start_plans
from ready_trail.web.pages.record import RecordView, circuit_of, record_view, subjects_of
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.work import TooMuchWorkError

router = APIRouter(prefix="/jobs/{job_id}/record", include_in_schema=False)

Tab = Literal["built", "care", "visits", "photos", "papers"]
_Who = Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)]
_Text = Annotated[str, StringConstraints(max_length=1000, strip_whitespace=True)]
_Km = Annotated[float, Field(ge=0, le=5_000_000, allow_inf_nan=False)] | None


class DifferentForm(BaseModel):
    """A difference as its form states it."""

    about: Annotated[str, StringConstraints(max_length=120, strip_whitespace=True)]
    what: What
    value: Said
    note: _Text = ""
    who: _Who = ""


class CareForm(BaseModel):
    """Care that was done as its form states it."""

    care: str
    found: _Text = ""
    fine: bool = False
    km: _Km = None
    on: date | None = None
    who: _Who = ""


class VisitForm(BaseModel):
    """A visit as its form states it."""

    about: Annotated[str, StringConstraints(max_length=120, strip_whitespace=True)] = ""
    complaint: Said
    cause: _Text = ""
    repair: _Text = ""
    km: _Km = None
    on: date | None = None
    who: _Who = ""


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "record")


def _own(conn: sqlite3.Connection, job_id: int, form: Mapping[str, str]) -> StoredVehicle:
    return vehicles.vehicle_of(conn, job_id, whole_number(form.get("vehicle", "")))


@router.get("")
def show_record(
    request: Request,
    conn: Conn,
    job_id: JobId,
    tab: Tab = "built",
    about: str = "",
    vehicle: int | None = None,
) -> Response:
    """Show what stands in one vehicle: hand-over and differences, care, visits, photos, papers."""
    own = vehicles.vehicle_of(conn, job_id, vehicle)
    return _record(request, conn, _shell(conn, job_id), own, tab, typed={"about": about})


def _record(
    request: Request,
    conn: sqlite3.Connection,
    shell: Shell,
    own: StoredVehicle,
    tab: Tab,
    *,
    typed: Mapping[str, str] | None = None,
    errors: Mapping[str, str] | None = None,
) -> Response:
    view = record_view(conn, shell, own.vehicle_id, with_handings=tab == "built")
    waits = any(left.key == "tests" for h in view.handings for left in h.left)
    if waits and not errors:
        with suppress(TooMuchWorkError):  # they are there the next time, or the time after
            start_plans(request.app.state.database, shell.stored)
    return page(
        request,
        f"pages/record_{tab}.html",
        status=422 if errors else 200,
        shell=shell,
        tab=tab,
        view=view,
        own=own,
        vehicles=vehicles.list_vehicles(conn, shell.stored.job_id),
        subjects=subjects_of(shell),
        what_words=WHAT_WORDS,
        typed=typed or {},
        errors=errors or {},
        key=str(uuid4()),
    )


def _keep(conn: sqlite3.Connection, own: StoredVehicle, key: str, fact: AnyFact) -> None:
    with transaction(conn):
        facts.add_facts(conn, own.vehicle_id, [(key, fact)])


def _back(shell: Shell, tab: Tab, own: StoredVehicle, form: Mapping[str, str]) -> Response:
    asked: dict[str, str] = {"tab": tab} if tab != "built" else {}
    if form.get("vehicle"):
        asked["vehicle"] = str(own.vehicle_id)
    return go(f"{shell.base}/record{'?' if asked else ''}{urlencode(asked)}")


def _subject(shell: Shell, about: str) -> str:
    """The subject that was typed or picked: by its key, its label, or its words."""
    if not about:
        return ""
    wanted = about.casefold()
    for subject, words in subjects_of(shell):
        name = subject.partition(":")[2]
        if wanted in (subject.casefold(), name.casefold(), words.casefold()):
            return subject
    raise FieldsRefusedError({"about": "There is no such wire or device: pick one of the list."})


@router.post("/different")
def say_different(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Say where the vehicle is not as designed."""
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key = press_key(form)
    try:
        stated = build(DifferentForm, {k: v for k, v in form.items() if v.strip()})
        subject = _subject(shell, stated.about)
    except FieldsRefusedError as refused:
        return _record(request, conn, shell, own, "built", typed=form, errors=refused.errors)
    fact = Different(
        subject=subject,
        circuit_id=circuit_of(shell, subject),
        what=stated.what,
        value=stated.value,
        note=stated.note,
        who=stated.who,
    )
    unread = why_unread(fact, shell.design, shell.catalogue)
    if unread:
        errors = {"value": unread}
        return _record(request, conn, shell, own, "built", typed=form, errors=errors)
    _keep(conn, own, key, fact)
    return _back(shell, "built", own, form)


@router.post("/settle")
def settle(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Deal with a difference: take it over into the design, note that it was put right, or leave
    it with a reason.
    """
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key, how = press_key(form), form.get("how", "")
    stored = facts.list_facts(conn, own.vehicle_id)
    found = {d.key: d for d in differences_of([(f.key, f.fact) for f in stored])}
    difference = found.get(form.get("difference", ""))
    every = tuple(d.said for d in found.values() if d.is_so)
    reason = form.get("reason", "").strip()[:1000]
    errors = {}
    if difference is None:
        errors["form"] = "There is no such difference."
    elif how not in ("taken_over", "put_right", "left"):
        errors["form"] = "Say how it was dealt with."
    elif how == "left" and len(reason) < 3:
        errors[f"reason-{difference.key}"] = "Say why it stays, in a few words."
    elif how == "left" and (
        why := why_not_left(difference.said, shell.design, shell.catalogue, every)
    ):
        taken = taken_over(difference.said, shell.design) is not None
        way = "Put it right, or take it over and mend it there." if taken else "Put it right."
        errors[f"reason-{difference.key}"] = f"It may not stay: {why} {way}"
    if errors or difference is None:
        return _record(request, conn, shell, own, "built", typed=form, errors=errors)
    settled = Settled(key=difference.key, how=how, reason=reason)  # type: ignore[arg-type]
    if how == "taken_over":
        edit = taken_over(difference.said, shell.design)
        if edit is None:
            words = {"form": "This cannot be taken over by a press: change it on its own page."}
            return _record(request, conn, shell, own, "built", typed=form, errors=words)
        try:
            commit(
                conn,
                job_id,
                seen_revision(form),
                edit,
                also=lambda _: _add(conn, own, key, settled),
            )
        except (FieldsRefusedError, CoreError) as refused:
            words = {"form": f"It does not go into the design: {refused}."}
            return _record(request, conn, shell, own, "built", typed=form, errors=words)
    else:
        _keep(conn, own, key, settled)
    return _back(shell, "built", own, form)


def _add(conn: sqlite3.Connection, own: StoredVehicle, key: str, fact: AnyFact) -> None:
    facts.add_facts(conn, own.vehicle_id, [(key, fact)])


@router.post("/hand-over")
def hand_over(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Seal a circuit, or every one that is ready: revision, readings, differences."""
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key, which = press_key(form), form.get("circuit", "")
    reason, who = form.get("reason", "").strip()[:200], form.get("who", "").strip()[:40]
    if any(f.key == f"{key}-0" for f in facts.list_facts(conn, own.vehicle_id)):
        return _back(shell, "built", own, form)
    view = record_view(conn, shell, own.vehicle_id)
    if which:
        chosen = [h for h in view.handings if h.circuit_id == which]
    else:
        chosen = [h for h in view.handings if h.state == "ready"]
    errors = {}
    if not chosen:
        errors["form"] = "Nothing is ready to be handed over."
    elif any(left.stage == "review" for h in chosen for left in h.left):
        errors["form"] = "A stop is open: it is settled before anything is handed over."
    elif any(h.left for h in chosen) and len(reason) < 3:
        errors[f"reason-{which}"] = "Something is still open: say why it may stay so."
    if errors:
        return _record(request, conn, shell, own, "built", typed=form, errors=errors)
    sealed = [_seal(conn, shell, own, view, h, reason, who) for h in chosen]
    with transaction(conn):
        facts.add_facts(
            conn,
            own.vehicle_id,
            [(f"{key}-{at}", fact) for at, fact in enumerate(sealed)],
        )
    return _back(shell, "built", own, form)


def _seal(
    conn: sqlite3.Connection,
    shell: Shell,
    own: StoredVehicle,
    view: RecordView,
    handing: Handing,
    reason: str,
    who: str,
) -> HandedOver:
    read = readings.list_readings(conn, own.vehicle_id)
    return HandedOver(
        circuit_id=handing.circuit_id,
        revision=shell.stored.revision,
        design=digest(shell, handing.circuit_id),
        steps=sum(handing.circuit_id in s.circuits for s in built(shell).steps),
        readings=sum(r.circuit_id == handing.circuit_id for r in read),
        differences=tuple(
            row.difference.words
            for row in view.differences
            if row.difference.said.circuit_id == handing.circuit_id
        ),
        waived={left.waived_as: reason for left in handing.left[:400]},
        who=who,
    )


def _require_day(conn: sqlite3.Connection, own: StoredVehicle, on: date | None) -> None:
    """Refuse a day before the vehicle was handed over, or one that is not there yet."""
    if on is None:
        return
    if on > datetime.now(UTC).date():
        raise FieldsRefusedError({"on": "This day is still to come."})
    handed = [
        f.fact.made_at
        for f in facts.list_facts(conn, own.vehicle_id)
        if isinstance(f.fact, HandedOver)
    ]
    if not handed or on.isoformat() < min(handed)[:10]:
        since = f" on {min(handed)[:10]}" if handed else ", which is still to come"
        raise FieldsRefusedError({"on": f"Before the hand-over{since}: such a day does not count."})


def _at(on: date | None) -> str:
    """The time of a fact: noon of its day, or now."""
    return f"{on.isoformat()}T12:00:00Z" if on is not None else ""


@router.post("/care")
def care_done(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Note that a piece of care was done, and what was found."""
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key = press_key(form)
    try:
        stated = build(CareForm, {k: v for k, v in form.items() if v.strip()})
        if all(c.key != stated.care for c in every_care()):
            raise FieldsRefusedError({"form": "There is no such care."})
        if not stated.fine and not stated.found:
            name = f"found-{stated.care}"
            raise FieldsRefusedError({name: "Say what was found, or that all was fine."})
        _require_day(conn, own, stated.on)
    except FieldsRefusedError as refused:
        return _record(request, conn, shell, own, "care", typed=form, errors=refused.errors)
    fact = CareDone(
        care=stated.care,
        found=stated.found,
        is_fine=stated.fine,
        km=stated.km,
        who=stated.who,
        made_at=_at(stated.on),
    )
    _keep(conn, own, key, fact)
    return _back(shell, "care", own, form)


@router.post("/visit")
def visited(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Note a visit: complaint, cause, repair."""
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key = press_key(form)
    try:
        stated = build(VisitForm, {k: v for k, v in form.items() if v.strip()})
        subject = _subject(shell, stated.about)
        _require_day(conn, own, stated.on)
    except FieldsRefusedError as refused:
        return _record(request, conn, shell, own, "visits", typed=form, errors=refused.errors)
    fact = Visited(
        circuit_id=circuit_of(shell, subject),
        complaint=stated.complaint,
        cause=stated.cause,
        repair=stated.repair,
        part=subject.partition(":")[2],
        km=stated.km,
        who=stated.who,
        made_at=_at(stated.on),
    )
    _keep(conn, own, key, fact)
    return _back(shell, "visits", own, form)


@router.post("/photo")
def take_photo(request: Request, conn: Conn, job_id: JobId, picture: Picture) -> Response:
    """Keep a photo: shrunk, upright, without where it was taken."""
    form, data = picture
    shell, own = _shell(conn, job_id), _own(conn, job_id, form)
    key = press_key(form)
    try:
        subject = _place(shell, form.get("about", "").strip())
        photo = prepared(data)
    except FieldsRefusedError as refused:
        return _record(request, conn, shell, own, "photos", typed=form, errors=refused.errors)
    except FileRefusedError as refused:
        words = {"file": f"{str(refused)[:1].upper()}{str(refused)[1:]}."}
        return _record(request, conn, shell, own, "photos", typed=form, errors=words)
    digest_kept = photos.keep_photo(request.app.state.database, photo.data)
    fact = Photographed(
        subject=subject,
        digest=digest_kept,
        width=photo.width,
        height=photo.height,
        words=form.get("words", "").strip()[:80],
        who=form.get("who", "").strip()[:40],
    )
    _keep(conn, own, key, fact)
    return _back(shell, "photos", own, form)


def _place(shell: Shell, about: str) -> str:
    """What a photo shows: a wire, a device, or a place in its own words."""
    if not about:
        return "place:vehicle"
    try:
        return _subject(shell, about)
    except FieldsRefusedError:
        return f"place:{about[:80]}"


@router.get("/photo/{name}.jpg")
def show_photo(request: Request, conn: Conn, job_id: JobId, name: str) -> Response:
    """A photo of this job's vehicles."""
    own = {
        f.fact.digest
        for v in vehicles.list_vehicles(conn, job_id)
        for f in facts.list_facts(conn, v.vehicle_id)
        if isinstance(f.fact, Photographed)
    }
    if name not in own:
        raise NotFoundError("photo", name[:64])
    data = photos.read_photo(request.app.state.database, name)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(data, media_type="image/jpeg", headers=headers)
