"""Buying: plans of fewer spools, and keeping one."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Mapping
from urllib.parse import urlencode
from uuid import uuid4

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.build.cutouts import MEASURES, Template, templates_of, usual_cutouts
from ready_trail.core.buy.order import Order, order_of
from ready_trail.core.buy.plans import Offers
from ready_trail.core.buy.quote import Quote, quote_of
from ready_trail.core.buy.stock import Shopping
from ready_trail.core.kinds.around import WIRE
from ready_trail.formats.build_csv import packs_csv, quote_csv
from ready_trail.formats.saying import saying_of
from ready_trail.formats.template_dxf import templates_dxf
from ready_trail.store import jobs, shelf, works
from ready_trail.store.db import transaction
from ready_trail.store.works import Work
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, build, press_key
from ready_trail.web.pages.build import built, minutes_words, shopping_of
from ready_trail.web.pages.buy import (
    WAITS_MOST,
    SpoolsView,
    StatedTerms,
    keep_cutout,
    keep_terms,
    kept_cutouts,
    kept_terms,
    offers_in,
    offers_now,
    owner_of,
    prices_of,
    shelf_metres,
    spools_of,
    start_plans,
)
from ready_trail.web.pages.shell import Shell, shell_of
from ready_trail.web.papers.common import answer, printing
from ready_trail.web.papers.quote import quote_paper
from ready_trail.web.papers.templates import fit_of, templates_paper

router = APIRouter(prefix="/jobs/{job_id}/build", include_in_schema=False)

_GONE = (
    "This plan is not offered any more: the job or the shelf changed. Look at the plans as they "
    "are now."
)


def _shell(conn: sqlite3.Connection, job_id: int) -> Shell:
    return shell_of(jobs.get_job(conn, job_id), "build")


@router.get("/spools")
def show_spools(
    request: Request, conn: Conn, job_id: JobId, plan: str = "", work: str = ""
) -> Response:
    """Show the plans from exactly as designed to the fewest spools, and one of them closely; of a
    large job how far they are.
    """
    shell = _shell(conn, job_id)
    offers = _offers(request, conn, shell)
    if isinstance(offers, Work):
        if work != offers.work_id and offers.state == "running":
            asked = urlencode({"plan": plan, "work": offers.work_id})
            return go(f"{shell.base}/build/spools?{asked}")
        return _spools(request, shell, work=offers)
    view = spools_of(conn, shell, offers, plan, shelf_metres(conn, job_id))
    errors = {"plan": _GONE} if plan and view.chosen is None else {}
    return _spools(request, shell, view=view, errors=errors, status=404 if errors else 200)


def _offers(request: Request, conn: sqlite3.Connection, shell: Shell) -> Offers | Work:
    """The plans, or the work that solves them."""
    there = shelf_metres(conn, shell.stored.job_id)
    if len(shell.design.circuits) <= WAITS_MOST:
        return offers_now(shell, there)
    found = start_plans(request.app.state.database, shell.stored, there)
    data = works.result(conn, found.work_id)
    return offers_in(data) if data is not None else found


def _spools(
    request: Request,
    shell: Shell,
    *,
    view: SpoolsView | None = None,
    work: Work | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    return page(
        request,
        "pages/build_spools.html",
        status=status,
        shell=shell,
        tab="parts",
        view=view,
        work=work,
        errors=errors or {},
    )


@router.post("/spools/keep")
def keep_plan(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Hold a plan: one edit, one undo."""
    seen = seen_revision(form)
    shell = _shell(conn, job_id)
    offers = _offers(request, conn, shell)
    if isinstance(offers, Work):
        return _spools(request, shell, work=offers, errors={"plan": _GONE}, status=422)
    view = spools_of(
        conn, shell, offers, form.get("plan", "-"), shelf_metres(conn, shell.stored.job_id)
    )
    errors = {}
    if view.kept is None:
        errors["plan"] = _GONE
    elif view.kept.opens_a_stop:
        errors["plan"] = "This plan would open a stop; take one with more spools."
    if errors or view.kept is None:
        return _spools(request, shell, view=view, errors=errors, status=422)
    commit(conn, job_id, seen, view.kept.edit)
    return go(f"{shell.base}/build/spools")


