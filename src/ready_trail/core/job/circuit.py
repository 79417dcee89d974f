"""Circuits as stated: where each starts, what it feeds, its run, its return, what is held."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from ready_trail.core.job.accessory import Channel, Use
from ready_trail.core.job.branch import Branch, problems_of
from ready_trail.core.job.kit import Found, Kit
from ready_trail.core.job.layout import Placement
from ready_trail.core.job.parts import (
    ColourCode,
    Ident,
    InsulationClass,
    Name,
    Number,
    Readable,
    ShortText,
    Stated,
)
from ready_trail.core.job.points import BATTERY
from ready_trail.core.job.run import Penetration, Segment
from ready_trail.core.kinds.joint import JointKind


class Return(Stated):
    """The way back: a stub to a chassis point, a wire to the battery, or to the block's bus.

    ``measured_mohm`` is a proved earth point's own resistance to the battery negative.
    """

    kind: Literal["chassis", "wire", "bus"] = "chassis"
    stub_m: Annotated[float, Field(gt=0, le=30)] = 0.5
    taped: bool = False
    path: Literal["bonded", "poor"] = "bonded"
    measured_mohm: Annotated[float, Field(ge=0.05, le=1000)] | None = None

    @property
    def on_body(self) -> bool:
        """Whether it comes back through the body."""
        return self.kind == "chassis"

    @property
    def by_wire(self) -> bool:
        """Whether it has a wire of its own to the battery."""
        return self.kind == "wire"

    @property
    def by_bus(self) -> bool:
        """Whether it comes back by the earth bus of the point where it starts."""
        return self.kind == "bus"


class HeldChoices(Stated):
    """Derived choices that were fixed by hand and are checked instead of chosen; ``note`` says
    why, where somebody wrote that down.
    """

    scheme: str | None = None
    family: str | None = None
    fuse_a: Annotated[float, Field(gt=0, le=1000)] | None = None
    relay: str | None = None
    size: str | None = None
    insulation_c: InsulationClass | None = None
    colour: ColourCode | None = None
    note: ShortText = ""


class AcceptedFinding(Stated):
    """A finding that somebody accepted, with the reason in writing, and with its severity, words
    and figures at that time: it covers nothing worse. Older files have none of these.
    """

    code: Name
    place: Name
    severity: Literal["", "stop", "caution", "note"] = ""
    text: Annotated[str, StringConstraints(max_length=600), Readable] = ""
    found: Annotated[str, StringConstraints(max_length=200), Readable] = ""
    allowed: Annotated[str, StringConstraints(max_length=200), Readable] = ""
    reason: Annotated[
        str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300), Readable
    ]


class Circuit(Stated):
    """A fuse and everything behind it: accessories, or a distribution point (a feeder).

    ``use`` tells what wakes a feeder, or when one output of an accessory is on; any other
    circuit takes it from its accessory. ``output`` names the output that it feeds of an
    accessory that has several; empty, it feeds them all. With ``branches`` the run is the trunk,
    and ends at a joint. ``rest_start`` is a second feed, taken while its relay is at rest.
    ``end_fuse`` puts a second fuse at the far end, for a link between two
    sources. ``kit`` is a bought harness for it, ``found`` tells that it is in the vehicle
    already, and how.
    """

    id: Ident
    number: Number
    name: Name
    start: Channel = Channel(point=BATTERY)
    accessory_ids: Annotated[tuple[Ident, ...], Field(max_length=20)] = ()
    output: ShortText = ""
    feeds: Ident | None = None
    use: Use | None = None
    run: Annotated[tuple[Segment, ...], Field(min_length=1, max_length=60)]
    joint: JointKind = "splice"
    branches: Annotated[tuple[Branch, ...], Field(max_length=60)] = ()
    back: Return = Return()
    fuse_at_m: Annotated[float, Field(ge=0, le=30)] = 0.15
    end_fuse: bool = False
    switching_at_m: Annotated[float, Field(ge=0, le=60)] = 0.5
    control_m: Annotated[float, Field(ge=0.1, le=60)] = 3.0
    control_switch_m: Annotated[float, Field(ge=0.02, le=60)] | None = None
    """Where along the control run the hand switch sits; half way unless it is known. [m]"""
    by_switch_m: Annotated[float, Field(ge=0, le=100)] | None = None
    """Length of the run by way of its hand switch, where the layout tells. [m]"""
    coil_fed_from_30: bool = False
    coil_resistor: bool = False
    """Whether a resistor was put across the coil of a relay that came without suppression."""
    rest_start: Channel | None = None
    place: Placement | None = None
    never_with: Annotated[tuple[Ident, ...], Field(max_length=50)] = ()
    held: HeldChoices = HeldChoices()
    kit: Kit | None = None
    found: Found | None = None
    accepted: Annotated[tuple[AcceptedFinding, ...], Field(max_length=50)] = ()

    @property
    def run_m(self) -> float:
        """Length of the outward run, one way. [m]"""
        return sum(segment.length_m for segment in self.run)

    @property
    def segments(self) -> tuple[Segment, ...]:
        """The segments of its run, and of every branch behind it."""
        return (*self.run, *(s for branch in self.branches for s in branch.run))

    @property
    def kept(self) -> Found | None:
        """The record of a wire that was found and stays: its size and class are the held ones.
        A class that was chosen for a wire without a word on its jacket means a new wire.
        """
        found, held = self.found, self.held
        if found is None or found.size is None:
            return None
        same = (found.size, found.insulation_c) == (held.size, held.insulation_c)
        return found if same else None

    @property
    def is_feeder(self) -> bool:
        """Whether its load is a distribution point."""
        return self.feeds is not None

    @model_validator(mode="after")
    def _devices_on_the_run(self) -> Self:
        if bool(self.accessory_ids) == (self.feeds is not None):
            raise ValueError("accessory_ids: a circuit feeds accessories, or one point")
        if self.rest_start is not None and (self.feeds is not None or self.branches):
            raise ValueError("rest_start: a second feed serves accessories at one place")
        if self.rest_start is not None and self.rest_start.point == self.start.point:
            raise ValueError("rest_start: the second feed starts where the first does")
        if self.branches and self.feeds is not None:
            raise ValueError("branches: a feeder ends at its point; branch behind that")
        for problem in problems_of(self.branches):
            raise ValueError(problem)
        if self.feeds is not None and self.feeds == self.start.point:
            raise ValueError("feeds: a point cannot feed itself")
        if not self.fuse_at_m < self.run_m:
            raise ValueError(f"fuse_at_m must be under the run's {self.run_m:g} m")
        if not self.fuse_at_m <= self.switching_at_m < self.run_m:
            raise ValueError(
                f"switching_at_m must lie from the fuse ({self.fuse_at_m:g} m) "
                f"to under the run's {self.run_m:g} m"
            )
        return self


__all__ = [
    "AcceptedFinding",
    "Circuit",
    "HeldChoices",
    "Penetration",
    "Return",
    "Segment",
]
