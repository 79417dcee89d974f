"""Sixty foolish installations, each with the finding that it must give, and a sound twin of each
that gives none.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import pytest

from core.review.findings_cases import (
    CALM,
    HAND,
    LORRY,
    MOTOR,
    WINCH,
    behind,
    branch,
    dimmed,
    found_without_fuse,
    held,
    hold,
    in_panel,
    lights,
    positions,
    relays,
    remembering,
    second_battery,
    thin_on_channel,
    two_on,
)
from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    ChangeAccessory,
    FeedCoilFromCommon,
    RecordFound,
    SetHouseRules,
    SetJoint,
    SetSignalLimit,
    apply,
)
from ready_trail.core.job import (
    Battery,
    HouseRules,
    InputWire,
    Job,
    Return,
    Segment,
    Switch,
    Use,
    Vehicle,
)
from ready_trail.core.job.kit import Found
from support import CATALOGUE, job_with, segment

RUN = Use(key="run", switch="S1", engine_only=True)
PLAIN: dict[str, Any] = {"use": RUN, "vehicle": Vehicle(battery=CALM)}
HEATER: dict[str, Any] = {**PLAIN, "model": "resistive", "at_v": 13.5, "inrush_x": 1, "inrush_s": 0}
HOIST: dict[str, Any] = {**MOTOR, "hazard": True, "duty": "intermittent", **PLAIN}
STRONG = Vehicle(battery=Battery(capacity_ah=95, resistance_mohm=8), charging_a=200)


@dataclass(frozen=True)
class Foolish:
    """``sound`` is the same work done right."""

    name: str
    code: str
    job: Job
    sound: Job


def winch(*, hand: Switch = HAND, edits: tuple[Any, ...] = (), **changes: Any) -> Job:
    label: dict[str, Any] = {**WINCH, "use": RUN, "vehicle": STRONG, **changes}
    return job_with(switch=hand, edits=edits, **label)


def bar(**more: Any) -> Job:
    return job_with(**{**PLAIN, **more})


def with_input(**stated: Any) -> Job:
    wire = InputWire.model_validate({"name": "Pattern", **stated})
    return bar(watts=30, inputs=(wire,))


def earthed(amps: float, **back: Any) -> Job:
    return job_with(**HEATER, amps=amps, back=Return(**back))


def shared_winch() -> Job:
    job = winch()
    lamp = AccessoryDraft(name="Lamp", watts=50, use=job.accessories[0].use)
    job = apply(job, AddAccessory(accessory=lamp))
    one = job.circuit("c1").model_copy(update={"accessory_ids": ("a1", job.accessories[-1].id)})
    return job.model_copy(update={"circuits": (one,)})


def linked(*, both_ends: bool) -> Job:
    job = second_battery()
    link = job.circuit("c2").model_copy(update={"end_fuse": both_ends})
    return job.model_copy(
        update={"circuits": tuple(link if c.id == "c2" else c for c in job.circuits)}
    )


def fridge(key: str) -> Job:
    cold = {
        "watts": 60,
        "at_v": 12,
        "min_v": 10.8,
        "drop_class": "critical",
        "inrush_x": 2,
        "inrush_s": 0.3,
    }
    use = Use.model_validate({"key": key})
    return job_with(**{**cold, "use": use, "vehicle": STRONG})


def channel(load_a: float, rating_a: float, **label: Any) -> Job:
    job = thin_on_channel(rating_a, load_a)
    changed = job.accessories[0].model_copy(update=label)
    return apply(job, ChangeAccessory(accessory=changed))


def shared(load_a: float, rating_a: float) -> Job:
    """A channel of which its vehicle's maker allows 60 % for what stays on."""
    job = channel(load_a, rating_a)
    bank = job.points[0].model_copy(update={"kind": "factory_bank", "channel_ratio": 0.6})
    return job.model_copy(update={"points": (bank, *job.points[1:])})


def keyed_block(use: Use, wake: Use) -> Job:
    return behind("fuse_block", 3.0, positions=positions(4, 20), wake=wake, use=use)


