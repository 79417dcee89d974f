"""Care of every vehicle: what is due, on a page and as a calendar."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.formats.care_ics import Entry, care_ics
from ready_trail.web.context import Conn, page
from ready_trail.web.documents import download
from ready_trail.web.pages.record import care_of_all

router = APIRouter(include_in_schema=False)


@router.get("/care")
def show_care(request: Request, conn: Conn) -> Response:
    """Show what is due on every vehicle of every job, the most overdue first."""
    today = datetime.now(UTC).date()
    rows = sorted(care_of_all(conn), key=lambda row: row[3].due)
    return page(request, "pages/care.html", rows=rows, today=today)


@router.get("/care.ics")
def care_calendar(conn: Conn) -> Response:
    """The same as a calendar that may be subscribed to."""
    entries = [
        Entry(vehicle=name, own=str(vehicle), due=due)
        for _, name, vehicle, due in care_of_all(conn)
    ]
    return download(care_ics(entries, "Care of all vehicles"), "text/calendar", "care.ics")
