"""The application: routers, security, and one place where errors become answers."""

from __future__ import annotations

import asyncio
import logging
import re
import sqlite3
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager, closing
from http import HTTPStatus
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit
from uuid import uuid4

from anyio import to_thread
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import FileResponse, JSONResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from ready_trail import __version__
from ready_trail.core.errors import CoreError
from ready_trail.formats.archive import ARCHIVE_MOST_BYTES
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import FILE_MOST_BYTES
from ready_trail.formats.photo import PHOTO_MOST_BYTES
from ready_trail.store import db, jobs, shelf
from ready_trail.store.errors import (
    DatabaseUnusableError,
    NotFoundError,
    StaleWriteError,
    StoreError,
)
from ready_trail.store.in_use import in_use
from ready_trail.store.opening import open_database
from ready_trail.web import assets, work
from ready_trail.web.again import told_of
from ready_trail.web.assets import STATIC
from ready_trail.web.context import page
from ready_trail.web.door import Network
from ready_trail.web.fields import FieldsRefusedError, texts
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.routes import (
    accessories,
    api,
    branches,
    brief,
    build,
    buy,
    care,
    circuits,
    compare,
    drawing,
    edits,
    exports,
    faults,
    found,
    history,
    hunts,
    layout,
    pairing,
    practice,
    prove,
    quick_size,
    record,
    record_papers,
    review,
    rules,
    scenarios,
    schemes,
    supply,
    survey,
)
from ready_trail.web.routes import jobs as job_routes
from ready_trail.web.routes import shelf as shelf_routes
from ready_trail.web.routes import work as work_routes
from ready_trail.web.security import BodyLimit, LocalOnly
from ready_trail.web.work import TooMuchWorkError

_log = logging.getLogger("ready_trail")
_ROUTES = (
    job_routes,
    quick_size,
    pairing,
    schemes,
    shelf_routes,
    brief,
    accessories,
    survey,
    layout,
    rules,
    supply,
    scenarios,
    edits,
    circuits,
    branches,
    review,
    compare,
    drawing,
    faults,
    build,
    buy,
    found,
    prove,
    practice,
    hunts,
    record,
    record_papers,
    care,
    history,
    exports,
    work_routes,
    api,
)
_THREADS = 4
_BODY_MOST_BYTES = FILE_MOST_BYTES + 1_000_000


