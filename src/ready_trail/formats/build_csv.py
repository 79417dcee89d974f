"""Cut list, order list and the shelf as CSV, every cell guarded."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable

from ready_trail.core.build.cuts import Cut, CutList
from ready_trail.core.buy.order import Order
from ready_trail.core.buy.packs import Pack, check_whole, packs_said, parse_packs
from ready_trail.core.buy.quote import Quote
from ready_trail.core.buy.stock import Part, Shopping
from ready_trail.formats.cells import guarded, plain
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.saying import PLAIN, Saying

CUT_COLUMNS = (
    "spool",
    "wire",
    "circuit",
    "from",
    "from_place",
    "to",
    "to_place",
    "size",
    "colour",
    "mark",
    "insulation_c",
    "route_m",
    "cut_m",
    "cables",
    "taped",
    "start_terminal",
    "start_strip_mm",
    "start_die",
    "end_terminal",
    "end_strip_mm",
    "end_die",
    "sleeve",
)
ORDER_COLUMNS = (
    "part",
    "description",
    "unit",
    "needed",
    "spare",
    "taken",
    "on_shelf",
    "to_buy",
    "price",
    "cost",
    "order_ref",
)
PACK_COLUMNS = (
    "supplier",
    "part",
    "description",
    "order_ref",
    "needed",
    "unit",
    "pack",
    "packs",
    "pack_price",
    "price",
    "left_over",
)
SHELF_COLUMNS = (
    "part",
    "description",
    "group",
    "unit",
    "price",
    "order_ref",
    "stock",
    "least",
    "supplier",
    "packs",
    "row",
)
ROWS_MOST = 5_000
_SHELF_NUMBERS = ("price", "stock", "least")


def cut_list_csv(cuts: CutList, saying: Saying = PLAIN) -> str:
    """Return every piece once, spool by spool."""
    rows = (_cut_row(c) for spool in cuts.spools for c in spool.cuts)
    return _csv(CUT_COLUMNS, rows, saying)


def order_csv(shopping: Shopping, *, all_lines: bool = False, saying: Saying = PLAIN) -> str:
    """Return what is to buy; with ``all_lines`` also what the shelf has."""
    return _csv(
        ORDER_COLUMNS,
        (
            (
                n.line.key,
                n.line.label,
                n.line.unit,
                f"{n.line.quantity:g}",
                f"{n.line.spare:g}",
                f"{n.taken:g}",
                f"{n.on_shelf:g}",
                f"{n.missing:g}",
                f"{n.part.price:.2f}" if n.part and n.part.price is not None else "",
                f"{n.missing * n.part.price:.2f}" if n.part and n.part.price is not None else "",
                n.part.order_ref if n.part else "",
            )
            for n in shopping.needed
            if all_lines or n.missing > 0
        ),
        saying,
    )


def packs_csv(order: Order, saying: Saying = PLAIN) -> str:
    """Return the order in packs, a row for each size of pack, supplier by supplier; of what no
    pack serves, what is needed.
    """
    return _csv(PACK_COLUMNS, _pack_rows(order), saying)


def _pack_rows(order: Order) -> Iterable[tuple[str, ...]]:
    for supplier, lines in order.by_supplier.items():
        for x in lines:
            part = x.needed.part
            about = (
                supplier,
                x.needed.line.key,
                x.needed.line.label,
                part.order_ref if part is not None else "",
                f"{x.needed.missing:g}",
                x.needed.line.unit,
            )
            if x.packed is None:
                yield (*about, "", "", "", "", "")
                continue
            for at, (pack, n) in enumerate(x.packed.packs):
                price = pack.price
                yield (
                    *about,
                    f"{round(pack.size, 2):g}",
                    str(n),
                    f"{price:.2f}" if price is not None else "",
                    f"{price * n:.2f}" if price is not None else "",
                    f"{x.packed.over:g}" if at == 0 else "",
                )


def quote_csv(quote: Quote, owner: Callable[[str], str]) -> str:
    """Return a quotation, a row for each line and sum."""
    rows = [("parts", owner(line.owner), f"{line.parts:.2f}") for line in quote.lines]
    rows.append(("work", f"{quote.minutes / 60:.2f} h", f"{quote.labour:.2f}"))
    rows += [("tax", f"{quote.terms.tax:.1%}", f"{quote.tax:.2f}")] if quote.tax else []
    rows += [("no price", line.label, "") for line in quote.unpriced]
    return _csv(("what", "for", "price"), (*rows, ("total", "", f"{quote.total:.2f}")))


def shelf_csv(parts: Iterable[tuple[Part, str]]) -> str:
    """Return the shelf, each part with the row of the catalogue that it stands for."""
    return _csv(
        SHELF_COLUMNS,
        (
            (
                p.key,
                p.label,
                p.group,
                p.unit,
                "" if p.price is None else f"{p.price:g}",
                p.order_ref,
                f"{p.stock:g}",
                f"{p.least:g}",
                p.supplier,
                packs_said(p.packs),
                row,
            )
            for p, row in parts
        ),
    )


def read_shelf(data: bytes) -> tuple[tuple[Part, str], ...]:
    """Return the parts of a file as ``shelf_csv`` writes them.

    Raises FileRefusedError with the line and column of what is wrong; nothing is taken then.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileRefusedError("", "the file is not text in UTF-8") from error
    if "\x00" in text:
        raise FileRefusedError("", "the file holds what is no text")
    try:
        rows = list(csv.DictReader(io.StringIO(text, newline=""), strict=True))
    except csv.Error as error:
        raise FileRefusedError("", f"the file is no table: {error}") from error
    if not rows:
        raise FileRefusedError("", "the file has no rows")
    if len(rows) > ROWS_MOST:
        raise FileRefusedError("", f"it has {len(rows)} rows; {ROWS_MOST} are the most")
    missing = [c for c in ("part", "description") if c not in rows[0]]
    if missing:
        raise FileRefusedError("line 1", f"the column {missing[0]} is missing")
    found: dict[str, tuple[Part, str]] = {}
    for number, row in enumerate(rows, start=2):
        part, stands_for = _shelf_row(row, number)
        if part.key in found:
            raise FileRefusedError(f"line {number}", f"{part.key} stands twice")
        found[part.key] = (part, stands_for)
    return tuple(found.values())


