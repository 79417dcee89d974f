"""A battery disconnect parts what hangs behind it, bears what flows, and is worked by a pulse."""

from __future__ import annotations

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.edits import ChangePoint, ChangeSwitch, StartAt, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import BATTERY, Channel, Job
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, demo, small, table_of

JOB = "disconnect_by_pulse"


def made(job: Job) -> Design:
    return design(job, CATALOGUE)


def stated(**figures: float | bool | str | None) -> Job:
    """The small vehicle with other figures of its disconnect."""
    job = small(JOB)
    point = next(p for p in job.points if p.kind == "disconnect")
    return apply(job, ChangePoint(point=point.model_copy(update=figures)))


def found(job: Job) -> dict[str, tuple[str, str, tuple[str, ...]]]:
    """Findings of the disconnect: severity, the figure found, the presses."""
    return {
        f.code: (f.severity, f.found, tuple(a.label for a in f.actions))
        for f in made(job).findings
        if f.code.startswith(("disconnect", "pulse"))
    }


def states_on(job: Job, circuit_id: str) -> set[tuple[str, str, bool]]:
    """Key, lights and switch of every state in which a circuit is on."""
    cells = table_of(job, circuit_id).cells
    return {(c.key, c.lights, c.switch_on) for c in cells if c.is_on}


def test_open_it_darkens_what_hangs_behind_and_the_vehicle_itself() -> None:
    job = small(JOB)
    whole = job_network(made(job))
    on = {"Slip lamps", "Rinser"}
    shut = solve(whole, VehicleState(key="run", lights="low", on=frozenset(on)))
    opened = solve(whole, VehicleState(key="run", lights="low", on=frozenset({*on, *whole.opened})))
    lamps = next(c for c in job.circuits if c.name == "Slip lamps")
    receiver = next(c for c in job.circuits if c.name == "Gate receiver")
    volts = {
        name: (shut.node_v[f"l{c.number}_pos"], opened.node_v[f"l{c.number}_pos"])
        for name, c in (("lamps", lamps), ("receiver", receiver))
    }
    assert volts["lamps"][0] > 11.5
    assert volts["lamps"][1] == pytest.approx(0.0, abs=0.01)
    assert min(volts["receiver"]) > 12.0, "it keeps its memory"


def test_the_vehicles_own_feeds_die_only_where_it_hangs_behind() -> None:
    job = demo()
    block = next(c for c in job.circuits if c.name == "Feeder of Bay block")
    for behind in (True, False):
        point = (
            stated()
            .points[0]
            .model_copy(
                update={"id": "p90", "number": 90, "pulse_switch": "", "vehicle_behind": behind}
            )
        )
        parted = apply(
            job.model_copy(update={"points": (*job.points, point), "last_number": 90}),
            StartAt(circuit_id=block.id, start=Channel(point="p90")),
        )
        whole = job_network(made(parted))
        point_v = solve(whole, VehicleState(key="run", on=whole.opened)).node_v
        assert point_v["q90_bus"] == pytest.approx(0.0, abs=0.01)
        assert (point_v["ign_1"] < 0.01) is behind


def test_a_pulse_of_its_switch_reaches_each_coil_from_the_batterys_side() -> None:
    job = small(JOB)
    number = job.points[0].number
    whole = job_network(made(job))
    for side, coil in (("I", "on"), ("II", "off")):
        pressed = frozenset({f"Battery switch {side}", *whole.opened})
        volts = solve(whole, VehicleState(on=pressed)).node_v
        assert volts[f"q{number}_{coil}"] > 11.0, "it must close again when all behind is dark"
        other = {"on": "off", "off": "on"}[coil]
        assert volts[f"q{number}_{other}"] == pytest.approx(volts[f"q{number}_coil"], abs=0.01)


@pytest.mark.parametrize(
    ("figures", "code", "severity", "flows", "press"),
    [
        ({"total_a": 100.0}, "disconnect_rating", "stop", "110 A", "Take one that bears 150 A"),
        ({"cranking_a": 300.0}, "disconnect_rating", "stop", "400 A", "Take one that bears 400 A"),
        (
            {"cranking_a": None, "surge_a": None, "total_a": None},
            "disconnect_unrated",
            "caution",
            "400 A",
            "Take one that bears 400 A",
        ),
    ],
)
def test_what_flows_in_it_is_weighed_against_what_it_bears(
    figures: dict[str, float | None], code: str, severity: str, flows: str, press: str
) -> None:
    seen = found(stated(**figures))[code]
    assert seen[:2] == (severity, flows)
    assert seen[2][0].startswith(press)