@router.get("/order")
def show_order(request: Request, conn: Conn, job_id: JobId, said: str = "") -> Response:
    """Show what is missing, in packs."""
    words = {"bought": "The packs stand on the shelf, and the job took what it needs."}
    return _order(request, conn, _shell(conn, job_id), said=words.get(said, ""))


def _order(
    request: Request, conn: sqlite3.Connection, shell: Shell, *, said: str = "", words: str = ""
) -> Response:
    shopping, order = _ordered(conn, shell)
    return page(
        request,
        "pages/build_order.html",
        status=422 if words else 200,
        shell=shell,
        tab="parts",
        order=order,
        any_parts=bool(shopping.needed),
        spools=sum(x.needed.line.group == WIRE for x in order.lines),
        in_feet=shell.design.job.rules.lengths == "feet",
        errors={"order": words} if words else {},
        said=said,
        key=str(uuid4()),
        print=_print_of(order),
    )


def _ordered(conn: sqlite3.Connection, shell: Shell) -> tuple[Shopping, Order]:
    shopping = shopping_of(conn, shell)
    feet = shell.design.job.rules.lengths == "feet"
    return shopping, order_of(shopping, built(shell).cuts, in_feet=feet)


def _print_of(order: Order) -> str:
    """What tells one order from another: its packs."""
    said = [(x.needed.line.key, x.packed and x.packed.packs, x.needed.missing) for x in order.lines]
    return hashlib.sha256(repr(said).encode()).hexdigest()[:12]


@router.get("/order.csv")
def order_file(conn: Conn, job_id: JobId) -> Response:
    """The order in packs, as CSV."""
    shell = _shell(conn, job_id)
    text = packs_csv(_ordered(conn, shell)[1], saying_of(shell.design.job.rules))
    return download(text, "text/csv", f"{shell.design.job.name}-packs.csv")


