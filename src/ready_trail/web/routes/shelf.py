"""The shelf: own parts, stock, prices, and figures of their datasheets."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping
from typing import Annotated, get_args
from urllib.parse import quote
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import BaseModel, BeforeValidator, Field, StringConstraints
from starlette.responses import Response

from ready_trail.core.build.bill import GROUPS
from ready_trail.core.buy.packs import Pack, check_whole, packs_said, parse_packs
from ready_trail.core.buy.stock import Part
from ready_trail.core.catalogue import Catalogue, load_catalogue
from ready_trail.core.datasheet import Figure, checked_figure, fields_of, typical
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.parts import Name, ShortText
from ready_trail.core.measures import as_figure
from ready_trail.formats.build_csv import read_shelf, shelf_csv
from ready_trail.formats.errors import FileRefusedError
from ready_trail.store import rule_sets, shelf
from ready_trail.store.db import transaction
from ready_trail.store.errors import NotEnoughError
from ready_trail.web.context import Conn, Form, Upload, go, page
from ready_trail.web.documents import download
from ready_trail.web.fields import FieldsRefusedError, build

router = APIRouter(prefix="/shelf", include_in_schema=False)

PartKey = Annotated[
    str,
    StringConstraints(
        strip_whitespace=True,
        min_length=1,
        max_length=80,
        pattern=r"^[A-Za-z0-9][A-Za-z0-9 ._:/+-]*$",
    ),
]
Quantity = Annotated[float, Field(ge=0, le=1_000_000, allow_inf_nan=False)]


def _packs(typed: object) -> object:
    return parse_packs(typed) if isinstance(typed, str) else typed


class PartForm(BaseModel):
    """A part as its form states it."""

    key: PartKey
    label: Name
    group: ShortText = "Own"
    unit: Annotated[str, StringConstraints(pattern=r"^(pc|m)$")] = "pc"
    price: Annotated[float, Field(gt=0, le=1_000_000, allow_inf_nan=False)] | None = None
    order_ref: ShortText = ""
    supplier: ShortText = ""
    packs: Annotated[tuple[Pack, ...], BeforeValidator(_packs)] = ()
    least: Quantity = 0.0
    row: Annotated[str, StringConstraints(max_length=60)] = ""


class MoveForm(BaseModel):
    """A move of stock as its form states it."""

    move_key: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9-]{8,64}$")]
    kind: Annotated[str, StringConstraints(pattern=r"^(bought|taken|returned|counted)$")]
    quantity: Quantity
    note: ShortText = ""


@router.get("")
def show_shelf(
    request: Request,
    conn: Conn,
    part: str = "",
    find: str = "",
    add: bool = False,
    low: bool = False,
) -> Response:
    """Show the shelf; ``part`` opens one, ``find`` searches, ``low`` shows what runs out."""
    return _shelf(request, conn, part=part, find=find, add=add, low=low)


def _shelf(
    request: Request,
    conn: sqlite3.Connection,
    *,
    part: str = "",
    find: str = "",
    add: bool = False,
    low: bool = False,
    errors: Mapping[str, str] | None = None,
    typed: Mapping[str, str] | None = None,
    effect: tuple[str, ...] = (),
) -> Response:
    every = shelf.list_parts(conn)
    wanted = find.casefold().split()
    shown = [
        p
        for p in every
        if all(w in f"{p.part.key} {p.part.label} {p.part.order_ref}".casefold() for w in wanted)
        and (not low or p.part.stock < p.part.least)
    ]
    opened = next((p for p in every if p.part.key == part), None)
    figures = {(f.row, f.field): f for f in shelf.list_figures(conn)}
    fields = []
    if opened is not None:
        for field in fields_of(opened.row):
            own = figures.get((opened.row, field.name))
            usual = typical(opened.row, field.name, load_catalogue())
            if usual is not None:
                fields.append((field, usual, own))
    with_figures = {row for row, _ in figures}
    by_group: dict[str, list[shelf.ShelfPart]] = {}
    for each in sorted(shown, key=lambda p: _group_at(p.part.group)):
        by_group.setdefault(each.part.group, []).append(each)
    return page(
        request,
        "pages/shelf.html",
        house=rule_sets.shops_rules(conn),
        status=422 if errors else 200,
        parts=by_group,
        every=every,
        opened=opened,
        adding=add,
        find=find,
        low=low,
        errors=dict(errors or {}),
        typed=dict(typed or {}),
        fields=fields,
        with_figures=with_figures,
        groups=GROUPS[:-1],
        moves=shelf.list_moves(conn, opened.part.key) if opened is not None else (),
        key=str(uuid4()),
        effect=effect,
        packs_said=packs_said,
        value=sum((p.part.price or 0.0) * max(p.part.stock, 0.0) for p in every),
        lows=sum(p.part.stock < p.part.least for p in every),
    )


def _group_at(group: str) -> tuple[int, str]:
    """Where a group stands on the list: as on parts lists, one's own groups after them."""
    return (GROUPS.index(group) if group in GROUPS else len(GROUPS), group)


