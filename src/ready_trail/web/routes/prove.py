"""Stage Prove: the plan of tests, readings as facts, causes, the record."""

from __future__ import annotations

import re
import sqlite3
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from typing import Annotated, Any, Literal
from urllib.parse import urlencode
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, StringConstraints, TypeAdapter, ValidationError
from starlette.responses import JSONResponse, Response

from ready_trail.core.instruments import INSTRUMENTS, NotReadableError
from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.free import BY, free_test, points, settings
from ready_trail.core.prove.progress import Reading, mended
from ready_trail.core.prove.records import Test
from ready_trail.core.prove.verdict import expected_words, judge
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.readings_csv import LoggedRow, read_log, record_csv, record_json
from ready_trail.store import jobs, readings, shelf, vehicles, works
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotFoundError
from ready_trail.store.facts import failed_before
from ready_trail.store.vehicles import StoredVehicle
from ready_trail.web import meter
from ready_trail.web.context import Conn, Form, JobId, RawBody, Upload, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, whole_number
from ready_trail.web.pages.build import minutes_words
from ready_trail.web.pages.prove import (
    by_place,
    circuit_view,
    digest,
    known_plan,
    plan_with,
    prove_view,
    start_plans,
)
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.papers.common import answer, printing
from ready_trail.web.papers.record import record_paper
from ready_trail.web.queued import DeviceTime, clock_off_s, clock_words, listed_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)

READINGS_MOST = 300
_KEY = re.compile(r"[A-Za-z0-9-]{8,64}")
_Key = Annotated[str, StringConstraints(pattern=rf"^{_KEY.pattern}$")]
_Short = Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)]


class SentReading(BaseModel):
    """A reading as a page sends it, perhaps hours after it was taken."""

    model_config = ConfigDict(extra="forbid")
    key: _Key
    circuit: Annotated[str, StringConstraints(max_length=20)]
    test: Annotated[str, StringConstraints(min_length=1, max_length=400)]
    value: Annotated[str, StringConstraints(max_length=40)] = ""
    skipped: Annotated[str, StringConstraints(max_length=200, strip_whitespace=True)] = ""
    away: bool = False
    asked: Annotated[str, StringConstraints(max_length=2000)] = ""
    who: _Short = ""
    source: Literal["typed", "instrument"] = "typed"
    at: DeviceTime


_ONE = TypeAdapter(SentReading)


@router.get("/prove")
def show_prove(
    request: Request,
    conn: Conn,
    job_id: JobId,
    vehicle: int | None = None,
    work: str = "",
    by: str = "",
) -> Response:
    """Show every circuit with where its proof stands, or every must test place by place; what is
    not reckoned yet is begun.
    """
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    facts = readings.list_readings(conn, own.vehicle_id)
    view = prove_view(conn, shell, facts)
    running = None
    if not view.reckoned:
        running = works.get(conn, work) if work else None
        if running is None or running.state == "done":
            running = start_plans(request.app.state.database, shell.stored)
    return page(
        request,
        "pages/prove.html",
        shell=shell,
        view=view,
        places=by_place(conn, shell, facts) if by == "place" else None,
        work=running,
        own=own,
        vehicles=vehicles.list_vehicles(conn, job_id),
        minutes_words=minutes_words,
        errors={},
    )


