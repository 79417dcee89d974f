"""One seeded fault for each finding, and the same work done right where no press mends it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    AddSwitch,
    ChangeAccessory,
    ChangeBranch,
    ChangeLeg,
    ChangeSwitch,
    Edit,
    FeedCoilFromCommon,
    GiveBranches,
    HoldChoice,
    PlaceCircuit,
    PointDraft,
    RecordFound,
    SetHouseRules,
    SetJoint,
    SetSignalLimit,
    SplitOutputs,
    apply,
)
from ready_trail.core.job import (
    Battery,
    Channel,
    DayPart,
    HouseRules,
    InputWire,
    Job,
    Return,
    Running,
    Scenario,
    Switch,
    Use,
    Vehicle,
)
from ready_trail.core.job.kit import Found
from ready_trail.core.job.layout import Hole, Placement
from support import demo, job_with, segment

Severity = Literal["stop", "caution", "note"]
CALM = Battery(resistance_mohm=12)
STEEP = Battery(resistance_mohm=3)
LONG = (segment("engine_bay", 1.0), segment("cabin", 6.0))
RUN = Use(key="run", switch="S1", engine_only=True)
WINCH: dict[str, Any] = {
    "model": "winch",
    "amps": 230,
    "at_v": 12,
    "duty": "momentary",
    "drop_class": "tolerant",
    "use": RUN,
    "back": Return(kind="wire"),
    "inrush_x": 1,
    "inrush_s": 0,
}
MOTOR: dict[str, Any] = {
    "model": "motor",
    "watts": 200,
    "at_v": 13,
    "inrush_x": 3,
    "inrush_s": 0.15,
}


@dataclass(frozen=True)
class Case:
    """``mended`` is the twin without the fault; without one, each press must mend ``job``."""

    code: str
    severity: Severity
    job: Job
    mended: Job | None = None


def lights(edits: tuple[Edit, ...] = (), **label: Any) -> Job:
    """Two lights, each with a branch of its own behind a trunk."""
    given: dict[str, Any] = {"watts": 54, "quantity": 2, "run": LONG, **label}
    return job_with(edits=(GiveBranches(circuit_id="c1"), *edits), **given)


def branch(job: Job, **changes: Any) -> Job:
    """The job with its first branch changed."""
    first = job.circuit("c1").branches[0]
    edit = ChangeBranch(
        circuit_id="c1", branch_id=first.id, name=first.name, run=first.run, back=first.back
    )
    return apply(job, edit.model_copy(update=changes))


def branch_cases() -> Iterator[Case]:
    strong = {"watts": 150, "drop_class": "tolerant"}
    yield Case("fuse_over_branch", "stop", branch(lights(**strong), size="20"))
    far = (segment("cabin", 25.0), segment("cabin", 25.0))
    yield Case(
        "branch_short",
        "stop",
        branch(lights(watts=30, drop_class="tolerant", duty="momentary"), run=far, size="16"),
    )
    yield Case("branch_drop", "caution", branch(lights(), run=(segment("cabin", 9.0),), size="18"))
    yield Case(
        "joint_needs_relay",
        "stop",
        lights((SetJoint(circuit_id="c1", joint="double_87"),), watts=20, use=Use(key="always")),
    )
    yield Case("joint_in_unit", "stop", lights(tail_m=1.0, tail_end="sealed"))
    outputs = ({"name": "white", "watts": 150}, {"name": "amber", "watts": 50})
    pair = job_with(watts=200, outputs=outputs, edits=(SplitOutputs(accessory_id="a1"),))
    yield Case("lead_unproved", "note", pair)


def hold(what: str, value: str | float, circuit_id: str = "c1") -> HoldChoice:
    return HoldChoice(circuit_id=circuit_id, what=what, value=value)  # type: ignore[arg-type]


def held(*choices: tuple[str, str | float], **more: Any) -> Job:
    return job_with(edits=tuple(hold(what, value) for what, value in choices), **more)


def with_edits(job: Job, *edits: Edit) -> Job:
    for edit in edits:
        job = apply(job, edit)
    return job


def positions(count: int, rating_a: float) -> tuple[dict[str, Any], ...]:
    return tuple({"name": str(n + 1), "rating_a": rating_a} for n in range(count))


def behind(
    kind: str,
    *loads_a: float,
    vehicle: Vehicle | None = None,
    wake: Use | None = None,
    at: str = "each",
    use: Use | None = None,
    feeder: tuple[tuple[str, Any], ...] = (),
    **point: Any,
) -> Job:
    """A job with one point (p1, its feeder c2) and loads of so many amperes that start there."""
    draft = PointDraft.model_validate({"kind": kind, "name": "Block", **point})
    job = apply(
        Job(name="T", vehicle=vehicle or Vehicle(battery=CALM)),
        AddSupply(point=draft, wake=wake or Use(key="always")),
    )
    names = [p.name for p in draft.positions]
    for n, amps in enumerate(loads_a):
        start = Channel(point="p1", position=names[n] if at == "each" and n < len(names) else "")
        load = AccessoryDraft(
            name=f"Load {n + 1}", amps=amps, model="electronics", use=use or Use(key="run")
        )
        way = (segment("cabin", 1.5, taped=True),)
        job = apply(job, AddAccessory(accessory=load, start=start, run=way))
    for what, value in feeder:
        job = apply(job, hold(what, value, "c2"))
    return job


def two_on(switch: Switch, first: Use, second: Use) -> Job:
    """Two accessories that name one switch."""
    job = apply(Job(name="T", vehicle=Vehicle(battery=CALM)), AddSwitch(switch=switch))
    for name, use in (("One", first), ("Two", second)):
        load = AccessoryDraft(name=name, watts=200, use=use)
        job = apply(job, AddAccessory(accessory=load, run=(segment("cabin", 1.5),)))
    return job


def placed(**place: Any) -> Job:
    """The main demo job with its first accessory circuit placed like this."""
    job = demo()
    first = next(c for c in job.circuits if c.accessory_ids)
    return apply(job, PlaceCircuit(circuit_id=first.id, place=Placement(**place)))


def cases() -> Iterator[Case]:
    yield from _protection()
    yield from _wire()
    yield from _relay()
    yield from _switch()
    yield from _source()
    yield from _routing()
    yield from _charging()
    yield from _usage()
    yield from _heat_and_leads()
    yield from _batteries()
    yield from _sums()
    yield from _disconnects_and_channels()


def _protection() -> Iterator[Case]:
    yield Case("unprotected", "stop", job_with(fuse_at_m=0.4))
    yield Case("fuse_over_wire", "stop", held(("size", "16")))
    yield Case("fuse_under_load", "caution", held(("fuse_a", 20.0)))
    yield Case("fuse_under_inrush", "caution", held(("fuse_a", 30.0), inrush_x=20, inrush_s=1))
    yield Case(
        "far_short_slow",
        "stop",
        held(("size", "20"), ("fuse_a", 30.0), watts=60, run=(segment("cabin", 29.0),)),
    )
    yield Case(
        "far_short_burns",
        "stop",
        held(
            ("size", "20"),
            ("family", "strip_m8"),
            ("fuse_a", 100.0),
            watts=60,
            run=(segment("cabin", 1.0),),
        ),
    )
    yield Case("fuse_over_element", "stop", held(("fuse_a", 30.0), fuse_max_a=15, watts=100))
    radio: dict[str, Any] = {
        "model": "electronics",
        "amps": 21,
        "idle_a": 1.5,
        "at_v": 13.8,
        "duty": "intermittent",
        "inrush_x": 1,
        "inrush_s": 0,
    }
    yield Case("makers_fuse", "note", job_with(fuse_max_a=20, **radio), job_with(**radio))
    yield Case("held_rating", "stop", held(("family", "mini_blade"), ("fuse_a", 40.0)))
    yield Case("unsized", "stop", job_with(watts=2200, quantity=2))
    yield Case(
        "out_of_range",
        "stop",
        job_with(watts=9000, quantity=50, run=tuple(segment("cabin", 29.0) for _ in "1234")),
        job_with(watts=100),
    )
    yield Case(
        "interrupting", "caution", job_with(vehicle=Vehicle(battery=Battery(resistance_mohm=1)))
    )
    yield Case(
        "fuse_voltage",
        "stop",
        held(
            ("family", "blade"),
            ("fuse_a", 10.0),
            vehicle=Vehicle(nominal_v=48, battery=CALM),
            watts=100,
            at_v=48,
        ),
    )
    yield Case("closes_again", "stop", held(("family", "breaker_auto"), **MOTOR))
    yield Case("one_end_fused", "stop", link(end_fuse=False))
    yield Case("cable_short_time", "stop", held(("size", "8"), **WINCH))
    unfed = with_edits(
        apply(Job(name="T"), AddSupply(point=PointDraft(kind="stud", name="Stud"), fed=False)),
        AddAccessory(accessory=AccessoryDraft(name="Lamp", watts=50), start=Channel(point="p1")),
    )
    yield Case("unfed", "stop", unfed)


def link(*, end_fuse: bool) -> Job:
    battery = {"capacity_ah": 100, "resistance_mohm": 12, "chemistry": "agm"}
    job = behind("battery", 5.0, battery=battery)
    link = job.circuit("c2").model_copy(update={"end_fuse": end_fuse})
    others = tuple(link if c.id == "c2" else c for c in job.circuits)
    return job.model_copy(update={"circuits": others})


def _wire() -> Iterator[Case]:
    yield Case("conductor_drop", "caution", held(("size", "18"), watts=100, run=LONG))
    yield Case("path_drop", "caution", held(("size", "16"), watts=100, run=LONG))
    yield Case("load_voltage", "caution", held(("size", "14"), min_v=13.2, watts=100, run=LONG))
    hot = (segment("engine_bay", 1.0), segment("exhaust", 0.5))
    yield Case("hot_zone", "caution", job_with(run=hot), job_with())
    yield Case("insulation", "stop", held(("insulation_c", 105), run=hot), job_with())
    yield Case("hotter_class", "note", job_with(run=hot), job_with())
    yield Case("too_thin", "caution", held(("size", "22"), watts=30))
    yield Case("does_not_fit", "stop", held(("size", "4/0"), ("family", "strip_m5"), **WINCH))
    block = behind("fuse_block", 5.0, positions=positions(2, 30))
    yield Case("pigtail", "note", apply(block, hold("size", "8", "c3")), block)
    far = (segment("cabin", 6.0),)
    yield Case("pair", "note", job_with(model="resistive", amps=250, at_v=12, run=far), job_with())
    clad = SetHouseRules(rules=HouseRules(wire_kind="cca"))
    yield Case("clad_aluminium", "caution", job_with(edits=(clad,)))
    yield Case("no_return", "stop", job_with(vehicle=Vehicle(body="composite"), back=Return()))
    bare = (segment("engine_bay", 1.2, passes="firewall", grommet=False), segment("cabin", 1.0))
    yield Case("bare_hole", "stop", job_with(run=bare))
    yield Case(
        "estimate",
        "note",
        job_with(),
        job_with(run=(segment("cabin", 2.0, taped=True),), back=Return(taped=True)),
    )


def _relay() -> Iterator[Case]:
    high = Use(key="always", lights="high", switch="S1")
    from_30 = FeedCoilFromCommon(circuit_id="c1", from_common=False)
    earth = Vehicle(headlamps="earth", headlamp_common="always")
    yield Case("coil_from_30", "caution", job_with(use=high, vehicle=earth, edits=(from_30,)))
    dies = Vehicle(headlamps="earth", headlamp_common="with_lights")
    yield Case("pulls_in_off", "stop", job_with(use=high, vehicle=dies, edits=(from_30,)))
    off = Use(key="run", unless="side")
    block = {"positions": positions(2, 30), "wake": Use(key="run")}
    yield Case("stays_on", "stop", job_with(use=off), behind("fuse_block", 4.0, use=off, **block))
    yield Case("relay_pins", "stop", held(("relay", "mini_nc")), job_with())
    yield Case("unsuppressed", "caution", job_with(vehicle=Vehicle(data_bus="supervised")))
    yield Case("rest_contact_live", "note", held(("relay", "mini_co")), job_with())
    yield Case(
        "contact_inrush",
        "caution",
        job_with(model="motor", watts=300, at_v=13, inrush_x=12, inrush_s=0.01),
    )
    yield Case(
        "relay_voltage",
        "stop",
        job_with(
            edits=(hold("relay", "mini_no"),),
            vehicle=Vehicle(nominal_v=48, battery=CALM),
            watts=100,
            at_v=48,
        ),
    )
    hot = (segment("engine_bay", 2.0, ambient_c=119.5), segment("cabin", 1.0))
    yield Case(
        "pull_in", "caution", job_with(run=hot, watts=50, model="resistive"), job_with(watts=50)
    )
    worn = Vehicle(battery=Battery(resistance_mohm=100))
    yield Case(
        "chatter",
        "stop",
        held(
            ("family", "strip_m8"),
            ("fuse_a", 500.0),
            ("size", "4/0"),
            ("relay", "contactor_400"),
            vehicle=worn,
            model="resistive",
            amps=200,
            at_v=12,
        ),
        job_with(model="resistive", watts=300, at_v=12),
    )
    yield Case(
        "no_operating_point",
        "stop",
        held(
            ("family", "strip_m8"),
            ("fuse_a", 500.0),
            ("size", "4/0"),
            ("relay", "contactor_400"),
            vehicle=worn,
            model="resistive",
            amps=1000,
            at_v=12,
        ),
        job_with(watts=300),
    )


def _switch() -> Iterator[Case]:
    direct = hold("scheme", "direct")
    yield Case("scheme", "stop", job_with(use=RUN, edits=(direct,)))
    small = Switch(name="S1", rating_a=20)
    yield Case(
        "switch_load",
        "stop",
        job_with(use=Use(key="always", switch="S1"), switch=small, edits=(direct,)),
    )
    yield Case("no_own_switch", "caution", job_with(use=Use(key="always", lights="high")))
    yield Case("unguarded", "caution", job_with(**WINCH))
    shared = job_with(**WINCH)
    lamp = AccessoryDraft(name="Lamp", watts=50, use=shared.accessories[0].use)
    shared = apply(shared, AddAccessory(accessory=lamp))
    one = shared.circuit("c1").model_copy(update={"accessory_ids": ("a1", "a3")})
    shared = shared.model_copy(update={"circuits": (one,)})
    yield Case("winch_shared", "stop", shared)
    yield Case("no_interlock", "stop", job_with(hazard=True, use=RUN, **MOTOR))
    proved = Vehicle(data_bus="supervised")
    yield Case("data_bus", "caution", job_with(use=Use(lights="side"), vehicle=proved), job_with())
    floats = InputWire(name="Pattern", must_float=True, rests="ground")
    yield Case("resting_low", "caution", job_with(inputs=(floats,)))
    lifted = floats.model_copy(update={"rests": "supply"})
    yield Case("acts_at_rest", "stop", job_with(inputs=(lifted,)))
    turned = floats.model_copy(update={"diode": True, "backwards": True})
    yield Case("diode_backwards", "caution", job_with(inputs=(turned,)))
    yield from branch_cases()
    lorry = Vehicle(nominal_v=24, battery=CALM)
    dead, alive = (
        behind(
            "converter",
            3.0,
            vehicle=lorry,
            output_v=12,
            output_a=20,
            cut_in_v=cut_in_v,
            use=Use(key="always"),
        )
        for cut_in_v in (30, 20)
    )
    yield Case("dead_when_on", "stop", dead, alive)
    knife = Switch(name="Isolator", rating_a=300, surge_a=40)
    yield Case(
        "switch_surge",
        "caution",
        job_with(
            use=Use(key="always", switch="Isolator"),
            switch=knife,
            **MOTOR,
            edits=(hold("scheme", "direct"),),
        ),
    )
    weak = Use(key="run", unit="Fan unit", unit_most_a=0.05)
    yield Case("trigger_overload", "stop", job_with(use=weak, watts=40))
    block = behind("fuse_block", 4.0, 3.0, wake=Use(key="run"), use=Use(key="run", switch="Fan"))
    fan = block.accessories[0].model_copy(update={"own_feed": "controller"})
    fed = apply(block, ChangeAccessory(accessory=fan))
    fed_by = fed.circuits_of(fan.id)[0].id
    bare = apply(fed, hold("scheme", "direct", fed_by))
    yield Case("back_feeds", "stop", bare)
    both_ways = {**WINCH, "use": Use(key="run", switch="S1", throw="I")}
    school = SetHouseRules(rules=HouseRules(winch_protection="isolator"))
    yield Case(
        "winch_unfused",
        "caution",
        job_with(switch=Switch(name="S1", throws=2), edits=(school,), **both_ways),
    )
    yield Case("always_live", "note", job_with(watts=40, use=Use(key="always")), job_with(watts=40))
    yield Case(
        "sleeps",
        "caution",
        behind(
            "fuse_block",
            3.0,
            positions=positions(4, 20),
            wake=Use(key="run"),
            use=Use(key="always"),
        ),
    )
    both = Switch(name="S1", rating_a=20)
    yield Case(
        "switch_clash",
        "stop",
        two_on(both, Use(key="run", switch="S1"), Use(key="accessory", switch="S1")),
    )


def _source() -> Iterator[Case]:
    lorry = Vehicle(nominal_v=24, battery=CALM)
    yield Case("wrong_voltage", "stop", job_with(vehicle=lorry, watts=50, at_v=13.5))
    bank: dict[str, Any] = {"positions": positions(4, 20), "fuse_a": 60.0, "continuous_a": 30.0}
    yield Case("channel_load", "stop", behind("factory_bank", 16.5, **bank))
    passed = behind(
        "factory_bank", 9.0, positions=positions(2, 20), pass_through_mohm=15.0, pass_mm2=0.5
    )
    by_wire = hold("scheme", "channel_pass", passed.circuits[0].id)
    yield Case("spare_wire_thin", "stop", apply(passed, by_wire))
    yield Case("bank_total", "stop", behind("factory_bank", 12.0, 12.0, 12.0, **bank))
    yield Case(
        "bank_fuses",
        "stop",
        behind("factory_bank", 2.0, 2.0, 2.0, 2.0, **{**bank, "continuous_a": 60.0}),
    )
    yield Case(
        "point_total",
        "stop",
        behind("fuse_block", 15.0, 15.0, positions=positions(4, 30), total_a=20.0),
    )
    converter: dict[str, Any] = {"output_v": 12, "output_a": 10.0, "vehicle": lorry}
    yield Case("converter_limit", "caution", behind("converter", 9.0, **converter))
    thin = (("size", "18"),)  # enough for the fuse ahead, and not for a short behind
    yield Case(
        "converter_earth",
        "stop",
        behind("converter", 12.0, feeder=thin, **{**converter, "output_a": 25.0}),
    )
    yield Case(
        "tapped_room",
        "stop",
        behind("tapped", 3.0, positions=positions(1, 5), fuse_a=5.0, carries_a=3.0),
    )
    block: dict[str, Any] = {"positions": positions(4, 30)}
    yield Case("together_low", "stop", behind("fuse_block", 15.0, together_a=10.0, **block))
    yield Case(
        "together_stated", "note", behind("fuse_block", 15.0, 10.0, together_a=18.0, **block)
    )
    yield Case(
        "no_fit", "stop", behind("fuse_block", 45.0, positions=positions(2, 80), total_a=200.0)
    )
    yield Case("no_position", "caution", behind("fuse_block", 5.0, at="none", **block))
    yield Case(
        "no_spare",
        "note",
        behind("fuse_block", 2.0, 2.0, 2.0, 2.0, **block),
        behind("fuse_block", 2.0, 2.0, 2.0, **block),
    )
    yield Case(
        "selectivity",
        "caution",
        behind("fuse_block", 8.0, 1.0, feeder=(("fuse_a", 20.0), ("family", "blade")), **block),
    )


def _routing() -> Iterator[Case]:
    bed, roof = "bed", "rfc"
    yield Case("long_stub", "caution", placed(load=bed, switching="blk", earth="ber"))
    yield Case(
        "no_way",
        "stop",
        _cut(placed(load=roof, switching="blk"), "l13", "l14"),
        placed(load=roof, switching="blk"),
    )
    yield Case(
        "no_control_way",
        "caution",
        _cut(placed(load="frl", switching="frl"), "l8", "l20"),
        placed(load="frl", switching="frl"),
    )
    yield Case("hole_full", "stop", _narrow(demo(), "l8"))


def _narrow(job: Job, leg_id: str) -> Job:
    assert job.layout is not None
    leg = next(x for x in job.layout.legs if x.id == leg_id)
    hole = Hole(panel="bulkhead", diameter_mm=6.0)
    return apply(job, ChangeLeg(leg_id=leg_id, zone=leg.zone, taped_m=leg.taped_m, hole=hole))


def _cut(job: Job, *legs: str) -> Job:
    assert job.layout is not None
    left = tuple(leg for leg in job.layout.legs if leg.id not in legs)
    return job.model_copy(update={"layout": job.layout.model_copy(update={"legs": left})})


def _scenario(minutes: float, *running: Running, **state: Any) -> Scenario:
    stated = {"engine": "off", "key": "off", **state}
    return Scenario(id="s1", name="Camp", minutes=minutes, running=running, **stated)


def _charging() -> Iterator[Case]:
    """A 10 A load that is always live, on a 70 Ah battery; the same with a day made of it."""
    cool = job_with(watts=120, use=Use(key="always"))
    runs = Running(accessory=cool.accessories[0].id)

    def camp(minutes: float, job: Job = cool, *more: Running, **state: Any) -> Job:
        scenario = _scenario(minutes, runs, *more, **state)
        return job.model_copy(update={"scenarios": (scenario,)})

    def day(minutes: float) -> Job:
        parts = (DayPart(scenario="s1", minutes=minutes),)
        return camp(10.0).model_copy(update={"day": parts})

    yield Case("battery_half", "caution", camp(240))
    yield Case("battery_flat", "stop", camp(400))
    yield Case("day_half", "caution", day(240))
    yield Case("day_flat", "stop", day(400))
    yield Case("day_not_charged", "note", day(60), day(10))
    slow = cool.model_copy(update={"vehicle": Vehicle(charging_a=70, battery=CALM)})
    strong = cool.model_copy(update={"vehicle": Vehicle(charging_a=150, battery=CALM)})
    idling = {"engine": "idle", "key": "run", "blower": True}
    yield Case("charge_deficit", "note", camp(20, slow, **idling), camp(20, strong, **idling))
    hungry = Vehicle(parked_ma=400, battery=CALM)
    keyed = job_with(watts=120, use=Use(key="run"))
    yield Case("parked_days", "caution", keyed.model_copy(update={"vehicle": hungry}))
    winch = job_with(**WINCH)
    pulls = Running(accessory=winch.accessories[0].id, ratio=0.4)
    scenario = _scenario(60, pulls, engine="idle", key="run")
    big = Vehicle(battery=Battery(capacity_ah=120, resistance_mohm=12), charging_a=250)
    update = {"scenarios": (scenario,), "vehicle": big}
    yield Case("winch_minutes", "caution", winch.model_copy(update=update))
    other = _scenario(10).model_copy(update={"running": ()})
    yield Case("in_no_scenario", "note", cool.model_copy(update={"scenarios": (other,)}), camp(10))
    keyed = job_with(watts=24, use=Use(key="run"))
    asleep = _scenario(10, Running(accessory=keyed.accessories[0].id))
    yield Case("not_possible_there", "caution", keyed.model_copy(update={"scenarios": (asleep,)}))


HAND = Switch(name="S1", momentary=True, guarded=True)
"""A switch that suits a winch."""


def _usage() -> Iterator[Case]:
    yield Case("latches", "stop", job_with(**WINCH))
    yield Case("springs_back", "stop", job_with(use=RUN, switch=Switch(name="S1", momentary=True)))
    yield Case(
        "winch_live",
        "stop",
        job_with(**{**WINCH, "use": Use(key="always", switch="S1")}, switch=HAND),
    )
    yield Case("left_on", "caution", job_with(use=Use(key="always", switch="S1")))
    yield Case("winch_return", "stop", job_with(**{**WINCH, "back": Return()}, switch=HAND))
    yield Case("panel_feed_differs", "stop", in_panel("accessory", "run"))
    yield Case(
        "feed_narrower",
        "caution",
        behind(
            "fuse_block",
            3.0,
            positions=positions(4, 20),
            wake=Use(key="always", lights="side"),
            use=Use(key="run"),
        ),
    )
    yield Case("found_unfused", "stop", found_without_fuse())
    known = RecordFound(circuit_id="c1", found=Found(size="10"))
    yield Case("found_unknown", "caution", job_with(edits=(known,)))


def found_without_fuse(**label: Any) -> Job:
    return job_with(edits=(RecordFound(circuit_id="c1", found=Found(unfused=True)),), **label)


def in_panel(wakes: str, wanted: str) -> Job:
    """A keyed panel, and a relay whose switch sits in it."""
    draft = PointDraft(kind="switch_panel", name="Panel", zone="cabin")
    wake = Use.model_validate({"key": wakes})
    job = apply(Job(name="T", vehicle=Vehicle(battery=CALM)), AddSupply(point=draft, wake=wake))
    switch = Switch(name="Bar", panel="p1", position="")
    job = apply(job, AddSwitch(switch=switch))
    use = Use.model_validate({"key": wanted, "switch": "Bar", "engine_only": wanted == "run"})
    load = AccessoryDraft(name="Bar", watts=280, inrush_x=5, inrush_s=0.002, use=use)
    way = (segment("engine_bay", 1.0, taped=True), segment("cabin", 2.0, taped=True))
    return apply(job, AddAccessory(accessory=load, start=Channel(point="battery"), run=way))


def _heat_and_leads() -> Iterator[Case]:
    heater: dict[str, Any] = {"model": "resistive", "amps": 28, "at_v": 13.5}
    yield Case("joint_heat", "caution", job_with(**heater, back=Return(path="poor")))
    hot = (segment("exhaust", 1.5), segment("cabin", 1.0))
    yield Case("holder_heat", "stop", job_with(run=hot, edits=(hold("insulation_c", 125),)))
    yield Case("lead_voltage", "stop", dimmed("signal"))
    yield Case("memory_capped", "note", remembering("run"), remembering("always"))
    yield Case("thin_lead", "stop", thin_on_channel(40))
    yield Case("fuse_large", "note", held(("fuse_a", 25.0), watts=30))
    yield Case("copper_large", "note", held(("size", "4"), watts=30))


LORRY = Vehicle(nominal_v=24, battery=CALM)


def dimmed(ends: str) -> Job:
    """A 12 V accessory behind a converter whose dimming wire ends at the lorry's own lights."""
    job = behind(
        "converter",
        3.0,
        vehicle=LORRY,
        output_v=12,
        output_a=20,
        use=Use(key="run"),
        wake=Use(key="run"),
    )
    wire = InputWire.model_validate({"name": "Dim", "ends": ends, "at": "side"})
    load = job.accessories[0].model_copy(update={"inputs": (wire,), "model": "electronics"})
    return apply(job, ChangeAccessory(accessory=load))