@router.post("/order/bought")
def take_packs(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Put the ordered packs on the shelf and take what the job needs; a double press counts once,
    and an order that is not the one of the page is not taken.
    """
    shell = _shell(conn, job_id)
    key = press_key(form)
    with transaction(conn):
        if shelf.is_known(conn, f"{key}-b0"):
            return go(f"{shell.base}/build/order?said=bought")
        _, order = _ordered(conn, shell)
        if form.get("print") != _print_of(order):
            words = "The order is another one by now: look at it again before you say it is here."
            return _order(request, conn, shell, words=words)
        note = f"for {shell.stored.job.name}"
        for at, x in enumerate(x for x in order.lines if x.packed is not None):
            line = x.needed.line
            if x.needed.part is None:
                shelf.save_part(conn, shelf.part_of(line), line.catalogue_key)
            bought = round(x.packed.bought, 3) if x.packed is not None else 0.0
            shelf.move_stock(conn, f"{key}-b{at}", line.key, "bought", bought, note=note)
            taken = round(x.needed.missing + x.needed.on_shelf, 3)
            shelf.move_stock(
                conn, f"{key}-t{at}", line.key, "taken", taken, job_id=job_id, note=note
            )
    return go(f"{shell.base}/build/order?said=bought")


def _quoted(conn: sqlite3.Connection, shell: Shell) -> Quote:
    made = built(shell)
    return quote_of(made, prices_of(conn, made.parts), kept_terms(conn).terms)


@router.get("/quote")
def show_quote(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show what the job costs whom it is for."""
    return _quote(request, conn, _shell(conn, job_id), typed=kept_terms(conn))


def _quote(
    request: Request,
    conn: sqlite3.Connection,
    shell: Shell,
    *,
    typed: object,
    errors: Mapping[str, str] | None = None,
) -> Response:
    return page(
        request,
        "pages/build_quote.html",
        status=422 if errors else 200,
        shell=shell,
        tab="parts",
        quote=_quoted(conn, shell),
        owner=lambda owner: owner_of(shell, owner),
        minutes_words=minutes_words,
        typed=typed,
        errors=errors or {},
    )


@router.post("/quote")
def keep_quote(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Keep the workshop's terms."""
    shell = _shell(conn, job_id)
    try:
        stated = build(StatedTerms, {k: v for k, v in form.items() if v.strip()})
    except FieldsRefusedError as refused:
        return _quote(request, conn, shell, typed=form, errors=refused.errors)
    with transaction(conn):
        keep_terms(conn, stated)
    return go(f"{shell.base}/build/quote")


@router.get("/quote.pdf")
def quote_pdf(conn: Conn, job_id: JobId, paper: str = "") -> Response:
    """The quotation as PDF."""
    shell = _shell(conn, job_id)
    note = kept_terms(conn).note
    return answer(
        shell, "quotation", quote_paper(printing(shell, paper), _quoted(conn, shell), note=note)
    )


@router.get("/quote.csv")
def quote_file(conn: Conn, job_id: JobId) -> Response:
    """The quotation as CSV."""
    shell = _shell(conn, job_id)
    text = quote_csv(_quoted(conn, shell), lambda owner: owner_of(shell, owner))
    return download(text, "text/csv", f"{shell.design.job.name}-quotation.csv")


def _templates(conn: sqlite3.Connection, shell: Shell) -> tuple[Template, ...]:
    return templates_of(shell.design, kept_cutouts(conn), shell.catalogue)


@router.get("/templates")
def show_templates(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show what is cut and drilled, with the measures of the parts."""
    return _show_templates(request, conn, _shell(conn, job_id))


def _show_templates(
    request: Request,
    conn: sqlite3.Connection,
    shell: Shell,
    *,
    typed: Mapping[str, str] | None = None,
    errors: Mapping[str, str] | None = None,
) -> Response:
    found = _templates(conn, shell)
    used = dict.fromkeys(t.cutout for t in found)
    cutouts = kept_cutouts(conn)
    return page(
        request,
        "pages/build_templates.html",
        status=422 if errors else 200,
        shell=shell,
        tab="parts",
        templates=[(t, fit_of(t, printing(shell).sheet)) for t in found],
        cutouts=[cutouts[key] for key in used if key in cutouts],
        usual=usual_cutouts(),
        measures=MEASURES,
        typed=typed or {},
        errors=errors or {},
    )


@router.post("/templates/measures")
def keep_measures(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Keep the measures of the parts in hand, for every job; empty fields go back to the usual."""
    shell = _shell(conn, job_id)
    try:
        with transaction(conn):
            keep_cutout(conn, form)
    except FieldsRefusedError as refused:
        return _show_templates(request, conn, shell, typed=form, errors=refused.errors)
    return go(f"{shell.base}/build/templates#measures-{form.get('cutout', '')}")


@router.get("/templates.pdf")
def templates_pdf(conn: Conn, job_id: JobId, paper: str = "", only: str = "") -> Response:
    """Templates at true size, each with a bar to check the print by."""
    shell = _shell(conn, job_id)
    found = [t for t in _templates(conn, shell) if only in ("", t.key)]
    return answer(shell, "templates", templates_paper(printing(shell, paper), found))


@router.get("/templates.dxf")
def templates_file(conn: Conn, job_id: JobId, only: str = "") -> Response:
    """The same as DXF, in millimetres."""
    shell = _shell(conn, job_id)
    found = [t for t in _templates(conn, shell) if only in ("", t.key)]
    name = f"{shell.design.job.name}-{only or 'templates'}.dxf"
    return download(templates_dxf(found), "image/vnd.dxf", name)
