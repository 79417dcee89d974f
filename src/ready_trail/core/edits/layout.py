"""Edits of the layout: points, legs, holes, and where circuits sit."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.edits.off_layout import TakenOff, taken_off, with_runs_kept
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping
from ready_trail.core.job.document import Job
from ready_trail.core.job.layout import Hole, Layout, LoomLeg, LoomPoint, Placement
from ready_trail.core.job.parts import Ident, Name, ZoneKey
from ready_trail.core.layout.templates import offered_layout, vehicle_shape

_SIZES = ("length_m", "width_m", "height_m")


def _size_m(name: str, text: object) -> float:
    """One size of a vehicle, as typed."""
    try:
        size_m = float(str(text))
    except ValueError:
        raise EditRefusedError(name, "Type a number, such as 5.3.") from None
    if not 0.3 <= size_m <= 20:
        raise EditRefusedError(name, "Must be from 0.3 to 20 m.")
    return size_m


class LayoutEdit(Edit):
    """An edit of a layout that is there."""

    def layout(self, job: Job) -> Layout:
        """Return the job's layout, or refuse."""
        if job.layout is None:
            raise EditRefusedError("layout", "this job has no layout yet")
        return job.layout


class SetLayout(Edit):
    """Take a layout; what was placed on points that are gone is placed no more."""

    kind: Literal["set_layout"] = "set_layout"
    layout: Layout

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Take the layout that is offered for a vehicle of these sizes, or for its usual ones."""
        if "layout" in typed:
            return dict(typed)
        sizes = {n: _size_m(n, typed[n]) for n in _SIZES if typed.get(n)}
        try:
            layout = offered_layout(job.vehicle.kind, drive=job.vehicle.drive, **sizes)
        except ValueError:
            raise EditRefusedError("length_m", "No vehicle has these sizes.") from None
        return {"layout": layout}

    def apply(self, job: Job) -> Job:
        """Return the job with this layout."""
        return with_runs_kept(job, _with_layout(job, self.layout))

    def title(self, job: Job) -> str:
        """Say whether it is new."""
        return "Change the layout" if job.layout else "Take the offered layout"


class MovePoint(LayoutEdit):
    """Move a point of the looms; ``zone`` is the part of the vehicle where it now lies.

    Legs that end there follow into that zone, but for those that pass sheet metal.
    """

    merges: ClassVar[bool] = True
    kind: Literal["move_point"] = "move_point"
    point_id: Ident
    x_m: float
    y_m: float
    z_m: float
    zone: ZoneKey | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Find the part of the vehicle where the point comes to lie, if it is another one."""
        layout = job.layout
        points = layout.points if layout is not None else ()
        was = next((p for p in points if p.id == typed.get("point_id")), None)
        try:
            x_m = float(str(typed.get("x_m")))
        except ValueError:
            return dict(typed)  # the field refuses it
        if layout is None or was is None or "zone" in typed or not math.isfinite(x_m):
            return dict(typed)
        shape = vehicle_shape(job.vehicle.kind)
        before = shape.zone_at(was.x_m / layout.length_m)
        after = shape.zone_at(x_m / layout.length_m)
        return dict(typed) if before == after else {**typed, "zone": after}

    def apply(self, job: Job) -> Job:
        """Return the job with the point moved; legs that end there follow."""
        layout = self.layout(job)
        was = find_spot(layout, self.point_id)
        moved = rebuilt(was, x_m=self.x_m, y_m=self.y_m, z_m=self.z_m)
        if moved == was:
            return job
        points = tuple(moved if p.id == was.id else p for p in layout.points)
        grown = rebuilt(layout, points=points)
        legs = tuple(
            _untaped(grown, leg) if was.id in (leg.a, leg.b) else leg for leg in grown.legs
        )
        grown = rebuilt(grown, legs=legs)
        if self.zone is not None:
            legs = tuple(
                rebuilt(x, zone=self.zone) if self._inside(layout, x) else x for x in grown.legs
            )
            grown = rebuilt(grown, legs=legs)
        return _with_layout(job, grown)

    def _inside(self, layout: Layout, leg: LoomLeg) -> bool:
        """Whether a leg ends at the moved point and passes no sheet metal: then it goes along."""
        return self.point_id in (leg.a, leg.b) and leg.hole is None

    def title(self, job: Job) -> str:
        """Say which one, and where to."""
        layout = self.layout(job)
        name = find_spot(layout, self.point_id).name
        after = self.apply(job).layout
        left = {leg.id for leg in after.legs if leg.taped_m is not None} if after else set()
        gone = sum(1 for leg in layout.legs if leg.taped_m is not None and leg.id not in left)
        lost = f", {gone} tape{'s' if gone > 1 else ''} too short now" if gone else ""
        return f"Move {name} to {self.x_m:.2f}, {self.y_m:.2f}, {self.z_m:.2f} m{lost}"


