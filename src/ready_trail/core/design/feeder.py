"""The feeder from the battery to the fuse block: main fuse and cable."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.pieces import working_pieces
from ready_trail.core.design.request import CHARGING_V, legs
from ready_trail.core.job import FuseBlock, Job
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.network import Resistor
from ready_trail.core.outcome import FeederDesign
from ready_trail.core.schemes.parts import clip
from ready_trail.core.schemes.vehicle_side import battery
from ready_trail.core.sizing import Held, SizingRequest, Upstream, size
from ready_trail.core.states import REST_V
from ready_trail.core.wiring import Device, End, Piece, Wire, Wiring

FEEDER_DROP_RATIO = 0.02
"""Share of the nominal voltage that the feeder may use up (house)."""


def design_feeder(job: Job, block: FuseBlock, catalogue: Catalogue) -> FeederDesign | None:
    """Return the sized feeder, or None when no main fuse and cable would do."""
    vehicle, rules = job.vehicle, job.rules
    scale = vehicle.nominal_v / 12
    out = legs(block.feeder, catalogue)
    request = SizingRequest(
        current_a=block.together_a,
        out=out,
        back=(),
        chassis_ohm=0.0,
        drop_limit_v=FEEDER_DROP_RATIO * vehicle.nominal_v,
        holder_c=zone_ambient_c(segment_at(block.feeder, block.main_at_m), catalogue),
        insulation_c=rules.insulation_c,
        system=rules.system,
        wire_kind=rules.wire_kind,
        k_cont=rules.k_cont,
        ceiling=rules.ceiling,
        relay=None,
        families=(block.main_family,),
        battery_ohm=vehicle.battery.resistance_mohm * 1e-3,
        open_circuit_v=REST_V * scale,
        charging_v=CHARGING_V * scale,
        nominal_v=float(vehicle.nominal_v),
        crimps=0,
        lugs=4,
        held=Held(family=block.main_family, fuse_a=block.main_a),
    )
    sizing = size(request, catalogue, whole_ladder=True)
    if sizing.chosen is None or sizing.fuse is None:
        return None
    conductor = sizing.chosen.conductor
    pieces = working_pieces(block.feeder, out, sizing)
    main, bus = End(device="F0", terminal="1"), End(device="B1", terminal="bus")
    main_out = End(device="F0", terminal="2")
    fuse = sizing.fuse

    def cable(label: str, start: End, end: End, role_feed: bool, part: tuple[Piece, ...]) -> Wire:
        return Wire(
            label=label, role="feed" if role_feed else "power", start=start, end=end,
            conductor=conductor,
            insulation_c=rules.insulation_c, colour="RD",
            pieces=part, start_joint="lug", end_joint="lug",
        )  # fmt: skip

    length_m = sum(s.length_m for s in block.feeder)
    devices = (
        battery(job),
        Device(
            ref="F0", kind="fuse", label=f"{fuse.rating_a:g} A", detail=fuse.family.label,
            terminals=("1", "2"), zone=pieces[0].zone, at_m=block.main_at_m,
            elements=(Resistor(name="f0", a=main.node, b=main_out.node,
                               ohm=fuse.resistance_ohm, kind="fuse"),),
        ),
        Device(
            ref="B1", kind="block", label=block.name, detail=f"{block.positions} positions",
            terminals=("bus",), zone=pieces[-1].zone, at_m=length_m,
        ),
    )  # fmt: skip
    wires = (
        cable("B1-W1", End(device="BAT", terminal="+"), main, True,
              clip(pieces, 0.0, block.main_at_m)),
        cable("B1-W2", main_out, bus, False, clip(pieces, block.main_at_m, length_m)),
    )  # fmt: skip
    upstream = Upstream(
        resistance_ohm=sizing.path_drop_v / request.current_a,
        conductor_drop_v=sizing.chosen.conductor_drop_v,
        path_drop_v=sizing.path_drop_v,
    )
    return FeederDesign(
        sizing=sizing, wiring=Wiring(devices=devices, wires=wires), upstream=upstream
    )
