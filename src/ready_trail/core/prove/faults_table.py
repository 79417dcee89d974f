"""How likely each kind of fault is, and what mends it: a table with its sources."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultKind:
    """One kind: its weight beside the others, and what is done about it.

    ``of`` tells what it is of where that matters: a joint or a battery has sizes, a feed is the
    vehicle's own wire.
    """

    kind: str
    of: Literal["", "joint", "battery", "feed"]
    weight: float
    mends: str
    source: str


_OF: Mapping[str, Literal["", "joint", "battery", "feed"]] = {
    "": "",
    "joint": "joint",
    "battery": "battery",
    "feed": "feed",
}


@cache
def fault_kinds() -> Mapping[str, FaultKind]:
    """Return every kind by its name."""
    path = files("ready_trail").joinpath("data", "tables", "fault_kinds.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            row["kind"]: FaultKind(
                kind=row["kind"],
                of=_OF[row["of"]],
                weight=float(row["weight"]),
                mends=row["mends"],
                source=row["source"],
            )
            for row in csv.DictReader(lines)
        }
