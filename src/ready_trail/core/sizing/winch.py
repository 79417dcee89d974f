"""Winch cables and fuse: short-time duty instead of continuous rules (docs/rules/winch.md)."""

from __future__ import annotations

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
from ready_trail.core.fuses import FuseFamily, opening_time_s, prospective_short_a
from ready_trail.core.heat import short_time_ampacity_a, withstand_a2s
from ready_trail.core.relays import Relay, contact_rating_a, with_coil_for
from ready_trail.core.sizing.fuse_choice import lowest_under
from ready_trail.core.sizing.ladder import climb
from ready_trail.core.sizing.records import (
    Ceiling,
    FuseChoice,
    Rung,
    Sizing,
    SizingRequest,
    WinchDuty,
)

FAMILIES = ("strip_m8", "strip_m5", "post_block")
CONTACTORS = ("winch_contactor", "winch_contactor_l")
STALL_RATIO = 1.2
PULL_FOR_DROP_RATIO = 0.6


def size_winch(request: SizingRequest, catalogue: Catalogue, *, whole_ladder: bool) -> Sizing:
    """Return fuse, contactor and cable for a winch on its own pair of cables.

    The fuse holds the stall current and the rated pull for their times; the cable carries the
    rated pull for its time, keeps the drop at 60 % pull, and outlasts a short at its far end.
    """
    duty = request.winch
    if duty is None:
        raise ValueError("a winch is sized by its duty")
    fuse = _fuse(request, duty, catalogue)
    if fuse is None:
        return Sizing(request=request, ok=False, why="held" if request.held.fuse_a else "fuse")
    relay_c = request.holder_c if request.relay_c is None else request.relay_c
    relay: Relay | None = None
    relay_a: float | None = None
    if request.relay is not None:
        relay, relay_a = _contactor(request, duty, relay_c, catalogue)
    weak = relay_a is not None and relay_a < duty.full_a and not duty.own_contactor
    if weak and request.held.relay is None:
        return Sizing(request=request, ok=False, why="relay", fuse=fuse, relay=relay,
                      relay_rating_a=relay_a)  # fmt: skip
    fixed_ohm = fuse.resistance_ohm + (relay.contact_mohm * 1e-3 if relay else 0.0)
    fixed_ohm += request.joints_ohm + request.chassis_ohm + request.switch_ohm
    ladder, at = climb(
        catalogue.cables(request.system, request.wire_kind),
        lambda conductor: _rung(conductor, request, duty, fuse, fixed_ohm),
        request.held.size,
        whole_ladder=whole_ladder,
    )
    if at is None:
        return Sizing(request=request, ok=False, why="wire", fuse=fuse, relay=relay,
                      relay_rating_a=relay_a, ladder=ladder)  # fmt: skip
    chosen = ladder[at]
    why = "wire" if chosen.rejects else None
    capped_by = lowest_under(request, fuse)
    if capped_by is not None:
        why = "ceiling"
    if weak and relay_a is not None:
        capped_by, why = Ceiling(element="contactor", limit_a=relay_a), "ceiling"
    if why is None and not (fuse.meets_load and fuse.meets_inrush):
        why = "fuse"
    return Sizing(
        request=request,
        ok=why is None,
        why=why,
        fuse=fuse,
        relay=relay,
        relay_rating_a=relay_a,
        chosen=chosen,
        ladder=ladder,
        governs=ladder[at - 1].rejects if at else ("minimum",),
        own_ohm=chosen.wire_ohm + fixed_ohm,
        path_drop_v=_upstream_drop_v(request) + request.current_a * (chosen.wire_ohm + fixed_ohm),
        capped_by=capped_by,
        prospective_a=prospective_short_a(
            open_circuit_v=request.open_circuit_v,
            ahead_ohm=request.battery_ohm + _upstream_ohm(request),
            fuse_ohm=fuse.resistance_ohm,
        ),
    )


def _contactor(
    request: SizingRequest, duty: WinchDuty, relay_c: float, catalogue: Catalogue
) -> tuple[Relay, float]:
    """The held contactor, or the first that carries the rated pull there, else the largest."""
    keys = (request.held.relay,) if request.held.relay else CONTACTORS
    for key in keys:
        if key not in catalogue.relays:
            raise TableError(f"no relay {key!r} in the catalogue")
        relay = with_coil_for(catalogue.relays[key], request.coils_v)
        relay_a = contact_rating_a(relay, relay_c)
        if relay_a >= duty.full_a:
            break
    return relay, relay_a


def _upstream_ohm(request: SizingRequest) -> float:
    return request.upstream.resistance_ohm if request.upstream else 0.0


def _upstream_drop_v(request: SizingRequest) -> float:
    return request.upstream.path_drop_v if request.upstream else 0.0


