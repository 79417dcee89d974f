"""Which colour has a blade fuse of a rating."""

from __future__ import annotations

from random import Random

from ready_trail.core.practice.questions.base import Ground, Kind, Question, offered


def _items(ground: Ground) -> list[str]:
    colours = ground.catalogue.fuse_family("blade").colours
    alone = [r for r, c in colours.items() if list(colours.values()).count(c) == 1]
    return [f"{rating:g}" for rating in sorted(alone)]


def _make(ground: Ground, item: str, chance: Random) -> Question:
    colours = ground.catalogue.fuse_family("blade").colours
    rating = float(item)
    if chance.random() < 0.5:
        asks, right = f"Which colour is a blade fuse of {item} A?", colours[rating]
        others = list(colours.values())
    else:
        asks, right = f"A blade fuse is {colours[rating]}. What is its rating?", f"{item} A"
        others = [f"{r:g} A" for r in colours]
    why = [f"{item} A is {colours[rating]} (ISO 8820-3). The figure on it wins over its colour."]
    return offered("fuse_colours", item, asks, right, others, why, chance)


KIND = Kind(key="fuse_colours", words="Colours of fuses", items=_items, make=_make)