def lamps_on_side(**vehicle: Any) -> Job:
    return job_with(use=Use(key="always", lights="side"), watts=20, vehicle=Vehicle(**vehicle))


def crowded_home() -> Job:
    return behind("fuse_block", 2.0, 2.0, 2.0, 2.0, 2.0, positions=positions(6, 20))


def rows() -> Iterator[Foolish]:
    sound_winch = winch()
    sound_bar = bar()
    sound_hoist = job_with(**HOIST, switch=Switch(name="S1", momentary=True, guarded=True))
    yield Foolish("winch through the body", "winch_return", winch(back=Return()), sound_winch)
    latching = Switch(name="S1", guarded=True)
    yield Foolish("winch on a latching switch", "latches", winch(hand=latching), sound_winch)
    always = Use(key="always", switch="S1")
    yield Foolish("winch works with the key out", "winch_live", winch(use=always), sound_winch)
    yield Foolish(
        "winch switch bare in the dash",
        "unguarded",
        winch(hand=Switch(name="S1", momentary=True)),
        sound_winch,
    )
    yield Foolish("lamp on the winch's cables", "winch_shared", shared_winch(), sound_winch)
    big = winch(fuse_max_a=150, edits=(hold("fuse_a", 300.0), hold("family", "strip_m8")))
    yield Foolish("fuse above the winch maker's", "fuse_over_element", big, winch(fuse_max_a=300))
    thin = job_with(watts=100, lead_bears_a=5)
    yield Foolish(
        "fuse above the accessory's own lead",
        "fuse_over_element",
        thin,
        job_with(watts=100, lead_bears_a=15),
    )
    bundled: tuple[Segment, ...] = (segment("engine_bay", 1.2, 5),)
    yield Foolish(
        "winch cable in a thick loom",
        "cable_short_time",
        winch(run=bundled, edits=(hold("size", "6"),)),
        winch(run=bundled),
    )
    yield Foolish(
        "hoist that goes on by itself", "latches", job_with(**HOIST, switch=latching), sound_hoist
    )
    yield Foolish(
        "hoist switch without a guard",
        "no_interlock",
        job_with(**HOIST, switch=Switch(name="S1", momentary=True)),
        sound_hoist,
    )
    yield Foolish(
        "push button on a light bar",
        "springs_back",
        bar(switch=Switch(name="S1", momentary=True)),
        sound_bar,
    )
    horn = {**PLAIN, "model": "resistive", "watts": 60, "at_v": 12, "duty": "momentary"}
    yield Foolish(
        "horn on a latching switch",
        "latches",
        job_with(**horn),
        job_with(**horn, switch=Switch(name="S1", momentary=True)),
    )
    blade = (hold("family", "blade"), hold("fuse_a", 40.0))
    yield Foolish(
        "40 A in a holder for 30 A",
        "fuse_over_element",
        job_with(**HEATER, amps=20, edits=blade),
        job_with(**HEATER, amps=20),
    )
    old = RecordFound(circuit_id="c1", found=Found(fuse_a=40, family="blade"))
    known = Found(size="8", fuse_a=30, family="large_blade")
    right = RecordFound(circuit_id="c1", found=known)
    yield Foolish(
        "40 A found in a holder for 30 A",
        "fuse_over_element",
        job_with(**HEATER, amps=20, edits=(old,)),
        job_with(**HEATER, amps=20, edits=(right,)),
    )
    yield Foolish("found without a fuse", "found_unfused", found_without_fuse(**PLAIN), sound_bar)
    yield Foolish(
        "earth of 38 mΩ", "joint_heat", earthed(22, measured_mohm=38), earthed(22, measured_mohm=2)
    )
    yield Foolish(
        "60 A through a poor body", "joint_heat", earthed(60, path="poor"), earthed(60, kind="wire")
    )
    led = {**HEATER, "amps": 40, "tail_m": 0.3, "back": Return(kind="wire")}
    yield Foolish(
        "40 A through a small plug",
        "joint_heat",
        job_with(**led, tail_end="sealed"),
        job_with(**led),
    )
    few = apply(relays(2), SetSignalLimit(signal="run", most_a=0.3))
    many = apply(relays(4), SetSignalLimit(signal="run", most_a=0.3))
    yield Foolish("coils that a signal cannot carry", "signal_sum", many, few)
    yield Foolish(
        "eight coils on one small switch",
        "switch_sum",
        relays(4, switch=Switch(name="All", rating_a=0.3)),
        relays(4, switch=Switch(name="All", rating_a=5)),
    )
    yield Foolish("seven rings on one post", "post_crowded", relays(7), relays(4))
    yield Foolish(
        "five returns home to one post",
        "post_crowded",
        crowded_home(),
        behind("fuse_block", 2.0, 2.0, 2.0, positions=positions(6, 20)),
    )
    hungry = Vehicle(battery=CALM, charging_a=60)
    yield Foolish(
        "more than the alternator gives",
        "alternator_small",
        job_with(**{**HEATER, "vehicle": hungry}, amps=40),
        job_with(**{**HEATER, "vehicle": STRONG}, amps=40, back=Return(kind="wire")),
    )
    yield Foolish(
        "start of fifty times on a small relay",
        "contact_inrush",
        bar(inrush_x=50, inrush_s=0.0001),
        sound_bar,
    )
    motor = {
        **PLAIN,
        "model": "motor",
        "amps": 15,
        "at_v": 13,
        "inrush_x": 5,
        "inrush_s": 0.15,
        "run": (segment("cabin", 1.0),),
    }
    at_hand = {"use": Use(key="always", switch="S1"), "duty": "intermittent"}
    direct = (hold("scheme", "direct"),)
    yield Foolish(
        "motor start on a light switch",
        "switch_surge",
        job_with(**{**motor, **at_hand}, edits=direct),
        job_with(**{**motor, **at_hand, "inrush_x": 3}, edits=direct),
    )
    charger = {**motor, **at_hand, "model": "constant_power", "amps": 12, "inrush_s": 0.002}
    yield Foolish(
        "capacitor on a switch",
        "switch_surge",
        job_with(**{**charger, "inrush_x": 8}, edits=direct),
        job_with(**{**charger, "inrush_x": 4}, edits=direct),
    )
    yield Foolish("280 W that is never off with the key", "left_on", bar(use=always), sound_bar)
    joined = second_battery(feeder=(("scheme", "direct"),), vehicle=STRONG)
    yield Foolish(
        "two batteries joined for good", "batteries_joined", joined, second_battery(vehicle=STRONG)
    )
    yield Foolish(
        "24 V joined to 12 V",
        "battery_volts",
        second_battery(vehicle=LORRY, output_v=12),
        second_battery(),
    )
    yield Foolish(
        "lithium on a lead battery's link",
        "chemistries",
        second_battery(chemistry="lithium"),
        second_battery(),
    )
    yield Foolish(
        "flooded battery in the cabin",
        "battery_vent",
        second_battery(chemistry="flooded", zone="cabin"),
        second_battery(zone="cabin"),
    )
    yield Foolish(
        "link fused at one end", "one_end_fused", linked(both_ends=False), linked(both_ends=True)
    )
    hot = (segment("exhaust", 1.5, heat_sleeve=True), segment("cabin", 1.0))
    cool = (segment("engine_bay", 1.5), segment("cabin", 1.0))
    yield Foolish("fuse holder by the exhaust", "holder_heat", bar(run=hot), bar(run=cool))
    later = (segment("engine_bay", 0.4), segment("exhaust", 1.0, heat_sleeve=True))
    yield Foolish("relay by the exhaust", "holder_heat", bar(run=later), bar(run=cool))
    yield Foolish("fridge that never sleeps", "parked_days", fridge("always"), fridge("run"))
    side = Use(key="always", lights="side")
    yield Foolish(
        "keyed load on a lights-only feed",
        "feed_narrower",
        keyed_block(Use(key="run"), side),
        keyed_block(Use(key="run"), Use(key="run")),
    )
    yield Foolish(
        "alarm on a keyed block",
        "sleeps",
        keyed_block(Use(key="always"), Use(key="run")),
        keyed_block(Use(key="run"), Use(key="run")),
    )
    yield Foolish(
        "thin lead on a 40 A channel", "thin_lead", thin_on_channel(40), thin_on_channel(20)
    )
    yield Foolish(
        "lead for 5 A on a 10 A channel",
        "thin_lead",
        channel(2, 10, lead_bears_a=5),
        channel(2, 10, lead_bears_a=15),
    )
    yield Foolish(
        "panel with the accessory key",
        "panel_feed_differs",
        in_panel("accessory", "run"),
        in_panel("run", "run"),
    )
    yield Foolish(
        "panel that is always live",
        "panel_feed_differs",
        in_panel("always", "run"),
        in_panel("run", "run"),
    )
    yield Foolish(
        "12 V lamp on a lorry",
        "wrong_voltage",
        bar(watts=50, vehicle=LORRY),
        bar(watts=50, at_v=27, vehicle=LORRY),
    )
    yield Foolish("24 V on a 12 V dimming wire", "lead_voltage", dimmed("signal"), dimmed("cap"))
    yield Foolish(
        "radio that wakes with the key alone",
        "sleeps",
        apply_key(remembering("run"), "always"),
        remembering("run"),
    )
    high = Use(key="run", lights="high")
    yield Foolish(
        "driving lights without their switch",
        "no_own_switch",
        bar(use=high, watts=100),
        bar(use=Use(key="run", lights="high", switch="S1"), watts=100),
    )
    yield Foolish("fuse far from the battery", "unprotected", bar(fuse_at_m=0.4), sound_bar)
    yield Foolish("fuse above its wire", "fuse_over_wire", held(("size", "16"), **PLAIN), sound_bar)
    yield Foolish(
        "large load on a small switch",
        "switch_load",
        bar(watts=160, use=always, edits=direct, switch=Switch(name="S1", rating_a=10)),
        bar(watts=40, use=always, edits=direct),
    )
    yield Foolish(
        "fan that starts again by itself",
        "closes_again",
        job_with(**MOTOR, **PLAIN, edits=(hold("family", "breaker_auto"),)),
        job_with(**MOTOR, **PLAIN),
    )
    bare = (segment("engine_bay", 1.2, passes="firewall", grommet=False), segment("cabin", 1.0))
    edged = (segment("engine_bay", 1.2, passes="firewall"), segment("cabin", 1.0))
    yield Foolish("hole without a grommet", "bare_hole", bar(run=bare), bar(run=edged))
    box = Vehicle(body="composite", battery=CALM)
    yield Foolish(
        "earth on a composite body",
        "no_return",
        bar(vehicle=box, back=Return()),
        bar(vehicle=box, back=Return(kind="wire")),
    )
    cart = Vehicle(nominal_v=48, battery=Battery(resistance_mohm=25))
    fused = (hold("family", "blade"), hold("fuse_a", 10.0), hold("scheme", "direct"))
    lamp_48 = {
        "watts": 100,
        "at_v": 48,
        "use": Use(key="always"),
        "vehicle": cart,
        "duty": "intermittent",
    }
    yield Foolish(
        "blade fuse on 48 V", "fuse_voltage", job_with(**lamp_48, edits=fused), job_with(**lamp_48)
    )
    dies = Vehicle(headlamps="earth", headlamp_common="with_lights", battery=CALM)
    from_30 = (FeedCoilFromCommon(circuit_id="c1", from_common=False),)
    driving = Use(key="always", lights="high", switch="S1")
    yield Foolish(
        "coil fed through the filaments",
        "pulls_in_off",
        bar(use=driving, vehicle=dies, watts=100, edits=from_30),
        bar(use=driving, vehicle=dies, watts=100),
    )
    watched = {"data_bus": "supervised", "battery": CALM}
    yield Foolish(
        "lamp wire of a supervised vehicle",
        "data_bus",
        lamps_on_side(**watched),
        lamps_on_side(battery=CALM),
    )
    yield Foolish(
        "bare coil on a supervised vehicle",
        "unsuppressed",
        lamps_on_side(**watched),
        lamps_on_side(battery=CALM),
    )
    yield Foolish("channel at its limit", "channel_load", channel(17, 20), channel(15, 20))
    yield Foolish("channel over its maker's share", "channel_load", shared(14, 20), shared(11, 20))
    block = {"positions": positions(4, 30), "total_a": 20.0}
    yield Foolish(
        "block above its rating",
        "point_total",
        behind("fuse_block", 15.0, 15.0, **block),
        behind("fuse_block", 7.0, 7.0, **{**block, "total_a": 60.0}),
    )
    small = {
        "output_v": 12,
        "output_a": 10.0,
        "vehicle": LORRY,
        "use": Use(key="run"),
        "wake": Use(key="run"),
    }
    yield Foolish(
        "converter at its limit",
        "converter_limit",
        behind("converter", 9.0, **small),
        behind("converter", 5.0, **small),
    )
    tap = {"positions": positions(1, 5), "fuse_a": 10.0, "key": "run"}
    yield Foolish(
        "tapped circuit without room",
        "tapped_room",
        behind("tapped", 3.0, **tap, carries_a=6.0),
        behind("tapped", 3.0, **tap, carries_a=1.0),
    )
    far = (segment("cabin", 29.0),)
    thin = {**PLAIN, "watts": 60, "run": far, "drop_class": "tolerant"}
    yield Foolish(
        "short that opens nothing",
        "far_short_slow",
        job_with(**thin, edits=(hold("size", "20"), hold("fuse_a", 30.0))),
        job_with(**thin),
    )
    strong = {"watts": 150, "drop_class": "tolerant", **PLAIN}
    yield Foolish(
        "branch thinner than its fuse",
        "fuse_over_branch",
        branch(lights(**strong), size="20"),
        lights(**strong),
    )
    blades = (SetJoint(circuit_id="c1", joint="double_87"),)
    yield Foolish(
        "two 87 blades and no relay",
        "joint_needs_relay",
        lights(blades, watts=20, use=Use(key="always"), vehicle=STRONG),
        lights(blades, **{**PLAIN, "watts": 40}),
    )
    sealed = {"tail_m": 1.0, "tail_end": "sealed", **PLAIN, "watts": 40}
    yield Foolish(
        "joint inside a sealed lead",
        "joint_in_unit",
        lights(**sealed),
        lights(**{**sealed, "tail_m": 0.4}),
    )
    clad = (SetHouseRules(rules=HouseRules(wire_kind="cca")),)
    yield Foolish("copper-clad aluminium", "clad_aluminium", bar(edits=clad), sound_bar)
    yield Foolish(
        "controller that rests at the supply",
        "acts_at_rest",
        with_input(must_float=True, rests="supply"),
        with_input(must_float=True),
    )
    yield Foolish(
        "one switch for two keys",
        "switch_clash",
        two_on(Switch(name="S1"), Use(key="run", switch="S1"), Use(key="accessory", switch="S1")),
        two_on(Switch(name="S1"), Use(key="run", switch="S1"), Use(key="run", switch="S1")),
    )
    stated = {"positions": positions(4, 30)}
    yield Foolish(
        "less together than one alone",
        "together_low",
        behind("fuse_block", 15.0, together_a=10.0, **stated),
        behind("fuse_block", 15.0, **stated),
    )


def apply_key(job: Job, key: str) -> Job:
    load = job.accessories[0]
    use = load.use.model_copy(update={"key": key})
    return apply(job, ChangeAccessory(accessory=load.model_copy(update={"use": use})))


ROWS = tuple(rows())


def test_there_are_sixty_of_them() -> None:
    assert len(ROWS) >= 60
    assert len({row.name for row in ROWS}) == len(ROWS)


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.name.replace(" ", "_"))
def test_foolish_work_is_told_and_its_sound_twin_is_not(row: Foolish) -> None:
    made = design(row.job, CATALOGUE)
    told = {f.code for c in made.circuits for f in c.findings} | {f.code for f in made.findings}
    assert row.code in told
    sound = design(row.sound, CATALOGUE)
    left = [
        (f.code, f.place, f.found)
        for c in sound.circuits
        for f in c.findings
        if f.severity != "note"
    ]
    left += [(f.code, f.place, f.found) for f in sound.findings if f.severity != "note"]
    assert left == []
    assert sound.is_ready
