"""The kinds of distribution points, found beside this file: a new one is one more module."""

from __future__ import annotations

from collections.abc import Iterator
from importlib import import_module
from pkgutil import iter_modules

from ready_trail.core.kinds.points.base import (
    CHARGER_SET_V,
    CONVERTER_SET_V,
    PointKind,
    vehicle_feed_ohm,
)


def _kinds() -> Iterator[PointKind]:
    for module in iter_modules(__path__):
        kind = getattr(import_module(f"{__name__}.{module.name}"), "KIND", None)
        if isinstance(kind, PointKind):
            yield kind


POINT_KINDS: dict[str, PointKind] = {kind.key: kind for kind in _kinds()}
"""Every kind, by its name in documents."""


def known_kind(key: str) -> str:
    """Return a kind's name; ValueError where there is no such kind."""
    if key not in POINT_KINDS:
        raise ValueError(f"there is no such kind of point; it is one of {', '.join(POINT_KINDS)}")
    return key


__all__ = [
    "CHARGER_SET_V",
    "CONVERTER_SET_V",
    "POINT_KINDS",
    "PointKind",
    "known_kind",
    "vehicle_feed_ohm",
]
