"""The shelf: parts with prices, their stock as a sum of moves, figures of datasheets.

A move is a fact and never changed: a wrong one is put right by a count.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal
from uuid import uuid4

from ready_trail.core.build.bill import Line
from ready_trail.core.buy.packs import packs_said, parse_packs
from ready_trail.core.buy.stock import Part
from ready_trail.core.datasheet import Figure
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotEnoughError, NotFoundError

MoveKind = Literal["bought", "taken", "returned", "counted"]

_STOCK = """
SELECT part.part_key, part.label, part.grp, part.unit, part.price, part.order_ref, part.least,
       part.supplier, part.packs, part.row,
       coalesce(
           (SELECT sum(CASE move.kind WHEN 'taken' THEN -move.quantity ELSE move.quantity END)
              FROM stock_move AS move
             WHERE move.part_key = part.part_key
               AND move.move_id >= coalesce(
                   (SELECT max(c.move_id) FROM stock_move AS c
                     WHERE c.part_key = part.part_key AND c.kind = 'counted'), 0)), 0) AS stock
  FROM part
"""
_LIST = _STOCK + " ORDER BY part.grp, part.label, part.part_key"
_ONE = _STOCK + " WHERE part.part_key = :key"
_SAVE = """
INSERT INTO part (part_key, label, grp, unit, price, order_ref, least, supplier, packs, row,
                  changed_at)
VALUES (:key, :label, :grp, :unit, :price, :order_ref, :least, :supplier, :packs, :row, :now)
ON CONFLICT (part_key) DO UPDATE
   SET label = excluded.label, grp = excluded.grp, unit = excluded.unit, price = excluded.price,
       order_ref = excluded.order_ref, least = excluded.least, row = excluded.row,
       supplier = excluded.supplier, packs = excluded.packs,
       changed_at = excluded.changed_at
"""
_MOVE = """
INSERT INTO stock_move (key, part_key, kind, quantity, job_id, note, made_at)
VALUES (:key, :part_key, :kind, :quantity, :job_id, :note, :now)
ON CONFLICT (key) DO NOTHING
"""
_KNOWN = "SELECT 1 FROM stock_move WHERE key = :key"
_MOVES = """
SELECT kind, quantity, job_id, note, made_at
  FROM stock_move
 WHERE part_key = :key
 ORDER BY move_id DESC
 LIMIT 100
"""
_TAKEN = """
SELECT part_key, sum(CASE kind WHEN 'taken' THEN quantity ELSE -quantity END) AS taken
  FROM stock_move
 WHERE job_id = :job_id AND kind IN ('taken', 'returned')
 GROUP BY part_key
"""
_FIGURES = "SELECT row, field, value, source FROM figure ORDER BY row, field"
_SAVE_FIGURE = """
INSERT INTO figure (row, field, value, source, made_at)
VALUES (:row, :field, :value, :source, :now)
ON CONFLICT (row, field) DO UPDATE
   SET value = excluded.value, source = excluded.source, made_at = excluded.made_at
"""
_DROP_FIGURE = "DELETE FROM figure WHERE row = :row AND field = :field"
_SETTING = "SELECT value FROM setting WHERE name = :name"
_SET = """
INSERT INTO setting (name, value) VALUES (:name, :value)
ON CONFLICT (name) DO UPDATE SET value = excluded.value
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class ShelfPart:
    """A part with the row of the catalogue that it stands for ("relay:mini_no"), if any."""

    part: Part
    row: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """A change of stock."""

    kind: str
    quantity: float
    job_id: int | None
    note: str
    made_at: str


def list_parts(conn: sqlite3.Connection) -> tuple[ShelfPart, ...]:
    """Return every part with its stock, by group and label."""
    return tuple(_part(row) for row in conn.execute(_LIST))


def get_part(conn: sqlite3.Connection, key: str) -> ShelfPart:
    """Return one part. Raises NotFoundError."""
    row = conn.execute(_ONE, {"key": key}).fetchone()
    if row is None:
        raise NotFoundError("part", key)
    return _part(row)


def save_part(conn: sqlite3.Connection, part: Part, row: str = "") -> None:
    """Put a part on the shelf, or change its words and price; its stock stays."""
    values = {
        "key": part.key,
        "label": part.label,
        "grp": part.group,
        "unit": part.unit,
        "price": part.price,
        "order_ref": part.order_ref,
        "least": part.least,
        "supplier": part.supplier,
        "packs": packs_said(part.packs),
        "row": row,
        "now": utc_now(),
    }
    conn.execute(_SAVE, values)


