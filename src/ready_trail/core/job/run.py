"""A run as stated: segments in zones, and the sheet metal that they pass."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ready_trail.core.job.parts import Ident, Name, Stated, ZoneKey

SegmentMetres = Annotated[float, Field(gt=0, le=30)]
SegmentAmbient = Annotated[float, Field(ge=-40, le=120)]


class Penetration(Stated):
    """Sheet metal passed at the end of a segment; ``leg`` is set where a layout gave it."""

    name: Name
    grommet: bool = True
    leg: Ident | None = None


class Segment(Stated):
    """Part of a run inside one zone, with what shares its loom there.

    ``heat_sleeve`` tells that it is sleeved against radiant heat.
    """

    zone: ZoneKey
    length_m: SegmentMetres
    taped: bool = False
    ambient_c: SegmentAmbient | None = None
    loaded_conductors: Annotated[int, Field(ge=1, le=60)] = 1
    passes: Penetration | None = None
    heat_sleeve: bool = False