@router.post("/part")
def keep_part(request: Request, conn: Conn, form: Form) -> Response:
    """Put a part on the shelf, or change its words and its price."""
    new = form.get("new") == "true"
    try:
        stated = build(PartForm, _numbers(form, PartForm, "price", "least"))
        _check_whole(stated)
        with transaction(conn):
            known = {p.part.key: p for p in shelf.list_parts(conn)}
            if new and stated.key in known:
                raise FieldsRefusedError({"key": "The shelf has a part of this code already."})
            row = known[stated.key].row if stated.key in known else stated.row
            shelf.save_part(
                conn,
                Part(
                    key=stated.key,
                    label=stated.label,
                    group=stated.group or "Own",
                    unit=stated.unit,
                    price=stated.price,
                    order_ref=stated.order_ref,
                    supplier=stated.supplier,
                    packs=stated.packs,
                    least=stated.least,
                ),
                row,
            )
    except FieldsRefusedError as refused:
        return _shelf(
            request,
            conn,
            part="" if new else form.get("key", ""),
            add=new,
            errors=refused.errors,
            typed=form,
        )
    return go(f"/shelf?part={_quoted(stated.key)}#part")


def _check_whole(stated: PartForm) -> None:
    try:
        check_whole(stated.packs, stated.unit)
    except ValueError as error:
        words = str(error)
        raise FieldsRefusedError({"packs": f"{words[:1].upper()}{words[1:]}."}) from None


@router.post("/move")
def move(request: Request, conn: Conn, form: Form) -> Response:
    """Change a part's stock: a fact that stays. The form's key makes a double press count once."""
    key = form.get("key", "")
    try:
        stated = build(MoveForm, _numbers(form, MoveForm, "quantity"))
        if stated.quantity == 0 and stated.kind != "counted":
            raise FieldsRefusedError({"quantity": "Must be more than 0."})
        kind = next(k for k in get_args(shelf.MoveKind) if k == stated.kind)
        if shelf.get_part(conn, key).part.unit == "pc" and not stated.quantity.is_integer():
            raise FieldsRefusedError({"quantity": "A whole number: it is counted in pieces."})
        with transaction(conn):
            shelf.move_stock(conn, stated.move_key, key, kind, stated.quantity, note=stated.note)
    except FieldsRefusedError as refused:
        return _shelf(request, conn, part=key, errors=refused.errors, typed=form)
    except NotEnoughError as error:
        words = f"{str(error)[:1].upper()}{str(error)[1:]}."
        return _shelf(request, conn, part=key, errors={"quantity": words}, typed=form)
    return go(f"/shelf?part={_quoted(key)}#part")


