"""Build: steps and their ticks, the cut list, parts, labels."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    StringConstraints,
    TypeAdapter,
    ValidationError,
)
from starlette.responses import JSONResponse, Response

from ready_trail.core.build.labels import LabelGrid, label_grids, labels_of, require_fits
from ready_trail.core.build.progress import Tick, progress_of
from ready_trail.core.errors import EditRefusedError
from ready_trail.drawing.label_sheet import LabelPage, label_pages
from ready_trail.formats.build_csv import cut_list_csv, order_csv
from ready_trail.formats.saying import Saying, saying_of
from ready_trail.store import jobs, shelf, ticks
from ready_trail.store.db import transaction
from ready_trail.store.vehicles import list_vehicles, vehicle_of
from ready_trail.web.context import Conn, Form, JobId, RawBody, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, build, press_key, whole_number
from ready_trail.web.pages.build import (
    built,
    facts_of,
    items_of,
    minutes_words,
    owner_words,
    progress_json,
    shopping_of,
    steps_of,
)
from ready_trail.web.pages.faults import kept_faults
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.papers.book import book_paper
from ready_trail.web.papers.common import answer, printing
from ready_trail.web.papers.cuts import cuts_paper
from ready_trail.web.papers.labels import labels_paper
from ready_trail.web.queued import DeviceTime, clock_off_s, clock_words, listed_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)

TICKS_MOST = 500
ASKED_MOST = 40_000
"""Characters of a step's text that are kept; what a step of sixty circuits asks has 15,000."""

_ITEM = r"^(step|cut):[^\x00-\x1f]{1,80}$"


class SentTick(BaseModel):
    """A tick as a page sends it, perhaps hours after it was made."""

    model_config = ConfigDict(extra="forbid")
    key: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9-]{8,64}$")]
    item: Annotated[str, StringConstraints(pattern=_ITEM)]
    done: bool
    print: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{0,12}$")] = ""
    asked: Annotated[
        str, BeforeValidator(lambda text: text[:ASKED_MOST] if isinstance(text, str) else text)
    ] = ""
    who: Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)] = ""
    at: DeviceTime


_ONE = TypeAdapter(SentTick)


class GridForm(BaseModel):
    """A sheet of labels of one's own."""

    paper: Annotated[str, StringConstraints(pattern=r"^(A4|letter)$")] = "A4"
    columns: Annotated[int, Field(ge=1, le=20)]
    rows: Annotated[int, Field(ge=1, le=60)]
    width_mm: Annotated[float, Field(gt=0, le=300, allow_inf_nan=False)]
    height_mm: Annotated[float, Field(gt=0, le=300, allow_inf_nan=False)]
    left_mm: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
    top_mm: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
    pitch_x_mm: Annotated[float, Field(gt=0, le=300, allow_inf_nan=False)]
    pitch_y_mm: Annotated[float, Field(gt=0, le=300, allow_inf_nan=False)]


@router.get("/build")
def show_steps(
    request: Request,
    conn: Conn,
    job_id: JobId,
    by: str = "stage",
    show: str = "all",
    vehicle: int | None = None,
) -> Response:
    """Show the steps in order, or place by place, with where each stands in one vehicle."""
    shell = _shell(conn, job_id)
    view = steps_of(
        shell,
        facts_of(conn, shell, vehicle),
        by="place" if by == "place" else "stage",
        show="open" if show == "open" else "all",
    )
    return page(
        request,
        "pages/build.html",
        shell=shell,
        tab="steps",
        view=view,
        own=vehicle_of(conn, job_id, vehicle),
        vehicles=list_vehicles(conn, job_id),
        provable={c.circuit.id for c in shell.design.circuits if c.installation is not None},
        new_key=lambda: str(uuid4()),
        minutes_words=minutes_words,
    )


@router.get("/ticks")
def show_ticks(conn: Conn, job_id: JobId, vehicle: int | None = None) -> Response:
    """Tell where every step stands."""
    shell = _shell(conn, job_id)
    return JSONResponse(progress_json(shell, facts_of(conn, shell, vehicle)))


