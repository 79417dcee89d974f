"""Hunts: the best strategy finds what readings can tell apart; the complaint is what shows."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import numpy as np
import pytest

from ready_trail.core.design import design
from ready_trail.core.practice import hunt
from ready_trail.core.practice.broken import Broken, complaint, shown, symptom
from ready_trail.core.practice.strategy import (
    NAME_MIN,
    WRONG_MIN,
    Step,
    best_hunt,
    minutes_of,
    replay,
    stages,
)
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.diagnose import apart
from ready_trail.core.prove.free import clamp_test, free_test, fuse_test, named, points, with_free
from ready_trail.core.prove.plan import Plan, plan_of
from support import CATALOGUE, circuit_named, demo

CIRCUITS = ("Wide driving lamp", "Roof light bar", "Instrument cooler", "Amber beacon")
SINGLE: tuple[hunt.Level, ...] = ("open", "joint", "other")
Played = tuple[Plan, Bench]


@pytest.fixture(scope="module")
def plans() -> dict[str, Played]:
    job = demo()
    made = design(job, CATALOGUE)
    found = {}
    for name in CIRCUITS:
        plan, bench = (make(made, circuit_named(job, name)) for make in (plan_of, bench_of))
        assert isinstance(plan, Plan)
        assert isinstance(bench, Bench)
        found[name] = plan, bench
    return found


def broken(played: Played, *hidden: hunt.Hidden) -> Broken:
    plan, bench = played
    return Broken(bench=bench, matrix=plan.matrix, rows=tuple(h.row for h in hidden))


def is_apart(plan: Plan, hidden: hunt.Hidden) -> bool:
    """Whether what is proposed to be read tells a fault from every other, as causes are ranked."""
    matrix = plan.matrix
    told = [n for n, test in enumerate(matrix.tests) if test.band.most is None]
    own = matrix.readings[hidden.row]
    for row, owner in enumerate(matrix.owner):
        if matrix.candidates[int(owner)].key != hidden.candidate:
            other = matrix.readings[row]
            off = [apart(matrix, n, float(own[n]), float(other[n])) for n in told]
            if max(np.nan_to_num(off, nan=0.0)) < 5.0:
                return False
    return True


def test_the_best_strategy_finds_what_readings_tell_apart(plans: dict[str, Played]) -> None:
    hunted = 0
    for played in plans.values():
        for level in SINGLE:
            for hidden in hunt.hidden_faults(played[0].matrix, level)[::3]:  # all take a minute
                vehicle = broken(played, hidden)
                best = best_hunt(vehicle)
                hunted += 1
                steps = [Step(what="read", key=t.key) for t in best.tests]
                wrong = best.stages[0].wrong
                steps += [Step(what="name", key=k) for k in (*wrong, best.stages[0].named) if k]
                assert best.minutes == pytest.approx(minutes_of(stages(vehicle, steps)))
                if is_apart(played[0], hidden):
                    assert best.is_found, hidden.candidate
                    assert not wrong, hidden.candidate
    assert hunted >= 70


def test_two_faults_are_found_one_after_the_other(plans: dict[str, Played]) -> None:
    """Naming one mends it; the other is then all that is wrong, and is complained of."""
    chance, wrong = Random(7), 0
    for played in plans.values():
        plan, bench = played
        for _ in range(4):
            first, second = hunt.hide(bench, plan.matrix, "two", chance)
            vehicle = broken(played, first, second)
            subjects = [c.subject for c in vehicle.faults]
            assert len(set(subjects)) == 2
            best = best_hunt(vehicle)
            assert best.is_found
            named_first, named_last = (stage.named for stage in best.stages)
            assert {named_first, named_last} == {first.candidate, second.candidate}
            wrong += sum(len(stage.wrong) for stage in best.stages)
            steps = [Step(what="name", key=named_first)]
            left = stages(vehicle, steps)[-1]
            assert [c.key for c in left.vehicle.faults] == [named_last]
            assert left.symptom == symptom(left.vehicle)
            assert minutes_of(stages(vehicle, steps)) == pytest.approx(NAME_MIN)
            assert not left.vehicle.means(named_first) or named_first == named_last
    assert wrong <= 12, "mostly it knows"


def test_a_complaint_agrees_with_what_shows(plans: dict[str, Played]) -> None:
    seen = set()
    for played in plans.values():
        for level in SINGLE:
            for hidden in hunt.hidden_faults(played[0].matrix, level):
                vehicle = broken(played, hidden)
                at = symptom(vehicle)
                assert at is not None
                test = vehicle.matrix.tests[at]
                words = complaint(vehicle, at)
                got = shown(test, float(vehicle.reads([test])[0]))
                sound = shown(test, float(vehicle.sound([test])[0]))
                assert got != sound
                kind = next(k for k in ("by itself", "does not work", "weak") if k in words)
                seen.add(kind)
                assert (kind == "by itself") == (sound == "off"), words
                if kind == "does not work":
                    assert got == "off"
    assert {"by itself", "does not work"} <= seen


def test_a_wrong_name_costs_and_a_hunt_is_replayed(plans: dict[str, Played]) -> None:
    played = plans["Wide driving lamp"]
    plan, bench = played
    (hidden,) = hunt.hide(bench, plan.matrix, "open", Random(4))
    vehicle = broken(played, hidden)
    best = best_hunt(vehicle)
    read = [Step(what="read", key=t.key) for t in best.tests]
    other = next(c.key for c in plan.matrix.candidates if c.kind == "welded")
    assert not vehicle.means(other)
    wrong = [Step(what="name", key=other)] * 2
    right = [Step(what="name", key=hidden.candidate)]
    slow = minutes_of(stages(vehicle, [*read, *wrong, *right]))
    assert slow == pytest.approx(best.minutes + 2 * WRONG_MIN)
    acts = replay(stages(vehicle, [*read, *right]))
    assert [a.test for a in acts] == list(best.tests)
    assert all(a.better is None for a in acts), "the best strategy had nothing better"
    assert acts[-1].leaders[0][1] >= 0.9
    detour = next(t for t in plan.matrix.tests if t not in best.tests)
    assert replay(stages(vehicle, [Step(what="read", key=detour.key), *read]))[0].better


def test_free_readings_of_a_hunt_are_those_that_causes_are_found_from(
    plans: dict[str, Played],
) -> None:
    """What one vehicle reads by itself is what it reads beside all others; a pulled fuse tells."""
    played = plans["Roof light bar"]
    plan, bench = played
    known = points(bench)
    back = known["Battery -"]
    fuse, clamp = fuse_test(bench, "F15"), clamp_test(bench, "C15-W2", bench.working)
    assert fuse is not None
    assert clamp is not None
    tests = [free_test(bench, "volts", known["K15 87"], back, bench.working), clamp, fuse]
    keys = [t.key for t in tests]
    assert [t.key for t in named(bench, [*keys, "free:fuse:F99@", "free:odd:a~b@", ""])] == keys
    wider = with_free(bench.design, plan, keys)
    blown = 0
    for hidden in hunt.hidden_faults(plan.matrix, "open"):
        vehicle = broken(played, hidden)
        alone = vehicle.reads(tests)
        beside = replace(vehicle, matrix=wider.matrix).reads(tests)
        assert alone == pytest.approx(beside, abs=2e-3, nan_ok=True)
        is_fuse = hidden.candidate == "blown.f15:F15"
        assert (shown(fuse, alone[2]) == "blown") == is_fuse, hidden.candidate
        blown += is_fuse
    assert blown == 1
    assert shown(fuse, float(vehicle.sound([fuse])[0])) == "whole"
    acts = replay(stages(replace(vehicle, matrix=wider.matrix), [Step(what="read", key=keys[2])]))
    assert acts[0].shown == shown(fuse, alone[2])
    assert acts[0].minutes == pytest.approx(2.0), "half a minute, and a place to reach"


def test_a_level_of_which_nothing_shows_is_said(plans: dict[str, Played]) -> None:
    plan, bench = plans["Wide driving lamp"]
    blind = replace(plan.matrix, readings=np.tile(plan.matrix.middle, (len(plan.matrix.owner), 1)))
    for level in hunt.LEVELS:
        with pytest.raises(hunt.NothingShowsError):
            hunt.hide(bench, blind, level, Random(1))
