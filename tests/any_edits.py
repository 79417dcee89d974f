"""Any edit of the main demo job, sensible or not."""

from __future__ import annotations

from hypothesis import strategies as st

from ready_trail.core.edits import (
    AddSupply,
    BringTogether,
    ChangeAccessory,
    ChangeSwitch,
    Edit,
    FeedCoilFromCommon,
    FeedPoint,
    FitCoilResistor,
    FitEndFuse,
    GiveBranches,
    GiveSwitch,
    HoldChoice,
    JoinOutputs,
    MoveBranch,
    MoveFuse,
    MovePoint,
    MoveRelay,
    MoveUnits,
    PlaceBranch,
    PlaceCircuit,
    PlaceThing,
    PointDraft,
    ProposeScenarios,
    PutOnCircuit,
    ReleaseChoice,
    RemoveAccessory,
    RemovePoint,
    RemoveScenario,
    RemoveSupply,
    RemoveSwitch,
    SaveScenario,
    SetCircuitUse,
    SetDay,
    SetHouseRules,
    SetJoint,
    SetReturn,
    SetRunning,
    SetTogether,
    SetVehicle,
    SleeveAgainstHeat,
    SplitAccessory,
    SplitOutputs,
    StartAt,
    StartBehindConverter,
    WakePoint,
    WhatIf,
)
from ready_trail.core.job import (
    Battery,
    Channel,
    DayPart,
    HouseRules,
    Return,
    Switch,
    Use,
    Vehicle,
)
from ready_trail.core.job.layout import Placement
from ready_trail.core.schemes import ALL
from support import demo

POINTS = ["bat", "blk", "fir", "dash", "rfc", "bdr", "rax", "kick", "exh", "gone"]
MARMOT = demo()
CIRCUITS = [*(c.id for c in MARMOT.circuits), "c99"]
ACCESSORIES = [*(a.id for a in MARMOT.accessories), "a99"]
SUPPLY = [*(p.id for p in MARMOT.points), "battery", "p99"]


