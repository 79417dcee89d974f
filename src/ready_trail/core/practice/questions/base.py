"""What a short question is; one module a kind stands beside."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from random import Random

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.outcome import Design

CHOICES = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What questions are made from: a designed job, and the tables."""

    made: Design
    catalogue: Catalogue


@dataclass(frozen=True, slots=True, kw_only=True)
class Face:
    """A relay's base as it is looked at: a letter for each terminal, turned by so much. [°]"""

    letters: tuple[tuple[str, str], ...]
    turn: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """One question: what it asks, what may be answered, which is right, and how one comes to it.

    ``item`` names what is learned: the same item comes back with other figures.
    """

    kind: str
    item: str
    asks: str
    choices: tuple[str, ...]
    right: int
    why: tuple[str, ...]
    face: Face | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """A kind of question: its items on a ground, and a question of one of them."""

    key: str
    words: str
    items: Callable[[Ground], Sequence[str]]
    make: Callable[[Ground, str, Random], Question]


def offered(
    kind: str,
    item: str,
    asks: str,
    right: str,
    others: Sequence[str],
    why: Sequence[str],
    chance: Random,
    face: Face | None = None,
) -> Question:
    """Return a question with the right answer among some others, in any order."""
    wrong = [o for o in dict.fromkeys(others) if o != right]
    chance.shuffle(wrong)
    choices = [right, *wrong[: CHOICES - 1]]
    chance.shuffle(choices)
    return Question(
        kind=kind,
        item=item,
        asks=asks,
        choices=tuple(choices),
        right=choices.index(right),
        why=tuple(why),
        face=face,
    )
