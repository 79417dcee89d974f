"""Loads that run on, or for minutes: the fuse carries the load for good (docs/rules/fuse.md)."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.conductors import Conductor, conductor_temperature_c, resistance_ratio
from ready_trail.core.errors import require_between
from ready_trail.core.fuses import FuseFamily, opening_time_s, temperature_ratio
from ready_trail.core.heat import withstand_a2s
from ready_trail.core.loads import Duty
from ready_trail.core.sizing.records import FuseChoice, Ground, SizingRequest, Still
from ready_trail.core.sizing.wires import is_sturdy

INRUSH_MARGIN_X = 1.5
"""A fuse's fastest opening time must exceed the inrush time by this factor (house)."""

NEXT_SIZE_MOST_RATIO = 1.5
_LIMITED_MOST_S = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Steady:
    """The load sets the floor of the fuse, its start may raise it.

    Parameters
    ----------
    duty : {"continuous", "intermittent", "momentary"}
        A short duty may use a fuse's whole rating, under any school.
    k_cont : float, 0.5 to 1
        Share of a fuse's rating that a continuous load may use.
    least_a : float
        The house's least fuse; of a feeder, what is selective above its branches. [A]
    inrush_x, inrush_s : float
        Multiple of the design current at the start, and for how long. [s]
    """

    duty: Duty = "continuous"
    k_cont: float = 0.8
    least_a: float = 0.0
    inrush_x: float = 1.0
    inrush_s: float = 0.0
    maker_max_a: float | None = None

    def __post_init__(self) -> None:
        require_between("k_cont", self.k_cont, 0.5, 1.0, "ratio")

    @property
    def is_steady(self) -> bool:
        """It flows for minutes at least."""
        return True

    @property
    def makers_fuse_wins(self) -> bool:
        """The maker knows a short duty."""
        return self.duty != "continuous"

    @property
    def contact_name(self) -> str:
        """What its contact is called."""
        return "relay contact"

    @property
    def families(self) -> tuple[str, ...]:
        """Any that the place takes."""
        return ()

    @property
    def contactors(self) -> tuple[str, ...]:
        """Any that the scheme takes."""
        return ()

    @property
    def share(self) -> float:
        """Share of a fuse's rating that this duty may use."""
        return self.k_cont if self.duty == "continuous" else 1.0

    def holds_a(self, rating_a: float, family: FuseFamily, holder_c: float) -> float:
        """The share of the rating that this duty may use, in the air where it sits. [A]"""
        return rating_a * self.share * temperature_ratio(holder_c)

    def meets_load(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Whether a rating carries the design current for good."""
        return self.holds_a(rating_a, family, request.fusing.holder_c) >= request.current_a

    def meets_start(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Whether the fastest fuse of a rating outlasts the start, with a margin."""
        if self.inrush_x <= 1.0 or self.inrush_s <= 0.0:
            return True
        multiple = self.inrush_x * request.current_a / rating_a
        fastest_s = opening_time_s(family.gates, multiple, slowest=False)
        return fastest_s >= INRUSH_MARGIN_X * self.inrush_s

    def rejection(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> str | None:
        """Why a rating is too small; None where it is not."""
        if rating_a < self.least_a:
            return "minimum"
        if not self.meets_load(request, family, rating_a):
            return "load"
        return None if self.meets_start(request, family, rating_a) else "inrush"

    def contact_least_a(self, rating_a: float) -> float:
        """A contact is rated for its fuse. [A]"""
        return rating_a

    def carries(
        self,
        request: SizingRequest,
        fuse: FuseChoice,
        ampacity_a: float,
        current_a: float | None = None,
    ) -> bool:
        """School strict: F <= I_z. Next size: where I_z is no standard rating itself, F may be the
        next one above it, at most 1.5 I_z, while the load takes no larger share of I_z than it
        may of a fuse: nothing else holds it there, and a heater draws more as the voltage rises.
        Under a maker's own fuse the wire carries the peak too.
        """
        if fuse.by_maker and ampacity_a < request.current_a:
            return False
        ampacity_a -= max(0.0, request.returns_a - request.current_a)  # other outputs coming back
        if fuse.rating_a <= ampacity_a:
            return True
        strict = request.fusing.school == "strict"
        if strict or fuse.rating_a > NEXT_SIZE_MOST_RATIO * ampacity_a:
            return False
        if (request.current_a if current_a is None else current_a) > self.share * ampacity_a:
            return False
        return fuse.rating_a == min(r for r in fuse.family.ratings_a if r >= ampacity_a)

    def still(
        self, conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground
    ) -> Still:
        """Each leg in its own air, at the currents out and back."""
        class_c = request.wire.insulation_c
        table_a = conductor.ampacity_by_class_a[class_c]
        ampacity_a = table_a * ground.worst_ratio
        r20_ohm_per_m = conductor.r20_mohm_per_m * 1e-3
        hottest_c = -273.0
        ohms = [0.0, 0.0]
        currents_a = (request.current_a, request.returns_a)
        for way, legs in enumerate((ground.out, ground.back)):
            for length_m, ambient_c, ratio in legs:
                leg_c = conductor_temperature_c(
                    current_a=currents_a[way],
                    ampacity_a=table_a * ratio,
                    insulation_c=class_c,
                    ambient_c=ambient_c,
                )
                hottest_c = max(hottest_c, leg_c)
                ohms[way] += r20_ohm_per_m * length_m * resistance_ratio(leg_c)
        least_back = min((ratio for _, _, ratio in ground.back), default=1.0)
        fits = conductor.lug_mm2 <= fuse.family.socket_max_mm2
        pigtail = None if fits else ground.pigtail
        checks = (
            ("ampacity", self.carries(request, fuse, ampacity_a)),
            ("return", table_a * least_back >= request.path.back_least_a),
            ("minimum", is_sturdy(conductor, request.wire.minimum_mm2)),
            ("fit", fits or pigtail is not None),
        )
        return Still(
            ampacity_a=ampacity_a,
            hottest_c=hottest_c,
            out_ohm=ohms[0],
            back_ohm=ohms[1],
            drop_v=currents_a[0] * ohms[0] + currents_a[1] * ohms[1],
            pigtail=pigtail,
            limit_a2s=withstand_a2s(
                area_mm2=conductor.area_mm2, insulation_c=class_c, start_c=hottest_c
            ),
            rejects=tuple(name for name, holds in checks if not holds),
        )

    def clears(
        self,
        request: SizingRequest,
        fuse: FuseChoice,
        short_a: float,
        opens_s: float,
        ampacity_a: float,
    ) -> bool:
        """A source that limits its own current may not reach what opens the fuse fast: then the
        wire must carry the limit for good, or the fuse open within a minute.
        """
        if short_a >= fuse.family.clearing_x * fuse.rating_a:
            return True
        limit_a = request.supply.limit_a
        return limit_a is not None and (ampacity_a >= limit_a or opens_s <= _LIMITED_MOST_S)
