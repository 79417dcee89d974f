"""Free readings: any instrument between any two terminals, in any state of the plan."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from ready_trail.core.installation import Terminal
from ready_trail.core.outcome import Design
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.cover import Cover
from ready_trail.core.prove.kinds.base import AWAY, SENSED, between
from ready_trail.core.prove.matrix import widened
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Setting, Test

KIND = "free"
BY: Mapping[str, str] = {"volts": "Volts", "lamp": "Test lamp", "ohms": "Ohms"}
"""With what: ohms only with the power away, the others with it."""

_MINUTES = 0.6


def settings(bench: Bench) -> tuple[Setting, ...]:
    """Return every setting in which something is read, those with the power away last."""
    live = (bench.working, bench.resting, bench.parked, *bench.others)
    held = replace(bench.parked.state, on=bench.working.state.on)
    away = (Setting(state=bench.parked.state, power=False), Setting(state=held, power=False))
    return tuple(dict.fromkeys((*live, *away)))


def points(bench: Bench) -> Mapping[str, Terminal]:
    """Return every terminal by what people call it; its reference where two are called alike."""
    words = bench.installation.words
    called = [words(t) for t in bench.terminals.values()]
    return {
        words(t) if called.count(words(t)) == 1 else f"{words(t)} ({t})": t
        for t in bench.terminals.values()
    }


def free_test(
    bench: Bench, instrument: str, plus: Terminal, minus: Terminal, setting: Setting
) -> Test:
    """Return a reading between two terminals; ohms only where the power is away."""
    devices = (bench.installation.devices.get(t.device) for t in (plus, minus))
    sensed = any(d is not None and d.spec.is_signal for d in devices)
    return between(
        bench,
        KIND,
        "power" if setting.power else "before",
        f"{bench.installation.words(plus)} to {bench.installation.words(minus)}",
        plus,
        minus,
        setting,
        instrument=instrument,
        minutes=_MINUTES,
        look=plus.device,
        caution=SENSED if sensed else "" if setting.power else AWAY,
    )


def named(bench: Bench, keys: Iterable[str]) -> Iterator[Test]:
    """Yield the free tests that have these keys; what the circuit no longer has is left out."""
    wanted = [k for k in keys if k.startswith(f"{KIND}:")]
    if not wanted:
        return
    known = {str(t): t for t in bench.terminals.values()}
    for key in wanted:
        for setting in settings(bench):
            head, _, _ = key.partition(f"@{setting.key}")
            if not key.endswith(f"@{setting.key}"):
                continue
            ends = head.split(":", 2)[2].split("~")
            if len(ends) == 2 and ends[0] in known and ends[1] in known:
                plus, minus = known[ends[0]], known[ends[1]]
                yield free_test(bench, head.split(":")[1], plus, minus, setting)


def with_free(design: Design, plan: Plan, keys: Sequence[str]) -> Plan:
    """Return a plan that knows these free readings too, for judging and for finding causes."""
    bench = bench_of(design, plan.circuit_id)
    if bench is None:
        return plan
    tests = list(named(bench, keys))
    matrix = widened(plan.matrix, bench, tests)
    more = len(matrix.tests) - len(plan.matrix.tests)
    if not more:
        return plan
    shows = np.hstack((plan.cover.shows, np.zeros((len(plan.cover.shows), more), dtype=bool)))
    cover = Cover(
        must=plan.cover.must, shows=shows, counted=plan.cover.counted, hidden=plan.cover.hidden
    )
    return replace(plan, matrix=matrix, cover=cover)
