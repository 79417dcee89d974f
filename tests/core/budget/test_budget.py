"""Scenarios and batteries: worked figures, an integration of its own, what is refused."""

from __future__ import annotations

import itertools
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.budget.battery import Bank
from ready_trail.core.budget.course import Link, Stretch, run
from ready_trail.core.budget.draws import usual_ratio
from ready_trail.core.budget.proposals import may_propose, proposed
from ready_trail.core.design import Design, design
from ready_trail.core.edits import (
    ProposeScenarios,
    RemoveAccessory,
    SaveScenario,
    SetDay,
    SetRunning,
    SetVehicle,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import DayPart, Running, Scenario, Use, Vehicle
from ready_trail.core.review.charging import _ALTERNATORS_A
from ready_trail.core.supply.own_load import alternator_a, own_load_a
from ready_trail.core.supply.running import Runs
from ready_trail.core.supply.tree import Tree
from ready_trail.formats.job_json import read_job
from support import CATALOGUE, demo

_PEUKERT = {"flooded": 1.2, "agm": 1.1, "lithium": 1.03}
_TAKES = {"flooded": (0.2, 0.8, 0.85), "agm": (0.3, 0.8, 0.9), "lithium": (0.5, 0.95, 0.98)}


def test_half_an_agm_at_a_hundred_amps_by_peukert_by_hand() -> None:
    """0.5 · (95 / 100) · (4.75 / 100)^0.1 h = 0.3502 h."""
    bank = Bank(capacity_ah=95, chemistry="agm")
    assert bank.hours_to(100) == pytest.approx(0.5 * 0.95 * (4.75 / 100) ** 0.1)
    assert bank.hours_to(100) == pytest.approx(0.3502, abs=5e-4)
    assert bank.hours_to(2.0) == pytest.approx(0.5 * 95 / 2)  # no bonus under the 20 h rate


def test_alternator_and_own_loads_are_the_house_figures() -> None:
    vehicle = Vehicle(charging_a=150)
    assert alternator_a(vehicle, "idle") == pytest.approx(67.5)
    assert alternator_a(vehicle, "cruise") == pytest.approx(127.5)
    assert own_load_a(vehicle, "cruise", "high", key="run", blower=True) == pytest.approx(52.0)
    lorry = Vehicle(nominal_v=24)
    assert own_load_a(lorry, "cruise", "off", key="run", blower=False) == pytest.approx(12.5)
    assert own_load_a(vehicle, "off", "off", key="off", blower=False) == pytest.approx(0.035)


def plain_course(
    parts: list[tuple[float, float, float]], capacity_ah: float, chemistry: str
) -> list[float]:
    """State of charge in the end of each part, by ten thousand small steps. (h, load, charge)"""
    most, start, efficiency = _TAKES[chemistry]
    state, ends = 1.0, []
    for hours, load_a, charge_a in parts:
        steps = 10_000
        for _ in range(steps):
            spare_a = charge_a - load_a
            if spare_a > 0:
                room = (1 - state) / (1 - start)
                takes = most if state <= start else 0.02 + (most - 0.02) * max(0.0, room)
                rate = efficiency * min(spare_a, takes * capacity_ah) / capacity_ah
            else:
                above = max(1.0, -spare_a / (capacity_ah / 20))
                rate = spare_a / capacity_ah * above ** (_PEUKERT[chemistry] - 1)
            state = min(1.0, max(0.0, state + rate * hours / steps))
        ends.append(state)
    return ends


@settings(max_examples=25, deadline=None)
@given(
    parts=st.lists(
        st.tuples(st.floats(0.1, 12), st.floats(0, 80), st.sampled_from([0.0, 40.0, 120.0])),
        min_size=1,
        max_size=4,
    ),
    capacity_ah=st.floats(12, 300),
    chemistry=st.sampled_from(["flooded", "agm", "lithium"]),
)
def test_course_agrees_with_a_plain_integration(
    parts: list[tuple[float, float, float]], capacity_ah: float, chemistry: str
) -> None:
    stretches = [
        Stretch(name=str(n), hours=h, engine_on=c > 0, charge_a=c, load_a={"battery": load})
        for n, (h, load, c) in enumerate(parts)
    ]
    bank = Bank(capacity_ah=capacity_ah, chemistry=chemistry)
    course = run(stretches, {"battery": bank}, {})
    wanted = plain_course(parts, capacity_ah, chemistry)
    for at_h, state in zip(itertools.accumulate(h for h, _, _ in parts), wanted, strict=True):
        got = next(m for m in course.moments if abs(m.at_h - at_h) < 1e-6).state["battery"]
        assert got == pytest.approx(state, abs=0.01)


def test_second_battery_gets_what_its_link_carries_and_a_charger_insists() -> None:
    banks = {
        "battery": Bank(capacity_ah=100, chemistry="agm"),
        "p1": Bank(capacity_ah=100, chemistry="lithium"),
    }
    weak = Stretch(
        name="idle", hours=1, engine_on=True, charge_a=40, load_a={"battery": 30, "p1": 25}
    )
    plain = run([weak], banks, {"p1": Link(limit_a=40)})
    assert plain.lowest() == pytest.approx(1.0)
    assert plain.ends("p1") == pytest.approx(1 - 15 / 100 * (15 / 5) ** 0.03, abs=0.01)
    insists = run([weak], banks, {"p1": Link(limit_a=40, factor=1.3, insists=True)})
    assert insists.ends("p1") == pytest.approx(1.0)
    assert insists.ends() < 0.8


def test_mains_and_sun_serve_their_batterys_loads_first_and_fill_it_with_the_rest() -> None:
    banks = {
        "battery": Bank(capacity_ah=100, chemistry="agm"),
        "p1": Bank(capacity_ah=100, chemistry="lithium"),
    }
    gives = {"battery": 10.0, "p1": 4.0}
    night = Stretch(
        name="night",
        hours=2,
        engine_on=False,
        charge_a=0,
        load_a={"battery": 4, "p1": 10},
        given_a=gives,
    )
    course = run([night], banks, {"p1": Link(limit_a=40)}, start=0.5)
    assert course.moments[0].into_a["battery"] == pytest.approx(6.0)
    assert course.ends() == pytest.approx(0.5 + 2 * 6 * 0.9 / 100, abs=1e-6)
    assert course.moments[0].into_a["p1"] == pytest.approx(-6.0)
    full = run([night], {"battery": banks["battery"], "p1": banks["p1"]}, {})
    assert full.moments[0].into_a["battery"] <= banks["battery"].accepts_a(1.0)


def test_a_plugged_in_charger_turns_a_loss_into_a_charge() -> None:
    path = Path(__file__).parents[2] / "data" / "jobs" / "charging_leads.json"
    job = read_job(path.read_bytes(), CATALOGUE)
    parked = SaveScenario(name="Camp", key="off", engine="off", minutes=600)
    job = apply(job, parked)
    bare = design(job, CATALOGUE).budget.scenarios[0]
    assert bare.into_a["battery"] < 0
    scenario_id = job.scenarios[0].id
    state = parked.model_copy(update={"scenario_id": scenario_id, "mains": True, "sun_ratio": 0.3})
    plugged = design(apply(job, state), CATALOGUE).budget.scenarios[0]
    assert plugged.given_a == {"battery": pytest.approx(10.0 + 0.3 * 20.0)}
    assert plugged.surplus_a == pytest.approx(bare.surplus_a + 16.0)
    assert plugged.ends["battery"] == 1.0


def _at(made: Design, name: str) -> float:
    return next(p.total_a for p in made.points.values() if p.point.name == name)


def test_feeder_follows_the_worst_scenario_and_says_which() -> None:
    job = demo()
    made = design(job, CATALOGUE)
    block = next(p for p in made.points.values() if p.point.name == "Bay block")
    worst = max(job.scenarios, key=lambda s: block.by_scenario[s.id])
    assert block.worst == worst.name
    assert block.total_a == pytest.approx(block.by_scenario[worst.id])
    assert block.total_a < block.possible_a
    more = apply(job, SetRunning(scenario_id=worst.id, accessory="a17"))
    added_a = made.circuit("c17").current_a
    assert _at(design(more, CATALOGUE), "Bay block") == pytest.approx(block.total_a + added_a)
    none = design(job.model_copy(update={"scenarios": (), "day": ()}), CATALOGUE)
    assert _at(none, "Bay block") >= block.possible_a


def test_what_is_in_no_scenario_still_counts_for_its_feeder() -> None:
    job = demo()
    lean = tuple(
        s.model_copy(update={"running": tuple(r for r in s.running if r.accessory != "a15")})
        for s in job.scenarios
    )
    forgotten = design(job.model_copy(update={"scenarios": lean}), CATALOGUE)
    assert _at(forgotten, "Bay block") >= _at(design(job, CATALOGUE), "Bay block")
    assert "in_no_scenario" in {f.code for f in forgotten.findings}


def test_proposals_are_possible_and_ask_for_no_stop() -> None:
    for name in ("Marmot", "Bluebell", "Kestrel"):
        bare = demo(name).model_copy(update={"scenarios": (), "day": ()})
        job = apply(bare, ProposeScenarios())
        runs = Runs(Tree(job))
        assert len(job.scenarios) >= 3
        assert [list(runs.clash(s)) for s in job.scenarios] == [[]] * len(job.scenarios)
        told = design(job, CATALOGUE).findings
        assert {f.severity for f in told if f.is_open} <= {"note"}
        assert not proposed(job)


def test_what_was_stated_under_another_name_is_not_proposed_again() -> None:
    bare = demo().model_copy(update={"scenarios": (), "day": ()})
    job = apply(bare, ProposeScenarios())
    named = tuple(s.model_copy(update={"name": f"Ours {s.id}"}) for s in job.scenarios)
    assert proposed(job.model_copy(update={"scenarios": named})) == ()
    assert not may_propose(job.model_copy(update={"scenarios": named}))
    without_night = tuple(s for s in named if s.engine != "off")
    left = job.model_copy(update={"scenarios": without_night})
    assert [s.name for s in proposed(left)] == ["Parked overnight"]
    assert may_propose(left)


def test_proposals_know_what_signals_and_what_waits() -> None:
    bare = demo("Bluebell").model_copy(update={"scenarios": (), "day": ()})
    brake = next(a for a in bare.accessories if a.name == "Lift board, brake")
    assert all(s.share_of(brake.id) is None for s in proposed(bare))
    inverter = brake.model_copy(
        update={"watts": 1200.0, "idle_a": 0.8, "use": Use(key="always"), "duty": "continuous"}
    )
    assert usual_ratio(inverter) == pytest.approx(0.15)


def _refusal(edit: object) -> str:
    with pytest.raises(EditRefusedError) as refused:
        apply(demo(), edit)  # type: ignore[arg-type]
    return str(refused.value)


def test_impossible_scenarios_are_refused_with_what_does_not_fit() -> None:
    assert "ignition" in _refusal(SaveScenario(name="x", key="off", engine="cruise"))
    hut = SetRunning(scenario_id="s4", accessory="a15")
    assert "Roof light bar needs the ignition" in _refusal(hut)
    lights = SetRunning(scenario_id="s2", accessory="a16")
    assert "needs the high beam" in _refusal(lights)
    alone = SetRunning(scenario_id="s1", accessory="a19")
    assert "works only while Amber beacon is on" in _refusal(alone)
    night = next(s for s in demo().scenarios if s.id == "s1")
    dark = SaveScenario(scenario_id="s1", name=night.name, lights="off")
    assert "Wide driving lamp needs the high beam" in _refusal(dark)
    assert "two weeks" in _refusal(SetDay(parts=(DayPart(scenario="s4", minutes=20_160),) * 2))
    assert "no longer" in _refusal(SetDay(parts=(DayPart(scenario="s99", minutes=5),)))


def test_what_runs_is_left_out_whatever_else_cannot_run_there() -> None:
    """The press of a finding was refused for what its words do not name."""
    key_off = SaveScenario(scenario_id="s1", name="Night", key="off", engine="off")
    job = demo()
    night = next(s for s in job.scenarios if s.id == "s1")
    stale = job.model_copy(
        update={
            "scenarios": tuple(
                s.model_copy(update={"key": "off", "engine": "off"}) if s.id == "s1" else s
                for s in job.scenarios
            )
        }
    )
    with pytest.raises(EditRefusedError):
        apply(job, key_off)
    for item in night.running:
        out = SetRunning(scenario_id="s1", accessory=item.accessory, output=item.output, on=False)
        left = next(s for s in apply(stale, out).scenarios if s.id == "s1").running
        assert left == tuple(r for r in night.running if r != item)


def test_removing_an_accessory_takes_it_out_of_every_scenario() -> None:
    job = apply(demo(), RemoveAccessory(accessory_id="a22"))
    assert all(s.share_of("a22") is None for s in job.scenarios)


def test_a_scenario_knows_its_own_contradictions() -> None:
    with pytest.raises(ValueError, match="ignition"):
        Scenario(id="s1", name="x", key="off", engine="idle")
    with pytest.raises(ValueError, match="twice"):
        Scenario(id="s1", name="x", running=(Running(accessory="a1"), Running(accessory="a1")))


def test_each_way_out_of_a_flat_battery_ends_it_and_none_smaller_does() -> None:
    job = demo()
    recovery = next(s for s in job.scenarios if s.name == "Recovery")
    weak = job.vehicle.model_copy(update={"charging_a": 60.0})
    job = apply(job, SetVehicle(vehicle=weak))
    stated = recovery.model_dump(exclude={"id", "running"})
    job = apply(job, SaveScenario(scenario_id=recovery.id, **{**stated, "minutes": 240.0}))

    def loud(made: Design) -> set[str]:
        return {f.place for f in made.findings if f.code in ("battery_half", "battery_flat")}

    made = design(job, CATALOGUE)
    assert "Recovery" in loud(made)
    actions = [a for f in made.findings if f.place == "Recovery" for a in f.actions]
    kinds = {a.label.split()[0] for a in actions}
    assert kinds >= {"Plan", "Take"}
    alternators = [a for a in actions if "alternator" in a.label]
    batteries = [a for a in actions if "battery" in a.label]
    assert alternators or batteries
    for action in actions:
        if action.label.startswith("Leave out"):
            continue  # helps, and may not be enough by itself
        mended = design(apply(job, action.edit), CATALOGUE)
        assert "Recovery" not in loud(mended), action.label
    for action in alternators:
        assert isinstance(action.edit, SetVehicle)
        usual = [r for r in _ALTERNATORS_A if r < action.edit.vehicle.charging_a]
        less = max(usual, default=weak.charging_a)
        smaller = action.edit.vehicle.model_copy(update={"charging_a": less})
        assert "Recovery" in loud(design(apply(job, SetVehicle(vehicle=smaller)), CATALOGUE))
