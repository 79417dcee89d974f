"""Mistakes with wires, their ways, joints and earths."""

from __future__ import annotations

from ready_trail.core.job import Battery, Segment
from ready_trail.core.practice.mistakes.source import positions
from ready_trail.core.practice.mistakes.ways import Scaled, Way, added, is_winch, put, supplied

LONG = (Segment(zone="engine_bay", length_m=1.0), Segment(zone="cabin", length_m=6.0))
HOT = (Segment(zone="engine_bay", length_m=1.0), Segment(zone="exhaust", length_m=0.5))
BARE = Segment.model_validate(
    {"zone": "engine_bay", "length_m": 1.2, "passes": {"name": "firewall", "grommet": False}}
)

WAYS: tuple[Way, ...] = (
    put("conductor_drop", {"circuit.held.size": "18"}),
    put("conductor_drop", {"circuit.held.size": "20"}),
    added("conductor_drop", {"watts": 100}, run=LONG, then={"circuit.held.size": "18"}),
    put("path_drop", {"circuit.back.measured_mohm": 400.0}),
    added("path_drop", {"watts": 100}, run=LONG, then={"circuit.held.size": "16"}),
    put("load_voltage", {"accessory.min_v": 13.2}),
    put("hot_zone", {"leg.zone": "exhaust"}),
    put("hot_zone", {"segment.zone": "exhaust"}),
    added("hot_zone", {"watts": 180}, run=HOT),
    put("insulation", {"leg.zone": "exhaust", "circuit.held.insulation_c": 105}),
    added("insulation", {"watts": 180}, run=HOT, then={"circuit.held.insulation_c": 105}),
    added("hotter_class", {"watts": 180}, run=HOT),
    put("too_thin", {"circuit.held.size": "22"}),
    added("too_thin", {"watts": 30}, then={"circuit.held.size": "22"}),
    put("does_not_fit", {"circuit.held.size": "4/0", "circuit.held.family": "strip_m5"}),
    put("pigtail", {"circuit.held.size": "6"}),
    put("pigtail", {"circuit.held.size": "8"}),
    supplied(
        "pigtail",
        {"kind": "fuse_block", "positions": [{"name": n, "rating_a": 30} for n in "12"]},
        {"amps": 5, "model": "electronics"},
        then={"circuit.held.size": "8"},
    ),
    added(
        "pair",
        {
            "model": "resistive",
            "amps": 250,
            "at_v": 12,
            "use": {"key": "run", "switch": "Extra switch"},
        },
        run=(Segment(zone="cabin", length_m=6.0),),
        then={"vehicle.battery": Battery().model_dump()},
    ),
    put("clad_aluminium", {"rules.wire_kind": "cca"}),
    put("no_return", {"vehicle.body": "composite"}),
    put("no_return", {"circuit.back.kind": "chassis"}),
    put("bare_hole", {"segment.passes.grommet": False}),
    put("bare_hole", {"leg.hole.protection": "none"}),
    added("bare_hole", {"watts": 90}, run=(BARE, Segment(zone="cabin", length_m=1.0))),
    put("estimate", {"segment.taped": False}),
    put("estimate", {"leg.taped_m": None}),
    added("estimate", {"watts": 60}, run=(Segment(zone="cabin", length_m=2.0),)),
    put("winch_return", {"circuit.back.kind": "chassis"}, only=is_winch),
    added(
        "winch_return",
        {"model": "winch", "amps": 230, "duty": "momentary", "drop_class": "tolerant"},
        back="chassis",
    ),
    put("joint_heat", {"circuit.back.path": "poor"}),
    added(
        "joint_heat",
        {"model": "resistive", "amps": 28},
        back="chassis",
        then={"circuit.back.path": "poor"},
    ),
    put("copper_large", {"circuit.held.size": "4"}),
    added("copper_large", {"watts": 30}, then={"circuit.held.size": "4"}),
    put("branch_drop", {"branch.size": "20"}),
    added(
        "branch_drop",
        {"watts": 54, "quantity": 2},
        run=LONG,
        branches=True,
        then={"branch.run": (Segment(zone="cabin", length_m=9.0),), "branch.size": "18"},
    ),
    put("joint_needs_relay", {"circuit.joint": "double_87"}),
    added(
        "joint_needs_relay",
        {"watts": 20, "quantity": 2, "use": {"key": "always"}},
        run=LONG,
        branches=True,
        then={"circuit.joint": "double_87"},
    ),
    added(
        "joint_in_unit",
        {"watts": 54, "quantity": 2, "tail_m": 1.0, "tail_end": "sealed"},
        run=LONG,
        branches=True,
    ),
    put("lead_unproved", {"output.proved": False}),
    added(
        "lead_unproved",
        {
            "watts": 200,
            "outputs": [{"name": "white", "watts": 150}, {"name": "amber", "watts": 50}],
        },
        split=True,
    ),
    put("long_stub", {"leg.taped_m": Scaled(x=6.0)}),
    put("long_stub", {"circuit.place.earth": "ber"}),
    put("hole_full", {"leg.hole.diameter_mm": 3.2}),
    put("no_way", {"leg.rule": "forbidden"}),
    put("no_control_way", {"leg.rule": "forbidden"}),
    put("strap_small", {"vehicle.strap_a": 20}),
    supplied(
        "laid_alone",
        {"kind": "fuse_block", "zone": "cabin", "positions": positions(4, 30)},
        *({"watts": 240} for _ in range(4)),
    ),
    put("post_crowded", {"accessory.memory_wire": True}),
)
