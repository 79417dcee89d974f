"""Sets of house rules that the shop keeps; one of them may be what new jobs start from."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from pydantic import ValidationError

from ready_trail.core.job import HouseRules
from ready_trail.store.db import utc_now
from ready_trail.store.errors import NotFoundError

_SELECT = "SELECT name, document, is_shops, made_at FROM rule_set ORDER BY name"
_SAVE = """
INSERT INTO rule_set (name, document, is_shops, made_at) VALUES (:name, :document, 0, :now)
ON CONFLICT (name) DO UPDATE SET document = excluded.document, made_at = excluded.made_at
"""
_CLEAR_SHOPS = "UPDATE rule_set SET is_shops = 0 WHERE is_shops = 1"
_SET_SHOPS = "UPDATE rule_set SET is_shops = 1 WHERE name = :name RETURNING name"
_DELETE = "DELETE FROM rule_set WHERE name = :name RETURNING name"


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleSet:
    """A named set. ``is_shops`` marks the one that new jobs start from."""

    name: str
    rules: HouseRules
    is_shops: bool
    made_at: str


def list_sets(conn: sqlite3.Connection) -> tuple[RuleSet, ...]:
    """Return every set by name; one that this program cannot read any more is left out."""
    found = []
    for row in conn.execute(_SELECT):
        try:
            rules = HouseRules.model_validate_json(row["document"])
        except ValidationError:
            continue
        found.append(
            RuleSet(
                name=row["name"],
                rules=rules,
                is_shops=bool(row["is_shops"]),
                made_at=row["made_at"],
            )
        )
    return tuple(found)


def get_set(conn: sqlite3.Connection, name: str) -> RuleSet:
    """Return one set. Raises NotFoundError."""
    for found in list_sets(conn):
        if found.name == name:
            return found
    raise NotFoundError("set of rules", name)


def shops_rules(conn: sqlite3.Connection) -> HouseRules:
    """Return what new jobs start from: the shop's own set, or the defaults."""
    return next((s.rules for s in list_sets(conn) if s.is_shops), HouseRules())


def save_set(conn: sqlite3.Connection, name: str, rules: HouseRules) -> None:
    """Keep a set under a name; one of that name is replaced."""
    document = json.dumps(rules.model_dump(mode="json"))
    conn.execute(_SAVE, {"name": name, "document": document, "now": utc_now()})


def make_shops(conn: sqlite3.Connection, name: str) -> None:
    """Let new jobs start from a set; an empty name means the defaults. Raises NotFoundError."""
    conn.execute(_CLEAR_SHOPS)
    if name and conn.execute(_SET_SHOPS, {"name": name}).fetchone() is None:
        raise NotFoundError("set of rules", name)


def delete_set(conn: sqlite3.Connection, name: str) -> None:
    """Take a set away; jobs keep the rules that they travel with. Raises NotFoundError."""
    if conn.execute(_DELETE, {"name": name}).fetchone() is None:
        raise NotFoundError("set of rules", name)
