"""Relays and diodes: pins against the drawing before power, the coil's volts with it."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.installation import Terminal
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import AWAY, between, own_devices
from ready_trail.core.prove.records import Setting, Test
from ready_trail.core.states import VehicleState


def tests(bench: Bench) -> Iterator[Test]:
    """Yield a coil's ohms, its contact at rest, and its volts while it pulls."""
    away = Setting(state=VehicleState(), power=False)
    for ref, device in own_devices(bench):
        terminals = set(device.terminals)
        at = {t: Terminal(device=ref, terminal=t) for t in terminals}
        if {"85", "86"} <= terminals:
            yield between(
                bench,
                "coil",
                "before",
                f"Coil of {ref}",
                at["86"],
                at["85"],
                away,
                instrument="ohms",
                look=ref,
                caution=AWAY,
                why="Pins 30 and 86 exchanged, or a broken coil, show before anything is switched.",
            )
            yield between(
                bench,
                "coil_volts",
                "power",
                f"Coil of {ref} while it pulls",
                at["86"],
                at["85"],
                bench.working,
                look=ref,
                why="Too little and it chatters hot; nothing, and the control side is at fault.",
            )
        if {"30", "87"} <= terminals:
            yield between(
                bench,
                "contact",
                "before",
                f"Contact of {ref} at rest",
                at["30"],
                at["87"],
                away,
                instrument="ohms",
                look=ref,
                caution=AWAY,
                why="A welded contact, or pins 87 and 87a exchanged.",
            )
        if device.spec.blocks:
            plus, minus = (at[t] for t in device.terminals[:2])
            yield between(
                bench,
                "diode",
                "power",
                f"Over {ref} while it works",
                plus,
                minus,
                bench.working,
                look=ref,
                why="About 0.7 V the right way round, the whole supply the wrong way.",
            )
