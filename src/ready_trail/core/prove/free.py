"""Free readings: any instrument at any terminals, wire or piece, in any state of the plan."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from ready_trail.core.installation import Terminal
from ready_trail.core.outcome import Design
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.cover import Cover
from ready_trail.core.prove.kinds.base import AWAY, NEVER, SENSED, between, on_wire
from ready_trail.core.prove.matrix import widened
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Probe, Setting, Test

KIND = "free"
BY: Mapping[str, str] = {"volts": "Volts", "lamp": "Test lamp", "ohms": "Ohms"}
"""With what between two points: ohms only with the power away, the others with it."""

_MINUTES, _FUSE_MINUTES = 0.6, 0.5


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


def clamp_test(bench: Bench, label: str, setting: Setting) -> Test | None:
    """Return what flows in one wire, or None where there is no such wire."""
    wire = bench.installation.wires.get(label)
    if wire is None:
        return None
    title, where = f"Current in {label}", f"round {label}, alone"
    return on_wire(bench, KIND, "power", title, wire, setting, where)


def fuse_test(bench: Bench, ref: str) -> Test | None:
    """Return a look at a fuse after it was switched on, or None where there is no such fuse."""
    if ref not in {f.device for f in bench.fuses}:
        return None
    return Test(
        key=f"{KIND}:fuse:{ref}@{bench.working.key}",
        circuit_id=bench.made.circuit.id,
        stage="power",
        kind=KIND,
        title=f"Pull {ref} and look at it",
        where=bench.installation.devices[ref].title,
        setting=bench.working,
        instrument="fuse",
        probe=Probe(wire=ref),
        minutes=_FUSE_MINUTES,
        look=ref,
        caution=NEVER,
    )


def named(bench: Bench, keys: Iterable[str]) -> Iterator[Test]:
    """Yield the free tests that have these keys; what the circuit no longer has is left out."""
    terminals = {str(t): t for t in bench.terminals.values()}
    known = {setting.key: setting for setting in settings(bench)}
    for key in keys:
        head, _, set_key = key.partition("@")
        group, _, rest = head.partition(":")
        instrument, _, place = rest.partition(":")
        setting = known.get(set_key)
        if group != KIND or setting is None:
            continue
        plus, _, minus = place.partition("~")
        found: Test | None = None
        if instrument == "clamp":
            found = clamp_test(bench, place, setting)
        elif instrument == "fuse":
            found = fuse_test(bench, place)
        elif instrument not in BY or setting.power == (instrument == "ohms"):
            continue
        elif plus in terminals and minus in terminals:
            found = free_test(bench, instrument, terminals[plus], terminals[minus], setting)
        if found is not None:
            yield found


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