class CachedStatic(StaticFiles):
    """Static files: kept for good when asked for by digest, checked each time otherwise."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """Add how long the answer may be kept."""
        response = super().file_response(*args, **kwargs)
        scope: Scope = args[2] if len(args) > 2 else kwargs["scope"]
        by_digest = b"v=" in scope["query_string"]
        path = str(args[0] if args else kwargs["full_path"])
        keep = assets.ASKED_EACH_TIME
        if by_digest:
            keep = assets.FOR_GOOD
        elif path.endswith((".woff2", ".ttf")):  # named inside stylesheets, without a digest
            keep = "max-age=604800"
        response.headers["cache-control"] = keep
        return response


def create_app(database: Path) -> FastAPI:
    """Return the application on a database, which is created or migrated first."""
    open_database(database)
    app = FastAPI(
        title="Ready Trail",
        version=__version__,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        lifespan=_served,
        max_body_size=BodyLimit.DRAIN_MOST_BYTES,  # a stated size is refused sooner, with a page
    )
    app.state.database = database
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=3)
    app.add_middleware(
        BodyLimit,
        most_bytes=_BODY_MOST_BYTES,
        refuse=_too_large,
        larger={
            "/record/photo": PHOTO_MOST_BYTES + 1_000_000,
            "/archive": ARCHIVE_MOST_BYTES + 1_000_000,
        },
    )
    app.add_middleware(LocalOnly, database=database)
    app.state.network = Network(app=app)
    app.state.port = 0
    app.add_api_route("/sw.js", _service_worker, include_in_schema=False)
    app.include_router(assets.router)
    app.mount("/static", CachedStatic(directory=STATIC), name="static")
    for module in _ROUTES:
        app.include_router(module.router)
    _add_handlers(app)
    return app


@asynccontextmanager
async def _served(app: FastAPI) -> AsyncIterator[None]:
    """Let few requests run at a time: they compute, and more of them only wait for each other.

    The database is held meanwhile: nobody puts a backup in its place under what is written.
    """
    to_thread.current_default_thread_limiter().total_tokens = _THREADS
    door: Network = app.state.network
    with in_use(app.state.database), closing(db.connect(app.state.database)) as held:
        # with one connection open its files beside the database stay: a full disk can be read
        held.execute("SELECT count(*) FROM job").fetchone()
        following = None
        if door.is_shared:
            following = asyncio.create_task(
                door.follow(app.state.port, lambda: _door_is_open(app.state.database))
            )
        try:
            yield
        finally:
            if following is not None:
                following.cancel()
            door.close()
            work.close()


def _door_is_open(database: Path) -> bool:
    with closing(db.connect(database)) as conn:
        return shelf.get_setting(conn, "network_now") == "on"


def _service_worker() -> Response:
    """The service worker, at the root so that it may answer for every build page."""
    return FileResponse(
        STATIC / "js" / "sw.js", media_type="text/javascript", headers={"cache-control": "no-cache"}
    )


def _add_handlers(app: FastAPI) -> None:
    app.add_exception_handler(StaleWriteError, _stale)
    for error, status in (
        (NotFoundError, 404),
        (FieldsRefusedError, 422),
        (FileRefusedError, 422),
        (CoreError, 422),
        (TooMuchWorkError, 429),
        (DatabaseUnusableError, 503),
        (StoreError, 500),
        (sqlite3.OperationalError, 503),
        (HTTPException, 0),
        (RequestValidationError, 422),
    ):
        app.add_exception_handler(error, _handler(status))
    app.add_exception_handler(Exception, _unforeseen)


def _handler(status: int) -> Any:
    async def answer(request: Request, error: Exception) -> Response:
        code = error.status_code if isinstance(error, HTTPException) else status
        if isinstance(error, RequestValidationError):
            if request.url.path.startswith("/api/"):
                told = [{"loc": list(d["loc"]), "msg": d["msg"]} for d in error.errors()[:50]]
                return JSONResponse({"detail": told}, status_code=422)
            if any(details["loc"][:1] == ("path",) for details in error.errors()):
                code = 404
        typed = await _typed(request) if isinstance(error, FieldsRefusedError) else {}
        shell = await to_thread.run_sync(_job_of, request) if code == 404 else None
        refused = told_of(request)  # of a form whose page is gone
        words = " ".join(refused.errors.values()) or _words(error)
        return _problem(request, code, _heading(code), words, typed or texts(refused.typed), shell)

    return answer


_NOT_TYPED = frozenset(
    {"revision", "back", "page", "then", "edit", "held", "form_key", "key", "id"}
)


async def _typed(request: Request) -> dict[str, str]:
    """What a person typed into the form that was refused: it is shown, so that nothing is lost."""
    if request.method != "POST":
        return {}
    form = await request.form()
    typed = ((n, v) for n, v in form.multi_items() if isinstance(v, str) and n not in _NOT_TYPED)
    return {name: value[:2_000] for name, value in list(typed)[:60]}


async def _unforeseen(request: Request, error: Exception) -> Response:
    """A mistake of ours: a page with a reference, under which the log has its trace."""
    reference = uuid4().hex[:8]
    _log.error("reference %s: %s %s", reference, request.method, request.url.path, exc_info=error)
    words = (
        f"This is a mistake of the program, not yours; nothing was half stored. Its log has it "
        f"under the reference {reference}. Go back, and try it another way."
    )
    return _problem(request, 500, _heading(500), words)


def _words(error: Exception) -> str:
    if isinstance(error, FieldsRefusedError):
        return "; ".join(error.errors.values())
    if isinstance(error, RequestValidationError):
        names = [str(details["loc"][-1]) for details in error.errors() if details["loc"]]
        what = ", ".join(dict.fromkeys(n.replace("_", " ") for n in names)) or "the address"
        return f"What the address says of {what[:120]} cannot be read."
    if isinstance(error, HTTPException):
        standard = HTTPStatus(error.status_code).phrase
        return "" if error.detail == standard else error.detail
    if isinstance(error, sqlite3.OperationalError):
        return (
            f"The database did not take the change ({error}). Nothing was stored; what you "
            "typed is still on the page before this one. Try again once no other program holds "
            "the file and it may be written."
        )
    words = f"{error}."
    return words[:1].upper() + words[1:]


def _heading(status: int) -> str:
    return {
        404: "There is no such page",
        405: "That is not to be opened by its address",
        413: "That is too large",
        408: "That came too slowly",
        422: "That cannot be taken",
        429: "Too much at once",
        503: "The database cannot be used just now",
    }.get(status, "That did not work")


def _problem(
    request: Request,
    status: int,
    heading: str,
    words: str,
    typed: Mapping[str, str] | None = None,
    shell: Shell | None = None,
) -> Response:
    if request.url.path.startswith("/api/"):
        return JSONResponse({"detail": words or heading}, status_code=status)
    around = {"shell": shell} if shell is not None else {}
    if around and not words:
        words = "This job has no such page, or no longer has what it was about."
    return page(
        request,
        "pages/problem.html",
        status=status,
        heading=heading,
        words=words,
        typed=typed or {},
        back=_came_from(request),
        **around,
    )


_IN_JOB = re.compile(r"/jobs/(\d{1,9})/")


def _job_of(request: Request) -> Shell | None:
    """The job in which an address was looked for that is not there: one stays inside it."""
    found = _IN_JOB.match(request.url.path)
    if found is None:
        return None
    try:
        with closing(db.connect(request.app.state.database)) as conn:
            return shell_of(jobs.get_job(conn, int(found[1])), "")
    except (StoreError, sqlite3.Error):
        return None


def _came_from(request: Request) -> str:
    """The page of ours that the browser came from, where it says so."""
    try:
        parts = urlsplit(request.headers.get("referer", ""))
    except ValueError:
        return ""
    if parts.netloc != request.headers.get("host") or not parts.path.startswith("/"):
        return ""
    return f"{parts.path}{'?' + parts.query if parts.query else ''}"


def _too_large(request: Request) -> Response:
    words = f"A job file has {FILE_MOST_BYTES / 1e6:.0f} MB at most. Nothing was stored."
    return _problem(request, 413, _heading(413), words)


async def _stale(request: Request, error: Exception) -> Response:
    """Show both: what was typed, and what happened meanwhile; one press applies it on top."""
    if not isinstance(error, StaleWriteError) or request.url.path.startswith("/api/"):
        return _problem(request, 409, "The job moved on", str(error))
    form = await request.form()
    typed = {n: v for n, v in form.multi_items() if isinstance(v, str) and n != "revision"}
    held = getattr(request.state, "held", "")
    typed |= {"held": held} if held else {}
    conn = db.connect(request.app.state.database)
    try:
        stored = jobs.get_job(conn, error.job_id)
        newer = [r for r in jobs.list_revisions(conn, error.job_id) if r.number > error.seen]
    finally:
        conn.close()
    hidden = ("back", "page", "then", "edit", "held", "form_key")
    shown = {n: v for n, v in typed.items() if n not in hidden}
    if "held" in typed:
        shown["file"] = "the file that you chose, kept"
    return page(
        request,
        "pages/stale.html",
        status=409,
        stored=stored,
        newer=newer,
        typed=typed,
        shown=shown,
        seen=error.seen,
    )
