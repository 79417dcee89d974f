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


def split_run(
    run: tuple[Segment, ...], at_m: float
) -> tuple[tuple[Segment, ...], tuple[Segment, ...]]:
    """Return a run up to a distance from its start, and what is left. [m]

    A panel is passed at the end of its segment, so it goes with what is left.
    """
    before: list[Segment] = []
    after: list[Segment] = []
    begin_m = 0.0
    for segment in run:
        end_m = begin_m + segment.length_m
        if end_m <= at_m + _CLOSE_M:
            before.append(segment)
        elif begin_m >= at_m - _CLOSE_M:
            after.append(segment)
        else:
            first_m = at_m - begin_m
            before.append(segment.model_copy(update={"length_m": first_m, "passes": None}))
            after.append(segment.model_copy(update={"length_m": segment.length_m - first_m}))
        begin_m = end_m
    return tuple(before), tuple(after)


_CLOSE_M = 1e-6