def test_where_the_vehicle_stays_on_the_battery_no_starter_counts() -> None:
    assert set(found(stated(vehicle_behind=False, total_a=30.0, cranking_a=None))) == {
        "disconnect_alive"
    }


def test_a_winch_behind_it_counts_by_what_it_bears_for_a_minute() -> None:
    job = demo()
    winch = next(c for c in job.circuits if c.name == "Bumper winch")
    point = (
        stated()
        .points[0]
        .model_copy(update={"id": "p90", "number": 90, "pulse_switch": "", "surge_a": 300.0})
    )
    job = job.model_copy(update={"points": (*job.points, point), "last_number": 90})
    seen = found(apply(job, StartAt(circuit_id=winch.id, start=Channel(point="p90"))))
    assert seen["disconnect_rating"][0] == "stop"
    assert seen["disconnect_rating"][1] == "410 A", "the pull at its label, not the mean one"


def test_its_switch_springs_back_and_is_guarded() -> None:
    job = small(JOB)
    assert set(found(job)) == {"disconnect_alive"}
    for field, code in (("momentary", "pulse_latches"), ("guarded", "pulse_unguarded")):
        switch = job.switches[0].model_copy(update={field: False})
        bad = apply(job, ChangeSwitch(was=switch.name, switch=switch))
        finding = next(f for f in made(bad).findings if f.code == code)
        after = made(apply(bad, finding.actions[0].edit))
        assert code not in {f.code for f in after.findings}


def test_a_renamed_switch_stays_its_own_and_one_with_one_side_is_refused() -> None:
    job = small(JOB)
    switch = job.switches[0]
    named = apply(
        job,
        ChangeSwitch(was=switch.name, switch=switch.model_copy(update={"name": "Main off"})),
    )
    assert named.points[0].pulse_switch == "Main off"
    point = job.points[0].model_copy(update={"pulse_switch": "Rinser"})
    with pytest.raises(EditRefusedError, match="one for each pulse"):
        apply(job, ChangePoint(point=point))
    by_hand = apply(job, ChangePoint(point=job.points[0].model_copy(update={"pulse_switch": ""})))
    assert "Battery switch" not in {s.name for s in by_hand.switches}, "nothing uses it any more"


def test_what_starts_behind_it_works_as_it_did_at_the_battery() -> None:
    job = small(JOB)
    receiver = next(c for c in job.circuits if c.name == "Gate receiver")
    behind = apply(job, StartAt(circuit_id=receiver.id, start=Channel(point=job.points[0].id)))
    at_battery, moved = made(job), made(behind)
    for circuit in job.circuits:
        assert states_on(job, circuit.id) == states_on(behind, circuit.id)
        fuses = [m.circuit(circuit.id).sizing.fuse for m in (at_battery, moved)]
        assert fuses[0] == fuses[1]
    assert receiver.start.point == BATTERY
    alive = next(f for f in moved.findings if f.code == "disconnect_alive")
    assert "nothing stays live" in alive.text


def test_the_build_leads_the_main_cable_over_it_and_proves_it_before_the_fuses() -> None:
    build = build_of(made(small(JOB)), CATALOGUE)
    ids = [step.id for step in build.steps]
    ref = f"Q{small(JOB).points[0].number}"
    cable = next(s for s in build.steps if s.id == f"battery:{ref}")
    assert ids.index(f"battery:{ref}") < ids.index("battery:clamp") < ids.index(f"part:{ref}")
    feeder = next(c for c in small(JOB).circuits if c.is_feeder)
    assert ids.index(f"part:{ref}") < ids.index(f"fuse:{feeder.id}")
    assert any("upright" in line for line in cable.doing)
    assert {"battery-link"} == set(cable.parts)
    assert any(
        "Gate receiver" in line for s in build.steps if s.id == f"part:{ref}" for line in s.doing
    )
