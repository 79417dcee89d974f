"""Holes: look behind, drill, deburr, protect, before any wire goes through."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.bill import holes_of
from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.wording import lower_first

DRILL = "Drill only after a look behind; use a stop collar, deburr, fit the grommet."


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each hole that wires pass."""
    for hole in holes_of(yard.made):
        has_own = hole.leg_id and yard.made.job.layout is not None
        layout = yard.made.job.layout
        leg = next((x for x in layout.legs if x.id == hole.leg_id), None) if layout else None
        site = yard.sites.spot(leg.a) if leg is not None and has_own else yard.sites.zone(hole.zone)
        yield Step(
            id=f"hole:{hole.id}",
            stage="holes",
            site=site,
            title=f"Make the hole: {hole.panel}",
            doing=(f"Use the hole that is there, or drill; {lower_first(hole.label)}.",),
            tools=("drill with stop collar", "deburring tool"),
            cautions=(DRILL,),
            minutes=15.0,
            parts=(hole.key,),
            circuits=(hole.owner,) if hole.owner else (),
        )
