"""Choosing the fuse: the smallest of a family that its duty's rule takes (docs/rules/fuse.md)."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.fuses import FuseFamily
from ready_trail.core.sizing.records import Ceiling, FuseChoice, SizingRequest
from ready_trail.core.wording import lower_first


def fuse_candidates(request: SizingRequest, catalogue: Catalogue) -> Iterator[FuseChoice]:
    """Yield the fuse that each allowed family offers, in the order in which they are tried.

    Within a family it is the smallest rating that the duty's rule takes, or the held one. A
    rating above the family's holder is passed over; so is a family below the charging
    voltage, unless it is held (then the review says so).
    """
    held, families = request.held, request.fusing.families
    names = (held.family,) if held.family else families
    if held.fuse_a is not None and not held.family:
        names = (*names, *(name for name in catalogue.fuse_families if name not in names))
    for name in names:
        family = catalogue.fuse_family(name)
        if family.max_v < request.supply.charging_v and not held.family:
            continue
        if held.fuse_a is None:
            fuse = _smallest(request, family)
        elif held.fuse_a in family.ratings_a:
            fuse = _choice(request, family, held.fuse_a, None)
        else:
            fuse = None
        if fuse is not None:
            yield fuse


def lowest_under(
    request: SizingRequest, fuse: FuseChoice, more: tuple[Ceiling, ...] = ()
) -> Ceiling | None:
    """Return the lowest element that is rated under the fuse: its holder, or what is behind it.

    ``more`` are too low whatever the fuse.
    """
    ceilings = list(request.fusing.ceilings)
    if request.fusing.own_holder:
        family = fuse.family
        element = f"holder of the {lower_first(family.label)}"
        ceilings.append(Ceiling(element=element, limit_a=family.holder_a))
    over = [*(c for c in ceilings if c.limit_a < fuse.rating_a), *more]
    return min(over, key=lambda c: c.limit_a, default=None)


def _smallest(request: SizingRequest, family: FuseFamily) -> FuseChoice | None:
    smaller: tuple[float, str] | None = None
    rule = request.rule
    for rating_a in family.ratings_a:
        if rating_a > family.holder_a:
            return None
        reason = rule.rejection(request, family, rating_a)
        if reason is None:
            most_a = rule.maker_max_a
            if most_a is not None and rating_a > most_a and rule.makers_fuse_wins:
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


def _choice(
    request: SizingRequest,
    family: FuseFamily,
    rating_a: float,
    smaller: tuple[float, str] | None,
    *,
    by_maker: bool = False,
) -> FuseChoice:
    larger = [r for r in family.ratings_a if rating_a < r <= family.holder_a]
    rule = request.rule
    return FuseChoice(
        family=family,
        rating_a=rating_a,
        holds_a=rule.holds_a(rating_a, family, request.fusing.holder_c),
        meets_load=by_maker or rule.meets_load(request, family, rating_a),
        meets_inrush=by_maker or rule.meets_start(request, family, rating_a),
        by_maker=by_maker,
        below_rating_a=smaller[0] if smaller else None,
        below_reason=smaller[1] if smaller else "",
        next_rating_a=larger[0] if larger else None,
    )