@router.post("/ticks")
def take_ticks(
    request: Request, conn: Conn, job_id: JobId, body: RawBody, vehicle: int | None = None
) -> Response:
    """Take ticks in the order in which they were made; each counts once however often it comes.

    The answer names those that were ``taken`` and those that are ``refused``, with why: a device
    forgets no other. 422 where none of them could be taken.
    """
    try:
        listed = listed_of(body, TICKS_MOST)
    except ValueError as error:
        words = f"These ticks cannot be read: {error}."
        return JSONResponse({"words": words, "taken": [], "refused": {}}, status_code=422)
    sent, refused = _readable(listed)
    shell = _shell(conn, job_id)
    late_s = clock_off_s(request.headers.get("x-device-time", ""))
    notes = _store(conn, shell, sent, late_s, vehicle)
    if late_s:
        notes.append(clock_words(late_s))
    answer = {
        **progress_json(shell, facts_of(conn, shell, vehicle)),
        "notes": notes,
        "taken": [tick.key for tick in sent],
        "refused": refused,
    }
    return JSONResponse(answer, status_code=200 if sent or not refused else 422)


def _readable(listed: list[Any]) -> tuple[list[SentTick], dict[str, str]]:
    """The ticks that can be read, and by key why the others cannot."""
    sent, refused = [], {}
    for at, each in enumerate(listed):
        try:
            sent.append(_ONE.validate_python(each))
        except ValidationError as error:
            first = error.errors(include_input=False, include_url=False)[0]
            where = ".".join(str(part) for part in first["loc"]) or "it"
            key = each.get("key") if isinstance(each, dict) else None
            name = key if isinstance(key, str) and len(key) <= 64 else f"number {at + 1}"
            refused[name] = f"{where}: {first['msg'].removeprefix('Value error, ')}"
    return sent, refused


def _store(
    conn: sqlite3.Connection,
    shell: Shell,
    sent: list[SentTick],
    late_s: float = 0.0,
    vehicle: int | None = None,
) -> list[str]:
    """Keep ticks; return what is to be said of those that fit no step any more.

    ``late_s`` is how far the clock that told their times is behind.
    """
    items = items_of(shell)
    new, notes = [], []
    for each in sent:
        known = items.get(each.item)
        asked = each.asked
        if known is None:
            title = asked.partition("\n")[0] or each.item.partition(":")[2]
            notes.append(f"“{title}” is no longer part of this build; it is kept below the steps.")
        elif each.print in ("", known[0]):
            asked = known[1]
        tick = Tick(
            item=each.item,
            done=each.done,
            asked=asked,
            who=each.who,
            print=each.print or (known[0] if known else ""),
            made_at=_utc(each.at + timedelta(seconds=late_s)),
        )
        new.append(ticks.NewTick(key=each.key, tick=tick))
    with transaction(conn):
        ticks.add_ticks(conn, shell.stored.job_id, tuple(new), vehicle)
    return notes


def _utc(at: datetime) -> str:
    return at.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")


