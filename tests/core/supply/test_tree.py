"""The supply tree: what runs together, what flows, and what each place on the way adds."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import Design, design, job_network
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    AddSwitch,
    ChangePoint,
    FitEndFuse,
    HoldChoice,
    KeepApart,
    PointDraft,
    RemoveAccessory,
    SetTogether,
    StartAt,
    WakePoint,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import BATTERY, Battery, Channel, Job, Return, Switch, Use, Vehicle
from ready_trail.core.netlist import LoadElement, Source
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, demo, segment, table_of

CALM = Vehicle(battery=Battery(resistance_mohm=12))


def block_with(*loads_a: float, wake: str = "always", uses: tuple[Use, ...] = ()) -> Job:
    """A block p1 behind feeder c2, with loads of so many amperes at its positions."""
    names = tuple({"name": str(n + 1), "rating_a": 40.0} for n in range(8))
    draft = PointDraft.model_validate({"kind": "fuse_block", "name": "Block", "positions": names})
    job = apply(
        Job(name="T", vehicle=CALM),
        AddSupply(point=draft, wake=Use(key=wake), run=(segment("engine_bay", 1.0, taped=True),)),
    )  # type: ignore[arg-type]
    for n, amps in enumerate(loads_a):
        use = uses[n] if n < len(uses) else Use(key="run")
        load = AccessoryDraft(name=f"Load {n + 1}", amps=amps, model="electronics", use=use)
        job = apply(
            job,
            AddAccessory(
                accessory=load,
                start=Channel(point="p1", position=str(n + 1)),
                run=(segment("cabin", 1.5, taped=True),),
            ),
        )
    return job


def feeder(made: Design) -> float:
    return made.circuit("c2").current_a


@given(st.lists(st.floats(0.5, 12.0), min_size=1, max_size=6))
@settings(max_examples=30, deadline=None)
def test_a_feeder_carries_what_runs_behind_it_and_is_fused_for_it(loads_a: list[float]) -> None:
    made = design(block_with(*loads_a), CATALOGUE)
    total_a = max(1.0, sum(round(a, 6) for a in loads_a))
    assert feeder(made) == pytest.approx(total_a, rel=1e-3)
    sizing = made.circuit("c2").sizing
    assert sizing.fuse is not None
    assert sizing.fuse.holds_a >= feeder(made) - 1e-9
    assert sizing.chosen is not None
    assert sizing.chosen.ampacity_a >= sizing.fuse.rating_a
    told = {f.code for c in made.circuits for f in c.findings if f.severity != "note"}
    assert told == ({"post_crowded"} if len(loads_a) > 4 else set())  # each has a return home


@given(st.lists(st.floats(1.0, 12.0), min_size=2, max_size=5), st.data())
@settings(max_examples=20, deadline=None)
def test_what_never_runs_together_counts_once(loads_a: list[float], data: st.DataObject) -> None:
    job = block_with(*loads_a)
    ids = [c.id for c in job.circuits if not c.is_feeder]
    a, b = data.draw(st.lists(st.sampled_from(ids), min_size=2, max_size=2, unique=True))
    before = design(job, CATALOGUE)
    apart = apply(job, KeepApart(circuit_id=a, never_with=(b,)))
    made = design(apart, CATALOGUE)
    smaller = min(made.circuit(a).current_a, made.circuit(b).current_a)
    assert feeder(made) == pytest.approx(feeder(before) - smaller, rel=1e-6)


def test_high_and_low_beam_loads_are_never_on_in_one_state() -> None:
    job = block_with(8.0, 5.0, uses=(Use(lights="high"), Use(lights="low")))
    assert feeder(design(job, CATALOGUE)) == pytest.approx(8.0)
    both = block_with(8.0, 5.0, uses=(Use(lights="side"), Use(lights="low")))
    assert feeder(design(both, CATALOGUE)) == pytest.approx(13.0)


def test_two_sides_of_one_switch_are_never_on_together() -> None:
    job = apply(block_with(), AddSwitch(switch=Switch(name="Beam", throws=2)))
    for name, throw in (("White", "I"), ("Amber", "II")):
        use = Use(key="run", switch="Beam", throw=throw)  # type: ignore[arg-type]
        load = AccessoryDraft(name=name, amps=6.0, model="electronics", use=use)
        job = apply(job, AddAccessory(accessory=load, start=Channel(point="p1")))
    assert feeder(design(job, CATALOGUE)) == pytest.approx(6.0)


def test_a_stated_total_sizes_the_feeder_until_it_is_taken_back() -> None:
    job = apply(block_with(10.0, 10.0, 10.0), SetTogether(point_id="p1", together_a=18.0))
    made = design(job, CATALOGUE)
    assert feeder(made) == pytest.approx(18.0)
    assert "together_stated" in {f.code for f in made.circuit("c2").findings}
    back = apply(job, SetTogether(point_id="p1", together_a=None))
    assert feeder(design(back, CATALOGUE)) == pytest.approx(30.0)


def test_each_stage_on_the_way_costs_volts() -> None:
    """The same lamp at the battery, at a block, and at a block behind that block."""
    job = block_with(6.0)
    second = PointDraft.model_validate(
        {"kind": "fuse_block", "name": "Far block", "positions": [{"name": "A", "rating_a": 20}]}
    )
    job = apply(
        job,
        AddSupply(
            point=second,
            start=Channel(point="p1", position="2"),
            run=(segment("cabin", 2.0, taped=True),),
        ),
    )
    far = job.points[-1].id
    volts = []
    for start in (
        Channel(point=BATTERY),
        Channel(point="p1", position="1"),
        Channel(point=far, position="A"),
    ):
        made = design(apply(job, StartAt(circuit_id="c3", start=start)), CATALOGUE)
        profile = made.circuit("c3").profile
        assert profile is not None
        volts.append(profile.load_v)
        assert profile.path_drop_v == pytest.approx(profile.posts_v - profile.load_v)
    assert all(before > after + 0.01 for before, after in pairwise(volts))


def test_a_return_wire_from_behind_a_block_runs_the_whole_way() -> None:
    job = block_with(6.0)
    circuit = job.circuit("c3").model_copy(update={"back": Return(kind="wire")})
    others = tuple(circuit if c.id == "c3" else c for c in job.circuits)
    made = design(job.model_copy(update={"circuits": others}), CATALOGUE)
    wire = made.circuit("c3").wire_on("return")
    assert wire is not None
    assert wire.length_m == pytest.approx(1.5 + 1.0)
    assert wire.end.device == "BAT"


def test_a_block_woken_by_the_key_takes_the_relay_from_its_small_loads() -> None:
    always = design(block_with(3.0, 2.0), CATALOGUE)
    assert {always.circuit(c).scheme.key for c in ("c3", "c4")} == {"relay_signal"}
    job = apply(block_with(3.0, 2.0), WakePoint(point_id="p1", key="run"))
    keyed = design(job, CATALOGUE)
    assert {keyed.circuit(c).scheme.key for c in ("c3", "c4")} == {"direct"}
    assert keyed.circuit("c2").scheme.has_relay
    on = {(cell.key, cell.is_on) for cell in table_of(job, "c3").cells}
    assert {("run", True), ("off", False)} <= on
    assert ("off", True) not in on


def test_ids_never_come_back_and_old_interlocks_do_not_point_at_newcomers() -> None:
    job = block_with(3.0, 2.0)
    waits = job.accessories[1].model_copy(update={"use": Use(key="run", while_on="c3")})
    job = job.model_copy(update={"accessories": (job.accessories[0], waits)})
    job = apply(job, RemoveAccessory(accessory_id="a3"))
    new = AccessoryDraft(name="New", amps=1.0, model="electronics")
    job = apply(job, AddAccessory(accessory=new))
    assert "c3" not in {c.id for c in job.circuits}
    assert job.accessories[0].use.while_on != job.circuits[-1].id


def test_each_battery_feeds_a_short_on_their_link() -> None:
    battery = {"capacity_ah": 90, "resistance_mohm": 8, "chemistry": "agm"}
    draft = PointDraft.model_validate({"kind": "battery", "name": "Second", "battery": battery})
    job = apply(Job(name="T", vehicle=CALM), AddSupply(point=draft))
    link = design(job, CATALOGUE).circuit("c2")
    ends = [d for d in link.planned.parts.devices if d.kind == "fuse"] if link.planned.parts else []
    assert {d.ref for d in ends if not d.ref.endswith("T")} == {"F2", "F2E"}
    bare = job.circuit("c2").model_copy(update={"end_fuse": False})
    unsound = job.model_copy(update={"circuits": (bare,)})
    codes = {f.code for f in design(unsound, CATALOGUE).circuit("c2").findings}
    assert "one_end_fused" in codes
    assert apply(unsound, FitEndFuse(circuit_id="c2")) == job


def test_a_converter_gives_its_limit_and_no_more() -> None:
    """Loads above its output pull its voltage down; they never draw more than it can give."""
    lorry = Vehicle(nominal_v=24, battery=Battery(resistance_mohm=8))
    draft = PointDraft(kind="converter", name="Converter", output_v=12, output_a=10.0)
    job = apply(Job(name="T", vehicle=lorry), AddSupply(point=draft))
    for n in range(3):
        heater = AccessoryDraft(
            name=f"Pad {n}", watts=72, at_v=12.0, model="resistive", use=Use(key="always")
        )
        job = apply(
            job,
            AddAccessory(accessory=heater, start=Channel(point="p1"), run=(segment("cabin", 1.0),)),
        )
    made = design(job, CATALOGUE)
    assert "converter_limit" in {f.code for c in made.circuits for f in c.findings}
    network = job_network(made)
    point = solve(network, VehicleState(key="off"))
    loads = [e.name for e in network.elements if isinstance(e, LoadElement)]
    drawn_a = sum(point.branch_a[name] for name in loads)
    assert drawn_a == pytest.approx(10.0, rel=0.02)
    assert point.residual_a <= 1e-6


@pytest.mark.parametrize("what", ["fuse_a", "family", "size"])
def test_a_held_choice_of_a_feeder_is_kept_and_reviewed(what: str) -> None:
    value = {"fuse_a": 10.0, "family": "strip_m5", "size": "16"}[what]
    job = apply(block_with(12.0, 8.0), HoldChoice(circuit_id="c2", what=what, value=value))  # type: ignore[arg-type]
    made = design(job, CATALOGUE).circuit("c2")
    sizing = made.sizing
    assert sizing.fuse is not None
    assert sizing.chosen is not None
    got = {
        "fuse_a": sizing.fuse.rating_a,
        "family": sizing.fuse.family.family,
        "size": sizing.chosen.conductor.size,
    }[what]
    assert got == value
    wrong = {"fuse_a": "fuse_under_load", "family": "", "size": "fuse_over_wire"}[what]
    assert not wrong or wrong in {f.code for f in made.findings}


def test_a_position_in_use_cannot_be_taken_away() -> None:
    job = block_with(3.0)
    point = job.points[0]
    fewer = point.model_copy(update={"positions": point.positions[1:]})
    with pytest.raises(EditRefusedError, match="Load 1"):
        apply(job, ChangePoint(point=fewer))
    spare = point.model_copy(update={"positions": point.positions[:1]})
    assert len(apply(job, ChangePoint(point=spare)).points[0].positions) == 1


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_every_current_of_a_whole_vehicle_comes_from_a_source(name: str) -> None:
    """With everything on, what the loads take is what the sources give."""
    made = design(demo(name), CATALOGUE)
    network = job_network(made)
    point = solve(network, VehicleState(key="run", lights="high", on=network.switches))
    sources = [e for e in network.elements if isinstance(e, Source)]
    given_w = sum(point.branch_a[e.name] * point.between_v(e.a, e.b) for e in sources)
    loads = [e for e in network.elements if isinstance(e, LoadElement)]
    taken_w = sum(point.branch_a[e.name] * point.between_v(e.a, e.b) for e in loads)
    assert abs(given_w) > taken_w * 0.9
    assert point.residual_a <= 1e-6
    assert not point.chatter
