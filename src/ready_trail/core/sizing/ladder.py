"""The ladder of wire sizes: each size's figures and what rejects it (docs/rules/wire.md)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import (
    COPPER_DENSITY_G_PER_CM3,
    Conductor,
    ambient_ratio,
    bundle_ratio,
)
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import opening_time_s
from ready_trail.core.sizing.records import FuseChoice, Ground, Rung, SizingRequest, Still

RULES = ("ampacity", "return", "short_time", "drop", "minimum", "fit", "withstand", "clearing")
"""What may reject a size, in the order in which it is told."""

SHOWN_ABOVE = 4
"""Rungs worked out above the chosen one, for the ladder on screen and for the next thicker."""

PIGTAIL_MOST_M = 0.15


def survey_ground(
    request: SizingRequest, fuse: FuseChoice, contact_ohm: float, catalogue: Catalogue
) -> Ground:
    """Work out derating per leg, fixed series resistance and the pigtail that would fit."""
    alone = replace(request, upstream=None, wanted=None)
    ground = _survey(alone, fuse, contact_ohm, catalogue)
    if request.upstream is None:
        return ground
    return replace(ground, fixed_ohm=ground.fixed_ohm + request.upstream.resistance_ohm)


def forget_ground() -> None:
    """Forget what was surveyed."""
    _survey.cache_clear()


@lru_cache(maxsize=1024)
def _survey(
    request: SizingRequest, fuse: FuseChoice, contact_ohm: float, catalogue: Catalogue
) -> Ground:
    class_c, path = request.wire.insulation_c, request.path
    ambient_ratios: list[float] = []
    ways: list[tuple[tuple[float, float, float], ...]] = []
    for way in (path.out, path.back):
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
            fuse.resistance_ohm * path.fuses
            + contact_ohm
            + path.switch_ohm
            + path.joints_ohm
            + path.chassis_ohm
        ),
        pigtail=_pigtail(request, fuse, catalogue),
    )


def rung(
    conductor: Conductor,
    request: SizingRequest,
    fuse: FuseChoice,
    ground: Ground,
    drop_limit_v: float | None = None,
) -> Rung:
    """Return one size's figures with the rules that reject it.

    ``drop_limit_v`` stands for the request's own limit. [V]
    """
    still = _known_still(conductor, request, fuse, ground)
    wire_ohm = still.out_ohm + still.back_ohm
    drop_v = still.drop_v
    if request.upstream:
        drop_v += request.upstream.conductor_drop_v
    supply = request.supply
    far_short_a = supply.open_circuit_v / (supply.ohm + wire_ohm + ground.fixed_ohm)
    if supply.limit_a is not None:
        far_short_a = min(far_short_a, supply.limit_a)
    opens_s = opening_time_s(fuse.family.gates, far_short_a / fuse.rating_a, slowest=True)
    limit_v = request.drop_limit_v if drop_limit_v is None else drop_limit_v
    limit_a2s, ampacity_a = still.limit_a2s, still.ampacity_a
    checks = (
        ("drop", drop_v <= limit_v),
        ("withstand", withstands(request, far_short_a, opens_s, limit_a2s, ampacity_a)),
        ("clearing", request.rule.clears(request, fuse, far_short_a, opens_s, ampacity_a)),
    )
    broken = {*still.rejects, *(name for name, holds in checks if not holds)}
    table_a = conductor.ampacity_by_class_a[request.wire.insulation_c]
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
        rejects=tuple(name for name in RULES if name in broken),
    )


def may_do(conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground) -> bool:
    """Return whether a size works out at least where nothing lies ahead of it."""
    return not _known_still(conductor, request, fuse, ground).rejects


def _known_still(
    conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground
) -> Still:
    still = ground.still.get(conductor.size)
    if still is None:
        still = request.rule.still(conductor, request, fuse, ground)
        ground.still[conductor.size] = still
    return still


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


def withstands(
    request: SizingRequest, short_a: float, opens_s: float, limit_a2s: float, ampacity_a: float
) -> bool:
    """The insulation outlasts a far short; or the source cannot give what the wire cannot carry."""
    limit_a = request.supply.limit_a
    if limit_a is not None and ampacity_a >= limit_a:
        return True
    return short_a**2 * opens_s <= limit_a2s


def _pigtail(request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue) -> Conductor | None:
    """The largest size that fits the holder, if it carries the fuse alone in that air."""
    fitting = [
        c
        for c in catalogue.wires(request.wire.system, request.wire.kind)
        if c.area_mm2 <= fuse.family.socket_max_mm2
    ]
    if not fitting or not request.fusing.may_step_down:
        return None
    largest = fitting[-1]
    alone_a = largest.ampacity_by_class_a[request.wire.insulation_c] * ambient_ratio(
        insulation_c=request.wire.insulation_c, ambient_c=request.fusing.holder_c
    )
    return largest if alone_a >= fuse.rating_a else None
