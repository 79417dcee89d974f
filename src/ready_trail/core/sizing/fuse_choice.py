"""Choosing the fuse: the load sets the floor, the inrush may raise it (docs/rules/fuse.md)."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.fuses import FuseFamily, opening_time_s, temperature_ratio
from ready_trail.core.sizing.records import Ceiling, FuseChoice, SizingRequest

INRUSH_MARGIN_X = 1.5
"""A fuse's fastest opening time must exceed the inrush time by this factor (house)."""


def fuse_candidates(request: SizingRequest, catalogue: Catalogue) -> Iterator[FuseChoice]:
    """Yield the fuse that each allowed family offers, in the order in which they are tried.

    Within a family it is the smallest rating that holds load and inrush, or the held one. A
    rating above the family's holder is passed over; so is a family below the charging
    voltage, unless it is held (then the review says so).
    """
    held = request.held
    names = (held.family,) if held.family else request.families
    if held.fuse_a is not None and not held.family:
        others = (name for name in catalogue.fuse_families if name not in names)
        names = (*names, *others)
    for name in names:
        family = catalogue.fuse_family(name)
        if family.max_v < request.charging_v and not held.family:
            continue
        fuse = (
            _smallest(request, family)
            if held.fuse_a is None
            else _held(request, family, held.fuse_a)
        )
        if fuse is not None:
            yield fuse


def holds_a(request: SizingRequest, rating_a: float) -> float:
    """Return the load that a rating may carry at this duty and holder ambient. [A]"""
    return rating_a * request.load_ratio * temperature_ratio(request.holder_c)


def lowest_under(
    request: SizingRequest, fuse: FuseChoice, more: tuple[Ceiling, ...] = ()
) -> Ceiling | None:
    """Return the lowest element that is rated under the fuse: its holder, or what is behind it."""
    ceilings = [*request.ceilings, *more]
    if request.own_holder:
        family = fuse.family
        element = f"holder of the {family.label[:1].lower()}{family.label[1:]}"
        ceilings.append(Ceiling(element=element, limit_a=family.holder_a))
    over = [c for c in ceilings if c.limit_a < fuse.rating_a]
    return min(over, key=lambda c: c.limit_a, default=None)


def _smallest(request: SizingRequest, family: FuseFamily) -> FuseChoice | None:
    smaller: tuple[float, str] | None = None
    for rating_a in family.ratings_a:
        if rating_a > family.holder_a:
            return None
        reason = _rejection(request, family, rating_a)
        if reason is None:
            most_a = request.maker_max_a
            if most_a is not None and rating_a > most_a and request.duty != "continuous":
                return _makers_own(request, family, most_a)
            return _choice(request, family, rating_a, smaller)
        smaller = (rating_a, reason)
    return None


def _makers_own(request: SizingRequest, family: FuseFamily, most_a: float) -> FuseChoice | None:
    """The maker's maximum lies under what the peak asks for: the maker knows the duty."""
    within = [r for r in family.ratings_a if r <= most_a]
    if not within:
        return None
    return _choice(request, family, within[-1], None, by_maker=True)


def _rejection(request: SizingRequest, family: FuseFamily, rating_a: float) -> str | None:
    if rating_a < request.fuse_min_a:
        return "minimum"
    if holds_a(request, rating_a) < request.current_a:
        return "load"
    if not _rides_inrush(request, family, rating_a):
        return "inrush"
    return None


def _rides_inrush(request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
    if request.inrush_x <= 1.0 or request.inrush_s <= 0.0:
        return True
    multiple = request.inrush_x * request.current_a / rating_a
    fastest_s = opening_time_s(family.gates, multiple, slowest=False)
    return fastest_s >= INRUSH_MARGIN_X * request.inrush_s


def _held(request: SizingRequest, family: FuseFamily, rating_a: float) -> FuseChoice | None:
    if rating_a not in family.ratings_a:
        return None
    return _choice(request, family, rating_a, None)


def _choice(
    request: SizingRequest,
    family: FuseFamily,
    rating_a: float,
    smaller: tuple[float, str] | None,
    *,
    by_maker: bool = False,
) -> FuseChoice:
    larger = [r for r in family.ratings_a if rating_a < r <= family.holder_a]
    return FuseChoice(
        family=family,
        rating_a=rating_a,
        holds_a=holds_a(request, rating_a),
        meets_load=by_maker or holds_a(request, rating_a) >= request.current_a,
        meets_inrush=by_maker or _rides_inrush(request, family, rating_a),
        by_maker=by_maker,
        below_rating_a=smaller[0] if smaller else None,
        below_reason=smaller[1] if smaller else "",
        next_rating_a=larger[0] if larger else None,
    )
