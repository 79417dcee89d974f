"""Small whole vehicles: each sound, or with just the stop that is its point."""

from __future__ import annotations

from pathlib import Path

import pytest

from ready_trail.core.design import Design, design, job_network
from ready_trail.core.edits import RemoveSupply, apply
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from ready_trail.formats.job_json import read_job
from support import CATALOGUE, DEMO_DIR, burning, table_of

FOLDER = Path(__file__).parents[1] / "data" / "jobs"

# name of a circuit: its scheme, fuse [A] and wire, as an installer would fit them
FITTED: dict[str, dict[str, tuple[str, float, str]]] = {
    "keyed-block": {
        "Feeder of Seat block": ("relay_signal", 7.5, "20"),
        "Running lights": ("direct", 3, "20"),
    },
    "factory-channels": {"Light bar": ("channel", 40, "10"), "Camera": ("channel", 10, "20")},
    "cart-converter": {
        "Feeder of 48 to 12 V converter": ("direct", 30, "12"),
        "Feeder of Cart block": ("direct", 20, "12"),
        "Radio": ("direct", 10, "18"),
    },
    "lit-panel": {
        "Feeder of Console panel": ("relay_signal", 7.5, "18"),
        "Light bar": ("relay_positive", 15, "16"),
        "Voltmeter": ("direct", 3, "20"),
    },
    "radios-long-feeder": {"Feeder of Rear block": ("direct", 50, "6")},
    "relay-block-earth": {
        "Feeder of Relay block": ("direct", 50, "8"),
        "Light bar": ("relay_earth", 25, "12"),
    },
    "disconnect": {"Feeder of Camp block": ("direct", 15, "14")},
    "winch-studs": {
        "Feeder of Firewall stud": ("direct", 175, "1/0"),
        "Winch": ("winch", 175, "1/0"),
    },
    "audio-second-battery": {
        "Feeder of Audio battery": ("relay_signal", 80, "4"),
        "Feeder of Amplifier block": ("direct", 60, "8"),
    },
    "tapped-room": {"Dash camera": ("direct", 3, "20")},
    "driving-lights": {"Driving lights": ("high_beam_earth", 15, "16")},
    "two-colour-relays": {
        "Roof bar, white": ("relay_positive", 15, "14"),
        "Roof bar, amber": ("relay_positive", 7.5, "18"),
    },
    "two-colour-changeover": {"Roof bar": ("changeover", 15, "16")},
    "two-colour-channels": {
        "Roof bar, white": ("channel", 20, "12"),
        "Roof bar, amber": ("channel", 20, "14"),
    },
    "rock-lights": {"Rock lights": ("channel", 15, "16")},
    "work-lights": {"Work lights": ("relay_positive", 15, "14")},
    "amplifier": {"Amplifier": ("direct", 100, "1")},
    "low-beam-kept": {"Low beam kept on": ("low_beam_kept", 20, "14")},
    "beacons": {"Front beacon": ("relay_positive", 3, "18")},
    "fan-own-feed": {"Radiator fan": ("kept_feed", 30, "12")},
    "isolator-signals": {"Box brake light": ("channel", 5, "20")},
    "winch-both-ways": {"Winch": ("reversing", 250, "2")},
    "motorcycle-lamps": {"Guard lamps": ("relay_positive", 5, "18")},
}
STOPS = {
    "driving-lights-bridge": {"pulls_in_off"},
    "fan-back-feeding": {"back_feeds"},
    "beacons-no-diode": set(),
    "factory-channel-over": {"bank_total", "channel_load"},
    "tapped-full": {"tapped_room"},
}


def made(name: str) -> Design:
    return design(read_job((FOLDER / f"{name}.json").read_bytes(), CATALOGUE), CATALOGUE)


@pytest.mark.parametrize("name", FITTED)
def test_sound_work_is_ready_and_fitted_as_an_installer_would(name: str) -> None:
    job = made(name)
    findings = [(c.circuit.name, f.code) for c in job.circuits for f in c.findings
                if f.severity != "note"]  # fmt: skip
    assert findings == []
    circuits = {c.circuit.name: c for c in job.circuits}
    for circuit, wanted in FITTED[name].items():
        sizing = circuits[circuit].sizing
        assert sizing.fuse is not None
        assert sizing.chosen is not None
        got = (circuits[circuit].scheme.key, sizing.fuse.rating_a, sizing.chosen.conductor.size)
        assert got == wanted, circuit