def remembering(key: str) -> Job:
    """A 12 V radio with a memory wire behind a converter that is enabled by a key."""
    job = behind(
        "converter",
        3.0,
        vehicle=LORRY,
        output_v=12,
        output_a=20,
        key=key,
        use=Use.model_validate({"key": key}),
    )
    radio = job.accessories[0].model_copy(update={"memory_wire": True, "duty": "intermittent"})
    return apply(job, ChangeAccessory(accessory=radio))


def thin_on_channel(rating_a: float, load_a: float = 2.0) -> Job:
    return behind("factory_bank", load_a, positions=positions(2, rating_a), fuse_a=60.0)


def second_battery(
    *,
    feeder: tuple[tuple[str, Any], ...] = (),
    vehicle: Vehicle | None = None,
    zone: str = "load_bed",
    chemistry: str = "agm",
    **point: Any,
) -> Job:
    cells = {"capacity_ah": 60, "resistance_mohm": 12, "chemistry": chemistry}
    return behind("battery", 5.0, battery=cells, feeder=feeder, vehicle=vehicle, zone=zone, **point)


def _batteries() -> Iterator[Case]:
    yield Case("batteries_joined", "stop", second_battery(feeder=(("scheme", "direct"),)))
    yield Case("battery_volts", "stop", second_battery(vehicle=LORRY, output_v=12))
    yield Case("chemistries", "caution", second_battery(chemistry="lithium"))
    yield Case("battery_vent", "caution", second_battery(chemistry="flooded", zone="cabin"))


