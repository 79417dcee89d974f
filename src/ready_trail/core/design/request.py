"""From a stated circuit to a sizing request."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job import Accessory, Circuit, Job, Segment
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.loads import design_current_a
from ready_trail.core.schemes.base import Scheme
from ready_trail.core.schemes.parts import CHASSIS_OHM
from ready_trail.core.sizing import (
    DROP_LIMIT_RATIO,
    Ceiling,
    Held,
    Leg,
    SizingRequest,
    Upstream,
    WinchDuty,
)
from ready_trail.core.sizing.records import SWITCH_CONTACT_OHM
from ready_trail.core.sizing.winch import PULL_FOR_DROP_RATIO, STALL_RATIO
from ready_trail.core.states import REST_V

CHARGING_V = 14.4
IDLE_RATIO = 0.18
"""A winch's current without pull over that at rated pull, if the label is silent (typical)."""


def load_currents_a(job: Job, accessories: tuple[Accessory, ...]) -> tuple[float, ...]:
    """Return each accessory's design current; for a winch the current at 60 % pull. [A]"""
    currents = []
    for accessory in accessories:
        if accessory.model == "winch":
            full_a = accessory.rated_a
            idle_a = accessory.idle_a
            idle_a = IDLE_RATIO * full_a if idle_a is None else idle_a
            currents.append(idle_a + (full_a - idle_a) * PULL_FOR_DROP_RATIO)
        elif accessory.amps is not None:
            currents.append(accessory.rated_a)
        else:
            currents.append(
                design_current_a(
                    model=accessory.model,
                    watts=accessory.rated_w,
                    at_v=accessory.at_v,
                    engine_only=accessory.use.engine_only,
                    nominal_v=job.vehicle.nominal_v,
                )
            )
    return tuple(currents)


def legs(run: tuple[Segment, ...], catalogue: Catalogue) -> tuple[Leg, ...]:
    """Return a run as sizing legs."""
    return tuple(
        Leg(
            length_m=segment.length_m,
            ambient_c=zone_ambient_c(segment, catalogue),
            loaded_conductors=segment.loaded_conductors,
        )
        for segment in run
    )


def back_segments(circuit: Circuit) -> tuple[Segment, ...]:
    """Return the way back as segments: the run reversed, or a stub where the run ends."""
    if circuit.back.kind == "wire":
        return tuple(reversed(circuit.run))
    last = circuit.run[-1].model_copy(
        update={
            "length_m": circuit.back.stub_m,
            "taped": circuit.back.taped,
            "passes": None,
        }
    )
    return (last,)


def sizing_request(
    job: Job,
    circuit: Circuit,
    accessories: tuple[Accessory, ...],
    scheme: Scheme,
    catalogue: Catalogue,
    upstream: Upstream | None,
) -> SizingRequest:
    """Return what sizing needs to know of a circuit under a scheme."""
    vehicle, rules = job.vehicle, job.rules
    scale = vehicle.nominal_v / 12
    currents = load_currents_a(job, accessories)
    total_a = sum(currents)
    has_switch = scheme.switch_in_path and bool(accessories[0].use.switch)
    drop_ratio = min(DROP_LIMIT_RATIO[a.drop_class] for a in accessories)
    duties = {a.duty for a in accessories}
    zones = [catalogue.zones[s.zone] for s in circuit.run if s.zone in catalogue.zones]
    fed_by_block = upstream is not None
    fuse_at_m = 0.0 if fed_by_block else circuit.fuse_at_m
    held = circuit.held
    return SizingRequest(
        current_a=total_a,
        out=legs(circuit.run, catalogue),
        back=legs(back_segments(circuit), catalogue),
        chassis_ohm=0.0 if circuit.back.kind == "wire" else CHASSIS_OHM[circuit.back.path],
        drop_limit_v=drop_ratio * vehicle.nominal_v,
        duty="continuous" if "continuous" in duties else accessories[0].duty,
        holder_c=zone_ambient_c(segment_at(circuit.run, fuse_at_m), catalogue),
        relay_c=zone_ambient_c(segment_at(circuit.run, circuit.switching_at_m), catalogue),
        insulation_c=rules.insulation_c,
        system=rules.system,
        wire_kind=rules.wire_kind,
        inrush_x=sum(a.inrush_x * i for a, i in zip(accessories, currents, strict=True)) / total_a,
        inrush_s=max(a.inrush_s for a in accessories),
        k_cont=rules.k_cont,
        ceiling=rules.ceiling,
        relay="auto" if scheme.has_relay else None,
        fuse_min_a=rules.fuse_min_a,
        ceilings=tuple(_ceilings(accessories, has_switch=has_switch)),
        battery_ohm=vehicle.battery.resistance_mohm * 1e-3,
        open_circuit_v=REST_V * scale,
        charging_v=CHARGING_V * scale,
        nominal_v=float(vehicle.nominal_v),
        crimps=(2 if scheme.has_relay or has_switch else 0) + (3 if fed_by_block else 4),
        lugs=1 if fed_by_block else 2,
        connectors=2 if any(a.tail_end == "sealed" for a in accessories) else 0,
        switch_ohm=SWITCH_CONTACT_OHM if has_switch else 0.0,
        minimum_mm2=max((z.minimum_mm2 for z in zones), default=0.75),
        upstream=upstream,
        winch=_winch_duty(accessories) if scheme.sizing_rule == "winch" else None,
        held=Held(family=held.family, fuse_a=held.fuse_a, relay=held.relay, size=held.size),
    )


def _ceilings(accessories: tuple[Accessory, ...], *, has_switch: bool) -> list[Ceiling]:
    ceilings = [
        Ceiling(element=f"maker's maximum of {a.name}", limit_a=a.fuse_max_a)
        for a in accessories
        if a.fuse_max_a is not None
    ]
    if has_switch:
        use = accessories[0].use
        ceilings.append(Ceiling(element=f"switch {use.switch}", limit_a=use.switch_a))
    return ceilings


def _winch_duty(accessories: tuple[Accessory, ...]) -> WinchDuty:
    full_a = sum(a.rated_a for a in accessories)
    return WinchDuty(full_a=full_a, stall_a=STALL_RATIO * full_a)
