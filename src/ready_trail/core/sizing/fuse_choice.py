"""Choosing the fuse: the load sets the floor, the inrush may raise it (handbook figures 2.5)."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import FuseFamily, opening_time_s, temperature_ratio
from ready_trail.core.sizing.records import FuseChoice, SizingRequest

INRUSH_MARGIN_X = 1.5
"""A fuse's fastest opening time must exceed the inrush time by this factor (house)."""


def choose_fuse(request: SizingRequest, catalogue: Catalogue) -> FuseChoice | None:
    """Return the smallest fuse that holds load and inrush, or the held one; None if none does.

    Families are tried in the order of the request; within a family by rating. A rating
    above the family's holder, or a family below the charging voltage, is passed over.
    """
    held = request.held
    if held.fuse_a is not None:
        return _held_fuse(request, catalogue, held.fuse_a)
    names = (held.family,) if held.family else request.families
    smaller: tuple[float, str] | None = None
    for name in names:
        family = catalogue.fuse_family(name)
        if family.max_v < request.charging_v:
            continue
        for rating_a in family.ratings_a:
            if rating_a > family.holder_a:
                break
            reason = _rejection(request, family, rating_a)
            if reason is None:
                return _choice(request, family, rating_a, smaller)
            smaller = (rating_a, reason)
    return None


def holds_a(request: SizingRequest, rating_a: float) -> float:
    """Return the load that a rating may carry at this duty and holder ambient. [A]"""
    return rating_a * request.load_ratio * temperature_ratio(request.holder_c)


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


def _held_fuse(request: SizingRequest, catalogue: Catalogue, rating_a: float) -> FuseChoice:
    names = (request.held.family,) if request.held.family else request.families
    for name in names:
        family = catalogue.fuse_family(name)
        if rating_a in family.ratings_a and rating_a <= family.holder_a:
            return _choice(request, family, rating_a, None)
    for family in catalogue.fuse_families.values():
        if rating_a in family.ratings_a:
            return _choice(request, family, rating_a, None)
    raise TableError(f"no fuse of {rating_a:g} A in the catalogue")


def _choice(
    request: SizingRequest,
    family: FuseFamily,
    rating_a: float,
    smaller: tuple[float, str] | None,
) -> FuseChoice:
    larger = [r for r in family.ratings_a if rating_a < r <= family.holder_a]
    return FuseChoice(
        family=family,
        rating_a=rating_a,
        holds_a=holds_a(request, rating_a),
        meets_load=holds_a(request, rating_a) >= request.current_a,
        meets_inrush=_rides_inrush(request, family, rating_a),
        below_rating_a=smaller[0] if smaller else None,
        below_reason=smaller[1] if smaller else "",
        next_rating_a=larger[0] if larger else None,
    )
