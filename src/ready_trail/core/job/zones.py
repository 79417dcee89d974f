"""Where on a run something sits, and how warm it is there."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.errors import TableError
from ready_trail.core.job.circuit import Segment


def zone_ambient_c(segment: Segment, catalogue: Catalogue) -> float:
    """Return the stated ambient of a segment, or its zone's. [°C]"""
    if segment.ambient_c is not None:
        return segment.ambient_c
    if segment.zone not in catalogue.zones:
        raise TableError(f"no zone {segment.zone!r} in the catalogue")
    return catalogue.zones[segment.zone].ambient_c


def segment_at(run: tuple[Segment, ...], at_m: float) -> Segment:
    """Return the segment that holds a distance from the run's start."""
    end_m = 0.0
    for segment in run:
        end_m += segment.length_m
        if at_m < end_m:
            return segment
    return run[-1]
