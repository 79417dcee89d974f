"""What stands behind a feeder, before it is sized: fuses, and what they let by."""

from __future__ import annotations

from collections.abc import Callable

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.fuses import FuseFamily, opening_time_s
from ready_trail.core.job import Circuit, Point
from ready_trail.core.schemes.base import Ask
from ready_trail.core.sizing.rules.steady import INRUSH_MARGIN_X
from ready_trail.core.supply.currents import SELECTIVE_X, Currents
from ready_trail.core.supply.tree import Tree

_LIKELY_K_TEMP = 0.93
_FAMILY = "blade"


def fuse_min_a(ask: Ask, currents: Currents, catalogue: Catalogue) -> float:
    """Return the house's least fuse; of a feeder, twice its largest branch as far as limits allow.
    [A]
    """
    if not ask.circuit.is_feeder:
        return ask.job.rules.fuse_min_a
    point = ask.tree.points[ask.circuit.feeds or ""]
    branches = ask.tree.starting.get(point.id, ())
    alone = len(branches) < 2 and not point.is_a.has_switches
    if point.starts_a_system or not branches or alone or ask.has_winch:
        return 0.0
    start = ask.start_point
    at = start.position(ask.circuit.start.position) if start is not None else None
    root = ask.tree.root(ask.circuit)
    most = (
        point.total_a,
        start.total_a if start is not None else None,
        at.rating_a if at is not None else None,
        root.output_a if root is not None else None,
    )
    largest_a = max(likely_fuse_a(c, ask, currents, catalogue) for c in branches)
    return min((SELECTIVE_X * largest_a, *(a for a in most if a is not None)))


def likely_fuse_a(branch: Circuit, ask: Ask, currents: Currents, catalogue: Catalogue) -> float:
    """Return the fuse that a branch will take, before it is sized: good enough to choose its main
    by. [A]
    """
    if branch.held.fuse_a is not None:
        return branch.held.fuse_a
    point = ask.tree.points[branch.start.point]
    position = point.position(branch.start.position)
    if point.switches_its_positions and position is not None and position.rating_a is not None:
        return position.rating_a
    accessories = ask.job.loads_of(branch)
    steady = branch.is_feeder or any(a.duty == "continuous" for a in accessories)
    share = (ask.job.rules.k_cont if steady else 1.0) * _LIKELY_K_TEMP
    least_a = max(currents.circuit_a(branch) / share, ask.job.rules.fuse_min_a)
    ratings = _family_of(branch, catalogue).ratings_a
    return next((r for r in ratings if r >= least_a), least_a)


def _family_of(branch: Circuit, catalogue: Catalogue) -> FuseFamily:
    """The family that is held, or the one that is tried first."""
    return catalogue.fuse_families.get(branch.held.family or "") or catalogue.fuse_family(_FAMILY)


def likely_back_a(ask: Ask, currents: Currents, catalogue: Catalogue) -> float:
    """Return what a converter's own earth wire has to carry besides its own current, by the fuses
    that are likely behind it. [A]
    """
    point = ask.tree.points.get(ask.circuit.feeds or "")
    if point is None or not point.starts_a_system:
        return 0.0

    def lets_by(branch: Circuit) -> float:
        family = _family_of(branch, catalogue)
        rating_a = likely_fuse_a(branch, ask, currents, catalogue)
        if branch.held.fuse_a is None:
            rating_a = _outlasting_a(rating_a, branch, ask, currents, family)
        return lets_by_a(rating_a, family)

    return comes_back_a(ask.tree, point, lets_by)


def _outlasting_a(
    rating_a: float, branch: Circuit, ask: Ask, currents: Currents, family: FuseFamily
) -> float:
    """The rating, or the next that outlasts the start of what hangs on a branch. [A]"""
    accessories = ask.job.loads_of(branch)
    start_x = max((a.inrush_x for a in accessories), default=1.0)
    start_s = max((a.inrush_s for a in accessories), default=0.0)
    start_a = start_x * currents.circuit_a(branch)
    for larger_a in family.ratings_a:
        opens_s = opening_time_s(family.gates, start_a / larger_a, slowest=False)
        if larger_a >= rating_a and opens_s >= INRUSH_MARGIN_X * start_s:
            return larger_a
    return rating_a


def comes_back_a(tree: Tree, point: Point, lets_by: Callable[[Circuit], float]) -> float:
    """Return what comes back through the earth wire of a point. [A]

    What is short behind a converter comes back there: as much as it gives, or as opens the
    largest fuse behind it. The fuse ahead of it does not see that. A converter further behind,
    earthed at this one, brings its own along.
    """
    behind = tree.starting.get(point.id, ())
    found = [0.0]
    if point.starts_a_system and point.output_a is not None:
        found.append(min(point.output_a, max((lets_by(c) for c in behind), default=0.0)))
    found += [
        comes_back_a(tree, tree.points[c.feeds], lets_by)
        for c in behind
        if c.feeds is not None and not c.back.on_body
    ]
    return max(found)


def lets_by_a(rating_a: float, family: FuseFamily) -> float:
    """Return the least current at which a fuse opens for certain. [A]"""
    return rating_a * next(g.multiple for g in family.gates if g.slowest_s < float("inf"))
