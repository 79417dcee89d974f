"""The design as a whole: pure, agreeing with the solver, with believable sizes."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import design, redesign
from ready_trail.core.edits import (
    Edit,
    FeedCoilFromCommon,
    HoldChoice,
    RemoveAccessory,
    RenameJob,
    SetHouseRules,
    SplitAccessory,
    apply,
)
from ready_trail.core.job import HouseRules, Job, Return, Use, Vehicle
from ready_trail.core.network import BATTERY_POSITIVE
from support import CATALOGUE, demo, job_with, only_circuit, segment

DEMO_SIZES = {
    "Roof light bar": ("relay_positive", 30, "blade", "mini_no", "10"),
    "Driving lights": ("high_beam_earth", 15, "blade", "mini_no", "14"),
    "Radiator fans": ("relay_positive", 40, "post_block", "maxi_no", "8"),
    "Bumper winch": ("winch", 300, "strip_m8", "winch_contactor", "2"),
    "Instrument cooler": ("direct", 7.5, "blade", None, "12"),
    "VHF radio": ("direct", 15, "blade", None, "10"),
    "Rear locker": ("interlock", 3, "blade", "mini_no", "18"),
}


def test_demo_job_has_the_sizes_an_installer_would_fit() -> None:
    made = {c.circuit.name: c for c in design(demo(), CATALOGUE).circuits}
    for name, wanted in DEMO_SIZES.items():
        sizing = made[name].sizing
        assert sizing.fuse is not None
        assert sizing.chosen is not None
        got = (
            made[name].scheme_key,
            sizing.fuse.rating_a,
            sizing.fuse.family.family,
            sizing.relay.key if sizing.relay else None,
            sizing.chosen.conductor.size,
        )
        assert got == wanted, name


def test_demo_job_opens_with_one_stop_and_two_cautions() -> None:
    made = design(demo(), CATALOGUE)
    assert (made.count("stop"), made.count("caution")) == (1, 2)
    assert made.ready_count == len(made.circuits) - 1


def test_design_is_pure_and_deterministic() -> None:
    job = demo()
    before = job.model_dump_json()
    assert design(job, CATALOGUE) == design(Job.model_validate_json(before), CATALOGUE)
    assert job.model_dump_json() == before


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_profile_of_the_solver_agrees_with_sizing(name: str) -> None:
    for circuit in design(demo(name), CATALOGUE).circuits:
        profile, sizing = circuit.profile, circuit.sizing
        assert profile is not None
        assert sizing.chosen is not None
        assert profile.current_a == pytest.approx(circuit.current_a)
        want = sizing.chosen.conductor_drop_v
        # a coil fed from 30 adds its own tenth of an amp to the lead
        rel = 5e-3 if circuit.circuit.coil_fed_from_30 else 1e-6
        assert profile.conductor_drop_v == pytest.approx(want, rel=rel), circuit.circuit.name
        assert profile.path_drop_v == pytest.approx(sizing.path_drop_v, rel=rel)
        assert profile.load_v == pytest.approx(profile.posts_v - profile.path_drop_v)


@given(
    st.lists(st.floats(0.3, 5.0), min_size=1, max_size=4),
    st.floats(10, 500),
    st.booleans(),
    st.sampled_from([12, 24]),
)
@settings(max_examples=40, deadline=None)
def test_profile_agrees_for_any_circuit(
    lengths: list[float], watts: float, wire_back: bool, nominal_v: int
) -> None:
    zones = ("engine_bay", "cabin", "roof", "load_bed")
    run = tuple(segment(z, round(m, 2) + 0.7) for z, m in zip(zones, lengths, strict=False))
    back = Return(kind="wire" if wire_back else "chassis")
    vehicle = Vehicle(nominal_v=nominal_v)  # type: ignore[arg-type]
    made = only_circuit(
        job_with(run=run, back=back, vehicle=vehicle, watts=watts, at_v=13.5 * nominal_v / 12)
    )
    if made.profile is None or made.sizing.chosen is None:
        return
    want = made.sizing.chosen.conductor_drop_v
    assert made.profile.conductor_drop_v == pytest.approx(want, rel=1e-3)
    assert made.profile.path_drop_v == pytest.approx(made.sizing.path_drop_v, rel=1e-3)


def test_wires_join_terminals_without_a_gap() -> None:
    """Every wire end is a terminal of a device of the same circuit."""
    for circuit in design(demo(), CATALOGUE).circuits:
        assert circuit.wiring is not None
        terminals = {(d.ref, t) for d in circuit.wiring.devices for t in d.terminals}
        for wire in circuit.wiring.wires:
            for end in (wire.start, wire.end):
                assert (end.device, end.terminal) in terminals, (wire.label, str(end))


def test_labels_and_colours_tell_circuits_apart() -> None:
    made = design(demo(), CATALOGUE)
    labels = [
        w.label
        for c in made.circuits
        if c.wiring
        for w in c.wiring.wires
        if w.label.startswith("C")
    ]
    assert len(labels) == len(set(labels))
    colours = [c.colour for c in made.circuits]
    assert len(colours) == len(set(colours))


def test_held_choices_are_kept_and_said() -> None:
    edits = (
        HoldChoice(circuit_id="c1", what="size", value="8"),
        HoldChoice(circuit_id="c1", what="colour", value="WH/GN"),
        HoldChoice(circuit_id="c1", what="fuse_a", value=30.0),
        HoldChoice(circuit_id="c1", what="relay", value="maxi_no"),
        HoldChoice(circuit_id="c1", what="scheme", value="relay_earth"),
    )
    made = only_circuit(job_with(edits=edits))
    assert made.sizing.chosen is not None
    assert made.sizing.chosen.conductor.size == "8"
    assert made.colour == "WH/GN"
    assert made.sizing.relay is not None
    assert made.sizing.relay.key == "maxi_no"
    assert made.scheme_key == "relay_earth"


def test_feed_voltage_changes_what_a_driver_draws() -> None:
    from ready_trail.core.design import design_circuit

    job = job_with()
    low = design_circuit(job, job.circuits[0], CATALOGUE, None, emf_v=11.0)
    high = design_circuit(job, job.circuits[0], CATALOGUE, None, emf_v=14.4)
    assert low.profile is not None
    assert high.profile is not None
    assert low.profile.current_a > high.profile.current_a
    assert low.operating is not None
    assert low.operating.voltage_v(BATTERY_POSITIVE) < 11.0


def test_the_stop_of_the_demo_goes_away_with_its_own_way_out() -> None:
    job = demo()
    stop = next(f for c in design(job, CATALOGUE).circuits for f in c.findings
                if f.severity == "stop")  # fmt: skip
    assert isinstance(stop.actions[0].edit, FeedCoilFromCommon)
    after = design(apply(job, stop.actions[0].edit), CATALOGUE)
    assert after.count("stop") == 0


def test_use_decides_the_scheme() -> None:
    cases = [
        (Use(key="always"), "direct"),
        (Use(key="always", switch="S1", switch_a=30), "direct"),
        (Use(key="always", switch="S1", switch_a=20), "relay_positive"),
        (Use(key="run", switch="S1"), "relay_positive"),
        (Use(key="accessory"), "relay_signal"),
        (Use(key="run", lights="side"), "relay_signal"),
        (Use(key="always", lights="high", switch="S1"), "high_beam_positive"),
    ]
    for use, scheme in cases:
        made = only_circuit(job_with(use=use))
        assert made.scheme_key == scheme, use
        assert made.scheme_reason


@pytest.mark.parametrize(
    "edit",
    [
        HoldChoice(circuit_id="c1", what="size", value="8"),
        FeedCoilFromCommon(circuit_id="c2"),
        RemoveAccessory(accessory_id="a3"),
        SplitAccessory(accessory_id="a3"),
        SetHouseRules(rules=HouseRules(k_cont=0.7)),
        RenameJob(name="Other"),
    ],
    ids=lambda edit: edit.kind,
)
def test_redesign_is_the_same_as_designing_anew(edit: Edit) -> None:
    before = design(demo(), CATALOGUE)
    job = apply(before.job, edit)
    assert redesign(job, CATALOGUE, before) == design(job, CATALOGUE)
