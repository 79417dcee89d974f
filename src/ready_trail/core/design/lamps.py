"""The lamps of a lit panel, or of a lit switch that stands alone: one small circuit from the side
lights, one earth for all of them.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.colours import control_colour
from ready_trail.core.design.shared import control_fuse, thin_wires
from ready_trail.core.installation import Device, Parts, Terminal, lamps_owner
from ready_trail.core.job import Job
from ready_trail.core.kinds.earth import EarthSpec
from ready_trail.core.kinds.load import LoadSpec, PartLoad
from ready_trail.core.loads import Load
from ready_trail.core.schemes.control import vehicle_feed
from ready_trail.core.supply.currents import LAMP_A

_TAP_M, _FEED_M, _EARTH_M = 0.15, 0.8, 0.3
"""From the dimmer's output to its fuse, on to the panel, and to a dash earth (house). [m]"""
_EARTH_OHM = 0.002


@dataclass(frozen=True, slots=True, kw_only=True)
class Lit:
    """What is lit at night: a panel's switches, or one alone; ``mark`` tells its fuse and earth."""

    ref: str
    name: str
    mark: str
    number: int
    zone: str
    count: int


def lit_things(job: Job, refs: Mapping[str, str]) -> Iterator[Lit]:
    """Yield each panel with lit switches in it, and each lit switch that stands alone."""
    for point in job.points:
        inside = [s for s in job.switches if s.panel == point.id and s.is_lit]
        if inside:
            yield Lit(
                ref=refs[point.id],
                name=point.name,
                mark=f"{point.number}L",
                number=point.number,
                zone=point.zone,
                count=len(inside),
            )
    zone = "cabin" if job.vehicle.has_cabin else "engine_bay"
    for switch in job.switches:
        if switch.panel is None and switch.is_lit:
            yield Lit(
                ref=refs[f"switch {switch.name}"],
                name=switch.name,
                mark=f"{switch.number}SL",
                number=switch.number,
                zone=zone,
                count=1,
            )


def lamp_parts(lit: Lit, job: Job, catalogue: Catalogue) -> Parts:
    """Return the illumination circuit of what is lit: source, fuse, lamps and earth."""
    owner = lamps_owner(lit.ref)
    source, start = vehicle_feed(job, "side")
    fuse = control_fuse(f"F{lit.mark}", owner, job, catalogue)
    lamps = _lamps(lit, owner, job)
    composite = job.vehicle.body == "composite"
    earth = Device(
        ref=f"G{lit.mark}",
        owner=owner,
        label="Earth point",
        detail="clean metal, bolted lug",
        spec=EarthSpec(ohm=_EARTH_OHM),
        zone=lit.zone,
    )
    battery = Terminal(device="BAT", terminal="-")
    end = battery if composite else Terminal(device=earth.ref, terminal="1")
    thin = thin_wires(job, catalogue, owner=owner, ref=owner, zone=lit.zone)
    own = control_colour(lit.number)
    ahead, behind = (Terminal(device=fuse.ref, terminal=t) for t in "12")
    plus, minus = (Terminal(device=lamps.ref, terminal=t) for t in "+-")
    thin.add("control", start, ahead, _TAP_M, own)
    thin.add("control", behind, plus, _FEED_M, own)
    thin.add("control_return", minus, end, _EARTH_M)
    devices = (source, fuse, lamps) if composite else (source, fuse, lamps, earth)
    return Parts(owner=owner, devices=devices, wires=tuple(thin.made))


def _lamps(lit: Lit, owner: str, job: Job) -> Device:
    """The lamps themselves, as one load."""
    nominal_v = float(job.vehicle.nominal_v)
    load = Load(model="resistive", rated_a=LAMP_A * lit.count, rated_v=nominal_v)
    return Device(
        ref=owner,
        owner=owner,
        label=f"Lamps of {lit.name}",
        name=f"Lamps of {lit.name}",
        detail=f"{lit.count} switch lamp{'' if lit.count == 1 else 's'}, with the side lights",
        spec=LoadSpec(loads=(PartLoad(key="lamps", load=load),)),
        zone=lit.zone,
    )
