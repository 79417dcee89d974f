"""The cross-section of a loom: wires drawn round, to scale, inside their sleeve."""

from __future__ import annotations

import math
from dataclasses import dataclass

BUNDLE_FACTOR = 1.2
"""Bundle diameter over the root of the wires' summed squares, for a hand-laid loom (house)."""

_TOUCH = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Disc:
    """One wire in the section; coordinates from the middle of the loom. [mm]"""

    label: str
    x_mm: float
    y_mm: float
    diameter_mm: float


def bundle_diameter_mm(diameters_mm: tuple[float, ...]) -> float:
    """Return the diameter of a laid bundle: ``1.2 * sqrt(sum of squares)``. [mm]"""
    return BUNDLE_FACTOR * math.sqrt(sum(d * d for d in diameters_mm))


def pack(wires: tuple[tuple[str, float], ...]) -> tuple[tuple[Disc, ...], float]:
    """Return non-overlapping discs for ``(label, diameter)`` wires, and the circle around them.

    Thick wires first; each next one is put where it touches two that lie already, as near to
    the middle as it goes. The circle is centred on the origin. ([mm], [mm])
    """
    placed: list[Disc] = []
    for label, diameter_mm in sorted(wires, key=lambda w: (-w[1], w[0])):
        x, y = _spot(placed, diameter_mm / 2)
        placed.append(Disc(label=label, x_mm=x, y_mm=y, diameter_mm=diameter_mm))
    if not placed:
        return (), 0.0
    cx, cy = _centre(placed)
    centred = tuple(
        Disc(label=d.label, x_mm=d.x_mm - cx, y_mm=d.y_mm - cy, diameter_mm=d.diameter_mm)
        for d in placed
    )
    return centred, 2 * max(math.hypot(d.x_mm, d.y_mm) + d.diameter_mm / 2 for d in centred)


def _spot(placed: list[Disc], radius: float) -> tuple[float, float]:
    if not placed:
        return 0.0, 0.0
    if len(placed) == 1:
        return placed[0].diameter_mm / 2 + radius, 0.0
    best: tuple[float, float, float] | None = None
    for at, a in enumerate(placed):
        for b in placed[at + 1 :]:
            for x, y in _touching(a, b, radius):
                far = math.hypot(x, y)
                if (best is None or far < best[0] - _TOUCH) and _is_free(placed, x, y, radius):
                    best = (far, x, y)
    if best is None:
        reach = max(math.hypot(d.x_mm, d.y_mm) + d.diameter_mm / 2 for d in placed)
        return reach + radius, 0.0
    return best[1], best[2]


def _touching(a: Disc, b: Disc, radius: float) -> list[tuple[float, float]]:
    """Centres of a disc that touches both ``a`` and ``b``."""
    ra, rb = a.diameter_mm / 2 + radius, b.diameter_mm / 2 + radius
    dx, dy = b.x_mm - a.x_mm, b.y_mm - a.y_mm
    apart = math.hypot(dx, dy)
    if apart == 0 or apart > ra + rb:
        return []
    along = (ra * ra - rb * rb + apart * apart) / (2 * apart)
    square = ra * ra - along * along
    if square < 0:
        return []
    up = math.sqrt(square)
    mx, my = a.x_mm + along * dx / apart, a.y_mm + along * dy / apart
    return [
        (mx - up * dy / apart, my + up * dx / apart),
        (mx + up * dy / apart, my - up * dx / apart),
    ]


def _is_free(placed: list[Disc], x: float, y: float, radius: float) -> bool:
    return all(
        math.hypot(x - d.x_mm, y - d.y_mm) >= d.diameter_mm / 2 + radius - 1e-7 for d in placed
    )


def _centre(placed: list[Disc]) -> tuple[float, float]:
    """A good middle for the circle around all discs, by stepping towards the farthest."""
    x = sum(d.x_mm * d.diameter_mm**2 for d in placed) / sum(d.diameter_mm**2 for d in placed)
    y = sum(d.y_mm * d.diameter_mm**2 for d in placed) / sum(d.diameter_mm**2 for d in placed)
    step = 0.5
    for _ in range(200):
        far = max(placed, key=lambda d: math.hypot(d.x_mm - x, d.y_mm - y) + d.diameter_mm / 2)
        x += (far.x_mm - x) * step
        y += (far.y_mm - y) * step
        step *= 0.96
    return x, y
