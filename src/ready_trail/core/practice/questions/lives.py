"""What lives after a press: an accessory in a state of the vehicle, by solving it."""

from __future__ import annotations

from functools import lru_cache
from random import Random

from ready_trail.core.outcome import Design
from ready_trail.core.practice.questions.base import Ground, Kind, Question, offered
from ready_trail.core.states import KEY_WORDS, LIGHT_WORDS
from ready_trail.core.truth import TruthTable, truth_table

_ON, _OFF, _SOMETIMES = "It is on", "It stays off", "It chatters"


@lru_cache(maxsize=4)
def _tables(made: Design) -> dict[str, TruthTable]:
    found = {}
    for circuit in made.circuits:
        if circuit.circuit.is_feeder or circuit.installation is None:
            continue
        table = truth_table(circuit, made.plan)
        if table is not None and not table.unsolved and not table.enabler:
            found[circuit.circuit.id] = table
    return found


def _items(ground: Ground) -> list[str]:
    return list(_tables(ground.made))


def _make(ground: Ground, item: str, chance: Random) -> Question:
    table = _tables(ground.made)[item]
    made = ground.made.circuit(item)
    # as often on as off, where both are there
    wanted = chance.random() < 0.5
    cells = [c for c in table.cells if c.is_on is wanted] or list(table.cells)
    cell = chance.choice(cells)
    said = [KEY_WORDS[cell.key], LIGHT_WORDS[cell.lights]]
    if table.has_switch:
        said.append(f"{table.switch} {'on' if cell.switch_on else 'off'}")
    said += [f"{s} {'on' if s == cell.signal else 'off'}" for s in table.signals]
    right = _SOMETIMES if cell.chatters else _ON if cell.is_on else _OFF
    why = [
        f"{made.scheme.label}. Solved in this state, {made.circuit.name} gets {cell.load_v:.1f} V.",
    ]
    asks = f"{made.circuit.name}: {', '.join(said)}. What does it do?"
    return offered("lives", item, asks, right, (_ON, _OFF, _SOMETIMES), why, chance)


KIND = Kind(key="lives", words="What lives after this press", items=_items, make=_make)
