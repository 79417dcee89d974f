"""Sizing a tree: the trunk and every branch behind it, for the least copper that works.

Each wire carries its own current, its own way back and the fuse ahead of all of them. A leaf's
drop sums every wire on its way; so a thicker trunk may save more in the branches than it costs.
The tables are small: every size of the trunk and of each limb is tried, exactly.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import (
    COPPER_DENSITY_G_PER_CM3,
    Conductor,
    ambient_ratio,
    bundle_ratio,
    conductor_temperature_c,
    resistance_ratio,
)
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import opening_time_s
from ready_trail.core.heat import withstand_a2s
from ready_trail.core.sizing.ladder import SHOWN_ABOVE, withstands
from ready_trail.core.sizing.records import (
    BranchSizing,
    FuseChoice,
    Leg,
    Rung,
    SizingRequest,
    Stretch,
)
from ready_trail.core.sizing.wires import is_sturdy

_FOREVER_G = float("inf")


@dataclass(frozen=True, slots=True, kw_only=True)
class Ahead:
    """What lies ahead of a stretch: its drop and resistance out, and back from its joint."""

    out_v: float
    out_ohm: float
    back_v: float
    back_ohm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Size:
    """One conductor in one stretch: what does not depend on the rest of the tree."""

    conductor: Conductor
    ampacity_a: float
    single_a: float
    hottest_c: float
    out_ohm: float
    back_ohm: float
    out_v: float
    back_v: float
    mass_g: float
    limit_a2s: float
    rejects: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Grown:
    """The branches of one trunk: their sizes, what they weigh, and whether every rule holds."""

    branches: Mapping[str, BranchSizing]
    mass_g: float
    holds: bool


class Crown:
    """Everything behind one trunk and one fuse; sizes are worked out once and then combined."""

    def __init__(self, request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue) -> None:
        self.request, self.fuse = request, fuse
        self._behind: dict[str, list[Stretch]] = {}
        for stretch in request.path.branches:
            self._behind.setdefault(stretch.ahead, []).append(stretch)
        wires = catalogue.wires(request.wire.system, request.wire.kind)
        self._sizes = {s.id: _Sizes(s, wires, request, fuse) for s in request.path.branches}
        groups: dict[str, list[Stretch]] = {}
        for stretch in request.path.branches:
            if stretch.twins and stretch.held is None and stretch.id not in self._behind:
                groups.setdefault(stretch.twins, []).append(stretch)
        self._twins = tuple(tuple(group) for group in groups.values() if len(group) > 1)
        for stretch in request.path.branches:
            held = stretch.held
            if held is not None and all(c.size != held for c in wires):
                raise TableError(f"no size {held!r} in the catalogue")

    def least(self, trunk: Ahead, most_g: float) -> tuple[float, dict[str, int]] | None:
        """Return what the lightest branches behind a trunk weigh [g], and the place of each size.

        None where none works, or none is lighter than ``most_g``. Twins are raised to the thickest
        of them: what works in a size works in a thicker one.
        """
        found = self._joint("", trunk, most_g)
        if found is None or not self._twins:
            return found
        total_g, picks = found
        for group in self._twins:
            most = max(picks[s.id] for s in group)
            for stretch in group:
                sizes = self._sizes[stretch.id]
                total_g += sizes[most].mass_g - sizes[picks[stretch.id]].mass_g
                picks[stretch.id] = most
        return (total_g, picks) if total_g < most_g else None

    def grown(self, trunk: Ahead, places: Mapping[str, int], *, bare: bool = False) -> Grown:
        """Return branches of chosen sizes, with their ladders; ``bare`` with the thinnest size
        that could do and the chosen one alone.
        """
        return self._grown(trunk, places, holds=True, bare=bare)

    def nearest(self, trunk: Ahead) -> Grown:
        """Return branches where none works, to show what fails: each the thinnest of those that
        break the fewest rules behind what is ahead of it.
        """
        picks: dict[str, int] = {}
        queue = [("", trunk)]
        while queue:
            at, ahead = queue.pop(0)
            for stretch in self._behind.get(at, ()):
                picks[stretch.id] = n = self._nearest_size(stretch, ahead)
                queue.append((stretch.id, _after(stretch, self._sizes[stretch.id][n], ahead)))
        return self._grown(trunk, picks, holds=False)

    def _nearest_size(self, stretch: Stretch, ahead: Ahead) -> int:
        """Place of the size to show for one branch where none works."""
        sizes = list(self._sizes[stretch.id])
        if stretch.held is not None:
            return next(n for n, s in enumerate(sizes) if s.conductor.size == stretch.held)
        fitting = [n for n, size in enumerate(sizes) if self._may(stretch, size)]

        def broken(n: int) -> int:
            after = _after(stretch, sizes[n], ahead)
            return len(sizes[n].rejects) + len(self._faults(stretch, sizes[n], after))

        found: int = min(fitting or range(len(sizes)), key=lambda n: (broken(n), n))
        return found

    def _joint(self, at: str, ahead: Ahead, most_g: float) -> tuple[float, dict[str, int]] | None:
        total_g = 0.0
        picks: dict[str, int] = {}
        for stretch in self._behind.get(at, ()):
            best = self._stretch(stretch, ahead, most_g - total_g)
            if best is None:
                return None
            total_g += best[0]
            picks |= best[1]
        return total_g, picks

    def _stretch(
        self, stretch: Stretch, ahead: Ahead, most_g: float
    ) -> tuple[float, dict[str, int]] | None:
        further = bool(self._behind.get(stretch.id))
        best: tuple[float, dict[str, int]] | None = None
        for at, size in enumerate(self._sizes[stretch.id]):
            if size.mass_g >= most_g:
                break
            if not self._may(stretch, size):
                continue
            after = _after(stretch, size, ahead)
            if self._faults(stretch, size, after):
                continue
            if not further:
                return size.mass_g, {stretch.id: at}
            rest = self._joint(stretch.id, after, most_g - size.mass_g)
            if rest is not None and size.mass_g + rest[0] < most_g:
                best = (size.mass_g + rest[0], {stretch.id: at, **rest[1]})
                most_g = best[0]
        return best

    def _may(self, stretch: Stretch, size: _Size) -> bool:
        if stretch.held is not None:
            return size.conductor.size == stretch.held and not size.rejects
        return not size.rejects

    def _faults(self, stretch: Stretch, size: _Size, after: Ahead) -> tuple[str, ...]:
        """The rules that depend on the whole way: drop at a leaf, clearing, withstand."""
        request, fuse = self.request, self.fuse
        short_a, opens_s = self._short(after)
        checks = (
            (
                "drop",
                bool(self._behind.get(stretch.id))
                or after.out_v + after.back_v <= stretch.drop_limit_v,
            ),
            ("withstand", withstands(request, short_a, opens_s, size.limit_a2s, size.ampacity_a)),
            ("clearing", request.rule.clears(request, fuse, short_a, opens_s, size.ampacity_a)),
        )
        return tuple(name for name, holds in checks if not holds)

    def _short(self, after: Ahead) -> tuple[float, float]:
        supply = self.request.supply
        ohm = supply.ohm + after.out_ohm + after.back_ohm
        short_a = supply.open_circuit_v / ohm
        if supply.limit_a is not None:
            short_a = min(short_a, supply.limit_a)
        return short_a, opening_time_s(
            self.fuse.family.gates, short_a / self.fuse.rating_a, slowest=True
        )

    def _grown(
        self, trunk: Ahead, picks: Mapping[str, int], *, holds: bool, bare: bool = False
    ) -> Grown:
        made: dict[str, BranchSizing] = {}
        queue = [("", trunk)]
        while queue:
            at, ahead = queue.pop(0)
            for stretch in self._behind.get(at, ()):
                sizes = self._sizes[stretch.id]
                at_size = picks[stretch.id]
                shown = sizes.between(at_size - SHOWN_ABOVE, at_size + SHOWN_ABOVE + 1)
                place = min(at_size, SHOWN_ABOVE)
                if bare:
                    least = next((s for s in shown[:place] if not s.rejects), None)
                    shown = (shown[place],) if least is None else (least, shown[place])
                    place = len(shown) - 1
                ladder = tuple(self._rung(stretch, size, ahead) for size in shown)
                chosen = ladder[place]
                below = ladder[place - 1] if place else None
                after = _after(stretch, sizes[picks[stretch.id]], ahead)
                spared = ("twins",) if holds and self._is_twin(stretch) else ("copper",)
                made[stretch.id] = BranchSizing(
                    stretch=stretch,
                    chosen=chosen,
                    ladder=ladder,
                    governs=("minimum",) if below is None else below.rejects or spared,
                    path_drop_v=after.out_v + after.back_v + self._fixed_v(stretch),
                )
                queue.append((stretch.id, after))
        mass_g = sum(b.chosen.mass_g for b in made.values())
        return Grown(branches=made, mass_g=mass_g, holds=holds)

    def _is_twin(self, stretch: Stretch) -> bool:
        """Whether it has the size of others that end at equal units."""
        return any(stretch in group for group in self._twins)

    def _fixed_v(self, stretch: Stretch) -> float:
        """What joints and an earth of its own lose, from the trunk's end on."""
        lost_v = 0.0
        by_id = {s.id: s for s in self.request.path.branches}
        at: Stretch | None = stretch
        earthed = False
        while at is not None:
            lost_v += at.current_a * at.joints_ohm
            if at.chassis_ohm is not None and not earthed:
                lost_v += at.returns_a * at.chassis_ohm
                earthed = True
            at = by_id.get(at.ahead)
        return lost_v

    def _rung(self, stretch: Stretch, size: _Size, ahead: Ahead) -> Rung:
        after = _after(stretch, size, ahead)
        short_a, opens_s = self._short(after)
        return Rung(
            conductor=size.conductor,
            ampacity_a=size.ampacity_a,
            single_ampacity_a=size.single_a,
            conductor_c=size.hottest_c,
            wire_ohm=size.out_ohm + size.back_ohm,
            conductor_drop_v=after.out_v + after.back_v,
            far_short_a=short_a,
            far_short_opens_s=opens_s,
            withstand_s=size.limit_a2s / short_a**2,
            mass_g=size.mass_g,
            pigtail=None,
            rejects=(*size.rejects, *self._faults(stretch, size, after)),
        )


