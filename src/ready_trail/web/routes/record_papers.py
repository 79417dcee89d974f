"""What leaves the record: card, covers, the owner's paper, a calendar of care, the archive."""

from __future__ import annotations

import sqlite3

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.record.card import Card, card_of
from ready_trail.core.record.facts import Photographed
from ready_trail.drawing.qr import qr_picture
from ready_trail.formats.archive import Archive, to_zip
from ready_trail.formats.care_ics import Entry, care_ics
from ready_trail.formats.job_json import write_job
from ready_trail.store import archives, facts, jobs, photos, shelf, vehicles
from ready_trail.web.context import Conn, JobId
from ready_trail.web.documents import download
from ready_trail.web.pages.build import built
from ready_trail.web.pages.record import record_view
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.papers.card import card_paper, covers_paper, owner_paper
from ready_trail.web.papers.common import answer, pdf_of, printing
from ready_trail.web.papers.whole_sheet import sheet_file

router = APIRouter(prefix="/jobs/{job_id}/record", include_in_schema=False)


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "record")


@router.get("/care.ics")
def care_file(conn: Conn, job_id: JobId, vehicle: int | None = None) -> Response:
    """What is due on one vehicle, as a calendar that may be subscribed to."""
    shell = _shell(conn, job_id)
    own = vehicles.vehicle_of(conn, job_id, vehicle)
    name = own.name or shell.design.job.name
    due = record_view(conn, shell, own.vehicle_id, with_handings=False).due
    entries = [Entry(vehicle=name, own=str(own.vehicle_id), due=d) for d in due]
    return download(care_ics(entries, f"Care of {name}"), "text/calendar", f"{name}-care.ics")


def _qr(conn: sqlite3.Connection, shell: Shell) -> str:
    """The job's address as a code, where the workshop's own address is known."""
    address = shelf.get_setting(conn, "address").rstrip("/")
    return qr_picture(f"{address}{shell.base}/record") if address else ""


def _card(shell: Shell) -> Card:
    return card_of(shell.design, built(shell).parts, shell.catalogue)


@router.get("/card.pdf")
def card_pdf(conn: Conn, job_id: JobId, size: str = "a6") -> Response:
    """The glove-box card at true size, two sides."""
    shell = _shell(conn, job_id)
    return answer(shell, "card", card_paper(printing(shell), _card(shell), size, _qr(conn, shell)))


@router.get("/covers.pdf")
def covers_pdf(conn: Conn, job_id: JobId, paper: str = "") -> Response:
    """Labels for the covers of blocks."""
    shell = _shell(conn, job_id)
    return answer(shell, "covers", covers_paper(printing(shell, paper), _card(shell)))


@router.get("/hand-over.pdf")
def owner_pdf(conn: Conn, job_id: JobId, vehicle: int | None = None, paper: str = "") -> Response:
    """The hand-over record for the owner."""
    shell = _shell(conn, job_id)
    own = vehicles.vehicle_of(conn, job_id, vehicle)
    view = record_view(conn, shell, own.vehicle_id)
    name = own.name or shell.design.job.name
    return answer(shell, "hand-over", owner_paper(printing(shell, paper), view, name))


@router.get("/archive.zip")
def archive_file(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Everything of the job and its vehicles, for the next shop."""
    shell = _shell(conn, job_id)
    archived = archives.vehicles_of(conn, job_id)
    digests = {
        f.fact.digest
        for v in vehicles.list_vehicles(conn, job_id)
        for f in facts.list_facts(conn, v.vehicle_id)
        if isinstance(f.fact, Photographed)
    }
    database = request.app.state.database
    printed = printing(shell)
    own = vehicles.vehicle_of(conn, job_id, None)
    view, name = record_view(conn, shell, own.vehicle_id), own.name or shell.design.job.name
    papers = {
        "card.pdf": pdf_of(shell, card_paper(printed, _card(shell), "a6")),
        "hand-over.pdf": pdf_of(shell, owner_paper(printed, view, name)),
        "drawing.svg": sheet_file(shell).encode(),
    }
    archive = Archive(
        job=write_job(shell.stored.job).encode(),
        vehicles=archived,
        photos={d: photos.read_photo(database, d) for d in sorted(digests)},
        papers=papers,
    )
    return download(to_zip(archive), "application/zip", f"{shell.design.job.name}-archive.zip")
