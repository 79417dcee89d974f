"""The book of schemes: a picture, pins, truth table, when and cautions of each."""

from __future__ import annotations

from functools import lru_cache

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.asking import ask_of
from ready_trail.drawing.sheet import TIGHT, draw_sheet
from ready_trail.formats.rendering import environment
from ready_trail.formats.scheme_book import entries
from ready_trail.store.errors import NotFoundError
from ready_trail.web.context import Tables, page
from ready_trail.web.pages.sheet import legend, sheet_of
from ready_trail.web.papers.common import sheet_css

router = APIRouter(prefix="/schemes", include_in_schema=False)


@router.get("")
def show_schemes(request: Request) -> Response:
    """List every scheme with when to take it."""
    return page(request, "pages/schemes.html", entries=entries())


@router.get("/{key}.svg")
def scheme_picture(key: str) -> Response:
    """A scheme's row of the sheet, for its card."""
    if key not in {entry.key for entry in entries()}:
        raise NotFoundError("scheme", key)
    return Response(_picture(key), media_type="image/svg+xml")


@lru_cache(maxsize=64)
def _picture(key: str) -> str:
    entry = next(e for e in entries() if e.key == key)
    sheet = draw_sheet(entry.job, frozenset({entry.circuit.circuit.id}), TIGHT)
    template = environment().get_template("drawing/sheet_file.svg.html")
    return template.render(sheet=sheet, css=sheet_css())


@router.get("/{key}")
def show_scheme(request: Request, tables: Tables, key: str) -> Response:
    """Show one scheme, drawn from its small job."""
    book = entries()
    at = next((n for n, entry in enumerate(book) if entry.key == key), None)
    if at is None:
        raise NotFoundError("scheme", key)
    entry = book[at]
    sheet = sheet_of(entry.circuit, entry.job, tables)
    made = entry.circuit
    ask = ask_of(entry.job.routed, entry.job.plan.tree, made.circuit, made.current_a)
    return page(
        request,
        "pages/scheme.html",
        leaf=entry,
        sheet=sheet,
        legend=legend(sheet, tables),
        cautions=entry.circuit.scheme.cautions(ask),
        before=book[at - 1] if at else None,
        after=book[at + 1] if at + 1 < len(book) else None,
    )
