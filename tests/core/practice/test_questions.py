"""Short questions: one right answer each, checked another way; spacing; seeded mistakes."""

from __future__ import annotations

import csv
from datetime import UTC, datetime, timedelta
from importlib.resources import files

import pytest

from ready_trail.core.design import design
from ready_trail.core.job.survey import Probe
from ready_trail.core.practice.facts import Answered
from ready_trail.core.practice.questions import KINDS, Ground, items_of, question
from ready_trail.core.practice.spacing import learned, next_item
from ready_trail.core.survey.probe import STATE_WORDS, classify
from support import CATALOGUE, demo

SEEDS = range(300)


@pytest.fixture(scope="module")
def grounds() -> list[Ground]:
    return [
        Ground(made=design(demo(name), CATALOGUE), catalogue=CATALOGUE)
        for name in ("Marmot", "Bluebell")
    ]


def colours() -> dict[str, str]:
    path = files("ready_trail").joinpath("data", "tables", "fuse_colours.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            f"{float(r['rating_a']):g}": r["colour"]
            for r in csv.DictReader(lines)
            if "blade" in r["family"].split("+")
        }


def rights(ground: Ground, kind: str, item: str, choices: tuple[str, ...], asks: str) -> list[str]:
    """The offered answers that are right, worked out apart from the question's own way."""
    if kind == "fuse_colours":
        of = colours()
        if asks.startswith("Which colour"):
            return [c for c in choices if c == of[item]]
        said = asks.partition(" is ")[2].partition(".")[0]
        return [c for c in choices if of.get(c.removesuffix(" A")) == said]
    if kind == "codes":
        names = {c: w.name.lower() for c, w in ground.catalogue.wire_colours.items()}
        parts = [names[p] for p in item.split("/")]
        return [c for c in choices if c.replace(" tracer", "").split(" with a ") == parts]
    if kind == "wires":
        lit, _, dark = asks.partition("lit with ")[2].partition("; dark ")
        readings = [(s, "lit") for s, w in STATE_WORDS.items() if w in lit]
        readings += [(s, "dark") for s, w in STATE_WORDS.items() if w in dark]
        probe = Probe.model_validate(
            {
                "id": "w1",
                "name": "x",
                "readings": tuple({"state": s, "value": v} for s, v in readings),
            }
        )
        words = classify(probe, nominal_v=24.0, supervised=True).words
        return [c for c in choices if c == words]
    if kind == "sizes":
        what, _, circuit_id = item.partition(":")
        sizing = ground.made.circuit(circuit_id).sizing
        if what == "wire":
            order = [r.conductor.label for r in sizing.ladder]
            sound = {r.conductor.label for r in sizing.ladder if not r.rejects}
            fit = [c for c in choices if c in sound]
            return [c for c in fit if order.index(c) == min(order.index(x) for x in fit)]
        load_a = ground.made.circuit(circuit_id).current_a
        holds = [c for c in choices if float(c[:-2]) * sizing.request.rule.share >= load_a]
        return [c for c in holds if float(c[:-2]) == min(float(x[:-2]) for x in holds)]
    return []


@pytest.mark.parametrize("kind", [k for k in KINDS if k not in ("lives", "terminals")])
def test_each_question_has_one_right_answer(grounds: list[Ground], kind: str) -> None:
    asked = 0
    for ground in grounds:
        items = [i for k, i in items_of(ground) if k == kind]
        for seed in SEEDS:
            item = items[seed % len(items)]
            q = question(ground, kind, item, seed)
            assert q == question(ground, kind, item, seed), "the same seed asks the same"
            assert len(q.choices) == len(set(q.choices)) == 4, q
            assert rights(ground, kind, item, q.choices, q.asks) == [q.choices[q.right]], q
            assert q.why
            asked += 1
    assert asked == 2 * len(SEEDS)


def test_a_relays_terminals_are_where_the_letters_are(grounds: list[Ground]) -> None:
    turns = set()
    for seed in SEEDS:
        item = KINDS["terminals"].items(grounds[0])[seed % 5]
        q = question(grounds[0], "terminals", item, seed)
        assert q.face is not None
        assert [t for letter, t in q.face.letters if letter == q.choices[q.right]] == [item]
        turns.add(q.face.turn)
    assert turns == {0, 90, 180, 270}


def test_what_lives_is_solved(grounds: list[Ground]) -> None:
    for ground in grounds:
        items = [i for k, i in items_of(ground) if k == "lives"]
        answers = set()
        for seed in range(60):
            q = question(ground, "lives", items[seed % len(items)], seed)
            volts = float(q.why[0].rpartition("gets ")[2].removesuffix(" V."))
            nominal = float(ground.made.job.vehicle.nominal_v)
            if q.choices[q.right] == "It is on":
                assert volts > nominal / 2
            elif q.choices[q.right] == "It stays off":
                assert volts < nominal / 2
            answers.add(q.choices[q.right])
        assert {"It is on", "It stays off"} <= answers


def test_nothing_repeats_in_a_session_and_what_was_missed_comes_first(
    grounds: list[Ground],
) -> None:
    every = list(items_of(grounds[0]))
    now = datetime(2026, 5, 1, 12, tzinfo=UTC)
    asked: list[tuple[str, str]] = []
    for _ in range(len(every)):
        item = next_item(every, {}, asked, now)
        assert item is not None
        assert item not in asked
        asked.append(item)
    assert next_item(every, {}, asked, now) is None
    assert len({k for k, _ in asked[: len(KINDS)]}) == len(KINDS), "drills take turns"
    stamp = now.isoformat()
    wrong, right = every[0], every[1]
    known = learned(
        [
            Answered(drill=wrong[0], item=wrong[1], is_right=False, at=stamp),
            Answered(drill=right[0], item=right[1], is_right=True, at=stamp),
        ]
    )
    assert known[wrong].due < known[right].due
    assert next_item(every, known, [], now + timedelta(hours=2)) == wrong
    back = learned(
        [
            Answered(drill=right[0], item=right[1], is_right=True, at=stamp),
            Answered(drill=right[0], item=right[1], is_right=True, at="2020-01-01T00:00:00Z"),
        ]
    )
    assert back[right].due >= now, "a clock set back moves nothing into the past"
