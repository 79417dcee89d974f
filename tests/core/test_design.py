"""The design as a whole: pure, agreeing with the solver, with believable sizes."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import design, what_if
from ready_trail.core.edits import (
    Edit,
    FeedCoilFromCommon,
    HoldChoice,
    RemoveAccessory,
    RenameJob,
    SetHouseRules,
    SetTogether,
    SplitAccessory,
    StartAt,
    WakePoint,
    apply,
)
from ready_trail.core.job import (
    BATTERY,
    Channel,
    HouseRules,
    Job,
    Return,
    Switch,
    Use,
    Vehicle,
)
from ready_trail.core.netlist import BATTERY_POSITIVE
from support import (
    CATALOGUE,
    afresh,
    circuit_named,
    demo,
    facts,
    job_with,
    only_circuit,
    segment,
)

BAR = circuit_named(demo(), "Roof light bar")

DEMO_SIZES = {
    "Roof light bar": ("relay_positive", 25, "blade", "mini_no", "10"),
    "Wide driving lamp": ("high_beam_positive", 15, "blade", "mini_no", "12"),
    "Radiator fans": ("relay_positive", 40, "large_blade", "maxi_no", "6"),
    "Bumper winch": ("reversing", 300, "strip_m8", "winch_contactor", "2/0"),
    "Instrument cooler": ("direct", 7.5, "blade", None, "14"),
    "VHF radio": ("direct", 15, "blade", None, "12"),
    "Hook release": ("interlock", 3, "blade", "mini_no", "18"),
    "Feeder of Bay block": ("direct", 80, "breaker_manual", None, "6"),
    "Feeder of Cabin block": ("relay_signal", 15, "blade", "mini_no", "14"),
}


def test_demo_job_has_the_sizes_an_installer_would_fit() -> None:
    made = {c.circuit.name: c for c in design(demo(), CATALOGUE).circuits}
    for name, wanted in DEMO_SIZES.items():
        sizing = made[name].sizing
        assert sizing.fuse is not None
        assert sizing.chosen is not None
        got = (
            made[name].scheme.key,
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
    again = design(Job.model_validate_json(before), CATALOGUE)
    assert facts(design(job, CATALOGUE)) == facts(again)
    assert job.model_dump_json() == before


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_profile_of_the_solver_agrees_with_sizing(name: str) -> None:
    for circuit in design(demo(name), CATALOGUE).circuits:
        profile, sizing = circuit.profile, circuit.sizing
        name = circuit.circuit.name
        assert profile is not None
        assert sizing.chosen is not None
        assert profile.current_a <= circuit.current_a * 1.001, name
        total_a = sum(o.profile.current_a for o in circuit.outlets if o.profile)
        assert sizing.deciding is not None
        want_v, got_v = sizing.deciding.conductor_drop_v, profile.conductor_drop_v
        if circuit.circuit.start.point == BATTERY and total_a == pytest.approx(circuit.current_a):
            # a winch's box sends its coil's current home by the return cable
            slack = 2e-3 if circuit.device(lambda spec: spec.is_relay) else 1e-4
            assert got_v == pytest.approx(want_v, rel=slack), name
        # Behind a point, sizing takes the most that can run there; this state may run less, and
        # coils on the same feeder add a little.
        assert got_v <= want_v * 1.01, name
        assert profile.path_drop_v <= sizing.path_drop_v * 1.01, name
        start = next((p for p in circuit.job.points if p.id == circuit.circuit.start.point), None)
        points = [p.kind for p in (circuit.feeds, start) if p is not None]
        turns = not {"isolator_box", "charger"}.isdisjoint(points)
        assert turns or got_v >= want_v * 0.85, name  # lamps by turns; what a charger may take
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
    whole = design(demo(), CATALOGUE)
    for installation in (whole.installation, *(c.installation for c in whole.circuits)):
        assert installation is not None
        terminals = {(d.ref, t) for d in installation.devices.values() for t in d.terminals}
        for wire in installation.wires.values():
            for end in (wire.start, wire.end):
                assert (end.device, end.terminal) in terminals, (wire.label, str(end))


def test_labels_and_colours_tell_circuits_apart() -> None:
    made = design(demo(), CATALOGUE)
    labels = [w.label for c in made.circuits for w in c.wires]
    assert len(labels) == len(set(labels))
    starts = {c.circuit.start.point for c in made.circuits}
    for start in starts:
        colours = [
            c.colour
            for c in made.circuits
            if c.circuit.start.point == start and not c.circuit.is_feeder
        ]
        assert len(colours) == len(set(colours)), start


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
    assert made.scheme.key == "relay_earth"


def test_feed_voltage_changes_what_a_driver_draws() -> None:
    made = design(job_with(), CATALOGUE)
    low, high = (what_if(made.routed, "c1", CATALOGUE, emf_v=v) for v in (11.0, 14.4))
    assert low.profile is not None
    assert high.profile is not None
    assert low.profile.current_a > high.profile.current_a
    assert low.operating is not None
    assert low.operating.voltage_v(BATTERY_POSITIVE) < 11.0


def test_the_stop_of_the_demo_goes_away_with_its_own_way_out() -> None:
    job = demo()
    stop = next(
        f for c in design(job, CATALOGUE).circuits for f in c.findings if f.severity == "stop"
    )
    assert (stop.code, stop.found) == ("fuse_over_wire", "30 A")
    way_out = next(a for a in stop.actions if a.label == "Choose the fuse automatically")
    after = design(apply(job, way_out.edit), CATALOGUE)
    assert after.count("stop") == 0
    assert after.circuit("c17").sizing.fuse.rating_a == 15.0  # type: ignore[union-attr]


def test_use_decides_the_scheme() -> None:
    cases = [
        (Use(key="always"), "direct"),
        (Use(key="always", switch="S30"), "direct"),
        (Use(key="always", switch="S1"), "relay_positive"),
        (Use(key="run", switch="S1"), "relay_positive"),
        (Use(key="accessory"), "relay_signal"),
        (Use(key="run", lights="side"), "relay_signal"),
        (Use(key="always", lights="high", switch="S1"), "high_beam_positive"),
    ]
    for use, scheme in cases:
        switch = Switch(name="S30", rating_a=30) if use.switch == "S30" else None
        made = only_circuit(job_with(use=use, switch=switch))
        assert made.scheme.key == scheme, use
        assert made.planned.reason


@pytest.mark.parametrize(
    "edit",
    [
        HoldChoice(circuit_id=BAR, what="size", value="4"),
        FeedCoilFromCommon(circuit_id=circuit_named(demo(), "Wide driving lamp")),
        RemoveAccessory(accessory_id="a17"),
        SplitAccessory(accessory_id="a17"),
        StartAt(circuit_id=BAR, start=Channel(point=BATTERY)),
        SetTogether(point_id="p1", together_a=30.0),
        WakePoint(point_id="p1", key="run"),
        SetHouseRules(rules=HouseRules(k_cont=0.7)),
        RenameJob(name="Other"),
    ],
    ids=lambda edit: edit.kind,
)
def test_what_was_kept_from_another_design_changes_nothing(edit: Edit) -> None:
    before = design(demo(), CATALOGUE)
    job = apply(before.job, edit)
    assert facts(design(job, CATALOGUE)) == afresh(job)
