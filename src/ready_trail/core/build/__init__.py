"""From the design to the vehicle: what to cut, to label, to get, and to do, in order."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.build.bill import Line, parts_list
from ready_trail.core.build.cuts import Cut, CutList, Spool, cut_list
from ready_trail.core.build.sites import Site, Sites
from ready_trail.core.build.steps import STAGES, Stage, Step, Yard, build_steps
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.outcome import Design


@dataclass(frozen=True, slots=True, kw_only=True)
class Build:
    """Everything that hands need for one design."""

    cuts: CutList
    parts: tuple[Line, ...]
    steps: tuple[Step, ...]

    @property
    def minutes(self) -> float:
        """Sum of the steps' minutes, as estimated."""
        return sum(step.minutes for step in self.steps)


def build_of(made: Design, catalogue: Catalogue) -> Build:
    """Return cut list, parts and steps of a design: same design, same build."""
    cuts = cut_list(made, catalogue)
    parts = parts_list(made, cuts, catalogue)
    yard = Yard(
        made=made, catalogue=catalogue, cuts=cuts, lines=parts, sites=Sites(made, catalogue)
    )
    return Build(cuts=cuts, parts=parts, steps=build_steps(yard))


__all__ = [
    "STAGES",
    "Build",
    "Cut",
    "CutList",
    "Line",
    "Site",
    "Spool",
    "Stage",
    "Step",
    "build_of",
]
