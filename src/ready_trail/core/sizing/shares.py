"""Feeders and what hangs behind them, sized together for the least copper.

A thick feeder leaves its branches more of the allowed drop, a thin one saves its own copper. No
fixed split is best, so every feeder's size is tried with the best that is possible behind it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.sizing.records import Rung, Sizing, SizingRequest, Upstream
from ready_trail.core.sizing.size import EVERY, NOTHING_AHEAD, forget, size

_FROM_AHEAD = frozenset({"drop", "withstand", "clearing", "branches"})
"""Rules whose answer depends on what lies ahead."""

_TELLS_G = 1e-5
"""Copper that tells two trees apart; less is rounding. [g]"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Node:
    """A circuit of a supply tree: a feeder with what it feeds, or a leaf without.

    ``out_a`` and ``back_a`` flow in a feeder's way out and in its earth cable. [A] ``by_bus``
    tells that a circuit comes back by the earth cables of the feeders ahead of it.
    """

    id: str
    request: SizingRequest
    out_a: float = 0.0
    back_a: float = 0.0
    by_bus: bool = False
    children: tuple[Node, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Ahead:
    """What lies ahead of a node, on the way out and in the earth cables."""

    out: Upstream = NOTHING_AHEAD
    back: Upstream = NOTHING_AHEAD

    def of(self, node: Node) -> Upstream | None:
        """Return what counts for one circuit."""
        total = _plus(self.out, self.back) if node.by_bus else self.out
        return None if total == NOTHING_AHEAD else total


@dataclass(frozen=True, slots=True, kw_only=True)
class Shared:
    """The best that a tree can do: sizes of its feeders, copper in all, and what fails.

    ``fails`` counts circuits for which no size works; ``binds`` names the circuit that uses most
    of its allowed drop, and that share. No share of the drop, however large, brings it under
    ``floor_g``: what ampacity, strength and holders ask for stays.
    """

    mass_g: float
    floor_g: float = 0.0
    fails: int = 0
    sizes: Mapping[str, str] = field(default_factory=dict)
    binds: tuple[str, float] = ("", 0.0)

    @property
    def cost(self) -> tuple[int, float]:
        """What is compared: first what fails, then the copper."""
        return self.fails, round(self.mass_g, 6)


def least_copper(tree: Node, catalogue: Catalogue) -> Shared:
    """Return the sizes of a tree's feeders with which it takes the least copper.

    Exact over every feeder's sizes from its thinnest possible one up; a held size stays.
    """
    return _least(tree, catalogue)


def forget_sizes() -> None:
    """Forget every size and tree that is kept, to measure and to test."""
    _least.cache_clear()
    forget()


@lru_cache(maxsize=256)
def _least(tree: Node, catalogue: Catalogue) -> Shared:
    return _best(tree, catalogue, Ahead())


def equal_shares_g(tree: Node, catalogue: Catalogue) -> float | None:
    """Return the copper of the same tree where every feeder takes half of the drop that is left.

    None where that does not work out. [g]
    """
    made = _equal_shares(tree, catalogue, Ahead())
    return made.mass_g if made is not None and not made.fails else None


def _best(node: Node, catalogue: Catalogue, ahead: Ahead) -> Shared:
    upstream = ahead.of(node)
    sizing = size(
        request_of(node, upstream),
        catalogue,
        whole_ladder=bool(node.children),
        above=EVERY,
        bare=not node.children,
    )
    if not node.children:
        return _leaf(node, sizing)
    found: Shared | None = None
    floors_g = [0.0] * len(node.children)
    for choice in _choices(sizing, request_of(node, upstream), catalogue):
        rung = choice.chosen
        if rung is None:
            continue
        most_g = float("inf")
        if found is not None and not found.fails:
            if rung.mass_g + sum(floors_g) >= found.mass_g:
                break  # however little what hangs behind takes, this one weighs more
            most_g = found.mass_g - rung.mass_g
        behind = _behind(node, choice, rung, ahead)
        parts = _parts(node, catalogue, behind, floors_g, most_g)
        if parts is None:
            continue
        floors_g = [p.floor_g for p in parts]
        whole = _joined(node, rung, parts)
        if found is None or whole.cost < found.cost:
            found = whole
    if found is not None:
        return replace(found, floor_g=_floor_g(sizing) + sum(floors_g))
    return Shared(mass_g=0.0, fails=1 + sum(1 for _ in _leaves(node)))


def _parts(
    node: Node, catalogue: Catalogue, behind: Ahead, floors_g: list[float], most_g: float
) -> list[Shared] | None:
    """The best of each child; None as soon as they must take more than ``most_g`` in all."""
    parts: list[Shared] = []
    least_g = sum(floors_g)
    for child, floor_g in zip(node.children, floors_g, strict=True):
        part = _best(child, catalogue, behind)
        parts.append(part)
        least_g += part.mass_g - floor_g
        if least_g > most_g + _TELLS_G:
            return None
    return parts


def _leaf(node: Node, sizing: Sizing) -> Shared:
    if sizing.chosen is None:
        return Shared(mass_g=0.0, fails=1)
    limit_v = sizing.worst.stretch.drop_limit_v if sizing.worst else node.request.drop_limit_v
    deciding = sizing.deciding or sizing.chosen
    return Shared(
        mass_g=_mass_g(sizing),
        floor_g=_floor_g(sizing),
        fails=0 if sizing.ok else 1,
        binds=(node.id, deciding.conductor_drop_v / limit_v),
    )


def _mass_g(sizing: Sizing) -> float:
    trunk_g = sizing.chosen.mass_g if sizing.chosen is not None else 0.0
    return trunk_g + sum(b.chosen.mass_g for b in sizing.branches.values())


def _floor_g(sizing: Sizing) -> float:
    """Copper that is needed whatever lies ahead: drop and short circuit ask for no more."""
    trunk_g = _least_g(sizing.ladder, sizing.chosen if sizing.request.held.size else None)
    return trunk_g + sum(
        _least_g(b.ladder, b.chosen if b.stretch.held else None) for b in sizing.branches.values()
    )


def _least_g(ladder: tuple[Rung, ...], held: Rung | None) -> float:
    """What the thinnest that could do weighs; a held size is taken whatever rejects it. [g]"""
    if held is not None:
        return held.mass_g
    return next((r.mass_g for r in ladder if set(r.rejects) <= _FROM_AHEAD), 0.0)


def request_of(node: Node, upstream: Upstream | None) -> SizingRequest:
    """Return what is asked of a node behind something."""
    return replace(node.request, upstream=upstream)


def _choices(sizing: Sizing, request: SizingRequest, catalogue: Catalogue) -> Iterator[Sizing]:
    """The sizes that a feeder may take, thinnest first; held, it is that one alone.

    One that only its holder does not take is tried in the next family.
    """
    if sizing.chosen is None:
        return
    if sizing.request.held.size or not sizing.request.rule.is_steady or not sizing.ok:
        yield sizing
        return
    for rung in sizing.ladder[sizing.ladder.index(sizing.chosen) :]:
        if not rung.rejects:
            yield replace(sizing, chosen=rung, own_ohm=_own_ohm(sizing, rung))
        elif rung.rejects == ("fit",) and not request.held.family:
            held = replace(request.held, size=rung.conductor.size)
            other = size(replace(request, held=held), catalogue)
            if other.ok:
                yield other


def _own_ohm(sizing: Sizing, rung: Rung) -> float:
    """A feeder's own path with another size in it. [Ω]"""
    chosen_ohm = sizing.chosen.wire_ohm if sizing.chosen is not None else 0.0
    return sizing.own_ohm - chosen_ohm + rung.wire_ohm


def _joined(node: Node, rung: Rung, parts: list[Shared]) -> Shared:
    sizes = {node.id: rung.conductor.size}
    for part in parts:
        sizes |= part.sizes
    return Shared(
        mass_g=rung.mass_g + sum(p.mass_g for p in parts),
        fails=sum(p.fails for p in parts),
        sizes=sizes,
        binds=max((p.binds for p in parts), key=lambda b: b[1]),
    )


def _behind(node: Node, sizing: Sizing, rung: Rung, ahead: Ahead) -> Ahead:
    """What a feeder of that size puts ahead of its children."""
    out_ohm = rung.wire_ohm - rung.back_ohm
    chosen_ohm = sizing.chosen.wire_ohm if sizing.chosen is not None else 0.0
    other_ohm = max(0.0, sizing.own_ohm - chosen_ohm - node.request.path.chassis_ohm)
    out = Upstream(
        resistance_ohm=out_ohm + other_ohm,
        conductor_drop_v=node.out_a * out_ohm,
        path_drop_v=node.out_a * (out_ohm + other_ohm),
    )
    back = Upstream(
        resistance_ohm=rung.back_ohm,
        conductor_drop_v=node.back_a * rung.back_ohm,
        path_drop_v=node.back_a * rung.back_ohm,
    )
    return Ahead(out=_plus(ahead.out, out), back=_plus(ahead.back, back))


def _equal_shares(node: Node, catalogue: Catalogue, ahead: Ahead) -> Shared | None:
    """The same tree where every feeder takes half of the drop that is left to it."""
    upstream = ahead.of(node)
    if not node.children:
        return _leaf(node, size(replace(node.request, upstream=upstream), catalogue))
    used_v = upstream.conductor_drop_v if upstream is not None else 0.0
    half_v = used_v + max(0.01, (node.request.drop_limit_v - used_v) / 2)
    request = replace(node.request, upstream=upstream, drop_limit_v=half_v)
    sizing = size(request, catalogue)
    if sizing.chosen is None or not sizing.ok:
        return None
    parts = []
    for child in node.children:
        part = _equal_shares(child, catalogue, _behind(node, sizing, sizing.chosen, ahead))
        if part is None:
            return None
        parts.append(part)
    return _joined(node, sizing.chosen, parts)


def _leaves(node: Node) -> Iterator[Node]:
    if not node.children:
        yield node
    for child in node.children:
        yield from _leaves(child)


def _plus(a: Upstream, b: Upstream) -> Upstream:
    return Upstream(
        resistance_ohm=a.resistance_ohm + b.resistance_ohm,
        conductor_drop_v=a.conductor_drop_v + b.conductor_drop_v,
        path_drop_v=a.path_drop_v + b.path_drop_v,
    )