class _Sizes:
    """Every conductor in one stretch, thinnest first, each worked out when it is first tried."""

    def __init__(
        self,
        stretch: Stretch,
        wires: tuple[Conductor, ...],
        request: SizingRequest,
        fuse: FuseChoice,
    ) -> None:
        self._from = stretch, request, fuse
        self._wires = wires
        self._known: dict[int, _Size] = {}

    def __len__(self) -> int:
        return len(self._wires)

    def __getitem__(self, at: int) -> _Size:
        if at not in self._known:
            stretch, request, fuse = self._from
            self._known[at] = _sized(stretch, self._wires[at], request, fuse)
        return self._known[at]

    def __iter__(self) -> Iterator[_Size]:
        return (self[at] for at in range(len(self._wires)))

    def between(self, first: int, end: int) -> tuple[_Size, ...]:
        """Return those of some places, as far as there are any."""
        return tuple(self[at] for at in range(max(0, first), min(end, len(self))))


def crown_of(request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue) -> Crown:
    """Return the crown behind a trunk, from before where only what lies ahead of it changed."""
    return _crown(replace(request, upstream=None), fuse, catalogue)


@lru_cache(maxsize=64)
def _crown(request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue) -> Crown:
    return Crown(request, fuse, catalogue)


def _after(stretch: Stretch, size: _Size, ahead: Ahead) -> Ahead:
    """What lies ahead of whatever hangs at the end of a stretch."""
    out_v = ahead.out_v + size.out_v
    out_ohm = ahead.out_ohm + size.out_ohm + stretch.joints_ohm
    if stretch.chassis_ohm is not None:
        return Ahead(
            out_v=out_v,
            out_ohm=out_ohm,
            back_v=size.back_v,
            back_ohm=size.back_ohm + stretch.chassis_ohm,
        )
    return Ahead(
        out_v=out_v,
        out_ohm=out_ohm,
        back_v=ahead.back_v + size.back_v,
        back_ohm=ahead.back_ohm + size.back_ohm,
    )