def relays(count: int, *, switch: Switch | None = None, watts: float = 100) -> Job:
    """So many lamps with relays of their own, all on the ignition."""
    job = Job(name="T", vehicle=Vehicle(battery=CALM, charging_a=300))
    way = (segment("engine_bay", 1.0, taped=True), segment("cabin", 2.0, taped=True))
    if switch is not None:
        job = apply(job, AddSwitch(switch=switch))
    for n in range(count):
        name = switch.name if switch is not None else f"S{n}"
        use = Use(key="run", switch=name, engine_only=True)
        load = AccessoryDraft(name=f"Lamp {n}", watts=watts, inrush_x=5, inrush_s=0.002, use=use)
        job = apply(job, AddAccessory(accessory=load, run=way, start=Channel(point="battery")))
    return job


def _sums() -> Iterator[Case]:
    limit = SetSignalLimit(signal="run", most_a=0.3)
    yield Case("signal_sum", "stop", apply(relays(3), limit))
    yield Case("switch_sum", "stop", relays(3, switch=Switch(name="All", rating_a=0.3)))
    yield Case("post_crowded", "caution", relays(5))
    yield Case(
        "alternator_small",
        "caution",
        job_with(amps=30, model="resistive", at_v=13.5, vehicle=Vehicle(charging_a=50)),
    )


