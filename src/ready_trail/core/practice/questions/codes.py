"""What a colour code on a drawing says."""

from __future__ import annotations

from random import Random

from ready_trail.core.practice.questions.base import Ground, Kind, Question, offered


def _items(ground: Ground) -> list[str]:
    return sorted({w.colour for w in ground.made.installation.wires.values()})


def _words(code: str, ground: Ground) -> str:
    names = [ground.catalogue.wire_colours[c].name.lower() for c in code.split("/")]
    return " with a ".join(names) + (" tracer" if len(names) > 1 else "")


def _make(ground: Ground, item: str, chance: Random) -> Question:
    known = list(ground.catalogue.wire_colours)
    parts = item.split("/")
    others = []
    for _ in range(12):
        base, tracer = chance.sample(known, 2)
        mixed = chance.choice([f"{parts[0]}/{tracer}", f"{base}/{parts[-1]}", f"{base}/{tracer}"])
        other = mixed if len(parts) > 1 else base
        if len(set(other.split("/"))) == len(other.split("/")):
            others.append(_words(other, ground))
    if len(parts) > 1:
        others.append(_words(f"{parts[1]}/{parts[0]}", ground))
    why = [
        f"The first letters are the wire, those behind the stroke its tracer: {item} is "
        f"{_words(item, ground)} (IEC 60757)."
    ]
    asks = f"The drawing says {item}. Which wire do you look for?"
    return offered("codes", item, asks, _words(item, ground), others, why, chance)


KIND = Kind(key="codes", words="Colour codes", items=_items, make=_make)
