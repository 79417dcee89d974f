"""A layout to start from for each kind of vehicle: true to scale, to be moved and taped."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

from ready_trail.core.errors import TableError
from ready_trail.core.job.layout import Hole, Layout, LoomLeg, LoomPoint

Outline = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneSpan:
    """A zone's stretch along the vehicle, as shares of its length."""

    zone: str
    from_ratio: float
    to_ratio: float


@dataclass(frozen=True, slots=True, kw_only=True)
class VehicleShape:
    """A vehicle type's drawing: outlines as shares of its length, width and height."""

    kind: str
    label: str
    length_m: float
    width_m: float
    height_m: float
    body: Outline
    glass: Outline
    wheels: Outline
    side: Outline
    zones: tuple[ZoneSpan, ...]

    def zone_at(self, along_ratio: float) -> str:
        """Return the zone at a share of the vehicle's length."""
        for span in self.zones:
            if along_ratio <= span.to_ratio:
                return span.zone
        return self.zones[-1].zone


def offered_layout(
    kind: str,
    length_m: float | None = None,
    width_m: float | None = None,
    height_m: float | None = None,
    *,
    drive: str = "left",
) -> Layout:
    """Return the usual layout of a vehicle type, stretched to the given overall sizes. [m]

    A right-hand drive vehicle is the mirror of it.
    """
    side = -1.0 if drive == "right" else 1.0
    read = _read(kind)
    length = length_m or read["length_m"]
    width = width_m or read["width_m"]
    height = height_m or read["height_m"]
    return Layout(
        length_m=length,
        width_m=width,
        height_m=height,
        points=tuple(
            LoomPoint(
                id=p["id"],
                name=_mirrored(p["name"]) if drive == "right" else p["name"],
                x_m=round(p["u"] * length, 3),
                y_m=round(side * p["v"] * width, 3) + 0.0,
                z_m=round(p["w"] * height, 3),
                is_earth=p.get("earth", False),
            )
            for p in read["points"]
        ),
        legs=tuple(
            LoomLeg(
                id=leg["id"],
                a=leg["a"],
                b=leg["b"],
                zone=leg["zone"],
                hole=Hole(panel=leg["hole"], diameter_mm=leg["diameter_mm"])
                if "hole" in leg
                else None,
            )
            for leg in read["legs"]
        ),
        battery=read["battery"],
    )


@lru_cache(maxsize=16)
def vehicle_shape(kind: str) -> VehicleShape:
    """Return the drawing of a vehicle type. Raises TableError for an unknown one."""
    read = _read(kind)
    return VehicleShape(
        kind=kind,
        label=read["label"],
        length_m=read["length_m"],
        width_m=read["width_m"],
        height_m=read["height_m"],
        body=_outline(read["body"]),
        glass=_outline(read["glass"]),
        wheels=_outline(read["wheels"]),
        side=_outline(read["side"]),
        zones=tuple(
            ZoneSpan(zone=z["zone"], from_ratio=z["u0"], to_ratio=z["u1"]) for z in read["zones"]
        ),
    )


def _mirrored(name: str) -> str:
    """Swap left and right in a point's name."""
    swap = {"left": "right", "right": "left"}
    return " ".join(swap.get(word, word) for word in name.split(" "))


@lru_cache(maxsize=16)
def _read(kind: str) -> dict[str, Any]:
    path = files("ready_trail").joinpath("data", "vehicles", f"{kind}.json")
    try:
        return dict(json.loads(path.read_text(encoding="utf-8")))
    except (OSError, ValueError) as error:
        raise TableError(f"no layout for vehicle type {kind!r}") from error


def _outline(pairs: list[list[float]]) -> Outline:
    return tuple((float(a), float(b)) for a, b in pairs)
