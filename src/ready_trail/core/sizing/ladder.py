"""The ladder of wire sizes: each size's figures and what rejects it (docs/rules/wire.md)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import (
    COPPER_DENSITY_G_PER_CM3,
    SAE_RESISTANCE_RATIO,
    Conductor,
    ambient_ratio,
    bundle_ratio,
    conductor_temperature_c,
    resistance_ratio,
)
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import opening_time_s
from ready_trail.core.heat import withstand_a2s
from ready_trail.core.sizing.records import FuseChoice, Rung, SizingRequest

NEXT_SIZE_MOST_RATIO = 1.5
SHOWN_ABOVE = 4
"""Rungs worked out above the chosen one, for the ladder on screen and for the next thicker."""

PIGTAIL_MOST_M = 0.15
_LIMITED_MOST_S = 60.0


class Still(NamedTuple):
    """One size of one request: what stays whatever lies ahead of it. A tuple is made fastest."""

    ampacity_a: float
    hottest_c: float
    out_ohm: float
    back_ohm: float
    drop_v: float
    limit_a2s: float
    pigtail: Conductor | None
    carries: bool
    sturdy: bool
    fits: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What every rung of one request shares, worked out once.

    ``still`` keeps by size what does not depend on what lies ahead; grounds of one request that
    differ in that alone share it.
    """

    out: tuple[tuple[float, float, float], ...]  # length_m, ambient_c, k_amb * k_bundle
    back: tuple[tuple[float, float, float], ...]
    worst_ratio: float
    worst_ambient_ratio: float
    length_m: float
    fixed_ohm: float
    pigtail: Conductor | None
    still: dict[str, Still] = field(default_factory=dict)


Surveyed = dict[tuple[str, float, float], Ground]
"""Grounds of one request with nothing ahead, by fuse family, rating and contact resistance."""


def survey_ground(
    request: SizingRequest, fuse: FuseChoice, contact_ohm: float, catalogue: Catalogue,
    surveyed: Surveyed | None = None,
) -> Ground:  # fmt: skip
    """Work out derating per leg, fixed series resistance and the pigtail that would fit.

    ``surveyed`` keeps it for the next time that the same request is asked behind something else.
    """
    key = (fuse.family.family, fuse.rating_a, contact_ohm)
    ground = surveyed.get(key) if surveyed is not None else None
    if ground is None:
        ground = _survey(request, fuse, contact_ohm, catalogue)
        if surveyed is not None:
            surveyed[key] = ground
    if request.upstream is None:
        return ground
    return replace(ground, fixed_ohm=ground.fixed_ohm + request.upstream.resistance_ohm)


def _survey(
    request: SizingRequest, fuse: FuseChoice, contact_ohm: float, catalogue: Catalogue
) -> Ground:
    class_c = request.insulation_c
    ambient_ratios: list[float] = []
    ways: list[tuple[tuple[float, float, float], ...]] = []
    for way in (request.out, request.back):
        legs: list[tuple[float, float, float]] = []
        for leg in way:
            k_amb = ambient_ratio(insulation_c=class_c, ambient_c=leg.ambient_c)
            ambient_ratios.append(k_amb)
            legs.append((leg.length_m, leg.ambient_c, k_amb * bundle_ratio(leg.loaded_conductors)))
        ways.append(tuple(legs))
    return Ground(
        out=ways[0],
        back=ways[1],
        worst_ratio=min(ratio for way in ways for _, _, ratio in way),
        worst_ambient_ratio=min(ambient_ratios),
        length_m=sum(length_m for way in ways for length_m, _, _ in way),
        fixed_ohm=(
            fuse.resistance_ohm * request.fuses
            + contact_ohm
            + request.switch_ohm
            + request.joints_ohm
            + request.chassis_ohm
        ),
        pigtail=_pigtail(request, fuse, catalogue),
    )


def rung(
    conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground,
    drop_limit_v: float | None = None,
) -> Rung:  # fmt: skip
    """Return one size's figures with the rules that reject it.

    ``drop_limit_v`` stands for the request's own limit. [V]
    """
    still = _known_still(conductor, request, fuse, ground)
    wire_ohm = still.out_ohm + still.back_ohm
    drop_v = still.drop_v
    if request.upstream:
        drop_v += request.upstream.conductor_drop_v
    far_short_a = request.open_circuit_v / (request.battery_ohm + wire_ohm + ground.fixed_ohm)
    if request.source_limit_a is not None:
        far_short_a = min(far_short_a, request.source_limit_a)
    opens_s = opening_time_s(fuse.family.gates, far_short_a / fuse.rating_a, slowest=True)
    limit_v = request.drop_limit_v if drop_limit_v is None else drop_limit_v
    limit_a2s, ampacity_a = still.limit_a2s, still.ampacity_a
    checks = (
        ("ampacity", still.carries),
        ("drop", drop_v <= limit_v),
        ("minimum", still.sturdy),
        ("fit", still.fits),
        ("withstand", withstands(request, far_short_a, opens_s, limit_a2s, ampacity_a)),
        ("clearing", clears(request, fuse, far_short_a, opens_s, ampacity_a)),
    )
    table_a = conductor.ampacity_by_class_a[request.insulation_c]
    return Rung(
        conductor=conductor,
        ampacity_a=ampacity_a,
        single_ampacity_a=table_a * ground.worst_ambient_ratio,
        conductor_c=still.hottest_c,
        wire_ohm=wire_ohm,
        back_ohm=still.back_ohm,
        conductor_drop_v=drop_v,
        far_short_a=far_short_a,
        far_short_opens_s=opens_s,
        withstand_s=limit_a2s / far_short_a**2,
        mass_g=conductor.area_mm2 * ground.length_m * COPPER_DENSITY_G_PER_CM3,
        pigtail=still.pigtail,
        rejects=tuple(name for name, holds in checks if not holds),
    )