@st.composite
def edits(draw: st.DrawFn) -> Edit:
    circuit, accessory = draw(st.sampled_from(CIRCUITS)), draw(st.sampled_from(ACCESSORIES))
    held = draw(
        st.sampled_from(
            [
                ("size", "22"),
                ("size", "4/0"),
                ("fuse_a", 2.0),
                ("fuse_a", 40.0),
                ("family", "mini_blade"),
                ("family", "breaker_auto"),
                ("relay", "micro_no"),
                ("relay", "mini_co"),
                ("scheme", "direct"),
                ("scheme", "interlock"),
                ("scheme", "high_beam_positive"),
                ("scheme", "winch"),
                ("colour", "YE/GN"),
                ("fuse_a", 33.0),
                *(("scheme", scheme.key) for scheme in ALL),
            ]
        )
    )
    use = Use(
        key=draw(st.sampled_from(["always", "accessory", "run"])),
        lights=draw(st.sampled_from(["any", "side", "low", "high"])),
        switch=draw(st.sampled_from(["", "S1", "Beacon", "Winch remote"])),
        while_on=draw(st.sampled_from(["", "c15", "c18", "c99"])),
        signal=draw(st.sampled_from(["", "", "brake", "charging"])),
        also=draw(st.sampled_from(["", "", "reverse", "run"])),
        unit=draw(st.sampled_from(["", "", "Unit"])),
    )
    branch, other = (draw(st.sampled_from(["b1", "b2", "b3", "b4", "b9"])) for _ in range(2))
    light = draw(st.sampled_from(["c16", "c17", circuit]))
    known = next((a for a in MARMOT.accessories if a.id == accessory), MARMOT.accessories[0])
    vehicle = Vehicle(
        nominal_v=draw(st.sampled_from([12, 24])),
        body=draw(st.sampled_from(["steel", "composite"])),
        headlamps=draw(st.sampled_from(["positive", "earth"])),
        headlamp_common=draw(st.sampled_from(["always", "with_lights"])),
        data_bus=draw(st.sampled_from(["plain", "supervised"])),
        battery=Battery(resistance_mohm=draw(st.sampled_from([1.0, 6.5, 40.0]))),
    )
    rules = HouseRules(
        system=draw(st.sampled_from(["awg", "metric"])),
        insulation_c=draw(st.sampled_from([80, 105, 125])),
        wire_kind=draw(st.sampled_from(["copper", "sae", "cca"])),
        ceiling=draw(st.sampled_from(["strict", "next_size"])),
        winch_protection=draw(st.sampled_from(["both", "isolator"])),
        colours=draw(st.sampled_from(["circuit", "function"])),
    )
    place = Placement(
        load=draw(st.sampled_from(POINTS)),
        switching=draw(st.sampled_from([None, *POINTS])),
    )
    start = Channel(
        point=draw(st.sampled_from(SUPPLY)),
        position=draw(st.sampled_from(["", "1", "7", "B", "9"])),
    )
    point = draw(st.sampled_from(SUPPLY[:-2]))
    switch = draw(st.sampled_from([s.name for s in MARMOT.switches]))
    scenario = draw(st.sampled_from(["s1", "s2", "s4", "s99"]))
    kind = draw(st.sampled_from(["stud", "relay_block", "power_panel", "converter", "battery"]))
    battery = Battery() if kind == "battery" else None
    draft = PointDraft(kind=kind, name=f"New {kind}", output_v=12, output_a=25, battery=battery)
    return draw(
        st.sampled_from(
            [
                StartAt(circuit_id=circuit, start=start),
                AddSupply(point=draft, start=start),
                RemoveSupply(point_id=point, move_to=start),
                FeedPoint(point_id=point, start=start),
                WakePoint(point_id=point, key=use.key),
                SetTogether(point_id=point, together_a=draw(st.sampled_from([None, 1.0, 60.0]))),
                RemoveSwitch(name=switch),
                ChangeSwitch(was=switch, switch=Switch(name="Other", rating_a=0.5, throws=2)),
                PlaceThing(what="point", name=point, place=place.load),
                FitEndFuse(circuit_id=circuit),
                StartBehindConverter(circuit_id=circuit, output_v=12),
                PutOnCircuit(accessory_id=accessory, circuit_id=circuit, follow=True),
                HoldChoice(circuit_id=circuit, what=held[0], value=held[1]),  # type: ignore[arg-type]
                ReleaseChoice(circuit_id=circuit, what="all"),
                MoveFuse(circuit_id=circuit, fuse_at_m=draw(st.sampled_from([0.0, 0.3, 2.0]))),
                SetReturn(circuit_id=circuit, back=Return(kind="wire")),
                FeedCoilFromCommon(circuit_id=circuit, from_common=False),
                WhatIf(circuit_id=circuit, load_w=draw(st.sampled_from([5.0, 3000.0])), run_m=9.0),
                ChangeAccessory(accessory=known.model_copy(update={"use": use})),
                ChangeAccessory(
                    accessory=known.model_copy(
                        update={"own_feed": "controller", "quantity": draw(st.integers(1, 5))}
                    )
                ),
                GiveBranches(circuit_id=circuit),
                BringTogether(circuit_id=light),
                MoveBranch(circuit_id=light, branch_id=branch, behind=other),
                MoveUnits(circuit_id=light, branch_id=branch, accessory_id="a17", to="new"),
                SetJoint(circuit_id=light, joint="double_87"),
                PlaceBranch(circuit_id=light, branch_id=branch, place=place.load),
                SplitOutputs(accessory_id=accessory),
                JoinOutputs(accessory_id="a31"),
                SetCircuitUse(circuit_id=circuit, use=use),
                RemoveAccessory(accessory_id=accessory),
                SplitAccessory(accessory_id=accessory),
                PutOnCircuit(accessory_id=accessory, circuit_id=circuit),
                PutOnCircuit(accessory_id=accessory, circuit_id="new"),
                SetVehicle(vehicle=vehicle),
                SetHouseRules(rules=rules),
                PlaceCircuit(circuit_id=circuit, place=draw(st.sampled_from([None, place]))),
                MovePoint(point_id=place.load, x_m=3.0, y_m=0.1, z_m=1.0),
                RemovePoint(point_id=place.load),
                GiveSwitch(accessory_id=accessory, name=draw(st.sampled_from(["Aux", "Beacon"]))),
                SleeveAgainstHeat(circuit_id=circuit, zone="exhaust"),
                FitCoilResistor(circuit_id=circuit),
                MoveRelay(circuit_id=circuit, switching_at_m=1.2),
                SetRunning(scenario_id=scenario, accessory=accessory, on=draw(st.booleans())),
                SaveScenario(scenario_id=scenario, name="Other", key="accessory", engine="off"),
                RemoveScenario(scenario_id=scenario),
                SetDay(parts=(DayPart(scenario=scenario, minutes=90),)),
                ProposeScenarios(),
            ]
        )
    )