@router.post("/build/tick")
def tick_by_form(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Take one tick from a plain form; the form's own key makes a double press count once."""
    shell = _shell(conn, job_id)
    sent = build(
        SentTick,
        {
            "key": form.get("key", ""),
            "item": form.get("item", ""),
            "done": form.get("done", ""),
            "print": form.get("print", ""),
            "who": form.get("who", ""),
            "at": datetime.now(UTC),
        },
    )
    _store(conn, shell, [sent], vehicle=whole_number(form.get("vehicle", "")))
    back = form.get("back", "")
    return go(back if back.startswith(f"{shell.base}/build") else f"{shell.base}/build")


@router.get("/build/cut")
def show_cuts(
    request: Request, conn: Conn, job_id: JobId, by: str = "spool", vehicle: int | None = None
) -> Response:
    """Show the cut list by spool or by loom, with what is cut."""
    shell = _shell(conn, job_id)
    build_ = built(shell)
    progress = progress_of(build_.steps, build_.cuts.cuts, facts_of(conn, shell, vehicle))
    return page(
        request,
        "pages/build_cut.html",
        shell=shell,
        tab="cut",
        build=build_,
        progress=progress,
        own=vehicle_of(conn, job_id, vehicle),
        vehicles=list_vehicles(conn, job_id),
        by="loom" if by == "loom" else "spool",
        items=items_of(shell),
        new_key=lambda: str(uuid4()),
    )


@router.get("/build/cut.csv")
def cut_file(conn: Conn, job_id: JobId) -> Response:
    """The cut list as CSV."""
    shell = _shell(conn, job_id)
    name = f"{shell.design.job.name}-cut-list.csv"
    return download(cut_list_csv(built(shell).cuts, _saying(shell)), "text/csv", name)


@router.get("/build/cut.pdf")
def cut_pdf(conn: Conn, job_id: JobId, paper: str = "", by: str = "spool") -> Response:
    """The cut list on paper, with boxes."""
    shell = _shell(conn, job_id)
    return answer(shell, "cut-list", cuts_paper(printing(shell, paper), by))


@router.get("/build/parts")
def show_parts(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show the parts beside the shelf: what is there, what to buy, what it costs."""
    shell = _shell(conn, job_id)
    return _parts(request, conn, shell)


def _parts(
    request: Request,
    conn: sqlite3.Connection,
    shell: Shell,
    *,
    status: int = 200,
    errors: dict[str, str] | None = None,
) -> Response:
    found = shopping_of(conn, shell)
    existing = [line for line in built(shell).parts if not line.to_get]
    return page(
        request,
        "pages/build_parts.html",
        status=status,
        shell=shell,
        tab="parts",
        shopping=found,
        existing=existing,
        errors=errors or {},
        owners=owner_words(shell, found.by_owner),
        key=str(uuid4()),
    )


@router.get("/build/parts.csv")
def parts_file(conn: Conn, job_id: JobId, every: bool = False) -> Response:
    """What is to buy, as CSV; with ``every`` the whole list."""
    shell = _shell(conn, job_id)
    what = "parts" if every else "order"
    text = order_csv(shopping_of(conn, shell), all_lines=every, saying=_saying(shell))
    return download(text, "text/csv", f"{shell.design.job.name}-{what}.csv")


@router.post("/build/shelve")
def put_on_shelf(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Put the job's parts that the shelf does not know on its list, without stock or price."""
    shell = _shell(conn, job_id)
    wanted = form.get("part", "")
    with transaction(conn):
        for needed in shopping_of(conn, shell).needed:
            if needed.part is None and wanted in ("", needed.line.key):
                shelf.save_part(conn, shelf.part_of(needed.line), needed.line.catalogue_key)
    return go(f"{shell.base}/build/parts")


@router.post("/build/take")
def take_parts(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Take from the shelf for this job what it has of the list. A double press counts once."""
    shell = _shell(conn, job_id)
    key = press_key(form)
    with transaction(conn):
        for at, needed in enumerate(shopping_of(conn, shell).needed):
            if needed.part is not None and needed.on_shelf > 0:
                shelf.move_stock(
                    conn,
                    f"{key}-{at}",
                    needed.part.key,
                    "taken",
                    needed.on_shelf,
                    job_id=job_id,
                    note=f"for {shell.stored.job.name}",
                )
    return go(f"{shell.base}/build/parts")


@router.post("/build/return")
def put_back(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Put back on the shelf what this job took: one part's surplus, or everything."""
    shell = _shell(conn, job_id)
    key, part = press_key(form), form.get("part", "")
    with transaction(conn):
        if part:
            back = {part: shopping_of(conn, shell).surplus().get(part, 0.0)}
        else:
            back = shelf.taken_for(conn, job_id)
        for at, (each, quantity) in enumerate(sorted(back.items())):
            if quantity > 0:
                note = f"from {shell.stored.job.name}"
                shelf.move_stock(
                    conn, f"{key}-{at}", each, "returned", quantity, job_id=job_id, note=note
                )
    return go(f"{shell.base}/build/parts")


@router.get("/build/labels")
def show_labels(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show the labels on a sheet of the chosen grid."""
    shell = _shell(conn, job_id)
    asked = dict(request.query_params)
    address = asked.get("address", shelf.get_setting(conn, "address"))
    grid, pages, errors = _label_pages(shell, asked, address)
    labels = labels_of(shell.design, built(shell).cuts)
    return page(
        request,
        "pages/build_labels.html",
        status=422 if errors else 200,
        shell=shell,
        tab="labels",
        grids=label_grids(),
        grid=grid,
        pages=pages,
        errors=errors,
        asked=asked,
        address=address,
        count=len(labels),
        query=request.url.query,
    )


@router.get("/build/labels.pdf")
def labels_pdf(request: Request, conn: Conn, job_id: JobId) -> Response:
    """The labels as PDF, true to scale."""
    shell = _shell(conn, job_id)
    asked = dict(request.query_params)
    address = asked.get("address", shelf.get_setting(conn, "address"))
    _, pages, errors = _label_pages(shell, asked, address)
    if errors:
        raise FieldsRefusedError(errors)
    return answer(shell, "labels", labels_paper(printing(shell), pages))


@router.get("/build/book")
def show_book(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show what the book holds, and where it is."""
    return page(request, "pages/build_book.html", shell=_shell(conn, job_id), tab="book")


@router.get("/build/book.pdf")
def book_pdf(conn: Conn, job_id: JobId, paper: str = "", vehicle: int | None = None) -> Response:
    """The build book, with what is ticked in one vehicle."""
    shell = _shell(conn, job_id)
    facts, needed = facts_of(conn, shell, vehicle), shopping_of(conn, shell)
    faults = kept_faults(conn, shell.stored)
    return answer(shell, "build-book", book_paper(printing(shell, paper), facts, needed, faults))


def _label_pages(
    shell: Shell, asked: dict[str, str], address: str
) -> tuple[LabelGrid, tuple[LabelPage, ...], dict[str, str]]:
    """The chosen grid with its sheets; where it does not fit, the usual one and why."""
    grids = label_grids()
    paper = shell.design.job.rules.paper
    usual = next((g for g in grids.values() if g.paper == paper), next(iter(grids.values())))
    skip = whole_number(asked.get("skip", "0"))
    errors: dict[str, str] = {}
    grid = grids.get(asked.get("grid", usual.key), usual)
    try:
        if asked.get("grid") == "own":
            own = build(GridForm, {n: asked[n] for n in GridForm.model_fields if n in asked})
            grid = require_fits(LabelGrid(key="own", label="your own", **own.model_dump()))
    except FieldsRefusedError as refused:
        errors |= refused.errors
    except EditRefusedError as refused:
        errors[refused.field] = f"{refused.message[:1].upper()}{refused.message[1:]}."
    if skip is None or skip >= grid.per_page:
        errors["skip"] = f"A whole number under {grid.per_page}, the labels on one sheet."
        skip = 0
    if address and not _is_address(address):
        errors["address"] = "An address begins with http:// and is at most 120 characters long."
        address = ""
    at = f"{address.rstrip('/')}{shell.base}/drawing" if address else ""
    labels = labels_of(shell.design, built(shell).cuts)
    return grid, label_pages(labels, grid, skip=skip, address=at), errors


def _is_address(text: str) -> bool:
    return text.startswith(("http://", "https://")) and len(text) <= 120 and text.isprintable()


@router.post("/build/address")
def keep_address(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Keep this server's address, for the codes on labels."""
    shell = _shell(conn, job_id)
    address = form.get("address", "").strip()
    if address and not _is_address(address):
        raise FieldsRefusedError({"address": "An address begins with http:// or https://."})
    with transaction(conn):
        shelf.set_setting(conn, "address", address)
    return go(f"{shell.base}/build/labels")


def _saying(shell: Shell) -> Saying:
    return saying_of(shell.design.job.rules, shell.design.job)


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "build")
