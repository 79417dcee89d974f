"""What every request needs: the database, the catalogue, designs, templates."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator, Mapping
from typing import Annotated, Any

from fastapi import Depends, Request
from fastapi import Path as PathParam
from markupsafe import escape
from starlette.datastructures import UploadFile
from starlette.responses import HTMLResponse, RedirectResponse, Response

from ready_trail import __version__
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.datasheet import catalogue_with
from ready_trail.formats.rendering import environment
from ready_trail.store import db, shelf
from ready_trail.web.again import told_of
from ready_trail.web.assets import asset
from ready_trail.web.fields import taken

FIELDS_MOST = 1_500
"""A run of 60 segments posts about 500 fields; placing 400 circuits at once posts more."""


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


async def get_picture(request: Request) -> tuple[dict[str, str], bytes]:
    """The fields of a form with one file, and that file."""
    async with request.form(max_fields=FIELDS_MOST, max_files=2) as posted:
        upload = posted.get("file")
        data = await upload.read() if isinstance(upload, UploadFile) else b""
        return taken([(k, v) for k, v in posted.multi_items() if isinstance(v, str)]), data


async def get_body(request: Request) -> bytes:
    """The body as it came; the route then runs beside others, not in their way."""
    return await request.body()


JobId = Annotated[int, PathParam(ge=1, le=2**62)]
Tables = Annotated[Catalogue, Depends(get_catalogue)]
Form = Annotated[dict[str, str], Depends(get_form)]
RawBody = Annotated[bytes, Depends(get_body)]
Upload = Annotated[bytes, Depends(get_upload)]
Picture = Annotated[tuple[dict[str, str], bytes], Depends(get_picture)]


def page(request: Request, template: str, *, status: int = 200, **context: Any) -> HTMLResponse:
    """Render a page, or a partial of one; shown again for a form, with what was refused of it."""
    told = told_of(request)
    errors = context.get("errors", {})
    if told.errors and status < 400:
        status = 422
        errors = context["errors"] = {**errors, **told.errors}
    env = environment()
    text = env.get_template(template).render(
        request_path=request.url.path,
        asset=asset,
        version=__version__,
        **context,
    )
    if status >= 400 and isinstance(errors, Mapping):
        text = _with_every_word(text, errors)
    return HTMLResponse(text, status_code=status, headers={"Vary": "HX-Request"})


_WORK = re.compile(r'<main id="work"[^>]*>')
_LIST_NUMBER = re.compile(r"\.(\d+)(?=\.|$)")


def _with_every_word(text: str, errors: Mapping[str, str]) -> str:
    """The page with those refusals on top that stand beside no field of it."""
    untold = {name: words for name, words in errors.items() if escape(words) not in text}
    if not untold:
        return text
    lines = "".join(
        f"<li>{_field_words(name)}{escape(words)}</li>" for name, words in untold.items()
    )
    told = f'<ul class="notification is-danger is-light untold" role="alert">{lines}</ul>'
    found = _WORK.search(text)
    at = found.end() if found is not None else 0
    return f"{text[:at]}{told}{text[at:]}"


def _field_words(name: str) -> str:
    """A field's path in words: ``run.1.zone`` is "Run 2, zone"."""
    if name == "form":
        return ""
    path = _LIST_NUMBER.sub(lambda n: f" {int(n[1]) + 1}", name[:80])
    words = path.replace(".", ", ").replace("_", " ")
    return f"{escape(words[:1].upper() + words[1:])}: "


def go(url: str) -> Response:
    """Send the browser on after a write."""
    return RedirectResponse(url, 303)
