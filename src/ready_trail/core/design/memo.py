"""What a later plan takes over from an earlier one, because nothing that it was made from changed.

Keys name what is read by leaving out what is not: a field that somebody adds later is in the
key until it is taken out here.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from ready_trail.core.job import Circuit, Job
from ready_trail.core.outcome import Memo

T = TypeVar("T")
_REMEMBERED = 3  # rounds of routing alternate between few bundles

_WORDS = ("name", "place", "note")
_NO_FLOW = frozenset({*_WORDS, "schema_version", "last_number", "survey", "layout", "signals",
                      "accepted", "circuits"})  # fmt: skip
_RUN = frozenset({"run", "fuse_at_m", "switching_at_m", "control_m", "control_switch_m", "held",
                  "kit", "found", "accepted"})  # fmt: skip
_NO_FLOW_CIRCUIT = _RUN | {"back", "place", "branches", "joint", "end_fuse"}


def taken_over(
    memo: Memo, name: str, key: tuple[object, ...], before: Memo, make: Callable[[], T]
) -> T:
    """Return what was made from the same before, or make it; the last few are remembered."""
    known = before.get(name, ())
    found = next(((was, made) for was, made in known if was == key), None)
    if found is None:
        found = (key, make())
        known = (found, *known[: _REMEMBERED - 1])
    memo[name] = known
    made: T = found[1]
    return made


def differ_in_words_only(a: Job, b: Job) -> bool:
    """Return whether nothing that is designed from differs: only name, place and note do."""
    return all(value == getattr(b, name) for name, value in a if name not in _WORDS)


def without_words(job: Job) -> Job:
    """Return the job without what nothing is designed from, so that equal ones are told."""
    return job.model_copy(update={"name": "-", "place": "", "note": ""})


def flows_from(job: Job) -> tuple[object, ...]:
    """Return everything that currents and the budget read of a job."""
    return (
        *(value for name, value in job if name not in _NO_FLOW),
        tuple(_without(c, _NO_FLOW_CIRCUIT) for c in job.circuits),
        tuple((b.id, b.loads) for c in job.circuits for b in c.branches),
    )


def ways_from(job: Job) -> tuple[object, ...]:
    """Return everything that the ways through the looms read of a job."""
    return (job.layout, job.signals, job.points, job.switches, job.accessories,
            tuple(_without(c, _RUN) for c in job.circuits))  # fmt: skip


def _without(circuit: Circuit, fields: frozenset[str]) -> tuple[object, ...]:
    return tuple(value for name, value in circuit if name not in fields)
