"""What every request needs: the database, the catalogue, designs, templates."""

from __future__ import annotations

import hashlib
import logging
import sqlite3
from collections.abc import Iterator
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, Request
from fastapi import Path as PathParam
from starlette.datastructures import UploadFile
from starlette.responses import HTMLResponse, RedirectResponse, Response

from ready_trail import __version__
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import Design, design, redesign
from ready_trail.core.job import Job
from ready_trail.formats.rendering import environment
from ready_trail.store import db, shelf
from ready_trail.web.fields import taken
from ready_trail.web.kept import Kept, KeptWith

FIELDS_MOST = 1_500
"""A run of 60 segments posts about 500 fields; placing 400 circuits at once posts more."""

Figures = tuple[Figure, ...]
STATIC = Path(str(files("ready_trail.web").joinpath("static")))


def get_conn(request: Request) -> Iterator[sqlite3.Connection]:
    """One connection a request; the handler opens the transaction."""
    conn = db.connect(request.app.state.database)
    try:
        yield conn
    finally:
        conn.close()


Conn = Annotated[sqlite3.Connection, Depends(get_conn)]


def get_catalogue(conn: Conn) -> Catalogue:
    """The shipped tables with the figures of the shelf's datasheets."""
    return catalogue_with(shelf.list_figures(conn))


async def get_form(request: Request) -> dict[str, str]:
    """The posted fields as text; of fields with one name the last counts."""
    posted = await request.form(max_fields=FIELDS_MOST, max_files=2)  # its reader closes an upload
    return taken(posted.multi_items())


async def get_upload(request: Request) -> bytes:
    """The one file of an upload form; empty when none was chosen."""
    async with request.form(max_fields=FIELDS_MOST, max_files=2) as posted:
        upload = posted.get("file")
        return await upload.read() if isinstance(upload, UploadFile) else b""


async def get_body(request: Request) -> bytes:
    """The body as it came; the route then runs beside others, not in their way."""
    return await request.body()


JobId = Annotated[int, PathParam(ge=1, le=2**62)]
Tables = Annotated[Catalogue, Depends(get_catalogue)]
Form = Annotated[dict[str, str], Depends(get_form)]
RawBody = Annotated[bytes, Depends(get_body)]
Upload = Annotated[bytes, Depends(get_upload)]


def _are_alike(a: Job, b: Job) -> bool:
    """Whether one job is likely another state of the other: most of its design then stands."""
    return a.name == b.name or (
        bool(a.circuits) and [c.id for c in a.circuits] == [c.id for c in b.circuits]
    )


_DESIGNS_MOST = 64
_hashes: KeptWith[int] = KeptWith(2 * _DESIGNS_MOST)


class _DesignedFrom:
    """A job and the shelf's figures as a key; a job is hashed once, however often it is asked."""

    __slots__ = ("_hash", "figures", "job")

    def __init__(self, job: Job, figures: Figures) -> None:
        self.job, self.figures = job, figures
        self._hash = hash((_hashes.get(job, lambda: hash(job)), figures))

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, _DesignedFrom)
            and self._hash == other._hash
            and (self.job is other.job or self.job == other.job)
            and self.figures == other.figures
        )


_designs: Kept[_DesignedFrom, Design] = Kept(_DESIGNS_MOST)
_log = logging.getLogger("ready_trail")


def designed(job: Job, figures: Figures, before: Job | None = None) -> Design:
    """Return the design of a job with the shelf's figures; equal jobs share one.

    A new one takes over from the job ``before`` an edit what that did not touch; where none is
    named or known, from one that is alike.
    """

    def make() -> Design:
        catalogue = catalogue_with(figures)
        like = _designs.newest(lambda k: k.job is before and k.figures == figures)
        like = like or _designs.newest(lambda k: k.figures == figures and _are_alike(k.job, job))
        return redesign(job, catalogue, like) if like else design(job, catalogue)

    return _designs.get(_DesignedFrom(job, figures), make)


def designed_or_bare(job: Job, figures: Figures) -> tuple[Design, str]:
    """Return the design of a job, or of its bare vehicle with what went wrong.

    A stored job that cannot be designed must never lock anybody out of undo and history.
    """
    try:
        return designed(job, figures), ""
    except Exception as error:
        _log.exception("a stored job cannot be designed")
        bare = job.model_copy(update={"circuits": (), "accessories": (), "points": (),
                                      "switches": (), "layout": None, "signals": ()})  # fmt: skip
        return design(bare, catalogue_with(figures)), f"This job cannot be designed: {error}"


@lru_cache(maxsize=256)
def _file_digest(name: str) -> str:
    return hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:12]


def asset(name: str) -> str:
    """Return the address of a static file, with its content's digest for the cache."""
    return f"/static/{name}?v={_file_digest(name)}"


def page(request: Request, template: str, *, status: int = 200, **context: Any) -> HTMLResponse:
    """Render a page, or a partial of one."""
    env = environment()
    text = env.get_template(template).render(
        request_path=request.url.path,
        asset=asset,
        version=__version__,
        **context,
    )
    return HTMLResponse(text, status_code=status, headers={"Vary": "HX-Request"})


def go(url: str) -> Response:
    """Send the browser on after a write."""
    return RedirectResponse(url, 303)