def _sized(
    stretch: Stretch, conductor: Conductor, request: SizingRequest, fuse: FuseChoice
) -> _Size:
    class_c = request.wire.insulation_c
    table_a = conductor.ampacity_by_class_a[class_c]
    worst = worst_ambient = 1.0
    hottest_c = -273.0
    ohms, drops, length_m = [0.0, 0.0], [0.0, 0.0], 0.0
    for way, (legs, current_a) in enumerate(
        ((stretch.out, stretch.current_a), (stretch.back, stretch.returns_a))
    ):
        for leg in legs:
            k_amb, leg_c = _heat(leg, current_a, table_a, class_c)
            worst = min(worst, k_amb * bundle_ratio(leg.loaded_conductors))
            worst_ambient = min(worst_ambient, k_amb)
            hottest_c = max(hottest_c, leg_c)
            ohm = conductor.r20_mohm_per_m * 1e-3 * leg.length_m * resistance_ratio(leg_c)
            ohms[way] += ohm
            drops[way] += current_a * ohm
            length_m += leg.length_m
    ampacity_a = table_a * worst
    own_a = max(stretch.current_a, stretch.returns_a)
    checks = (
        ("ampacity", request.rule.carries(request, fuse, ampacity_a, own_a)),
        ("minimum", is_sturdy(conductor, stretch.minimum_mm2)),
    )
    return _Size(
        conductor=conductor,
        ampacity_a=ampacity_a,
        single_a=table_a * worst_ambient,
        hottest_c=hottest_c,
        out_ohm=ohms[0],
        back_ohm=ohms[1],
        out_v=drops[0],
        back_v=drops[1],
        mass_g=conductor.area_mm2 * length_m * COPPER_DENSITY_G_PER_CM3,
        limit_a2s=withstand_a2s(
            area_mm2=conductor.area_mm2, insulation_c=class_c, start_c=hottest_c
        ),
        rejects=tuple(name for name, holds in checks if not holds),
    )


def _heat(leg: Leg, current_a: float, table_a: float, class_c: int) -> tuple[float, float]:
    k_amb = ambient_ratio(insulation_c=class_c, ambient_c=leg.ambient_c)
    carried_a = table_a * k_amb * bundle_ratio(leg.loaded_conductors)
    return k_amb, conductor_temperature_c(
        current_a=current_a, ampacity_a=carried_a, insulation_c=class_c, ambient_c=leg.ambient_c
    )
