"""Mistakes with where current comes from, and how much of it."""

from __future__ import annotations

from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    Edit,
    SaveScenario,
    SetDay,
    StartAt,
)
from ready_trail.core.job import BATTERY, Channel, DayPart, Running, Use
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.practice.mistakes.ways import Scaled, Way, added, edited, put, supplied


def positions(count: int, rating_a: float) -> list[dict[str, object]]:
    """So many positions of one rating."""
    return [{"name": f"{n + 1}", "rating_a": rating_a} for n in range(count)]


def loads(*amps: float) -> list[dict[str, object]]:
    """Loads of so many amperes."""
    return [{"amps": each, "model": "electronics"} for each in amps]


BANK = {"kind": "factory_bank", "positions": positions(4, 20), "fuse_a": 60, "continuous_a": 30}
BLOCK = {"kind": "fuse_block", "positions": positions(4, 30)}
DISCONNECT = {"kind": "disconnect", "total_a": 200, "cranking_a": 600}


def _crowd(design: Design, made: CircuitDesign) -> tuple[Edit, ...]:
    """Everything on the battery's own post."""
    del made
    free = [c for c in design.job.circuits if c.accessory_ids and c.start.point != BATTERY]
    return tuple(StartAt(circuit_id=c.id, start=Channel(point=BATTERY)) for c in free[:5])


def _camp(design: Design, minutes: float) -> tuple[Edit, ...]:
    """A load that is left on with the engine off, for so long, and a day made of that."""
    job = design.job
    load = AccessoryDraft(name="Extra load", amps=10, model="electronics", use=Use(key="always"))
    runs = Running(accessory=f"a{job.last_number + 1}")
    known = {s.id for s in job.scenarios}
    own = next(f"s{n}" for n in range(1, 99) if f"s{n}" not in known)
    return (
        AddAccessory(accessory=load, start=Channel(point=BATTERY)),
        SaveScenario(
            name="Left on", key="off", engine="off", minutes=min(minutes, 1440.0), running=(runs,)
        ),
        SetDay(parts=(DayPart(scenario=own, minutes=minutes),)),
    )


def _long_pull(design: Design) -> tuple[Edit, ...]:
    """A winch that pulls for an hour at idle."""
    label = {"name": "Extra winch", "model": "winch", "amps": 230, "duty": "momentary"}
    winch = AccessoryDraft.model_validate({**label, "use": {"key": "run"}})
    runs = Running(accessory=f"a{design.job.last_number + 1}", ratio=0.4)
    pull = SaveScenario(name="Long pull", engine="idle", minutes=60, running=(runs,))
    return AddAccessory(accessory=winch, start=Channel(point=BATTERY)), pull


WAYS: tuple[Way, ...] = (
    edited("post_crowded", _crowd),
    supplied("channel_load", BANK, *loads(16.5)),
    supplied(
        "spare_wire_thin",
        {
            "kind": "factory_bank",
            "positions": positions(2, 20),
            "pass_through_mohm": 15.0,
            "pass_mm2": 0.5,
        },
        *loads(9),
        then={"circuit.held.scheme": "channel_pass"},
    ),
    supplied("bank_total", BANK, *loads(12, 12, 12)),
    supplied("bank_fuses", {**BANK, "continuous_a": 60}, *loads(2, 2, 2, 2)),
    put("point_total", {"start.total_a": 5}),
    supplied("point_total", {**BLOCK, "total_a": 20}, *loads(15, 15)),
    put("converter_limit", {"start.output_a": Scaled(x=0.2)}),
    supplied("converter_limit", {"kind": "converter", "output_v": 12, "output_a": 10}, *loads(9)),
    supplied(
        "converter_earth",
        {"kind": "converter", "output_v": 12, "output_a": 25},
        *loads(12),
        then={"feeder.held.size": "16"},
    ),
    supplied(
        "tapped_room",
        {"kind": "tapped", "positions": positions(1, 5), "fuse_a": 5, "carries_a": 3},
        *loads(3),
    ),
    put("together_low", {"start.together_a": 1}),
    supplied("together_low", {**BLOCK, "together_a": 10}, *loads(15)),
    supplied("together_stated", {**BLOCK, "together_a": 18}, *loads(15, 10)),
    put("no_position", {"circuit.start.position": ""}),
    supplied("no_position", BLOCK, {"amps": 5, "model": "electronics", "position": ""}),
    supplied("no_spare", BLOCK, *loads(2, 2, 2, 2)),
    put("selectivity", {"feeder.held.family": "blade", "feeder.held.fuse_a": 20.0}),
    supplied(
        "selectivity",
        BLOCK,
        *loads(8, 1),
        then={"feeder.held.family": "blade", "feeder.held.fuse_a": 20.0},
    ),
    supplied("disconnect_rating", {**DISCONNECT, "total_a": 10}, *loads(15)),
    supplied("disconnect_unrated", {**DISCONNECT, "total_a": None}, *loads(5)),
    supplied("disconnect_alive", DISCONNECT, *loads(5)),
    supplied(
        "pulse_latches",
        {**DISCONNECT, "pulse_switch": "Main off"},
        *loads(5),
        then={"pulse.momentary": False},
    ),
    supplied(
        "pulse_unguarded",
        {**DISCONNECT, "pulse_switch": "Main off"},
        *loads(5),
        then={"pulse.guarded": False},
    ),
    put("alternator_small", {"vehicle.charging_a": 5, "job.scenarios": (), "job.day": ()}),
    put("charge_deficit", {"vehicle.charging_a": Scaled(x=0.3)}),
    put("battery_half", {"scenario.minutes": Scaled(x=6)}),
    put("battery_half", {"scenario.minutes": Scaled(x=3)}),
    put("battery_flat", {"scenario.minutes": Scaled(x=30)}),
    put("battery_flat", {"scenario.lights": "high"}),
    put("day_half", {"day.minutes": 1200.0}),
    edited("day_half", lambda design, made: _camp(design, 240.0)),
    edited("day_flat", lambda design, made: _camp(design, 1000.0)),
    edited("battery_half", lambda design, made: _camp(design, 240.0)[:2]),
    edited("battery_flat", lambda design, made: _camp(design, 1000.0)[:2]),
    put("day_not_charged", {"scenario.engine": "off"}),
    put("day_not_charged", {"day.minutes": Scaled(x=0.1)}),
    put("parked_days", {"vehicle.parked_ma": 600}),
    put("winch_minutes", {"scenario.minutes": Scaled(x=10)}),
    edited(
        "winch_minutes",
        lambda design, made: _long_pull(design),
        then={"vehicle.battery.capacity_ah": 120, "vehicle.charging_a": 250},
    ),
    put("in_no_scenario", {"scenario.running": ()}),
    added("in_no_scenario", {"watts": 60}),
    put("not_possible_there", {"accessory.use.lights": "high"}),
    put("not_possible_there", {"scenario.key": "off"}),
    supplied(
        "sleeps",
        BLOCK,
        {"amps": 3, "model": "electronics", "use": {"key": "always"}},
        wake=Use(key="run"),
    ),
    supplied(
        "feed_narrower",
        BLOCK,
        {"amps": 3, "model": "electronics", "use": {"key": "run"}},
        wake=Use(key="always", lights="side"),
    ),
)