def parted(**figures: Any) -> Job:
    """A load behind a disconnect in the main cable that bears what flows."""
    bears = {"total_a": 200, "cranking_a": 600, "use": Use(key="always")}
    return behind("disconnect", 5.0, **{**bears, **figures})


def pulsed(**how: bool) -> Job:
    """A disconnect that latches, and the switch that pulses it."""
    job = parted(pulse_switch="Main off")
    switch = job.switches[0].model_copy(update=how)
    return apply(job, ChangeSwitch(was=switch.name, switch=switch))


def on_channel(mode: str, **load: Any) -> Job:
    """One load on a module's channel of a mode."""
    job = behind("power_panel", 5.0, positions=({**positions(1, 20)[0], "mode": mode},))
    changed = job.accessories[0].model_copy(update={"use": Use(key="always"), **load})
    return apply(job, ChangeAccessory(accessory=changed))


def _disconnects_and_channels() -> Iterator[Case]:
    yield Case("disconnect_rating", "stop", parted(total_a=60))
    yield Case("disconnect_unrated", "caution", parted(total_a=None))
    yield Case(
        "disconnect_alive",
        "note",
        parted(),
        mended=behind("fuse_block", 5.0, positions=positions(1, 20)),
    )
    yield Case("pulse_latches", "stop", pulsed(momentary=False))
    yield Case("pulse_unguarded", "caution", pulsed(guarded=False))
    yield Case("channel_latches", "caution", on_channel("steady", duty="momentary"))
    yield Case("channel_springs_back", "stop", on_channel("momentary"))
    yield Case("channel_flashes", "stop", on_channel("flash"))
    heavy = InputWire(name="Amber", ends="controller", powers_w=40)
    fed = job_with(watts=20)
    lamp = fed.accessories[0].model_copy(update={"inputs": (heavy,)})
    heavier = apply(fed, ChangeAccessory(accessory=lamp))
    yield Case("function_heavy", "caution", heavier)
    strap = Vehicle(strap_a=20, charging_a=200)
    eight = behind("fuse_block", *[14.0] * 8, positions=positions(8, 30))
    yield Case("laid_alone", "caution", eight)
    yield Case("strap_small", "caution", job_with(watts=400, vehicle=strap))
    tapped = behind("tapped", 2.0, fuse_a=10, positions=positions(1, 10))
    yield Case("second_fuse", "note", apply(tapped, hold("fuse_a", 15.0, tapped.circuits[-1].id)))
    yield Case("remote_live", "caution", remote_winch(remote="wireless", remote_keyed=False))


def remote_winch(**label: Any) -> Job:
    """A winch whose box brings its own remote."""
    load = AccessoryDraft.model_validate(
        {
            "name": "Slip winch",
            "model": "winch",
            "amps": 330,
            "idle_a": 60,
            "duty": "momentary",
            "drop_class": "tolerant",
            "use": {"key": "always"},
            **label,
        }
    )
    way = (segment("engine_bay", 1.2, taped=True), segment("grille", 0.9, taped=True))
    return apply(Job(name="T"), AddAccessory(accessory=load, run=way, back=Return(kind="wire")))
