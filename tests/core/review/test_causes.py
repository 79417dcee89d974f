"""One cause is one finding: what a feeder's stop does to the circuits behind it is folded."""

from __future__ import annotations

import pytest

from ready_trail.core.design import Design, design
from ready_trail.core.edits import (
    AcceptFinding,
    AccessoryDraft,
    AddAccessory,
    ChangePoint,
    HoldChoice,
    StartAt,
    StartBehindConverter,
    apply,
)
from ready_trail.core.job import AcceptedFinding, Channel, Job, Use, Vehicle
from support import CATALOGUE, circuit_named, demo, job_with


def broken(what: str, value: object) -> Design:
    job = demo()
    feeder = next(c for c in job.circuits if c.name == "Feeder of Bay block")
    hold = HoldChoice.model_validate({"circuit_id": feeder.id, "what": what, "value": value})
    return design(apply(job, hold), CATALOGUE)


def stops(made: Design) -> list[tuple[str, str, str]]:
    return [
        (c.circuit.name, f.code, f.follows)
        for c in made.circuits
        for f in c.findings
        if f.severity == "stop"
    ]


@pytest.mark.parametrize(
    ("what", "value", "own"),
    [
        ("size", "22", {"far_short_burns", "far_short_slow", "fuse_over_wire"}),
        ("fuse_a", 500.0, {"held_rating"}),
        ("scheme", "winch", {"scheme", "winch_return"}),
    ],
)
def test_a_broken_feeder_is_told_once_and_nothing_behind_it_is_ready(
    what: str, value: object, own: set[str]
) -> None:
    made = broken(what, value)
    roots = {(name, code) for name, code, follows in stops(made) if not follows}
    assert roots == {
        *(("Feeder of Bay block", code) for code in own),
        ("Rear work lights", "fuse_over_wire"),  # a mistake of its own
    }
    assert made.count("stop") == len(roots)
    behind = [c for c in made.circuits if "c2" in c.ahead]
    assert len(behind) > 8
    assert not any(c.is_ready for c in behind), "folded is not mended"
    assert {follows for _, _, follows in stops(made)} == {"", "Feeder of Bay block"}


def test_an_accepted_stop_causes_nothing_that_is_folded() -> None:
    made = broken("size", "22")
    job = made.job
    feeder = next(c for c in made.circuits if c.circuit.name == "Feeder of Bay block")
    for finding in feeder.findings:
        if finding.severity == "stop":
            told = AcceptedFinding(
                code=finding.code,
                place=finding.place,
                reason="seen",
                severity="stop",
                text=finding.text,
                found=finding.found,
                allowed=finding.allowed,
            )
            job = apply(job, AcceptFinding(circuit_id=feeder.circuit.id, accepted=told))
    after = design(job, CATALOGUE)
    told = {name: follows for name, code, follows in stops(after) if code == "unsized"}
    assert told["Feeder of Cabin block"] == "", "it stands by itself now"


def test_a_position_that_is_too_small_has_ways_out_that_mend_it() -> None:
    job = demo()
    block = job.points[0]
    told = tuple(
        p.model_copy(update={"rating_a": 5.0}) if p.name == "6" else p for p in block.positions
    )
    free = told[-1].model_copy(update={"name": "9", "legend": "", "rating_a": 30.0})
    changed = block.model_copy(update={"positions": (*told, free)})
    made = design(apply(job, ChangePoint(point=changed)), CATALOGUE)
    cooler = next(c for c in made.circuits if c.circuit.name == "Instrument cooler")
    stop = next(f for f in cooler.findings if f.code == "fuse_over_element")
    labels = [a.label for a in stop.actions]
    assert labels == [
        "Take position 9 of Bay block",
        "Start it at the battery, with a fuse of its own",
    ]
    for action in stop.actions:
        after = design(apply(made.job, action.edit), CATALOGUE).circuit(cooler.circuit.id)
        assert "fuse_over_element" not in {f.code for f in after.findings}


def test_what_an_overloaded_converter_cannot_feed_is_told_once() -> None:
    """Nothing settles behind it, nor at its own feeder: the load is the cause, and has a press."""
    job = Job(name="T", vehicle=Vehicle(nominal_v=24))
    for name, amps in (("Pump", 30.0), ("Lamps", 6.0)):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=name, amps=amps, at_v=13)))
    pump = circuit_named(job, "Pump")
    job = apply(job, StartBehindConverter(circuit_id=pump, output_v=12))
    point = job.points[0].id
    lamps = circuit_named(job, "Lamps")
    job = apply(job, StartAt(circuit_id=lamps, start=Channel(point=point)))
    made = design(job, CATALOGUE)
    feeder = job.feeder_of(point)
    assert feeder is not None
    told = {(name, code): follows for name, code, follows in stops(made)}
    assert told[feeder.name, "converter_limit"] == ""
    unsettled = {name: why for (name, code), why in told.items() if code == "no_operating_point"}
    assert unsettled
    assert set(unsettled.values()) == {feeder.name}
    stop = next(f for f in made.circuit(feeder.id).findings if f.code == "converter_limit")
    after = design(apply(job, stop.actions[0].edit), CATALOGUE)
    assert "no_operating_point" not in {code for _, code, _ in stops(after)}
    assert after.is_ready


def test_a_low_beam_that_is_switched_to_earth_is_followed_by_the_side_lights() -> None:
    made = design(
        job_with(watts=55, use=Use(lights="low"), vehicle=Vehicle(headlamps="earth")), CATALOGUE
    )
    told = {f.code: f for f in made.circuits[0].findings if f.severity == "stop"}
    assert {code: f.follows for code, f in told.items()} == {
        "scheme": "",
        "dead_when_on": "Light bar",
        "pulls_in_off": "Light bar",
    }
    (action,) = told["scheme"].actions
    assert (action.label, action.alters) == ("Let it follow the side lights", ("when", "fuse"))
    assert design(apply(made.job, action.edit), CATALOGUE).is_ready
