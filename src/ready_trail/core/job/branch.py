"""Branches of a circuit: units that sit apart, each behind a joint, with its own way back."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.job.parts import Ident, Name, Stated
from ready_trail.core.job.run import Segment
from ready_trail.core.kinds.joint import JointKind

AT_DEVICE: tuple[JointKind, ...] = ("double_lug", "double_87")
"""Joints that sit on the device itself: every branch runs all the way from there."""


class Share(Stated):
    """Units of one accessory that hang on a branch."""

    accessory: Ident
    units: Annotated[int, Field(ge=1, le=50)] = 1


class BranchReturn(Stated):
    """How a branch comes back: to an earth of its own, or to the joint and on with the trunk."""

    kind: Literal["chassis", "shared"] = "chassis"
    stub_m: Annotated[float, Field(gt=0, le=30)] = 0.3
    taped: bool = False
    path: Literal["bonded", "poor"] = "bonded"
    measured_mohm: Annotated[float, Field(ge=0.05, le=1000)] | None = None

    @property
    def on_body(self) -> bool:
        """Whether it has an earth of its own."""
        return self.kind == "chassis"

    @property
    def is_shared(self) -> bool:
        """Whether it comes back to the joint."""
        return self.kind == "shared"


class Branch(Stated):
    """From a joint to some units, or to the next joint.

    ``behind`` names the branch at whose end it begins; empty, it begins where the trunk ends.
    ``joint`` tells how the branches behind this one are joined. ``place`` and ``earth`` are
    points of the layout; with ``place`` the run follows from it.
    """

    id: Ident
    name: Name
    behind: Annotated[str, Field(pattern=r"^([a-z][a-z0-9]{0,15})?$")] = ""
    joint: JointKind = "splice"
    loads: Annotated[tuple[Share, ...], Field(max_length=20)] = ()
    run: Annotated[tuple[Segment, ...], Field(min_length=1, max_length=60)]
    back: BranchReturn = BranchReturn()
    size: str | None = None
    place: Ident | None = None
    earth: Ident | None = None

    @property
    def run_m(self) -> float:
        """Length from its joint to its end, one way. [m]"""
        return sum(segment.length_m for segment in self.run)


def problems_of(branches: tuple[Branch, ...]) -> Iterator[str]:
    """Yield what keeps branches from being a tree in which everything ends somewhere."""
    by_id = {branch.id: branch for branch in branches}
    if len(by_id) < len(branches):
        yield "branches: two have one id"
        return
    behind: dict[str, list[Branch]] = {}
    for branch in branches:
        if branch.behind and branch.behind not in by_id:
            yield f"branches: {branch.name} begins at {branch.behind}, which is not there"
            return
        behind.setdefault(branch.behind, []).append(branch)
    for branch in branches:
        seen = {branch.id}
        at = branch.behind
        while at:
            if at in seen:
                yield f"branches: {branch.name} runs in a ring"
                return
            seen.add(at)
            at = by_id[at].behind
    for branch in branches:
        further = behind.get(branch.id, [])
        if not branch.loads and not further:
            yield f"branches: {branch.name} has no end; put a unit on it, or remove it"
        if branch.loads and further:
            yield f"branches: {branch.name} ends at a unit and at a joint; give the unit a branch"
    for at, joined in behind.items():
        if len(joined) == 1:
            where = by_id[at].name if at else "the trunk"
            yield f"branches: only one branch begins at the end of {where}; a joint needs two"


def children(branches: tuple[Branch, ...], at: str) -> tuple[Branch, ...]:
    """Return the branches that begin at the end of one, or of the trunk (empty)."""
    return tuple(branch for branch in branches if branch.behind == at)


def leaves(branches: tuple[Branch, ...]) -> tuple[Branch, ...]:
    """Return the branches that end at units."""
    return tuple(branch for branch in branches if branch.loads)
