"""Relays and diodes: pins against the drawing before power, the coil's volts with it."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.installation import Terminal
from ready_trail.core.netlist import Coil, RelayContact
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import AWAY, AWAY_SETTING, between, own_devices
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield a coil's ohms, its contact at rest, and its volts while it pulls."""
    for ref, device in own_devices(bench):
        for element in bench.installation.elements_of(ref):
            ends = bench.terminals.get(element.a), bench.terminals.get(element.b)
            if ends[0] is None or ends[1] is None:
                continue
            if isinstance(element, Coil):
                yield from _coil(bench, ref, ends[0], ends[1])
            elif isinstance(element, RelayContact) and (element.makes or device.spec.opens_by_coil):
                yield between(
                    bench,
                    "contact",
                    "before",
                    f"Contact of {ref} at rest",
                    ends[0],
                    ends[1],
                    AWAY_SETTING,
                    instrument="ohms",
                    look=ref,
                    caution=AWAY,
                    why="A welded contact, or pins 87 and 87a exchanged.",
                )
        if device.spec.blocks:
            plus, minus = (Terminal(device=ref, terminal=t) for t in device.terminals[:2])
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


def _coil(bench: Bench, ref: str, plus: Terminal, minus: Terminal) -> Iterator[Test]:
    yield between(
        bench,
        "coil",
        "before",
        f"Coil of {ref}",
        plus,
        minus,
        AWAY_SETTING,
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
        plus,
        minus,
        bench.resting if bench.made.scheme.at_rest else bench.working,
        look=ref,
        why="Too little and it chatters hot; nothing, and the control side is at fault.",
    )