def _fuse(request: SizingRequest, duty: WinchDuty, catalogue: Catalogue) -> FuseChoice | None:
    held = request.held
    smaller: float | None = None
    for name in (held.family,) if held.family else FAMILIES:
        family = catalogue.fuse_family(name)
        if family.max_v < request.charging_v and not held.family:
            continue
        for rating_a in family.ratings_a:
            if rating_a > family.holder_a:
                break
            holds = _holds(family, rating_a, duty)
            if held.fuse_a == rating_a or (held.fuse_a is None and holds):
                most_a = request.maker_max_a
                if held.fuse_a is None and most_a is not None and rating_a > most_a:
                    return _makers_own(family, most_a)
                return _choice(family, rating_a, duty, holds=holds, smaller=smaller)
            smaller = rating_a
    return None


def _choice(
    family: FuseFamily, rating_a: float, duty: WinchDuty, *, holds: bool, smaller: float | None
) -> FuseChoice:
    larger = [r for r in family.ratings_a if rating_a < r <= family.holder_a]
    return FuseChoice(
        family=family, rating_a=rating_a, holds_a=duty.stall_a if holds else rating_a,
        meets_load=holds, meets_inrush=True, below_rating_a=smaller,
        below_reason="stall", next_rating_a=larger[0] if larger else None,
    )  # fmt: skip


def _makers_own(family: FuseFamily, most_a: float) -> FuseChoice | None:
    """The maker's maximum lies under what stall asks for: the maker knows the winch."""
    within = [r for r in family.ratings_a if r <= most_a]
    if not within:
        return None
    return FuseChoice(
        family=family, rating_a=within[-1], holds_a=within[-1], meets_load=True, meets_inrush=True,
        by_maker=True, below_rating_a=None, below_reason="", next_rating_a=None,
    )  # fmt: skip


def _holds(family: FuseFamily, rating_a: float, duty: WinchDuty) -> bool:
    return all(
        opening_time_s(family.gates, current_a / rating_a, slowest=False) >= time_s
        for current_a, time_s in ((duty.stall_a, duty.stall_s), (duty.full_a, duty.on_s))
    )


def _rung(
    conductor: Conductor,
    request: SizingRequest,
    duty: WinchDuty,
    fuse: FuseChoice,
    fixed_ohm: float,
) -> Rung:
    class_c = request.insulation_c
    legs = (*request.out, *request.back)
    ambient_c = max(leg.ambient_c for leg in legs)
    worst_ratio = min(
        ambient_ratio(insulation_c=class_c, ambient_c=leg.ambient_c)
        * bundle_ratio(leg.loaded_conductors)
        for leg in legs
    )
    steady_a = conductor.ampacity_by_class_a[class_c] * worst_ratio
    limit_a2s = withstand_a2s(area_mm2=conductor.area_mm2, insulation_c=class_c, start_c=ambient_c)
    short_time_a = short_time_ampacity_a(
        ampacity_a=steady_a, area_mm2=conductor.area_mm2, on_s=duty.on_s,
        withstand_limit_a2s=limit_a2s,
    )  # fmt: skip
    hottest_c = conductor_temperature_c(
        current_a=duty.full_a, ampacity_a=short_time_a, insulation_c=class_c, ambient_c=ambient_c
    )
    length_m = sum(leg.length_m for leg in legs)
    wire_ohm = conductor.r20_mohm_per_m * 1e-3 * length_m * resistance_ratio(hottest_c)
    drop_v = request.current_a * wire_ohm
    if request.upstream:
        drop_v += request.upstream.conductor_drop_v
    ahead_ohm = request.battery_ohm + _upstream_ohm(request)
    far_short_a = request.open_circuit_v / (ahead_ohm + wire_ohm + fixed_ohm)
    opens_s = opening_time_s(fuse.family.gates, far_short_a / fuse.rating_a, slowest=True)
    fault_a2s = withstand_a2s(
        area_mm2=conductor.area_mm2, insulation_c=class_c, start_c=min(hottest_c, 240.0)
    )
    checks = (
        ("short_time", short_time_a >= duty.full_a),
        ("drop", drop_v <= request.drop_limit_v),
        ("minimum", conductor.area_mm2 >= request.minimum_mm2),
        ("fit", conductor.lug_mm2 <= fuse.family.socket_max_mm2),
        ("withstand", far_short_a**2 * opens_s <= fault_a2s),
    )
    return Rung(
        conductor=conductor,
        ampacity_a=short_time_a,
        single_ampacity_a=conductor.ampacity_by_class_a[class_c]
        * ambient_ratio(insulation_c=class_c, ambient_c=ambient_c),
        conductor_c=hottest_c,
        wire_ohm=wire_ohm,
        conductor_drop_v=drop_v,
        far_short_a=far_short_a,
        far_short_opens_s=opens_s,
        withstand_s=fault_a2s / far_short_a**2,
        mass_g=conductor.area_mm2 * length_m * COPPER_DENSITY_G_PER_CM3,
        pigtail=None,
        rejects=tuple(name for name, good in checks if not good),
    )
