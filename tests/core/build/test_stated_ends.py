"""Terminals as they are: what a maker says that a wire ends in changes lists and steps."""

from __future__ import annotations

import pytest

from ready_trail.core.build import Build, build_of
from ready_trail.core.design import design
from ready_trail.core.edits import ChangeAccessory, ChangePoint, SetVehicle, apply
from ready_trail.core.job import Job
from support import CATALOGUE, demo


def built(job: Job) -> Build:
    return build_of(design(job, CATALOGUE), CATALOGUE)


def at_block(build: Build) -> set[str]:
    return {c.start.label for c in build.cuts.cuts if c.wire == c.label and c.from_words == "F15 2"}


def with_block(**facts: object) -> Job:
    job = demo()
    return apply(job, ChangePoint(point=job.points[0].model_copy(update=facts)))


@pytest.mark.parametrize(
    ("facts", "label"),
    [
        ({}, "Female blade 6.3 mm, yellow"),
        ({"ends": "fork"}, "Fork, yellow"),
        ({"ends": "ferrule"}, "Ferrule, yellow"),
        ({"ends_stud": "M5"}, "Ring M5, yellow"),
    ],
)
def test_what_a_blocks_positions_take_is_what_is_bought_and_crimped(
    facts: dict[str, object], label: str
) -> None:
    build = built(with_block(**facts))
    assert at_block(build) == {label}
    assert any(line.label == label for line in build.parts)
    joined = [d for s in build.steps for d in s.doing if d.startswith("C15-W1 ") and "F15" in d]
    assert joined
    assert all(label in words for words in joined)


def test_a_wire_that_is_thicker_than_a_position_takes_steps_down_or_stops() -> None:
    thick = next(c for c in built(demo()).cuts.cuts if c.label == "C15-W1").conductor.area_mm2
    build = built(with_block(takes_mm2=round(thick * 0.9, 2)))
    tails = [c for c in build.cuts.cuts if c.wire == "C15-W1" and c.label != c.wire]
    made = design(with_block(takes_mm2=round(thick * 0.9, 2)), CATALOGUE)
    stops = [f.code for c in made.circuits for f in c.findings if f.code == "no_fit"]
    assert tails or stops
    small = design(with_block(takes_mm2=0.5), CATALOGUE)
    finding = next(f for c in small.circuits for f in c.findings if f.code == "no_fit")
    assert finding.allowed == "0.5 mm²"
    assert finding.actions


def test_a_blocks_torque_is_its_makers_and_no_other_studs_usual_one() -> None:
    told = built(with_block(ends_stud="M5", torque_nm=2.4))
    assert ("M5", 2.4) in {t for s in told.steps for t in s.torques}
    plain = built(with_block(ends_stud="M5"))
    assert ("M5", None) in {t for s in plain.steps for t in s.torques}


def test_a_small_batterys_studs_are_its_own() -> None:
    job = demo("Kestrel")
    battery = job.vehicle.battery.model_copy(update={"stud": "M6", "torque_nm": 3.0})
    vehicle = job.vehicle.model_copy(update={"battery": battery})
    steps = built(apply(job, SetVehicle(vehicle=vehicle))).steps
    (plus,) = [s for s in steps if s.id == "battery:+"]
    assert plus.torques == (("M6", 3.0),)


def test_an_accessory_with_terminals_takes_what_it_says() -> None:
    job = demo()
    radio = next(a for a in job.accessories if a.name == "VHF radio")
    screwed = radio.model_copy(update={"ends": "ferrule"})
    build = built(apply(job, ChangeAccessory(accessory=screwed)))
    ends = {c.end.label for c in build.cuts.cuts if c.to_words == "VHF radio +"}
    assert {e.split(",")[0] for e in ends} == {"Ferrule"}