def may_do(conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground) -> bool:
    """Return whether a size works out at least where nothing lies ahead of it."""
    still = _known_still(conductor, request, fuse, ground)
    return still.carries and still.sturdy and still.fits


def _known_still(
    conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground
) -> Still:
    still = ground.still.get(conductor.size)
    if still is None:
        still = ground.still[conductor.size] = _still(conductor, request, fuse, ground)
    return still


def _still(conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground) -> Still:
    table_a = conductor.ampacity_by_class_a[request.insulation_c]
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
                insulation_c=request.insulation_c,
                ambient_c=ambient_c,
            )
            hottest_c = max(hottest_c, leg_c)
            ohms[way] += r20_ohm_per_m * length_m * resistance_ratio(leg_c)
    pigtail = ground.pigtail if conductor.lug_mm2 > fuse.family.socket_max_mm2 else None
    return Still(
        ampacity_a=ampacity_a, hottest_c=hottest_c, out_ohm=ohms[0], back_ohm=ohms[1],
        drop_v=currents_a[0] * ohms[0] + currents_a[1] * ohms[1], pigtail=pigtail,
        limit_a2s=withstand_a2s(area_mm2=conductor.area_mm2, insulation_c=request.insulation_c,
                                start_c=hottest_c),
        carries=carries_fuse(request, fuse, ampacity_a),
        sturdy=is_sturdy(conductor, request.minimum_mm2),
        fits=conductor.lug_mm2 <= fuse.family.socket_max_mm2 or pigtail is not None,
    )  # fmt: skip


def climb(
    sizes: tuple[Conductor, ...],
    make: Callable[[Conductor], Rung],
    held_size: str | None,
    *,
    whole_ladder: bool,
    above: int = SHOWN_ABOVE,
) -> tuple[tuple[Rung, ...], int | None]:
    """Return the rungs from the thinnest up, and the place of the chosen (or held) one.

    Without ``whole_ladder`` it stops at the chosen one, with it so many ``above``. Raises
    TableError for a held size that is not among the sizes.
    """
    rungs: list[Rung] = []
    at: int | None = None
    for conductor in sizes:
        if at is not None and len(rungs) > at + above:
            break
        step = make(conductor)
        rungs.append(step)
        wanted = conductor.size == held_size if held_size else not step.rejects
        if at is None and wanted:
            at = len(rungs) - 1
            if not whole_ladder:
                break
    if held_size and at is None:
        raise TableError(f"no size {held_size!r} in the catalogue")
    return tuple(rungs), at


def carries_fuse(request: SizingRequest, fuse: FuseChoice, ampacity_a: float) -> bool:
    """Whether a wire bears its fuse. School strict: F <= I_z. Next size: where I_z is no standard
    rating itself, F may be the next one above it, at most 1.5 I_z. Under a maker's own fuse the
    wire carries the peak too.
    """
    if fuse.by_maker and ampacity_a < request.current_a:
        return False
    ampacity_a -= max(0.0, request.returns_a - request.current_a)  # of other outputs, coming back
    if fuse.rating_a <= ampacity_a:
        return True
    if request.ceiling == "strict" or fuse.rating_a > NEXT_SIZE_MOST_RATIO * ampacity_a:
        return False
    from_there = [r for r in fuse.family.ratings_a if r >= ampacity_a]
    return fuse.rating_a == min(from_there)


def clears(
    request: SizingRequest,
    fuse: FuseChoice,
    far_short_a: float,
    opens_s: float,
    ampacity_a: float,
) -> bool:
    """A far short opens the fuse fast. A source that limits its own current may not reach that:
    then the wire must carry the limit for good, or the fuse open within a minute.
    """
    if far_short_a >= fuse.family.clearing_x * fuse.rating_a:
        return True
    limit_a = request.source_limit_a
    return limit_a is not None and (ampacity_a >= limit_a or opens_s <= _LIMITED_MOST_S)


def withstands(
    request: SizingRequest, short_a: float, opens_s: float, limit_a2s: float, ampacity_a: float
) -> bool:
    """The insulation outlasts a far short; or the source cannot give what the wire cannot carry."""
    if request.source_limit_a is not None and ampacity_a >= request.source_limit_a:
        return True
    return short_a**2 * opens_s <= limit_a2s


def is_sturdy(conductor: Conductor, minimum_mm2: float) -> bool:
    """Mechanical minimum; 22 AWG (0.326 mm²) is the pair of 0.35 mm² and counts as such,
    and a gauge counts by its name, though SAE is a little thinner.
    """
    area_mm2 = 0.35 if conductor.label == "22 AWG" else conductor.area_mm2
    if conductor.kind == "sae":
        area_mm2 *= SAE_RESISTANCE_RATIO
    return area_mm2 >= minimum_mm2


def _pigtail(request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue) -> Conductor | None:
    """The largest size that fits the holder, if it carries the fuse alone in that air."""
    fitting = [
        c
        for c in catalogue.wires(request.system, request.wire_kind)
        if c.area_mm2 <= fuse.family.socket_max_mm2
    ]
    if not fitting or not request.may_step_down:
        return None
    largest = fitting[-1]
    alone_a = largest.ampacity_by_class_a[request.insulation_c] * ambient_ratio(
        insulation_c=request.insulation_c, ambient_c=request.holder_c
    )
    return largest if alone_a >= fuse.rating_a else None