@router.post("/figure")
def keep_figure(request: Request, conn: Conn, form: Form) -> Response:
    """Take a figure from a datasheet, or go back to the typical one where it is left empty."""
    key = form.get("key", "")
    try:
        part = shelf.get_part(conn, key)
        with transaction(conn):
            source = form.get("source", "").strip()[:120]
            changed = _figures(form, part.row)
            held = {(f.row, f.field): f for f in shelf.list_figures(conn)}
            for name, value in changed.items():
                if value is None:
                    held.pop((part.row, name), None)
                    shelf.drop_figure(conn, part.row, name)
                else:
                    held[part.row, name] = Figure(
                        row=part.row, field=name, value=value, source=source
                    )
            own = tuple(f for f in held.values() if f.row == part.row)
            for figure in own:
                beside = tuple(f for f in own if f.field != figure.field)
                checked_figure(figure, load_catalogue(), beside)
                shelf.save_figure(conn, figure)
    except EditRefusedError as refused:
        words = f"{refused.message[:1].upper()}{refused.message[1:]}."
        errors = {f"figure.{refused.field}": words, refused.field: words}
        return _shelf(request, conn, part=key, errors=errors, typed=form)
    except FieldsRefusedError as refused:
        return _shelf(request, conn, part=key, errors=refused.errors, typed=form)
    return go(f"/shelf?part={_quoted(key)}#figures")


def _figures(form: Mapping[str, str], row: str) -> dict[str, float | None]:
    """The posted figures of a row; None where a field is empty."""
    found: dict[str, float | None] = {}
    for field in fields_of(row):
        text = as_figure(field.name, form.get(f"figure.{field.name}", ""))
        try:
            found[field.name] = float(text) if text else None
        except ValueError:
            raise FieldsRefusedError(
                {f"figure.{field.name}": "Type a number, such as 2.4."}
            ) from None
        if found[field.name] is not None and not math.isfinite(found[field.name] or 0.0):
            raise FieldsRefusedError({f"figure.{field.name}": "Type an ordinary number."})
    return found


@router.get("/parts.csv")
def shelf_file(conn: Conn) -> Response:
    """The shelf as CSV."""
    return download(
        shelf_csv((p.part, p.row) for p in shelf.list_parts(conn)), "text/csv", "shelf.csv"
    )


@router.post("/file")
def take_file(request: Request, conn: Conn, data: Upload) -> Response:
    """Take parts from a CSV file; a stock that differs counts as a count of today."""
    try:
        if not data:
            raise FileRefusedError("", "choose a CSV file first")
        rows = read_shelf(data)
        for part, _ in rows:
            build(
                PartForm,
                {"key": part.key, "label": part.label, "group": part.group[:60], "unit": part.unit},
            )
    except FileRefusedError as refused:
        return _shelf(request, conn, errors={"file": f"The file was not taken: {refused}."})
    except FieldsRefusedError as refused:
        words = "; ".join(refused.errors.values())
        return _shelf(request, conn, errors={"file": f"The file was not taken: {words}"})
    table = load_catalogue()
    with transaction(conn):
        shelf.take_parts(
            conn, ((part, row if _is_row(row, table) else "") for part, row in rows), "from a file"
        )
    return go("/shelf")


def _is_row(row: str, catalogue: Catalogue) -> bool:
    fields = fields_of(row)
    return bool(fields) and typical(row, fields[0].name, catalogue) is not None


def _numbers(form: Mapping[str, str], model: type[BaseModel], *names: str) -> dict[str, object]:
    """The form's fields that a model has; numbers with a decimal comma are taken, blanks left."""
    found: dict[str, object] = {}
    for name in model.model_fields:
        if name not in form:
            continue
        value = form[name].strip()
        if name in names:
            if not value:
                continue
            value = value.replace(",", ".") if value.count(",") == 1 else value
        found[name] = value
    return found


def _quoted(key: str) -> str:
    return quote(key, safe="")
