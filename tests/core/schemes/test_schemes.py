"""Truth tables and pin-outs of every scheme, solved and not written down."""

from __future__ import annotations

from typing import Any

import pytest

from ready_trail.core.design import CircuitDesign, design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSwitch,
    FeedCoilFromCommon,
    HoldChoice,
    apply,
)
from ready_trail.core.job import Job, Return, Switch, Use, Vehicle
from ready_trail.core.states import KEY_STATES, LIGHT_STATES
from support import CATALOGUE, codes, job_with, only_circuit, segment, table_of

EARTH = Vehicle(headlamps="earth", headlamp_common="always")
EARTH_WITH_LIGHTS = Vehicle(headlamps="earth", headlamp_common="with_lights")


def on_states(job: Job, *, switch_on: bool = True, circuit_id: str = "c1") -> set[tuple[str, str]]:
    table = table_of(job, circuit_id)
    return {
        (key, lights)
        for key in KEY_STATES
        for lights in LIGHT_STATES
        if table.cell(key, lights, switch_on=switch_on).is_on
    }


def keys(*names: str) -> set[tuple[str, str]]:
    return {(key, lights) for key in names for lights in LIGHT_STATES}


def lit(*names: str) -> set[tuple[str, str]]:
    return {(key, lights) for key in KEY_STATES for lights in names}


@pytest.mark.parametrize(
    ("use", "vehicle", "wanted"),
    [
        (Use(key="always"), Vehicle(), keys(*KEY_STATES)),
        (Use(key="always", switch="S60"), Vehicle(), keys(*KEY_STATES)),
        (Use(key="always", switch="S1"), Vehicle(), keys(*KEY_STATES)),
        (Use(key="run", switch="S1"), Vehicle(), keys("run", "cranking")),
        (Use(key="accessory", switch="S1"), Vehicle(), keys("accessory", "run")),
        (Use(key="accessory"), Vehicle(), keys("accessory", "run")),
        (Use(lights="side"), Vehicle(), lit("side", "low", "high")),
        (Use(lights="low"), Vehicle(), lit("low")),
        (Use(lights="high", switch="S1"), Vehicle(), lit("high")),
        (Use(lights="high", switch="S1"), EARTH, lit("high")),
        (Use(lights="high", switch="S1"), EARTH_WITH_LIGHTS, lit("high")),
        (Use(lights="high"), EARTH, lit("high")),
    ],
)
def test_truth_table(use: Use, vehicle: Vehicle, wanted: set[tuple[str, str]]) -> None:
    rating_a = float(use.switch[1:]) if use.switch == "S60" else 20.0
    switch = Switch(name=use.switch, rating_a=rating_a) if use.switch else None
    job = job_with(use=use, switch=switch, vehicle=vehicle)
    assert on_states(job) == wanted
    if use.switch:
        assert on_states(job, switch_on=False) == set()


def test_relay_earth_switched_is_the_same_to_its_user() -> None:
    hold = HoldChoice(circuit_id="c1", what="scheme", value="relay_earth")
    job = job_with(use=Use(key="run", switch="S1"), edits=(hold,))
    assert on_states(job) == keys("run", "cranking")
    assert on_states(job, switch_on=False) == set()
    assert pins(only_circuit(job))["85"] == {"S2 1"}


def test_86_from_30_pulls_in_with_the_lights_off() -> None:
    """With a common that dies with the lights, the filaments lead the coil to earth."""
    trap = FeedCoilFromCommon(circuit_id="c1", from_common=False)
    use = Use(key="always", lights="high", switch="S1")
    assert ("off", "off") in on_states(job_with(use=use, vehicle=EARTH_WITH_LIGHTS, edits=(trap,)))
    live = job_with(use=use, vehicle=EARTH, edits=(trap,))
    assert on_states(live) == lit("high")


def test_truth_table_solves_only_states_that_differ() -> None:
    table = table_of(job_with())
    assert len(table.cells) == 32
    assert table.solves < 12


def pins(made: CircuitDesign) -> dict[str, set[str]]:
    assert made.installation is not None
    found: dict[str, set[str]] = {}
    for wire in made.installation.wires.values():
        for end, other in ((wire.start, wire.end), (wire.end, wire.start)):
            if end.device == "K1":
                found.setdefault(end.terminal, set()).add(str(other))
    return found


