"""The book of schemes: a picture, pins, truth table, when and cautions of each."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.asking import ask_of
from ready_trail.formats.scheme_book import entries
from ready_trail.store.errors import NotFoundError
from ready_trail.web.context import Tables, page
from ready_trail.web.pages.sheet import legend, sheet_of

router = APIRouter(prefix="/schemes", include_in_schema=False)


@router.get("")
def show_schemes(request: Request) -> Response:
    """List every scheme with when to take it."""
    return page(request, "pages/schemes.html", entries=entries())


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
