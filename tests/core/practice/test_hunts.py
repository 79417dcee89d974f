"""Hunts: the best strategy finds what readings can tell apart; the complaint is what shows."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import numpy as np
import pytest

from ready_trail.core.design import design
from ready_trail.core.practice import hunt
from ready_trail.core.prove.diagnose import apart
from ready_trail.core.prove.plan import Plan, plan_of
from support import CATALOGUE, circuit_named, demo

CIRCUITS = ("Wide driving lamp", "Roof light bar", "Instrument cooler", "Amber beacon")


@pytest.fixture(scope="module")
def plans() -> dict[str, Plan]:
    job = demo()
    made = design(job, CATALOGUE)
    found = {name: plan_of(made, circuit_named(job, name)) for name in CIRCUITS}
    return {name: plan for name, plan in found.items() if plan is not None}


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


def test_the_best_strategy_finds_what_readings_tell_apart(plans: dict[str, Plan]) -> None:
    hunted = 0
    for plan in plans.values():
        for level in hunt.LEVELS:
            for hidden in hunt.hidden_faults(plan.matrix, level):
                columns, minutes, named = hunt.best_hunt(plan, hidden)
                hunted += 1
                assert minutes == pytest.approx(
                    hunt.minutes_of(plan, hidden, columns, 0, named=True)
                )
                if is_apart(plan, hidden):
                    assert hunt.is_found(plan.matrix, hidden, named), hidden.candidate
    assert hunted >= 200


def test_a_complaint_agrees_with_what_shows(plans: dict[str, Plan]) -> None:
    seen = set()
    for plan in plans.values():
        for level in hunt.LEVELS:
            for hidden in hunt.hidden_faults(plan.matrix, level):
                matrix = plan.matrix
                test = matrix.tests[hidden.symptom]
                words = hunt.complaint(matrix, hidden)
                got = hunt.shown(test, hunt.place_of(matrix, hidden, hidden.symptom))
                sound = hunt.shown(test, float(matrix.middle[hidden.symptom]))
                assert got != sound
                kind = next(k for k in ("by itself", "does not work", "weak") if k in words)
                seen.add(kind)
                assert (kind == "by itself") == (sound == "off"), words
                if kind == "does not work":
                    assert got == "off"
    assert {"by itself", "does not work"} <= seen


def test_a_wrong_name_costs_and_a_hunt_is_replayed(plans: dict[str, Plan]) -> None:
    plan = plans["Wide driving lamp"]
    hidden = hunt.hide(plan.matrix, "open", Random(4))
    columns, minutes, _ = hunt.best_hunt(plan, hidden)
    assert hunt.minutes_of(plan, hidden, columns, 2, named=True) == pytest.approx(
        minutes + 2 * hunt.WRONG_MIN
    )
    acts = hunt.replay(plan, hidden, columns)
    assert [a.column for a in acts] == list(columns)
    assert all(a.better is None for a in acts), "the best strategy had nothing better"
    shares = [a.leaders[0][1] for a in acts]
    assert shares[-1] >= 0.9
    detour = next(n for n in range(len(plan.matrix.tests)) if n not in columns)
    slow = hunt.replay(plan, hidden, (detour, *columns))
    assert slow[0].better is not None
    other = next(c.key for c in plan.matrix.candidates if c.kind == "welded")
    assert not hunt.is_found(plan.matrix, hidden, other)


def test_a_level_of_which_nothing_shows_is_said(plans: dict[str, Plan]) -> None:
    plan = plans["Wide driving lamp"]
    blind = replace(plan.matrix, readings=np.tile(plan.matrix.middle, (len(plan.matrix.owner), 1)))
    with pytest.raises(hunt.NothingShowsError):
        hunt.hide(blind, "joint", Random(1))