@pytest.mark.parametrize(
    ("use", "vehicle", "wanted"),
    [
        (
            Use(key="run", switch="S1"),
            Vehicle(),
            {"30": {"F1 2"}, "87": {"L1 +"}, "86": {"S2 2"}, "85": {"G1T 1"}},
        ),
        (
            Use(key="accessory"),
            Vehicle(),
            {"30": {"F1 2"}, "87": {"L1 +"}, "86": {"F1T 2"}, "85": {"G1T 1"}},
        ),
        (
            Use(lights="high", switch="S1"),
            EARTH,
            {"30": {"F1 2"}, "87": {"L1 +"}, "86": {"F1T 2"}, "85": {"S2 1"}},
        ),
        (
            Use(key="run", switch="S1"),
            Vehicle(body="composite"),
            {"30": {"F1 2"}, "87": {"L1 +"}, "86": {"S2 2"}, "85": {"BAT -"}},
        ),
    ],
)
def test_pin_out(use: Use, vehicle: Vehicle, wanted: dict[str, set[str]]) -> None:
    assert pins(only_circuit(job_with(use=use, vehicle=vehicle))) == wanted


def test_winch_cable_and_fuse_by_short_time_rules() -> None:
    use = Use(key="run", switch="S1", engine_only=True)
    switch = Switch(name="S1", momentary=True, guarded=True)
    label = {"amps": 410, "idle_a": 70, "at_v": 12, "duty": "momentary", "drop_class": "tolerant"}
    made = only_circuit(
        job_with(
            model="winch",
            use=use,
            switch=switch,
            run=(segment("engine_bay", 2.1),),
            back=Return(kind="wire"),
            inrush_x=1,
            inrush_s=0,
            **label,
        )
    )
    sizing = made.sizing
    assert sizing.ok
    assert sizing.fuse is not None
    assert sizing.chosen is not None
    # stall 492 A at 300 A is 1.64 x: between the gates 1.35 x (120 s) and 2 x (1 s), over 10 s
    assert sizing.fuse.rating_a == 300
    assert sizing.chosen.ampacity_a >= 410
    assert made.current_a == pytest.approx(70 + 0.6 * 340)
    assert "short_time" in sizing.governs


def test_a_24_volt_job_takes_24_volt_coils() -> None:
    job = job_with(vehicle=Vehicle(nominal_v=24), watts=200, at_v=27)
    made = only_circuit(job)
    assert made.sizing.relay is not None
    assert made.sizing.relay.coil_ohm == 4 * CATALOGUE.relays["mini_no"].coil_ohm
    assert on_states(job) == keys("run", "cranking")


def interlocked(**use: Any) -> Job:
    """A solenoid that works only while the compressor of c1 is on; it is c4, its switch S3."""
    job = job_with(model="motor", watts=360, at_v=13, name="Compressor")
    job = apply(job, AddSwitch(switch=Switch(name="Release", guarded=True)))
    own = Use(switch="Release", while_on="c1", **use)
    draft = AccessoryDraft(name="Pump", model="resistive", watts=18, at_v=12, use=own)
    return apply(job, AddAccessory(accessory=draft))


def test_interlock_works_only_with_its_enabler() -> None:
    job = interlocked(key="always")
    made = design(job, CATALOGUE).circuit("c4")
    assert made.scheme.key == "interlock"
    assert made.is_ready
    table = table_of(job, "c4")
    assert table.enabler == "Compressor"
    assert not table.on_without_enabler
    assert on_states(job, circuit_id="c4") == keys("run", "cranking")
    assert on_states(job, switch_on=False, circuit_id="c4") == set()
    control = [w for w in made.wires if w.role == "control"]
    assert str(control[0].start) == "L1 +"
    assert made.profile is not None
    want = made.sizing.chosen.conductor_drop_v if made.sizing.chosen else 0
    assert made.profile.conductor_drop_v == pytest.approx(want, rel=1e-6)


def test_interlock_refuses_what_it_cannot_wait_for() -> None:
    for wrong in ("c1", "c9"):
        made = only_circuit(job_with(use=Use(key="run", switch="S1", while_on=wrong)))
        assert made.scheme.key == "interlock"
        assert "scheme" in codes(made, "stop")
        assert made.planned.parts is None
