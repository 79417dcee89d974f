"""Seeded mistakes: every finding has a way that leads to it, and its question one right answer."""

from __future__ import annotations

from functools import lru_cache
from random import Random

import pytest

from ready_trail.core.design import Design, design
from ready_trail.core.practice.mistakes import CODES, NoMistakeError, mistake, seed_for, seeded
from ready_trail.core.practice.stated import stated
from support import CATALOGUE, demo

TITLES = {code: rule.rule for code, rule in CATALOGUE.finding_rules.items()}
VEHICLES = ("Kestrel", "Bluebell", "Marmot")


@lru_cache
def vehicle(name: str) -> Design:
    return design(demo(name), CATALOGUE)


def test_every_finding_has_a_way() -> None:
    assert set(CODES) == set(TITLES)


@pytest.mark.parametrize("code", CODES)
def test_a_way_leads_to_its_finding_on_a_demo_vehicle(code: str) -> None:
    """The finding is new there, is a cause and no consequence, and what was stated can be read."""
    found = None
    for name in VEHICLES:
        made = vehicle(name)
        found = next(seeded(made, code, CATALOGUE, Random(3)), None)
        if found is not None:
            break
    assert found is not None
    wrong, circuit, finding = found
    everywhere = (*made.findings, *(f for c in made.circuits for f in c.findings))
    assert (code, finding.place) not in {(f.code, f.place) for f in everywhere}
    own = wrong.findings if circuit is None else wrong.circuit(circuit.circuit.id).findings
    assert finding in own
    assert finding.is_open
    assert not finding.follows
    assert wrong.job != made.job
    assert all(t.facts for t in stated(wrong.job, circuit))


def test_a_question_has_one_right_answer_and_is_the_same_for_its_seed() -> None:
    codes = set()
    for seed in range(24):
        found = mistake(vehicle("Kestrel"), TITLES, CATALOGUE, seed)
        shown = {f.code for f in found.made.findings}
        shown |= {f.code for c in found.made.circuits for f in c.findings}
        right = [c for c in found.choices if c in {TITLES[code] for code in shown}]
        assert right == [found.choices[found.right]] == [TITLES[found.finding.code]]
        assert len(set(found.choices)) == 4
        codes.add(found.finding.code)
    again = mistake(vehicle("Kestrel"), TITLES, CATALOGUE, 23)
    assert (again.choices, again.finding.text) == (found.choices, found.finding.text)
    assert len(codes) >= 18, "one asks after another"
    for code in ("latches", "estimate", "one_end_fused"):
        asked = mistake(vehicle("Kestrel"), TITLES, CATALOGUE, seed_for(code, Random(5)))
        assert asked.finding.code == code, "what was missed is asked again"


def test_what_was_stated_names_the_mistake_itself() -> None:
    """Nothing that a mistake may be in is left out: here the switch, the hole, the battery."""
    for code, fact in (
        ("latches", "momentary no"),
        ("winch_return", "back: kind chassis"),
        ("bare_hole", "grommet no"),
        ("interrupting", "battery: resistance 1 mΩ"),
        ("wrong_voltage", "at 60 V"),
    ):
        texts = []
        for wrong, circuit, _ in seeded(vehicle("Marmot"), code, CATALOGUE, Random(2)):
            texts = [f"{k} {v}" for t in stated(wrong.job, circuit) for k, v in t.facts]
            if any(fact in text for text in texts):
                break
        assert any(fact in text for text in texts), (code, texts)


def test_a_job_with_nothing_on_it_is_said() -> None:
    job = demo("Bluebell")
    bare = job.model_copy(update={"circuits": (), "accessories": (), "points": ()})
    with pytest.raises(NoMistakeError):
        mistake(design(bare, CATALOGUE), TITLES, CATALOGUE, 1)
