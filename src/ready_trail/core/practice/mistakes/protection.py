"""Mistakes with fuses and what they protect."""

from __future__ import annotations

from ready_trail.core.edits import AccessoryDraft, AddAccessory, AddSupply, Edit, PointDraft
from ready_trail.core.job import Channel, Segment
from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.practice.mistakes.ways import Way, added, edited, is_winch, put, supplied

FAR = tuple(Segment(zone="cabin", length_m=29.0) for _ in "12")
LAMPS = {"watts": 54, "quantity": 2}


def smaller_fuse(made: CircuitDesign) -> float | None:
    """The largest rating under that of the design."""
    fuse = made.sizing.fuse
    less = [r for r in fuse.family.ratings_a if r < fuse.rating_a] if fuse is not None else []
    return max(less, default=None)


def larger_fuse(made: CircuitDesign) -> float | None:
    """Two ratings over that of the design."""
    fuse = made.sizing.fuse
    more = sorted(r for r in fuse.family.ratings_a if r > fuse.rating_a) if fuse else []
    return more[min(1, len(more) - 1)] if more else None


def own_fuse(made: CircuitDesign) -> float | None:
    """The rating of the design, held by hand."""
    return made.sizing.fuse.rating_a if made.sizing.fuse is not None else None


def thinner_wire(made: CircuitDesign) -> str | None:
    """The size two rungs under that of the design."""
    chosen, ladder = made.sizing.chosen, made.sizing.ladder
    at = ladder.index(chosen) if chosen in ladder else 0
    return ladder[max(0, at - 2)].conductor.size if at else None


def _unfed(number: int) -> tuple[Edit, ...]:
    """A light that starts at a stud to which nothing leads."""
    stud = PointDraft(kind="stud", name="Extra stud")
    light = AccessoryDraft(name="Extra light", watts=50)
    start = Channel(point=f"p{number + 1}")
    return AddSupply(point=stud, fed=False), AddAccessory(accessory=light, start=start)