class AddPoint(LayoutEdit):
    """Add a point, joined by a leg to one that is there."""

    kind: Literal["add_point"] = "add_point"
    name: Name
    x_m: float
    y_m: float
    z_m: float
    is_earth: bool = False
    join: Ident
    zone: ZoneKey = "cabin"

    def apply(self, job: Job) -> Job:
        """Return the job with the point and its leg."""
        layout = self.layout(job)
        find_spot(layout, self.join)
        point = LoomPoint.model_construct(id=_free("p", [p.id for p in layout.points]))
        point = rebuilt(
            point,
            name=self.name,
            x_m=self.x_m,
            y_m=self.y_m,
            z_m=self.z_m,
            is_earth=self.is_earth,
        )
        leg = LoomLeg(
            id=_free("l", [x.id for x in layout.legs]), a=self.join, b=point.id, zone=self.zone
        )
        grown = rebuilt(layout, points=(*layout.points, point), legs=(*layout.legs, leg))
        return _with_layout(job, grown)

    def added(self, after: Job) -> str:
        """Return the point's id."""
        return after.layout.points[-1].id if after.layout is not None else ""

    def title(self, job: Job) -> str:
        """Say its name."""
        return f"Add point {self.name}"


class RenamePoint(LayoutEdit):
    """Rename a point, or say that it is an earth point and what was measured there."""

    kind: Literal["rename_point"] = "rename_point"
    point_id: Ident
    name: Name
    is_earth: bool = False
    measured_mohm: Annotated[float, Field(ge=0.05, le=1000)] | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with the point renamed."""
        layout = self.layout(job)
        find_spot(layout, self.point_id)
        changes: dict[str, Any] = {
            "name": self.name,
            "is_earth": self.is_earth,
            "measured_mohm": self.measured_mohm,
        }
        points = tuple(rebuilt(p, **changes) if p.id == self.point_id else p for p in layout.points)
        return _with_layout(job, rebuilt(layout, points=points))

    def title(self, job: Job) -> str:
        """Say both names."""
        was = find_spot(self.layout(job), self.point_id).name
        return f"Rename {was} to {self.name}" if was != self.name else f"Change point {was}"


class RemovePoint(LayoutEdit):
    """Remove a point with its legs. One that is in use goes only where that was asked first:
    ``anyway``. Runs that lose their way are typed then as they were routed.
    """

    kind: Literal["remove_point"] = "remove_point"
    point_id: Ident
    anyway: bool = False

    def apply(self, job: Job) -> Job:
        """Return the job without the point; what sat there is placed no more."""
        after = self.bare(job)
        gone = taken_off(job, after)
        if gone and not self.anyway:
            raise EditRefusedError("point_id", f"{words_of(gone)}; say that it goes all the same")
        return with_runs_kept(job, after)

    def bare(self, job: Job) -> Job:
        """Return the job without the point, whatever that takes off the layout."""
        layout = self.layout(job)
        find_spot(layout, self.point_id)
        if self.point_id == layout.battery:
            raise EditRefusedError("point_id", "the battery needs its point")
        points = tuple(p for p in layout.points if p.id != self.point_id)
        legs = tuple(x for x in layout.legs if self.point_id not in (x.a, x.b))
        return _with_layout(job, rebuilt(layout, points=points, legs=legs))

    def title(self, job: Job) -> str:
        """Say which one, and what that takes off the layout."""
        name = find_spot(self.layout(job), self.point_id).name
        gone = taken_off(job, self.bare(job))
        off = f", taking off {len(gone.things)} things" if gone.things else ""
        typed = f", {len(gone.runs)} runs typed as routed" if gone.runs else ""
        return f"Remove point {name}{off}{typed}"


class JoinPoints(LayoutEdit):
    """Add a leg between two points."""

    kind: Literal["join_points"] = "join_points"
    a: Ident
    b: Ident
    zone: ZoneKey

    def apply(self, job: Job) -> Job:
        """Return the job with the leg."""
        layout = self.layout(job)
        if any({x.a, x.b} == {self.a, self.b} for x in layout.legs):
            raise EditRefusedError("b", "these two are joined already")
        leg = LoomLeg(
            id=_free("l", [x.id for x in layout.legs]), a=self.a, b=self.b, zone=self.zone
        )
        return _with_layout(job, rebuilt(layout, legs=(*layout.legs, leg)))

    def title(self, job: Job) -> str:
        """Say which points."""
        layout = self.layout(job)
        return f"Join {find_spot(layout, self.a).name} and {find_spot(layout, self.b).name}"


class ChangeLeg(LayoutEdit):
    """Tape a leg, allow, prefer or forbid it, state its zone and its hole."""

    kind: Literal["change_leg"] = "change_leg"
    leg_id: Ident
    taped_m: Annotated[float, Field(gt=0, le=30)] | None = None
    rule: Literal["allowed", "preferred", "forbidden"] = "allowed"
    zone: ZoneKey
    hole: Hole | None = None
    heat_sleeve: bool = False

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out a hole through nothing."""
        hole = mapping(typed.get("hole"))
        return {**typed, "hole": hole if hole.get("panel") else None}

    def apply(self, job: Job) -> Job:
        """Return the job with the leg changed."""
        layout = self.layout(job)
        leg = _leg(layout, self.leg_id)
        if self.taped_m is not None and self.taped_m != leg.taped_m:
            straight_m = straight_between_m(layout, leg)
            if self.taped_m < straight_m - _TAPE_CLOSE_M:
                raise EditRefusedError(
                    "taped_m",
                    f"its ends lie {straight_m:.2f} m apart; no wire is shorter",
                )
        changes: dict[str, Any] = {
            "taped_m": self.taped_m,
            "rule": self.rule,
            "zone": self.zone,
            "hole": self.hole,
            "heat_sleeve": self.heat_sleeve,
        }
        legs = tuple(rebuilt(x, **changes) if x.id == self.leg_id else x for x in layout.legs)
        after = _with_layout(job, rebuilt(layout, legs=legs))
        return with_runs_kept(job, after) if self.rule != leg.rule else after

    def title(self, job: Job) -> str:
        """Say what changed."""
        layout = self.layout(job)
        leg = _leg(layout, self.leg_id)
        name = f"{find_spot(layout, leg.a).name} to {find_spot(layout, leg.b).name}"
        if self.taped_m != leg.taped_m:
            return f"Tape {name}: {self.taped_m:g} m" if self.taped_m else f"Untape {name}"
        if self.rule != leg.rule:
            return f"{self.rule.capitalize()}: {name}"
        return f"Change {name}"


