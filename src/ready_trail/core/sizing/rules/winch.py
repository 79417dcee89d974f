"""Winch cables and fuse: short-time duty instead of continuous rules (docs/rules/winch.md)."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.conductors import Conductor, conductor_temperature_c, resistance_ratio
from ready_trail.core.fuses import FuseFamily, opening_time_s
from ready_trail.core.heat import short_time_ampacity_a, withstand_a2s
from ready_trail.core.sizing.records import FuseChoice, Ground, SizingRequest, Still
from ready_trail.core.sizing.wires import is_sturdy

FAMILIES = ("strip_m8", "strip_m5", "post_block")
CONTACTORS = ("winch_contactor", "winch_contactor_l")
STALL_RATIO = 1.2
PULL_FOR_DROP_RATIO = 0.6
_HOTTEST_FOR_FAULT_C = 240.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WinchPull:
    """Rated pull for a while, stall for a moment.

    The fuse holds the stall current and the rated pull for their times; the cable carries the
    rated pull for its time, keeps the drop at 60 % pull, and outlasts a short at its far end.
    A contactor that comes with the winch counts as rated for it (``own_contactor``).
    """

    full_a: float
    stall_a: float
    on_s: float = 60.0
    stall_s: float = 10.0
    own_contactor: bool = True
    maker_max_a: float | None = None

    @property
    def duty(self) -> str:
        """The duty's word."""
        return "winch"

    @property
    def is_steady(self) -> bool:
        """A pull is over before the heat is even."""
        return False

    @property
    def families(self) -> tuple[str, ...]:
        """Bolt-down fuses."""
        return FAMILIES

    @property
    def contactors(self) -> tuple[str, ...]:
        """Contactors for a motor that turns both ways."""
        return CONTACTORS

    @property
    def share(self) -> float:
        """A pull may use the whole rating."""
        return 1.0

    @property
    def makers_fuse_wins(self) -> bool:
        """The maker knows the winch."""
        return True

    @property
    def contact_name(self) -> str:
        """What its contact is called."""
        return "contactor"

    def holds_a(self, rating_a: float, family: FuseFamily, holder_c: float) -> float:
        """The stall current, where a rating holds it for its time. [A]"""
        return self.stall_a if self._rides(family, rating_a) else rating_a

    def meets_load(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Whether a rating holds stall and rated pull for their times."""
        return self._rides(family, rating_a)

    def meets_start(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Stall asks for more than any start."""
        return True

    def rejection(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> str | None:
        """Why a rating is too small; None where it is not."""
        return None if self._rides(family, rating_a) else "stall"

    def contact_least_a(self, rating_a: float) -> float:
        """A contactor bought apart carries the rated pull; its own is the maker's matter. [A]"""
        return 0.0 if self.own_contactor else self.full_a

    def carries(
        self,
        request: SizingRequest,
        fuse: FuseChoice,
        ampacity_a: float,
        current_a: float | None = None,
    ) -> bool:
        """The short-time ampacity covers the rated pull."""
        return ampacity_a >= self.full_a

    def still(
        self, conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground
    ) -> Still:
        """Both cables at their hottest after a pull, in the hottest air on the way."""
        class_c, area_mm2 = request.wire.insulation_c, conductor.area_mm2
        ambient_c = max(leg_c for _, leg_c, _ in (*ground.out, *ground.back))
        carried_a = short_time_ampacity_a(
            ampacity_a=conductor.ampacity_by_class_a[class_c] * ground.worst_ratio,
            area_mm2=area_mm2,
            on_s=self.on_s,
            withstand_limit_a2s=withstand_a2s(
                area_mm2=area_mm2, insulation_c=class_c, start_c=ambient_c
            ),
        )
        hottest_c = conductor_temperature_c(
            current_a=self.full_a, ampacity_a=carried_a, insulation_c=class_c, ambient_c=ambient_c
        )
        ohm_per_m = conductor.r20_mohm_per_m * 1e-3 * resistance_ratio(hottest_c)
        out_ohm, back_ohm = (
            ohm_per_m * sum(length_m for length_m, _, _ in way) for way in (ground.out, ground.back)
        )
        checks = (
            ("short_time", self.carries(request, fuse, carried_a)),
            ("minimum", is_sturdy(conductor, request.wire.minimum_mm2)),
            ("fit", conductor.lug_mm2 <= fuse.family.socket_max_mm2),
        )
        return Still(
            ampacity_a=carried_a,
            hottest_c=hottest_c,
            out_ohm=out_ohm,
            back_ohm=back_ohm,
            drop_v=request.current_a * out_ohm + request.returns_a * back_ohm,
            pigtail=None,
            limit_a2s=withstand_a2s(
                area_mm2=area_mm2,
                insulation_c=class_c,
                start_c=min(hottest_c, _HOTTEST_FOR_FAULT_C),
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
        """A short is cleared inside the cable's withstand, which is asked by itself."""
        return True

    def _rides(self, family: FuseFamily, rating_a: float) -> bool:
        return all(
            opening_time_s(family.gates, current_a / rating_a, slowest=False) >= time_s
            for current_a, time_s in ((self.stall_a, self.stall_s), (self.full_a, self.on_s))
        )
