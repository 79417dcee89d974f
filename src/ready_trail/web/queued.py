"""What a device kept without a connection, and sends later: its list, its times, its clock."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Annotated, Any

from pydantic import AfterValidator

from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.limits import require_modest_text

_AGES = (datetime(2020, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC))
CLOCK_OFF_S = 300.0
"""A device's clock that is off by more is told, and its ticks are put at the server's time."""


def _of_this_age(at: datetime) -> datetime:
    known = at if at.tzinfo is not None else at.replace(tzinfo=UTC)
    if not _AGES[0] <= known <= _AGES[1]:
        raise ValueError("its date cannot be right")
    return known


DeviceTime = Annotated[datetime, AfterValidator(_of_this_age)]
"""When something was done, by a device's clock; without a zone it is UTC."""


def listed_of(body: bytes, most: int) -> list[Any]:
    """Return the list that a device sent of what it kept. Raises ValueError, with words."""
    try:
        require_modest_text(body)
        listed = json.loads(body)
    except (ValueError, RecursionError, FileRefusedError) as error:
        raise ValueError(str(error)[:200]) from error
    if not isinstance(listed, list) or len(listed) > most:
        raise ValueError(f"a list of {most} at most is expected")
    return listed


def clock_off_s(told: str) -> float:
    """How far a device's clock is behind the server's, where that is worth a word. [s]"""
    try:
        clock = datetime.fromisoformat(told)
        clock = clock if clock.tzinfo is not None else clock.replace(tzinfo=UTC)
        late_s = (datetime.now(UTC) - clock).total_seconds()
    except (ValueError, OverflowError):
        return 0.0
    return late_s if abs(late_s) > CLOCK_OFF_S else 0.0


def clock_words(late_s: float) -> str:
    """Say how far a device's clock is off."""
    far, how = abs(late_s) / 60, "behind" if late_s > 0 else "ahead of"
    told = f"{far:.0f} min" if far < 90 else f"{far / 60:.0f} h"
    told = told if far < 2880 else f"{far / 1440:.0f} days"
    clock = f"This device's clock is {told} {how} the server's"
    return f"{clock}: its ticks stand at the server's time."