@router.post("/prove/vehicles")
def add_vehicle(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Add a vehicle that is built alike, or give one another name."""
    shell, name = _shell(conn, job_id), form.get("name", "").strip()
    if not name or len(name) > 80:
        raise FieldsRefusedError({"name": "A name of 1 to 80 characters, such as its plate."})
    own = whole_number(form.get("vehicle", ""))
    with transaction(conn):
        if own is not None:
            vehicles.rename_vehicle(conn, job_id, own, name)
        elif len(vehicles.list_vehicles(conn, job_id)) >= vehicles.VEHICLES_MOST:
            raise FieldsRefusedError({"name": "No job has so many vehicles."})
        else:
            own = vehicles.add_vehicle(conn, job_id, name)
    return go(f"{shell.base}/prove?vehicle={own}")


@router.get("/prove/record.pdf")
def record_pdf(conn: Conn, job_id: JobId, vehicle: int | None = None, paper: str = "") -> Response:
    """The test record of a vehicle on paper."""
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    facts = readings.list_readings(conn, own.vehicle_id)
    name = own.name or shell.design.job.name
    made = record_paper(printing(shell, paper), prove_view(conn, shell, facts), facts, name)
    return answer(shell, "test-record", made)


@router.get("/prove/record.csv")
def record_as_csv(conn: Conn, job_id: JobId, vehicle: int | None = None) -> Response:
    """Every reading of a vehicle as CSV."""
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    text = record_csv(readings.list_readings(conn, own.vehicle_id), _names(shell))
    return download(text, "text/csv", f"{own.name or shell.design.job.name}-readings.csv")


@router.get("/prove/record.json")
def record_as_json(conn: Conn, job_id: JobId, vehicle: int | None = None) -> Response:
    """Every reading of a vehicle as JSON."""
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    rows = record_json(readings.list_readings(conn, own.vehicle_id), _names(shell))
    return JSONResponse({"vehicle": own.name or shell.design.job.name, "readings": rows})


@router.post("/prove/log")
def preview_log(
    request: Request, conn: Conn, job_id: JobId, data: Upload, vehicle: int | None = None
) -> Response:
    """Show what a meter's log would bring, row by row; nothing is kept yet."""
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    rows: tuple[LoggedRow, ...] = ()
    words = "" if data else "Choose a file first."
    try:
        rows = read_log(data, _tests(conn, shell)) if data else ()
    except FileRefusedError as error:
        words = f"This file cannot be taken: {error}."
    return page(
        request,
        "pages/prove_log.html",
        status=422 if words else 200,
        shell=shell,
        own=own,
        rows=rows,
        words=words,
        names=_names(shell),
        key=str(uuid4()),
        instruments=INSTRUMENTS,
    )


@router.post("/prove/log/take")
def take_log(conn: Conn, job_id: JobId, form: Form, vehicle: int | None = None) -> Response:
    """Take the rows of a log that were previewed. A double press counts once."""
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    tests = {(t.circuit_id, t.key): t for t in _tests(conn, shell)}
    made = []
    for number, told in sorted((k, v) for k, v in form.items() if k.startswith("row.")):
        circuit, _, rest = told.partition("\n")
        key, _, rest = rest.partition("\n")
        at, _, value = rest.partition("\n")
        test = tests.get((circuit, key))
        if test is None:
            continue
        try:
            sent = SentReading.model_validate(
                {
                    "key": f"{form.get('key', '')}-{number.removeprefix('row.')}",
                    "circuit": circuit,
                    "test": key,
                    "value": value,
                    "away": True,
                    "at": at,
                }
            )
            new = _judged(conn, shell, sent)
        except (ValidationError, NotReadableError) as error:
            words = "This row is not as it was shown; look at the file again."
            raise FieldsRefusedError({number: words}) from error
        made.append(replace(new, reading=replace(new.reading, source="file")))
    with transaction(conn):
        readings.add_readings(conn, own.vehicle_id, made)
    return go(f"{shell.base}/prove?vehicle={own.vehicle_id}")


def _tests(conn: sqlite3.Connection, shell: Shell) -> list[Test]:
    """Every test of the plans that are there."""
    plans = [known_plan(conn, shell, c.circuit.id) for c in shell.design.circuits]
    return [t for p in plans if p is not None for t in p.matrix.tests]


def _names(shell: Shell) -> dict[str, str]:
    return {c.circuit.id: c.circuit.name for c in shell.design.circuits}


@router.post("/prove/meter")
def name_meter(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Keep the address of a meter, or forget it; only somebody at this machine may."""
    shell, address = _shell(conn, job_id), form.get("address", "").strip()
    if not _is_at_machine(request):
        raise FieldsRefusedError({"address": "Only at the machine itself a meter is named."})
    try:
        kept = meter.require_address(address) if address else ""
    except meter.MeterError as error:
        raise FieldsRefusedError({"address": f"{error}"}) from error
    with transaction(conn):
        shelf.set_setting(conn, meter.SETTING, kept)
    back = form.get("back", "")
    return go(back if back.startswith(f"{shell.base}/prove") else f"{shell.base}/prove")


@router.get("/prove/{circuit_id}/free")
def free_reading(request: Request, conn: Conn, job_id: JobId, circuit_id: str) -> Response:
    """Put a free reading together, and open it as a test; what is missing is said."""
    shell, asked = _shell(conn, job_id), dict(request.query_params)
    bench = bench_of(shell.design, circuit_id)
    if bench is None:
        raise NotFoundError("circuit", circuit_id[:20])
    known = points(bench)
    plus, minus = known.get(asked.get("plus", "")), known.get(asked.get("minus", ""))
    by = asked.get("by", "")
    setting = next((s for s in settings(bench) if s.key == asked.get("set", "")), None)
    errors = {}
    if plus is None or minus is None or plus == minus:
        errors["free"] = "Take two different points from the list."
    elif by not in BY or setting is None:
        errors["free"] = "Say in which state, and with what."
    elif setting.power == (by == "ohms"):
        errors["free"] = (
            "Ohms with power on would harm the meter: set the battery's negative off for them."
            if setting.power
            else "Without power there is nothing but ohms to read."
        )
    else:
        test = free_test(bench, by, plus, minus, setting)
        vehicle = asked.get("vehicle", "")
        query = urlencode({"test": test.key} | ({"vehicle": vehicle} if vehicle else {}))
        return go(f"{shell.base}/prove/{circuit_id}?{query}#at-hand")
    return _circuit(request, conn, shell, circuit_id, status=422, errors=errors, typed=asked)


@router.get("/prove/{circuit_id}/meter")
def show_meter(conn: Conn, job_id: JobId, circuit_id: str, test: str = "") -> Response:
    """Tell what the meter shows now, its probes where a test asks."""
    shell = _shell(conn, job_id)
    plan, address = plan_with(conn, shell, circuit_id, [test]), _meter(conn)
    found = plan.test(test) if plan is not None else None
    if found is None or not address:
        words = "No meter is named." if not address else "This test is no longer in the plan."
        return JSONResponse({"words": words}, status_code=404)
    try:
        value = meter.read(address, shell.design.job.name, circuit_id, found)
    except meter.MeterError as error:
        return JSONResponse({"words": f"{error}"}, status_code=502)
    instrument = INSTRUMENTS[found.instrument]
    place = instrument.scale(value)
    if instrument.choices:
        typed = min(instrument.choices, key=lambda c: abs(c[1] - value))[0]
    else:
        typed = "OL" if value == float("inf") else f"{value:.4g}"
    shown = typed if instrument.choices else instrument.shown(value)
    return JSONResponse({"typed": typed, "shown": shown, "sigma": instrument.sigma(place)})


@router.post("/prove/{circuit_id}/mend")
def mend(request: Request, conn: Conn, job_id: JobId, circuit_id: str, form: Form) -> Response:
    """Keep that a cause was mended; a simulated vehicle is mended by that, too."""
    shell, address, cause = _shell(conn, job_id), _meter(conn), form.get("cause", "")
    vehicle = whole_number(form.get("vehicle", ""))
    own, plan = _vehicle(conn, job_id, vehicle), known_plan(conn, shell, circuit_id)
    found = next((c for c in plan.matrix.candidates if c.key == cause), None) if plan else None
    if found is None:
        raise FieldsRefusedError({"cause": "There is no such cause in this circuit any more."})
    if address and meter.is_simulated(address):
        try:
            meter.mend(address, shell.design.job.name, cause)
        except meter.MeterError as error:
            told = {"value": f"{error}"}
            return _circuit(request, conn, shell, circuit_id, status=502, errors=told)
    now = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")
    fact = mended(circuit_id, cause, f"Mended: {found.words}", form.get("who", "")[:40], now)
    key = form.get("key", "")
    if not _KEY.fullmatch(key):
        raise FieldsRefusedError({"form": "This form lacks its key; reload it."})
    with transaction(conn):
        new = readings.NewReading(key=key, reading=fact)
        readings.add_readings(conn, own.vehicle_id, [new])
    query = f"?vehicle={own.vehicle_id}" if vehicle is not None else ""
    return go(f"{shell.base}/prove/{circuit_id}{query}")


@router.get("/prove/{circuit_id}")
def show_circuit(
    request: Request,
    conn: Conn,
    job_id: JobId,
    circuit_id: str,
    test: str = "",
    vehicle: int | None = None,
    work: str = "",
) -> Response:
    """Show one circuit's tests with one at hand; its causes where something fails."""
    shell = _shell(conn, job_id)
    return _circuit(request, conn, shell, circuit_id, test, vehicle, work)


def _circuit(
    request: Request,
    conn: sqlite3.Connection,
    shell: Shell,
    circuit_id: str,
    test: str = "",
    vehicle: int | None = None,
    work: str = "",
    *,
    status: int = 200,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
) -> Response:
    made = next((c for c in shell.design.circuits if c.circuit.id == circuit_id), None)
    if made is None:
        raise NotFoundError("circuit", circuit_id[:20])
    own = _vehicle(conn, shell.stored.job_id, vehicle)
    facts = readings.list_readings(conn, own.vehicle_id)
    asked = [test, *(r.test for r in facts if r.circuit_id == circuit_id)]
    plan = plan_with(conn, shell, circuit_id, asked)
    running, view = None, None
    if plan is None and made.installation is not None:
        running = works.get(conn, work) if work else None
        if running is None or running.state == "done":
            running = start_plans(request.app.state.database, shell.stored, circuit_id)
        if running.state == "running" and running.work_id != work:
            at = f"{shell.base}/prove/{circuit_id}?work={running.work_id}"
            return go(at if vehicle is None else f"{at}&vehicle={vehicle}")
    if plan is not None:
        failed = failed_before(conn, own.vehicle_id)
        view = circuit_view(shell, made, plan, facts, test, failed)
    return page(
        request,
        "pages/prove_circuit.html",
        status=status,
        shell=shell,
        made=made,
        view=view,
        work=running,
        own=own,
        vehicle=vehicle,
        following=_after(shell, circuit_id),
        meter_at=_meter(conn),
        is_at_machine=_is_at_machine(request),
        can_mend=view is not None
        and view.sure is not None
        and bool(_meter(conn))
        and meter.is_simulated(_meter(conn)),
        marks=_marks(view.current.test) if view is not None and view.current is not None else [],
        vehicles=vehicles.list_vehicles(conn, shell.stored.job_id),
        minutes_words=minutes_words,
        new_key=lambda: str(uuid4()),
        errors=errors or {},
        typed=typed or {},
    )


@router.post("/prove/{circuit_id}/read")
def read_by_form(
    request: Request, conn: Conn, job_id: JobId, circuit_id: str, form: Form
) -> Response:
    """Take one reading from a plain form; its own key makes a double press count once."""
    shell = _shell(conn, job_id)
    vehicle = whole_number(form.get("vehicle", ""))
    own = _vehicle(conn, job_id, vehicle)
    named = form.get("test", "")
    try:
        sent = SentReading.model_validate(
            {
                "key": form.get("key", ""),
                "circuit": circuit_id,
                "test": named,
                "value": form.get("value", ""),
                "skipped": form.get("skipped", ""),
                "away": form.get("away", "") == "on",
                "who": form.get("who", ""),
                "source": form.get("source", "typed"),
                "at": datetime.now(UTC),
            }
        )
        made = _judged(conn, shell, sent)
    except ValidationError:
        words = {"value": "This form lacks its key or its test; load the page again."}
        return _circuit(request, conn, shell, circuit_id, named, vehicle, status=422, errors=words)
    except NotReadableError as error:
        return _circuit(
            request,
            conn,
            shell,
            circuit_id,
            named,
            vehicle,
            status=422,
            errors={"value": f"{error}"},
            typed=form,
        )
    with transaction(conn):
        readings.add_readings(conn, own.vehicle_id, [made])
    at = f"{shell.base}/prove/{circuit_id}"
    query = f"?vehicle={own.vehicle_id}" if vehicle is not None else ""
    return go(f"{at}{query}")


@router.post("/readings")
def take_readings(
    request: Request, conn: Conn, job_id: JobId, body: RawBody, vehicle: int | None = None
) -> Response:
    """Take readings in the order in which they were made; each counts once however often it comes.

    The answer names those that were ``taken`` and those that are ``refused``, with why.
    """
    try:
        listed = listed_of(body, READINGS_MOST)
    except ValueError as error:
        words = f"These readings cannot be read: {error}."
        return JSONResponse({"words": words, "taken": [], "refused": {}}, status_code=422)
    shell, own = _shell(conn, job_id), _vehicle(conn, job_id, vehicle)
    late_s = clock_off_s(request.headers.get("x-device-time", ""))
    taken: list[readings.NewReading] = []
    refused: dict[str, str] = {}
    notes: list[str] = []
    for at, each in enumerate(listed):
        key = each.get("key") if isinstance(each, dict) else None
        name = key if isinstance(key, str) and len(key) <= 64 else f"number {at + 1}"
        try:
            sent = _ONE.validate_python(each)
            sent = sent.model_copy(update={"at": sent.at + timedelta(seconds=late_s)})
            taken.append(_judged(conn, shell, sent, notes))
        except ValidationError as error:
            first = error.errors(include_input=False, include_url=False)[0]
            refused[name] = f"{'.'.join(map(str, first['loc'])) or 'it'}: {first['msg']}"
        except NotReadableError as error:
            refused[name] = f"{error}"
    with transaction(conn):
        readings.add_readings(conn, own.vehicle_id, taken)
    if late_s:
        notes.append(clock_words(late_s))
    told: dict[str, Any] = {"taken": [t.key for t in taken], "refused": refused, "notes": notes}
    return JSONResponse(told, status_code=200 if taken or not refused else 422)


def _judged(
    conn: sqlite3.Connection, shell: Shell, sent: SentReading, notes: list[str] | None = None
) -> readings.NewReading:
    """The reading as a fact, judged by the plan. One of a test that is gone is kept, unjudged.

    Raises NotReadableError.
    """
    plan = plan_with(conn, shell, sent.circuit, [sent.test])
    test = plan.test(sent.test) if plan is not None else None
    instrument = INSTRUMENTS.get(sent.test.split(":")[1] if ":" in sent.test else "")
    if instrument is None:
        raise NotReadableError("There is no such test.")
    at = sent.at if sent.at.tzinfo is not None else sent.at.replace(tzinfo=UTC)
    value = None
    if not sent.skipped:
        if not sent.value.strip():
            raise NotReadableError("Type what the instrument shows, or skip with a reason.")
        value = instrument.read(sent.value)
        if not instrument.with_power and not sent.away:
            raise NotReadableError(
                "Ohms with power on would harm the meter and read nonsense: take the battery's "
                "negative off first, and say so."
            )
    verdict: Literal["pass", "watch", "fail", "skipped"] = "skipped"
    if value is not None:
        verdict = judge(test, value).verdict if test is not None else "watch"
    if test is None and notes is not None:
        told = sent.asked.partition("\n")[0] or sent.test
        notes.append(f"“{told}” is no longer part of this plan; its reading is kept, unjudged.")
    made = Reading(
        circuit_id=sent.circuit,
        test=sent.test,
        asked=asked_of(test) if test is not None else sent.asked,
        instrument=instrument.key,
        value=value,
        skipped=sent.skipped,
        middle=test.band.middle if test is not None and test.band.most is None else None,
        sigma=test.band.sigma if test is not None and test.band.most is None else None,
        verdict=verdict,
        source=sent.source,
        design=digest(shell, sent.circuit),
        who=sent.who,
        made_at=at.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ"),
    )
    return readings.NewReading(key=sent.key, reading=made)


def asked_of(test: Test) -> str:
    """Return what a test asked, as lines."""
    return "\n".join((test.title, test.where, test.setting.words, expected_words(test)))


def _after(shell: Shell, circuit_id: str) -> CircuitDesign | None:
    """The circuit that follows one on the list."""
    wired = [c for c in shell.design.circuits if c.installation is not None]
    at = next((i for i, c in enumerate(wired) if c.circuit.id == circuit_id), len(wired))
    return wired[at + 1] if at + 1 < len(wired) else None


def _meter(conn: sqlite3.Connection) -> str:
    return shelf.get_setting(conn, meter.SETTING)


def _is_at_machine(request: Request) -> bool:
    """Whether who asks sits at this machine, by where the request comes from."""
    try:
        return request.client is not None and ip_address(request.client.host).is_loopback
    except ValueError:
        return False


def _marks(test: Test) -> list[str]:
    """What the drawing marks: where the probes are."""
    ends = (test.probe.plus, test.probe.minus)
    devices = [t.device for t in ends if t is not None and test.instrument != "eye"]
    return list(dict.fromkeys(filter(None, (test.look, test.probe.wire, *devices))))


def _vehicle(conn: sqlite3.Connection, job_id: int, vehicle: int | None) -> StoredVehicle:
    return vehicles.vehicle_of(conn, job_id, vehicle)


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "prove")
