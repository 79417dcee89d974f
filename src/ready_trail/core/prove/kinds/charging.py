"""Charging: the engine at idle, this circuit on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import between
from ready_trail.core.prove.records import Setting, Test
from ready_trail.core.states import CHARGING_V


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the volts at its source while the engine idles."""
    plus, minus = (bench.terminals.get(n) for n in bench.roots)
    if plus is None or minus is None or not bench.made.accessories:
        return
    volts = CHARGING_V * bench.nominal_v / 12.0
    key = bench.working.state.key
    state = replace(bench.working.state, emf_v=volts, key=key if key != "off" else "run")
    yield between(
        bench, "charging", "charging", "At the battery, engine at idle, all of it on", plus, minus,
        Setting(state=state, idling=True), minutes=1.5, look=plus.device,
        caution="Out of gear, brake on, leads clear of belts and fan.",
        why="Under 13.2 V at idle on 12 V the battery pays for what is on.",
    )  # fmt: skip
