"""Where a relay's terminals are, whichever way its base is turned."""

from __future__ import annotations

from random import Random

from ready_trail.core.practice.questions.base import Face, Ground, Kind, Question, offered

MINI = ("30", "85", "86", "87", "87a")
_DOES = {
    "30": "the common contact: the feed comes in there",
    "85": "an end of the coil, by custom its earth",
    "86": "the other end of the coil, by custom its feed",
    "87": "what the relay gives out when it has pulled in",
    "87a": "what it gives out at rest",
}
_LETTERS = "ABCDE"


def _items(ground: Ground) -> list[str]:
    return list(MINI)


def _make(ground: Ground, item: str, chance: Random) -> Question:
    letters = list(_LETTERS)
    chance.shuffle(letters)
    of = dict(zip(MINI, letters, strict=True))
    turn = chance.choice((0, 90, 180, 270))
    face = Face(letters=tuple((of[t], t) for t in MINI), turn=turn)
    why = [
        f"{item} is {_DOES[item]}.",
        "85 and 86 lie across from each other, 30 across from 87; 87a sits in the middle. Minis "
        "come in two layouts that swap 30 and 86: read what is moulded beside each blade.",
    ]
    asks = f"A mini relay seen on its pins, layout of this program's sheets. Which blade is {item}?"
    others = [letter for t, letter in of.items() if t != item]
    return offered("terminals", item, asks, of[item], others, why, chance, face)


KIND = Kind(key="terminals", words="Terminals of a relay", items=_items, make=_make)