@pytest.mark.parametrize("name", STOPS)
def test_the_stop_that_is_the_point_is_there_and_no_other(name: str) -> None:
    found = {f.code for c in made(name).circuits for f in c.findings if f.severity == "stop"}
    assert found == STOPS[name]


def test_a_missing_diode_is_a_caution_with_its_way_out() -> None:
    front = made("beacons-no-diode").circuits[0]
    assert [f.code for f in front.findings if f.severity != "note"] == ["resting_low"]


def test_two_lights_have_a_lead_and_an_earth_each() -> None:
    job = made("driving-lights")
    ends = [w for w in job.installation.wires.values() if w.branch]
    assert [(w.role, w.end.device) for w in ends] == [
        ("power", "L2.1"), ("return", "G2.1"), ("power", "L2.2"), ("return", "G2.2"),
    ]  # fmt: skip


def test_low_beam_stays_on_with_high_and_the_relay_feeds_nothing_back() -> None:
    job = made("low-beam-kept")
    lit = {
        (c.lights, c.is_on)
        for c in table_of(job.job, job.circuits[0].circuit.id).cells
        if c.key == "run"
    }
    assert lit == {("off", False), ("side", False), ("low", True), ("high", True)}
    network = job_network(job)
    point = solve(network, VehicleState(lights="low"))
    assert not any(point.energised.values())
    assert point.voltage_v("hl_high") == pytest.approx(0.0, abs=0.05)


def test_a_winch_turns_both_ways_and_stands_shorted_at_rest() -> None:
    job = made("winch-both-ways")
    network = job_network(job)
    motor = []
    for on in (set(), {"Winch remote I"}, {"Winch remote II"}):
        point = solve(network, VehicleState(key="run", on=frozenset(on)))
        motor.append(point.between_v("l2_pos", "l2_neg"))
    assert motor[0] == pytest.approx(0.0, abs=0.01)
    assert motor[1] > 8.0
    assert motor[2] < -8.0


def test_an_isolator_feeds_each_lamp_by_its_own_signal_and_draws_milliamps_for_it() -> None:
    job = made("isolator-signals")
    lamps = [c.circuit.id for c in job.circuits if c.accessories]
    for circuit, signal in zip(lamps, ("brake", "left", "right"), strict=True):
        cells = table_of(job.job, circuit).cells
        assert {c.signal for c in cells if c.is_on} == {signal}, circuit
    point = solve(job_network(job), VehicleState(signals=frozenset({"brake"})))
    drawn = [abs(a) for name, a in point.branch_a.items() if name.startswith("i1_sense")]
    assert max(drawn) < 0.01


def test_a_changeover_has_one_colour_at_rest_and_the_other_by_its_switch() -> None:
    job = made("two-colour-changeover")
    network = job_network(job)
    ref = job.circuits[-1].load_ref.lower()
    for on, white in ((frozenset(), False), (frozenset({"Roof colour"}), True)):
        point = solve(network, VehicleState(key="run", on=on))
        lit = [point.between_v(f"{ref}_{name}", f"{ref}_neg") > 9 for name in ("white", "amber")]
        assert lit == [white, not white]


def test_two_feeds_are_never_joined_and_each_feeds_in_its_turn() -> None:
    path = DEMO_DIR.parent / "schemes" / "two_feeds.json"
    job = design(read_job(path.read_bytes(), CATALOGUE), CATALOGUE)
    network = job_network(job)
    drawn = {}
    for key in ("off", "run"):
        point = solve(network, VehicleState(key=key))  # type: ignore[arg-type]
        drawn[key] = [abs(point.branch_a[f"k3_30_{pin}"]) > 1 for pin in ("87", "87a")]
    assert drawn == {"off": [False, True], "run": [True, False]}
    gone = apply(job.job, RemoveSupply(point_id=job.job.points[0].id))
    assert gone.circuits[-1].rest_start is None


