"""Drift is told before it fails; care follows from hand-over and from what was done."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from ready_trail.core.design import design
from ready_trail.core.prove.progress import Reading, mended
from ready_trail.core.prove.verdict import Limits
from ready_trail.core.record.care import due_of
from ready_trail.core.record.drift import course_of
from ready_trail.core.record.facts import CareDone, HandedOver
from support import CATALOGUE, demo

LIMITS = Limits(expected=0.02, pass_from=0.0, pass_to=0.05, fail_under=-0.01, fail_over=0.08)


def read(value: float, day: str) -> Reading:
    return Reading(
        circuit_id="c1",
        test="t",
        asked="",
        instrument="volts",
        value=value,
        verdict="pass",
        made_at=f"{day}T10:00:00Z",
    )


def test_an_earth_that_goes_from_15_to_40_mv_is_told() -> None:
    course = course_of("t", [read(0.015, "2024-05-01"), read(0.040, "2026-05-01")], LIMITS)
    assert course is not None
    assert course.drifts
    assert course.leaves is not None
    # 25 mV in two years: the last 10 mV take 0.8 years
    assert abs((course.leaves - date(2027, 2, 16)).days) <= 2


@pytest.mark.parametrize(
    ("values", "told"),
    [
        ((0.020, 0.024), False),  # a little of what is left
        ((0.040, 0.020), False),  # towards the middle of its band's lower side: far from 0
        ((0.020, 0.060), False),  # it fails already: that is told elsewhere
        ((0.020, 0.036), True),
    ],
)
def test_what_moves_little_or_fails_already_is_no_drift(
    values: tuple[float, float], told: bool
) -> None:
    first, last = values
    limits = Limits(expected=0.0, pass_from=-0.05, pass_to=0.05, fail_under=-0.1, fail_over=0.1)
    course = course_of("t", [read(first, "2024-05-01"), read(last, "2026-05-01")], limits)
    assert course is not None
    assert course.drifts is told


def test_readings_before_a_mend_say_nothing_of_now() -> None:
    fixed = mended("c1", "bad:x", "joint made anew", "", "2025-01-01T10:00:00Z")
    facts = [read(0.045, "2024-05-01"), fixed, read(0.015, "2025-01-02"), read(0.016, "2026-01-02")]
    course = course_of("t", facts, LIMITS)
    assert course is not None
    assert [p.value for p in course.points] == [0.015, 0.016]
    assert not course.drifts
    assert course_of("t", facts[:3], LIMITS) is None


def test_care_counts_from_the_hand_over_and_then_from_what_was_done() -> None:
    made = design(demo(), CATALOGUE)
    assert due_of(made, []) == ()
    seal = HandedOver(
        circuit_id="c16", revision=1, design="", steps=1, readings=0, made_at="2026-03-01T08:00:00Z"
    )
    due = {d.care.key: d for d in due_of(made, [seal])}
    assert set(due) == {"torque", "heat", "earths", "sleeves", "winch", "spares"}, "no 2nd battery"
    assert due["torque"].due == date(2026, 3, 15)
    assert due["torque"].state(date(2026, 3, 16)) == "over"
    done = CareDone(care="torque", km=512, made_at="2026-03-14T08:00:00Z")
    again = {d.care.key: d for d in due_of(made, [seal, done])}
    assert abs(again["torque"].due - date(2027, 3, 14)) <= timedelta(days=1)
    assert not again["torque"].is_first
    assert again["winch"].due == due["winch"].due
