"""What an archive holds of a vehicle: its facts as rows, whatever keeps them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

Table = Literal["tick", "reading", "fact"]
TABLES: tuple[Table, ...] = ("tick", "reading", "fact")


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """A fact as it is kept: in which table, and its row by column."""

    table: Table
    row: Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class ArchivedVehicle:
    """One vehicle with its facts, in the order in which they came."""

    name: str
    facts: tuple[Kept, ...] = ()