class ProtectHole(LayoutEdit):
    """Fit a grommet in the hole of a leg; the leg's other facts stay."""

    kind: Literal["protect_hole"] = "protect_hole"
    leg_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job with the hole protected."""
        layout = self.layout(job)
        leg = _leg(layout, self.leg_id)
        if leg.hole is None:
            raise EditRefusedError("leg_id", "no hole is passed there any more")
        better = rebuilt(leg, hole=rebuilt(leg.hole, protection="grommet"))
        legs = tuple(better if x is leg else x for x in layout.legs)
        return _with_layout(job, rebuilt(layout, legs=legs))

    def title(self, job: Job) -> str:
        """Say which panel."""
        hole = _leg(self.layout(job), self.leg_id).hole
        return f"Fit a grommet in {hole.panel if hole else 'a hole'}"


_TAPE_CLOSE_M = 0.005


def straight_between_m(layout: Layout, leg: LoomLeg) -> float:
    """Return the straight line between the ends of a leg. [m]"""
    a, b = layout.point(leg.a), layout.point(leg.b)
    return math.dist((a.x_m, a.y_m, a.z_m), (b.x_m, b.y_m, b.z_m))


def _untaped(layout: Layout, leg: LoomLeg) -> LoomLeg:
    """A leg without its tape where its ends now lie further apart than was taped."""
    if leg.taped_m is None or leg.taped_m >= straight_between_m(layout, leg) - _TAPE_CLOSE_M:
        return leg
    return rebuilt(leg, taped_m=None)


def _with_layout(job: Job, layout: Layout) -> Job:
    """The job with a layout; what sat on points that are gone is placed no more."""
    spots = {p.id for p in layout.points}

    def kept(spot: str | None) -> str | None:
        return spot if spot in spots else None

    circuits = []
    for circuit in job.circuits:
        place = circuit.place
        if place is not None:
            moved = Placement(
                load=kept(place.load),
                switching=kept(place.switching),
                earth=kept(place.earth),
                via=tuple(v for v in place.via if v in spots),
            )
            gone = moved.load is None and circuit.feeds is None
            circuit = rebuilt(circuit, place=None if gone else moved)
        branches = tuple(
            b.model_copy(update={"place": kept(b.place), "earth": kept(b.earth)})
            for b in circuit.branches
        )
        circuits.append(circuit.model_copy(update={"branches": branches}))
    return rebuilt(
        job,
        layout=layout,
        circuits=tuple(circuits),
        points=tuple(p.model_copy(update={"place": kept(p.place)}) for p in job.points),
        switches=tuple(s.model_copy(update={"place": kept(s.place)}) for s in job.switches),
        signals=tuple(s for s in job.signals if s.place is None or s.place in spots),
    )


def words_of(gone: TakenOff) -> str:
    """Say what a change takes off the layout."""
    said = []
    if gone.things:
        more = f" and {len(gone.things) - 4} more" if len(gone.things) > 4 else ""
        said.append(f"{', '.join(gone.things[:4])}{more} would be placed no more")
    if gone.runs:
        said.append(f"the runs of {len(gone.runs)} circuits would find no way")
    return "; ".join(said)


def find_spot(layout: Layout, point_id: str) -> LoomPoint:
    """Return a point of the layout, or refuse the edit."""
    try:
        return layout.point(point_id)
    except KeyError:
        raise EditRefusedError("point_id", "this point is no longer in the layout") from None


def _leg(layout: Layout, leg_id: str) -> LoomLeg:
    for leg in layout.legs:
        if leg.id == leg_id:
            return leg
    raise EditRefusedError("leg_id", "this leg is no longer in the layout")


def _free(prefix: str, used: list[str]) -> str:
    numbers = [int(i[len(prefix) :]) for i in used if i[len(prefix) :].isdigit()]
    return f"{prefix}{max(numbers, default=0) + 1}"
