"""Short questions, made from the tables and from a job by computation; one file a kind."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from random import Random

from ready_trail.core.practice.questions import codes, fuse_colours, lives, sizes, terminals, wires
from ready_trail.core.practice.questions.base import Face, Ground, Kind, Question

KINDS: Mapping[str, Kind] = {
    m.KIND.key: m.KIND for m in (terminals, wires, sizes, fuse_colours, codes, lives)
}


def items_of(ground: Ground) -> Iterator[tuple[str, str]]:
    """Yield every item of every kind on a ground: kind and item."""
    for kind in KINDS.values():
        for item in kind.items(ground):
            yield kind.key, item


def question(ground: Ground, kind: str, item: str, seed: int) -> Question:
    """Return a question of an item: the same for the same seed. Raises KeyError."""
    return KINDS[kind].make(ground, item, Random(f"{kind} {item} {seed}"))


__all__ = ["KINDS", "Face", "Ground", "Kind", "Question", "items_of", "question"]
