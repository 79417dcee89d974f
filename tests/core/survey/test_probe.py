"""The probe table: every pattern of the trade, contradictions, and what is not known yet."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddProbe,
    ReadProbe,
    UseProbe,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job, Use, Vehicle
from ready_trail.core.job.survey import PROBE_STATES, Probe, ProbeReading
from ready_trail.core.survey import Verdict, classify
from support import CATALOGUE, demo

L, D, H = "lit", "dark", "dim"


def verdict(*, supervised: bool = False, nominal_v: float = 12, **given_: object) -> Verdict:
    extra = {k: given_.pop(k) for k in ("unplugged", "lamp_left_v", "colour") if k in given_}
    readings = tuple(ProbeReading(state=s, value=v) for s, v in given_.items())  # type: ignore[arg-type]
    probe = Probe(id="w1", name="Wire", readings=readings, **extra)  # type: ignore[arg-type]
    return classify(probe, nominal_v=nominal_v, supervised=supervised)


@pytest.mark.parametrize(
    ("readings", "standing", "function", "earth"),
    [
        ({"off": L, "accessory": L, "run": L, "low": L, "high": L}, "decided", "constant", False),
        ({"off": D, "accessory": L, "run": L, "cranking": D}, "decided", "accessory", False),
        ({"off": D, "accessory": D, "run": L}, "decided", "ignition", False),
        ({"off": D, "run": D, "side": L}, "decided", "illumination", False),
        ({"off": D, "run": D, "side": L, "low": L, "high": L}, "decided", "illumination", False),
        ({"off": L, "run": L, "side": L, "low": L, "high": D}, "decided", "high_beam", True),
        ({"off": D, "run": D, "low": L, "high": D}, "undecided", "", False),
        ({"off": D, "low": L, "high": D, "unplugged": L}, "decided", "low_beam", False),
        ({"off": D, "low": L, "high": D, "unplugged": D}, "decided", "high_beam", True),
        ({"off": D, "low": D, "high": L}, "undecided", "", False),
        ({"off": D, "low": D, "high": L, "unplugged": L}, "decided", "high_beam", False),
        ({"off": D, "low": D, "high": L, "unplugged": D}, "decided", "low_beam", True),
        ({"off": D, "side": D, "low": L, "high": L}, "undecided", "", False),
        (
            {"off": D, "side": D, "low": L, "high": L, "unplugged": L},
            "decided",
            "headlamp_common",
            False,
        ),
        ({"off": D, "run": D, "coasting": L}, "leave", "", False),
        ({"off": D, "run": D, "low": D, "high": D}, "undecided", "", False),
        ({"off": D, "run": D, "low": D, "high": D, "lamp_left_v": 0.03}, "decided", "earth", False),
        ({"off": D, "run": D, "low": D, "high": D, "lamp_left_v": 0.4}, "leave", "", False),
        ({"off": D, "run": H}, "leave", "", False),
        ({"off": 0.0, "accessory": 0.2, "run": 12.6}, "decided", "ignition", False),
        ({"off": 0.0, "run": 6.1}, "leave", "", False),
        ({"off": L, "run": D}, "contradiction", "", False),
        ({"accessory": L, "run": D}, "contradiction", "", False),
        ({"run": L, "side": D}, "contradiction", "", False),
        ({"side": L, "low": D, "high": D}, "contradiction", "", False),
        ({"off": 14.0, "run": 42.0}, "contradiction", "", False),
        ({"off": -5.0}, "contradiction", "", False),
        ({}, "incomplete", "", False),
        ({"off": D}, "incomplete", "", False),
    ],
)
def test_pattern(readings: dict[str, object], standing: str, function: str, earth: bool) -> None:
    got = verdict(**readings)
    assert (got.standing, got.function, got.switched_on_earth) == (standing, function, earth)
    assert got.words
    assert got.why
    if standing in ("undecided", "incomplete"):
        assert got.next_test


def test_five_taps_name_the_earth_switched_high_beam() -> None:
    readings: dict[str, object] = {"off": D, "run": D, "low": L, "high": D, "unplugged": D}
    for state in readings:
        fewer = {s: v for s, v in readings.items() if s != state}
        assert verdict(**fewer).function != "high_beam" or state in ("off", "run")
    got = verdict(**readings)
    assert got.words == "High-beam wire, switched on the earth side"


def test_24_volts_are_judged_by_their_own_supply() -> None:
    readings: dict[str, object] = {"off": 0.1, "accessory": 0.1, "run": 25.0}
    assert verdict(nominal_v=24, **readings).function == "ignition"
    assert verdict(nominal_v=12, **readings).standing == "contradiction"


def test_cautions_where_a_lamp_must_not_be_used() -> None:
    assert len(verdict(off=D, colour="yellow", supervised=True).cautions) == 1
    sleeve = Probe(id="w1", name="Yellow sleeve", place="under the seat")
    assert "air-bag" in classify(sleeve, nominal_v=12, supervised=True).cautions[0]


@given(
    st.dictionaries(st.sampled_from(PROBE_STATES), st.sampled_from([L, D, H]), max_size=8),
    st.sampled_from([None, L, D, H]),
)
def test_any_readings_get_one_verdict_and_never_a_function_without_ground(
    readings: dict[str, str], unplugged: str | None
) -> None:
    got = verdict(unplugged=unplugged, **readings)
    assert got.function == "" or got.standing == "decided"
    sagging = ("coasting", "cranking")  # a supply that sags is no shared wire
    if H in [v for s, v in readings.items() if s not in sagging] and got.function != "charging":
        assert got.standing == "leave"


def test_using_a_wire_tells_the_job_how_headlights_switch() -> None:
    job = Job(name="J", vehicle=Vehicle(headlamps="positive"))
    job = apply(job, AddProbe(name="Lamp", colour="green", place="left headlamp", cavity="1"))
    with pytest.raises(EditRefusedError, match="do not name it yet"):
        apply(job, UseProbe(probe_id="w1"))
    for state, value in {"off": D, "run": D, "low": L, "high": D, "unplugged": D}.items():
        job = apply(job, ReadProbe(probe_id="w1", state=state, value=value))  # type: ignore[arg-type]
    job = apply(job, UseProbe(probe_id="w1"))
    assert (job.vehicle.headlamps, job.vehicle.headlamp_common) == ("earth", "with_lights")
    assert job.survey.known[0].words == "Lamp green at left headlamp, 1"
    lamps = AccessoryDraft(name="Driving", watts=60, use=Use(key="always", lights="high"))
    made = design(apply(job, AddAccessory(accessory=lamps)), CATALOGUE).circuits[0]
    assert made.scheme.key == "high_beam_earth"
    assert made.installation is not None
    details = {d.ref: d.detail for d in made.installation.devices.values()}
    assert "high beam Lamp green at left headlamp, 1" in details["HL"]


def test_same_coloured_wires_stay_apart_by_place_and_cavity() -> None:
    job = apply(Job(name="J"), AddProbe(name="Lamp", colour="green", place="left", cavity="1"))
    job = apply(job, AddProbe(name="Lamp", colour="green", place="left", cavity="2"))
    assert [p.id for p in job.survey.probes] == ["w1", "w2"]
    with pytest.raises(EditRefusedError, match="place or cavity"):
        apply(job, AddProbe(name="Lamp", colour="green", place="left", cavity="2"))


@pytest.mark.parametrize(
    ("job_name", "wanted"),
    [
        (
            "Marmot",
            [
                ("decided", "high_beam"),
                ("undecided", ""),
                ("undecided", ""),
                ("decided", "ignition"),
                ("leave", ""),
            ],
        ),
        ("Bluebell", [("decided", "ignition"), ("decided", "illumination")]),
        ("Kestrel", [("decided", "ignition"), ("leave", "")]),
    ],
)
def test_demo_probe_tables(job_name: str, wanted: list[tuple[str, str]]) -> None:
    job = demo(job_name)
    supervised = job.vehicle.data_bus == "supervised"
    got = [
        classify(p, nominal_v=job.vehicle.nominal_v, supervised=supervised)
        for p in job.survey.probes
    ]
    assert [(v.standing, v.function) for v in got] == wanted
    assert all(bool(v.cautions) == supervised for v in got)