def test_every_file_is_a_case() -> None:
    assert {path.stem for path in FOLDER.glob("*.json")} == {*FITTED, *STOPS}


def test_small_loads_behind_a_keyed_block_have_no_relay_and_follow_the_key() -> None:
    job = made("keyed-block")
    relays = [d for d in job.installation.devices.values() if d.kind == "relay"]
    assert len(relays) == 1
    for circuit in job.circuits:
        table = table_of(job.job, circuit.circuit.id)
        on = {(c.key, c.is_on) for c in table.cells}
        assert ("run", True) in on
        assert ("off", True) not in on


def test_switches_of_a_panel_share_one_fused_feed() -> None:
    job = made("lit-panel")
    control = [w for w in job.installation.wires.values() if w.role == "control"]
    ignition = [w for w in control if "IGN" in (w.start.device, w.end.device)]
    assert len(ignition) == 1
    fuses = {d.ref for d in job.installation.devices.values() if d.kind == "fuse"}
    assert not {f"F{c.circuit.number}T" for c in job.circuits if c.accessories} & fuses


def test_lamps_of_a_lit_panel_share_one_fuse_and_one_earth_and_follow_the_side_lights() -> None:
    job = made("lit-panel")
    lamps = next(
        d for d in job.installation.devices.values() if d.title == "Lamps of Console panel"
    )
    assert lamps.detail.startswith("4 switch lamps")
    wires = [w for w in job.installation.wires.values() if w.owner == lamps.owner]
    assert len(wires) == 3
    network = job_network(job)
    for lights, lit in (("off", False), ("side", True), ("low", True)):
        point = solve(network, VehicleState(key="off", lights=lights))  # type: ignore[arg-type]
        assert (point.branch_a[f"{lamps.ref.lower()}_lamps"] > 0.1) == lit, lights


def test_lamps_on_a_watched_wire_are_a_caution_until_one_is_proved() -> None:
    plain = made("lit-panel").job
    vehicle = plain.vehicle.model_copy(update={"data_bus": "supervised"})
    job = plain.model_copy(update={"vehicle": vehicle})
    feeder = next(c for c in design(job, CATALOGUE).circuits if c.circuit.is_feeder)
    lamps = [f for f in feeder.findings if f.place == "P1L"]
    assert [f.code for f in lamps] == ["data_bus"]
    for action in lamps[0].actions:
        job = apply(job, action.edit)
    feeder = next(c for c in design(job, CATALOGUE).circuits if c.circuit.is_feeder)
    assert not [f for f in feeder.findings if f.place == "P1L"]


def test_what_hangs_on_a_converter_is_a_system_of_its_own() -> None:
    job = made("cart-converter")
    radio = next(c for c in job.circuits if c.circuit.name == "Radio")
    assert radio.profile is not None
    assert 12.0 < radio.profile.posts_v < 13.3
    assert radio.sizing.prospective_a < 450
    feeder = next(c for c in job.circuits if c.circuit.name.startswith("Feeder of 48"))
    assert feeder.current_a < radio.current_a
    assert feeder.profile is not None
    assert feeder.profile.posts_v > 48


def test_a_link_between_batteries_is_fused_at_both_ends() -> None:
    job = made("audio-second-battery")
    link = next(c for c in job.circuits if c.circuit.name == "Feeder of Audio battery")
    assert sum(d.kind == "fuse" for d in link.planned.parts.devices if d.ref[0] == "F") >= 2  # type: ignore[union-attr]


@pytest.mark.parametrize("path", [*sorted(FOLDER.glob("*.json")), *sorted(DEMO_DIR.glob("*.json"))],
                         ids=lambda path: path.stem)  # fmt: skip
def test_no_single_fault_burns_a_wire_that_has_a_fuse_ahead(path: Path) -> None:
    """What sizing promised by its rules, asked of the solver: every fault, fuse by fuse."""
    made = design(read_job(path.read_bytes(), CATALOGUE), CATALOGUE)
    assert [(e.fault.words, e.burns, e.burns_a) for e in burning(made)] == []
