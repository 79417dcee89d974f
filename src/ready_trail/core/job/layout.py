"""The layout: points and legs of the looms on the vehicle, and what sits where.

Coordinates are metres: ``x_m`` from the front, ``y_m`` from the middle to the left, ``z_m``
from the ground.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ready_trail.core.job.parts import Ident, Name, Stated, ZoneKey


class LoomPoint(Stated):
    """A place where wires can go or end."""

    id: Ident
    name: Name
    x_m: Annotated[float, Field(ge=-1, le=20)]
    y_m: Annotated[float, Field(ge=-2, le=2)]
    z_m: Annotated[float, Field(ge=0, le=5)]
    is_earth: bool = False
    measured_mohm: Annotated[float, Field(ge=0.05, le=1000)] | None = None


class Hole(Stated):
    """A hole that a leg passes."""

    panel: Name
    diameter_mm: Annotated[float, Field(gt=0, le=150)] = 25.0
    protection: Literal["grommet", "gland", "none"] = "grommet"
    already_mm2: Annotated[float, Field(ge=0, le=10_000)] = 0.0


class LoomLeg(Stated):
    """A stretch between two points, inside one zone. A taped length beats the estimate."""

    id: Ident
    a: Ident
    b: Ident
    zone: ZoneKey
    taped_m: Annotated[float, Field(gt=0, le=30)] | None = None
    rule: Literal["allowed", "preferred", "forbidden"] = "allowed"
    hole: Hole | None = None
    heat_sleeve: bool = False


class Layout(Stated):
    """The vehicle's size, its points and legs, and where the battery sits."""

    length_m: Annotated[float, Field(ge=1, le=20)]
    width_m: Annotated[float, Field(ge=0.3, le=4)]
    height_m: Annotated[float, Field(ge=0.5, le=5)]
    points: Annotated[tuple[LoomPoint, ...], Field(min_length=1, max_length=400)]
    legs: Annotated[tuple[LoomLeg, ...], Field(max_length=800)] = ()
    battery: Ident

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        ids = [p.id for p in self.points]
        if len(set(ids)) != len(ids):
            raise ValueError("two points have one id")
        spots = [(p.x_m, p.y_m, p.z_m) for p in self.points]
        if len(set(spots)) != len(spots):
            raise ValueError("two points are on one spot; move one of them")
        if len({leg.id for leg in self.legs}) != len(self.legs):
            raise ValueError("two legs have one id")
        known = set(ids)
        for leg in self.legs:
            if leg.a not in known or leg.b not in known or leg.a == leg.b:
                raise ValueError(f"leg {leg.id} does not join two points")
        if self.battery not in known:
            raise ValueError(f"the battery sits at {self.battery}, which is not a point")
        for p in self.points:
            if not (
                -0.3 <= p.x_m <= self.length_m + 0.3
                and abs(p.y_m) <= self.width_m / 2 + 0.15
                and p.z_m <= self.height_m + 0.3
            ):
                raise ValueError(f"{p.name} lies outside the vehicle")
        return self

    def point(self, point_id: str) -> LoomPoint:
        """Return one point; KeyError when there is none of that id."""
        for point in self.points:
            if point.id == point_id:
                return point
        raise KeyError(point_id)


class Placement(Stated):
    """Where a circuit's parts sit on the layout; the earth point follows unless it is stated.

    A feeder ends where its point sits, so it states no ``load``.
    """

    load: Ident | None = None
    switching: Ident | None = None
    earth: Ident | None = None
    via: Annotated[tuple[Ident, ...], Field(max_length=12)] = ()
