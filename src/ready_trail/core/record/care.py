"""Care: what is due on a vehicle, and when, from what the job has and what was done."""

from __future__ import annotations

import csv
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache
from importlib.resources import files
from typing import Literal

from ready_trail.core.outcome import Design
from ready_trail.core.record.facts import AnyFact, CareDone, HandedOver

_DAYS_A_MONTH = 30.4375
SOON_DAYS = 30
"""Days ahead that count as soon (house)."""
State = Literal["over", "soon", "later"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Care:
    """A piece of care: what, when first, and how often after that."""

    key: str
    what: str
    first_after: str
    first_days: int
    first_km: float | None
    then_months: int
    salt_months: int | None
    applies: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """When a piece of care is due on one vehicle. ``since`` is the day it counts from; ``done``
    the facts, the latest last.
    """

    care: Care
    due: date
    since: date
    is_first: bool
    done: tuple[CareDone, ...]

    def state(self, today: date) -> State:
        """Whether it is over, soon, or later."""
        if self.due < today:
            return "over"
        return "soon" if self.due <= today + timedelta(days=SOON_DAYS) else "later"


_APPLIES: Mapping[str, Callable[[Design], bool]] = {
    "always": lambda made: bool(made.circuits),
    "earths": lambda made: any(d.spec.is_earth for d in made.installation.devices.values()),
    "winch": lambda made: any(c.scheme.for_winch for c in made.circuits),
    "second_battery": lambda made: any(p.is_a.stores for p in made.job.points),
}


@lru_cache(maxsize=1)
def every_care() -> tuple[Care, ...]:
    """Return the table of care."""
    path = files("ready_trail").joinpath("data", "tables", "maintenance.csv")
    with path.open(encoding="utf-8") as lines:
        return tuple(
            Care(
                key=row["key"],
                what=row["what"],
                first_after=row["first_after"],
                first_days=int(row["first_days"]),
                first_km=float(row["first_km"]) if row["first_km"] else None,
                then_months=int(row["then_months"]),
                salt_months=int(row["salt_months"]) if row["salt_months"] else None,
                applies=row["applies"],
                source=row["source"],
            )
            for row in csv.DictReader(lines)
        )


def due_of(made: Design, facts: Sequence[AnyFact]) -> tuple[Due, ...]:
    """Return what is due on one vehicle, the soonest first: it counts from the first hand-over,
    and nothing is due before that.
    """
    handed = [f.made_at for f in facts if isinstance(f, HandedOver) and f.made_at]
    if not handed:
        return ()
    start = _day(min(handed))
    found = []
    for care in every_care():
        if not _APPLIES[care.applies](made):
            continue
        done = tuple(f for f in facts if isinstance(f, CareDone) and f.care == care.key)
        if done:
            since = max(_day(f.made_at) for f in done)
            due = since + timedelta(days=round(care.then_months * _DAYS_A_MONTH))
        else:
            since, due = start, start + timedelta(days=care.first_days)
        found.append(Due(care=care, due=due, since=since, is_first=not done, done=done))
    return tuple(sorted(found, key=lambda d: (d.due, d.care.key)))


def _day(at: str) -> date:
    return date.fromisoformat(at[:10])
