"""Mistakes with relays, switches, signals and what a vehicle does by itself."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    Edit,
    PointDraft,
    SetSignalLimit,
)
from ready_trail.core.job import BATTERY, Battery, Channel, Job, Segment, Switch, Use
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.practice.mistakes.ways import (
    Way,
    added,
    edited,
    is_converted,
    is_winch,
    put,
    supplied,
)

NEAR = (Segment(zone="engine_bay", length_m=1.2), Segment(zone="cabin", length_m=2.0))
WORN = {
    "circuit.held.family": "strip_m8",
    "circuit.held.fuse_a": 500.0,
    "circuit.held.size": "4/0",
    "circuit.held.relay": "contactor_400",
    "vehicle.battery": Battery(resistance_mohm=100.0).model_dump(),
}
"""A worn battery and a load that pulls it down."""
KEYED = {"key": "run", "switch": "Extra switch", "engine_only": True}
WINCH = {"model": "winch", "amps": 230, "duty": "momentary", "drop_class": "tolerant"}
MOTOR = {"model": "motor", "watts": 200, "inrush_x": 3, "inrush_s": 0.15}


def channels(mode: str) -> dict[str, object]:
    """A module with one channel of a mode."""
    return {"kind": "power_panel", "positions": [{"name": "1", "rating_a": 20, "mode": mode}]}


def _light(name: str, **use: object) -> AddAccessory:
    label = {"name": name, "watts": 200, "use": use}
    return AddAccessory(
        accessory=AccessoryDraft.model_validate(label), start=Channel(point=BATTERY)
    )


def _on_one_switch(made: CircuitDesign) -> tuple[Edit, ...]:
    """Two lights that name one switch, and follow the key otherwise."""
    del made
    switch = {"switch": "Extra switch"}
    return _light("Extra light", key="run", **switch), _light("Second", key="accessory", **switch)


def _in_a_panel(number: int) -> tuple[Edit, ...]:
    """A panel behind the key's first position, and a light in it that wants the second."""
    panel = PointDraft(kind="switch_panel", name="Extra panel", zone="cabin")
    switch = Switch(name="Extra switch", panel=f"p{number + 1}")
    return (
        AddSupply(point=panel, wake=Use(key="accessory"), new_switches=(switch,)),
        _light("Extra light", key="run", switch="Extra switch"),
    )


def _shared_winch(design: Design, made: CircuitDesign) -> Iterator[Job]:
    """A winch with a light on its own cables."""
    del made
    winch = AccessoryDraft.model_validate({"name": "Extra winch", **WINCH, "use": KEYED})
    job = AddAccessory(accessory=winch).apply(design.job)
    job = _light("Extra light", key="run").apply(job)
    *others, cables, lead = job.circuits
    both = cables.model_copy(update={"accessory_ids": (*cables.accessory_ids, *lead.accessory_ids)})
    yield job.model_copy(update={"circuits": (*others, both)})