def move_stock(
    conn: sqlite3.Connection,
    key: str,
    part_key: str,
    kind: MoveKind,
    quantity: float,
    *,
    job_id: int | None = None,
    note: str = "",
) -> bool:
    """Append a move; False when its key is known and it counted already.

    Raises NotFoundError, or NotEnoughError where more would be taken than is there.
    """
    if is_known(conn, key):
        return False
    has = get_part(conn, part_key).part
    if kind == "taken" and quantity > has.stock + 1e-9:
        raise NotEnoughError(has.label, has.stock, quantity, has.unit)
    row = {
        "key": key,
        "part_key": part_key,
        "kind": kind,
        "quantity": quantity,
        "job_id": job_id,
        "note": note,
        "now": utc_now(),
    }
    conn.execute(_MOVE, row)
    return True


def is_known(conn: sqlite3.Connection, key: str) -> bool:
    """Return whether a move of this key was made already."""
    return conn.execute(_KNOWN, {"key": key}).fetchone() is not None


def take_parts(conn: sqlite3.Connection, parts: Iterable[tuple[Part, str]], note: str) -> None:
    """Put parts on the shelf with the rows they stand for; a stock that differs is a count."""
    known = {p.part.key: p for p in list_parts(conn)}
    for part, row in parts:
        before = known.get(part.key)
        save_part(conn, part, row or (before.row if before is not None else ""))
        has = before.part.stock if before is not None else 0.0
        if abs(has - part.stock) > 1e-6:
            move_stock(conn, str(uuid4()), part.key, "counted", part.stock, note=note)


def list_moves(conn: sqlite3.Connection, key: str) -> tuple[Move, ...]:
    """Return a part's moves, newest first, a hundred at most."""
    return tuple(
        Move(
            kind=r["kind"],
            quantity=r["quantity"],
            job_id=r["job_id"],
            note=r["note"],
            made_at=r["made_at"],
        )
        for r in conn.execute(_MOVES, {"key": key})
    )


def taken_for(conn: sqlite3.Connection, job_id: int) -> dict[str, float]:
    """Return what a job took of each part and did not put back."""
    found = {r["part_key"]: round(r["taken"], 3) for r in conn.execute(_TAKEN, {"job_id": job_id})}
    return {key: taken for key, taken in found.items() if taken > 0}


def list_figures(conn: sqlite3.Connection) -> tuple[Figure, ...]:
    """Return the figures that datasheets override."""
    return tuple(
        Figure(row=r["row"], field=r["field"], value=r["value"], source=r["source"])
        for r in conn.execute(_FIGURES)
    )


def save_figure(conn: sqlite3.Connection, figure: Figure) -> None:
    """Take a figure from a datasheet."""
    row = {
        "row": figure.row,
        "field": figure.field,
        "value": figure.value,
        "source": figure.source,
        "now": utc_now(),
    }
    conn.execute(_SAVE_FIGURE, row)


def drop_figure(conn: sqlite3.Connection, row: str, field: str) -> None:
    """Go back to the catalogue's typical figure."""
    conn.execute(_DROP_FIGURE, {"row": row, "field": field})


def get_setting(conn: sqlite3.Connection, name: str, default: str = "") -> str:
    """Return a setting of this installation."""
    row = conn.execute(_SETTING, {"name": name}).fetchone()
    return str(row["value"]) if row is not None else default


def set_setting(conn: sqlite3.Connection, name: str, value: str) -> None:
    """Keep a setting."""
    conn.execute(_SET, {"name": name, "value": value})


def _part(row: sqlite3.Row) -> ShelfPart:
    part = Part(
        key=row["part_key"],
        label=row["label"],
        group=row["grp"],
        unit=row["unit"],
        price=row["price"],
        order_ref=row["order_ref"],
        stock=round(row["stock"], 3),
        least=row["least"],
        supplier=row["supplier"],
        packs=parse_packs(row["packs"]),
    )
    return ShelfPart(part=part, row=row["row"])


def part_of(line: Line) -> Part:
    """Return a line of a parts list as a part to put on the shelf."""
    return Part(key=line.key, label=line.label[:120], group=line.group, unit=line.unit)