def _shelf_row(row: dict[str, str | None], number: int) -> tuple[Part, str]:
    cells = {k: plain((v or "").strip()) for k, v in row.items() if isinstance(k, str)}
    values: dict[str, float | None] = {}
    for column in _SHELF_NUMBERS:
        values[column] = _number(cells.get(column, ""), f"line {number}, {column}")
    for column, most in (
        ("part", 80),
        ("description", 120),
        ("group", 60),
        ("order_ref", 80),
        ("supplier", 120),
    ):
        if len(cells.get(column, "")) > most:
            raise FileRefusedError(f"line {number}, {column}", f"at most {most} characters")
    if not cells.get("part") or not cells.get("description"):
        raise FileRefusedError(f"line {number}", "part and description are needed")
    unit = cells.get("unit") or "pc"
    if unit not in ("pc", "m"):
        raise FileRefusedError(f"line {number}, unit", "is pc or m")
    part = Part(
        key=cells["part"],
        label=cells["description"],
        group=cells.get("group") or "Own",
        unit=unit,
        price=values["price"],
        order_ref=cells.get("order_ref", ""),
        stock=values["stock"] or 0.0,
        least=values["least"] or 0.0,
        supplier=cells.get("supplier", ""),
        packs=_packs(cells.get("packs", ""), unit, f"line {number}, packs"),
    )
    if part.price == 0:
        raise FileRefusedError(f"line {number}, price", "0 is no price: leave it empty")
    if unit == "pc" and not part.stock.is_integer():
        raise FileRefusedError(f"line {number}, stock", "is counted in whole pieces")
    return part, cells.get("row", "")


def _packs(text: str, unit: str, where: str) -> tuple[Pack, ...]:
    try:
        packs = parse_packs(text)
        check_whole(packs, unit)
    except ValueError as error:
        raise FileRefusedError(where, str(error)) from None
    return packs


def _number(text: str, where: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise FileRefusedError(where, f"{text[:20]!r} is no number") from None
    if not 0 <= value < 1e9:
        raise FileRefusedError(where, "must be 0 or more")
    return value


def _cut_row(c: Cut) -> tuple[str, ...]:
    return (
        c.spool,
        c.label,
        c.circuit,
        c.from_words,
        c.from_site.name,
        c.to_words,
        c.to_site.name,
        c.conductor.label,
        c.colour,
        c.mark,
        str(c.insulation_c),
        f"{c.route_m:.2f}",
        f"{c.cut_m:.2f}",
        str(c.conductor.count),
        "yes" if c.taped else "no",
        c.start.label,
        f"{c.start.strip_mm:g}",
        c.start.die,
        c.end.label,
        f"{c.end.strip_mm:g}",
        c.end.die,
        c.sleeve,
    )


def _csv(columns: tuple[str, ...], rows: Iterable[tuple[str, ...]], saying: Saying = PLAIN) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in saying.rows((columns, *rows)):
        writer.writerow([guarded(cell) for cell in row])
    return out.getvalue()