WAYS: tuple[Way, ...] = (
    put("unprotected", {"circuit.fuse_at_m": 0.9, "circuit.switching_at_m": 1.0}),
    put("unprotected", {"circuit.fuse_at_m": 0.24}),
    put("fuse_over_wire", {"circuit.held.fuse_a": larger_fuse, "circuit.held.size": thinner_wire}),
    put("fuse_over_wire", {"circuit.held.size": "18"}),
    put("fuse_over_wire", {"circuit.held.size": "16"}),
    put("fuse_under_load", {"circuit.held.fuse_a": smaller_fuse}),
    put(
        "fuse_under_inrush",
        {
            "accessory.inrush_x": 20,
            "accessory.inrush_s": 1,
            "circuit.held.fuse_a": own_fuse,
        },
    ),
    added(
        "far_short_slow",
        {"watts": 60},
        run=FAR,
        then={"circuit.held.size": "20", "circuit.held.fuse_a": 30.0},
    ),
    added(
        "far_short_burns",
        {"watts": 60},
        run=(Segment(zone="cabin", length_m=1.0),),
        then={
            "circuit.held.size": "20",
            "circuit.held.family": "strip_m8",
            "circuit.held.fuse_a": 100.0,
        },
    ),
    put("fuse_over_element", {"accessory.fuse_max_a": 3, "circuit.held.fuse_a": own_fuse}),
    put("fuse_over_element", {"accessory.lead_bears_a": 1.0}),
    put("fuse_over_element", {"start.total_a": 5, "circuit.held.fuse_a": own_fuse}),
    put("makers_fuse", {"accessory.fuse_max_a": 3}),
    added(
        "makers_fuse",
        {
            "model": "electronics",
            "amps": 21,
            "idle_a": 1.5,
            "at_v": 13.8,
            "duty": "intermittent",
            "fuse_max_a": 20,
        },
    ),
    put("held_rating", {"circuit.held.family": "mini_blade", "circuit.held.fuse_a": 40.0}),
    put("unsized", {"circuit.back.measured_mohm": 900.0}),
    added("unsized", {"watts": 2200, "quantity": 2}),
    put("out_of_range", {"accessory.watts": 9000, "accessory.quantity": 50}),
    added("out_of_range", {"watts": 9000, "quantity": 50}, run=FAR),
    put("interrupting", {"vehicle.battery.resistance_mohm": 1.0}),
    put("interrupting", {"circuit.held.family": "strip_m8"}),
    put(
        "fuse_voltage",
        {
            "vehicle.nominal_v": 48,
            "accessory.at_v": 48,
            "circuit.held.family": "blade",
            "circuit.held.fuse_a": 10.0,
        },
    ),
    put("closes_again", {"circuit.held.family": "breaker_auto"}),
    put("one_end_fused", {"circuit.end_fuse": False}),
    supplied(
        "one_end_fused",
        {
            "kind": "battery",
            "battery": {"capacity_ah": 100, "resistance_mohm": 12, "chemistry": "agm"},
        },
        {"amps": 5},
        then={"feeder.end_fuse": False},
    ),
    put("cable_short_time", {"circuit.held.size": "8"}, only=is_winch),
    edited("unfed", lambda design, made: _unfed(design.job.last_number)),
    supplied(
        "no_fit",
        {
            "kind": "fuse_block",
            "total_a": 200,
            "positions": [{"name": n, "rating_a": 80} for n in "12"],
        },
        {"amps": 45, "model": "electronics"},
    ),
    put("thin_lead", {"accessory.lead_bears_a": 1.0}),
    supplied(
        "thin_lead",
        {
            "kind": "factory_bank",
            "fuse_a": 60,
            "positions": [{"name": n, "rating_a": 40} for n in "12"],
        },
        {"amps": 2, "model": "electronics"},
    ),
    put("found_unfused", {"circuit.found": {"unfused": True}}),
    put("found_unknown", {"circuit.found": {"note": "an old loom"}}),
    put("fuse_large", {"circuit.held.fuse_a": larger_fuse}),
    added("fuse_large", {"watts": 30}, then={"circuit.held.fuse_a": 25.0}),
    put("holder_heat", {"leg.zone": "exhaust"}),
    added(
        "holder_heat",
        {"watts": 180},
        run=(Segment(zone="exhaust", length_m=1.5), Segment(zone="cabin", length_m=1.0)),
        then={"circuit.held.insulation_c": 125},
    ),
    put("fuse_over_branch", {"branch.size": "20"}),
    added(
        "fuse_over_branch",
        {"watts": 150, "quantity": 2, "drop_class": "tolerant"},
        branches=True,
        then={"branch.size": "20"},
    ),
    added(
        "branch_short",
        {"watts": 30, "quantity": 2, "drop_class": "tolerant", "duty": "momentary"},
        branches=True,
        then={"branch.run": FAR, "branch.size": "16"},
    ),
    put(
        "winch_unfused",
        {"rules.winch_protection": "isolator", "switch.throws": 2, "switch.guarded": False},
    ),
    put("second_fuse", {"circuit.held.fuse_a": 15.0}),
    supplied(
        "second_fuse",
        {"kind": "tapped", "fuse_a": 10, "positions": [{"name": "1", "rating_a": 10}]},
        {"amps": 2, "model": "electronics"},
        then={"circuit.held.fuse_a": 15.0},
    ),
    supplied(
        "battery_volts",
        {
            "kind": "battery",
            "output_v": lambda job: 24 if job.vehicle.nominal_v == 12 else 12,
            "battery": {"capacity_ah": 60, "resistance_mohm": 12, "chemistry": "agm"},
        },
        {"amps": 5, "model": "electronics"},
    ),
    supplied(
        "batteries_joined",
        {
            "kind": "battery",
            "battery": {"capacity_ah": 60, "resistance_mohm": 12, "chemistry": "agm"},
        },
        {"amps": 5, "model": "electronics"},
        then={"feeder.held.scheme": "direct"},
    ),
    put("chemistries", {"vehicle.battery.chemistry": "lithium"}),
    supplied(
        "chemistries",
        {
            "kind": "battery",
            "battery": {"capacity_ah": 60, "resistance_mohm": 12, "chemistry": "lithium"},
        },
        {"amps": 5, "model": "electronics"},
    ),
    supplied(
        "battery_vent",
        {
            "kind": "battery",
            "zone": "cabin",
            "battery": {"capacity_ah": 60, "resistance_mohm": 12, "chemistry": "flooded"},
        },
        {"amps": 5, "model": "electronics"},
    ),
)