WAYS: tuple[Way, ...] = (
    put("acts_at_rest", {"accessory.inputs": [{"name": "Pattern", "rests": "supply"}]}),
    put(
        "acts_at_rest",
        {"accessory.inputs": [{"name": "Pattern", "must_float": True, "rests": "supply"}]},
    ),
    put(
        "resting_low",
        {"accessory.inputs": [{"name": "Pattern", "must_float": True, "rests": "ground"}]},
    ),
    put(
        "diode_backwards",
        {
            "accessory.inputs": [
                {
                    "name": "Pattern",
                    "must_float": True,
                    "rests": "ground",
                    "diode": True,
                    "backwards": True,
                }
            ]
        },
    ),
    put(
        "function_heavy",
        {"accessory.inputs": [{"name": "Amber", "ends": "controller", "powers_w": 40}]},
    ),
    put(
        "contact_inrush",
        {"accessory.model": "motor", "accessory.inrush_x": 12, "accessory.inrush_s": 0.01},
    ),
    added("contact_inrush", {"model": "motor", "watts": 300, "inrush_x": 12, "inrush_s": 0.01}),
    put("relay_voltage", {"circuit.held.relay": "mini_no", "vehicle.nominal_v": 48}),
    put("rest_contact_live", {"circuit.held.relay": "mini_co"}),
    *(
        added(
            "chatter",
            {"model": "resistive", "amps": amps, "at_v": 12, "use": KEYED},
            run=NEAR,
            then=WORN,
        )
        for amps in (160, 200, 240, 300)
    ),
    added(
        "no_operating_point",
        {"model": "resistive", "amps": 1000, "use": KEYED},
        then=WORN,
    ),
    added(
        "pull_in",
        {"model": "resistive", "watts": 50, "use": KEYED},
        run=(
            Segment(zone="engine_bay", length_m=2.0, ambient_c=119.5),
            Segment(zone="cabin", length_m=1.0),
        ),
    ),
    put("pull_in", {"vehicle.battery.resistance_mohm": 60.0}),
    put(
        "pulls_in_off",
        {
            "vehicle.headlamps": "earth",
            "vehicle.headlamp_common": "with_lights",
            "accessory.use.key": "always",
            "accessory.use.lights": "high",
            "circuit.coil_fed_from_30": True,
        },
    ),
    added(
        "coil_from_30",
        {"watts": 180, "use": {"key": "always", "lights": "high", "switch": "Extra switch"}},
        then={
            "vehicle.headlamps": "earth",
            "vehicle.headlamp_common": "always",
            "circuit.coil_fed_from_30": True,
        },
    ),
    put("unsuppressed", {"vehicle.data_bus": "supervised"}),
    put("unsuppressed", {"circuit.held.relay": "mini_no", "vehicle.data_bus": "supervised"}),
    put("trigger_overload", {"accessory.use.unit": "Fan unit", "accessory.use.unit_most_a": 0.05}),
    put("back_feeds", {"accessory.own_feed": "low_beam"}),
    put("back_feeds", {"accessory.own_feed": "controller", "circuit.held.scheme": "direct"}),
    put("relay_pins", {"circuit.held.relay": "mini_nc"}),
    put("stays_on", {"accessory.use.unless": "left"}),
    put("stays_on", {"accessory.use.unless": "side"}),
    put("dead_when_on", {"start.cut_in_v": 30}, only=is_converted),
    put("dead_when_on", {"start.cut_in_v": 14}, only=is_converted),
    put("scheme", {"circuit.held.scheme": "direct"}),
    put("scheme", {"accessory.use.also": "right"}),
    put("switch_load", {"switch.rating_a": 0.5, "circuit.held.scheme": "direct"}),
    added(
        "switch_load",
        {"watts": 280, "use": {"key": "always", "switch": "Extra switch"}},
        then={"circuit.held.scheme": "direct", "switch.rating_a": 10},
    ),
    added(
        "switch_surge",
        {**MOTOR, "use": {"key": "always", "switch": "Extra switch"}},
        then={"circuit.held.scheme": "direct", "switch.rating_a": 300, "switch.surge_a": 40},
    ),
    put("no_own_switch", {"accessory.use.lights": "high", "accessory.use.switch": ""}),
    put("unguarded", {"switch.guarded": False}),
    added("unguarded", {**WINCH, "use": KEYED}, then={"switch.momentary": True}),
    put("no_interlock", {"accessory.hazard": True}),
    put("data_bus", {"vehicle.data_bus": "supervised", "accessory.use.lights": "side"}),
    put("sleeps", {"accessory.use.key": "always", "accessory.use.switch": ""}),
    put("always_live", {"accessory.use.key": "always", "accessory.use.switch": ""}),
    added("always_live", {"watts": 40, "use": {"key": "always"}}),
    put("switch_clash", {"accessory.use.key": "accessory"}),
    edited("switch_clash", lambda design, made: _on_one_switch(made)),
    put("latches", {"switch.momentary": False}),
    added("latches", {**WINCH, "use": KEYED}, then={"switch.guarded": True}),
    put("latches", {"accessory.duty": "momentary"}),
    put("springs_back", {"switch.momentary": True}),
    added("winch_live", {**WINCH, "use": {"key": "always", "switch": "Extra switch"}}),
    put("winch_live", {"accessory.use.key": "always"}, only=is_winch),
    put("left_on", {"accessory.use.key": "always"}),
    added("left_on", {"watts": 280, "use": {"key": "always", "switch": "Extra switch"}}),
    put(
        "remote_live",
        {"accessory.remote": "wireless", "accessory.remote_keyed": False},
        only=is_winch,
    ),
    added(
        "remote_live",
        {
            "model": "winch",
            "amps": 330,
            "idle_a": 60,
            "duty": "momentary",
            "drop_class": "tolerant",
            "use": {"key": "always"},
            "remote": "wireless",
        },
    ),
    Way(code="winch_shared", make=_shared_winch),
    put("panel_feed_differs", {"accessory.use.key": "accessory"}),
    edited("panel_feed_differs", lambda design, made: _in_a_panel(design.job.last_number)),
    put("feed_narrower", {"feeder.use.lights": "side"}),
    put("switch_sum", {"switch.rating_a": 0.1}),
    edited("signal_sum", lambda design, made: (SetSignalLimit(signal="run", most_a=0.1),)),
    supplied(
        "channel_latches",
        channels("steady"),
        {"amps": 5, "model": "electronics", "duty": "momentary"},
    ),
    supplied("channel_springs_back", channels("momentary"), {"amps": 5, "model": "electronics"}),
    supplied("channel_flashes", channels("flash"), {"amps": 5, "model": "electronics"}),
    put("wrong_voltage", {"accessory.at_v": 60}),
    put("wrong_voltage", {"accessory.at_v": 12}),
    put(
        "lead_voltage",
        {"accessory.inputs": [{"name": "Dim", "ends": "signal", "at": "side"}]},
        only=is_converted,
    ),
    put("memory_capped", {"accessory.memory_wire": True}, only=is_converted),
)
