"""What one piece or metre costs, from the prices on the shelf."""

from __future__ import annotations

from collections.abc import Mapping

from ready_trail.core.buy.stock import Part, size_and_colour


def one_price(key: str, parts: Mapping[str, Part]) -> float | None:
    """Return the price of one piece or metre, or None."""
    if key.startswith("wire-"):
        return metre_price(key, parts)
    return parts[key].price if key in parts else None


def metre_price(spool: str, parts: Mapping[str, Part]) -> float | None:
    """Return a metre's price: the spool's own, else the least of the same size and class."""
    own = parts.get(spool)
    if own is not None and own.price is not None:
        return own.price
    alike = [
        p.price
        for key, p in parts.items()
        if p.price is not None and _without_colour(key) == _without_colour(spool)
    ]
    return min(alike, default=None)


def _without_colour(spool: str) -> tuple[str, str]:
    """The size and the class of a spool."""
    size, _, class_c = spool.rpartition("-")
    return size_and_colour(size)[0], class_c
