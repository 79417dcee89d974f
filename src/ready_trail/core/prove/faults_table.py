"""How likely each kind of fault is, and what mends it: a table with its sources."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultKind:
    """One kind: its weight beside the others, and what is done about it."""

    kind: str
    weight: float
    mends: str
    source: str


@cache
def fault_kinds() -> Mapping[str, FaultKind]:
    """Return every kind by its name."""
    path = files("ready_trail").joinpath("data", "tables", "fault_kinds.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            row["kind"]: FaultKind(
                kind=row["kind"],
                weight=float(row["weight"]),
                mends=row["mends"],
                source=row["source"],
            )
            for row in csv.DictReader(lines)
        }
