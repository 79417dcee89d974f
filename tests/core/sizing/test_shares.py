"""Least copper of feeders and branches against trying every combination."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ready_trail.core.design import design
from ready_trail.core.design.feeders import tree_of
from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.job import Accessory, Channel, Circuit, Job, Point, Position
from ready_trail.core.sizing import Held, Leg, SizingRequest, Upstream, size
from ready_trail.core.sizing.shares import Node, equal_shares_g, forget_sizes, least_copper
from ready_trail.formats.job_json import read_job
from sizing_support import asked
from support import CATALOGUE, segment

SIZES = [c.size for c in CATALOGUE.wires("awg")]
AMPS = st.sampled_from([1.0, 2.5, 5.0, 8.0, 12.0, 18.0])
LENGTHS = st.sampled_from([0.5, 1.5, 3.0, 5.0, 8.0])
LIMITS = st.sampled_from([0.36, 0.6, 1.2])


def request(current_a: float, length_m: float, limit_v: float) -> SizingRequest:
    way = (Leg(length_m=length_m, ambient_c=50.0),)
    return asked(
        current_a=current_a,
        out=way,
        back=way,
        chassis_ohm=0.0,
        drop_limit_v=limit_v,
        relay=None,
        minimum_mm2=0.5,
    )


@st.composite
def trees(draw: st.DrawFn) -> Node:
    """A feeder with one to three leaves; perhaps a second feeder with two behind it."""
    count = draw(st.sampled_from([0, 0, 0, 1, 2]))
    kids: list[Node] = []

    def leaf(name: str) -> Node:
        asked = request(draw(AMPS), draw(LENGTHS), draw(LIMITS))
        return Node(id=name, request=asked, by_bus=draw(st.booleans()))

    def feeder(name: str, kids: list[Node]) -> Node:
        total_a = sum(k.request.current_a for k in kids)
        limit_v = min(k.request.drop_limit_v for k in kids)
        asked = request(total_a, draw(LENGTHS), limit_v)
        if draw(st.integers(0, 5)) == 0:
            asked = replace(asked, held=Held(size=draw(st.sampled_from(SIZES[4:9]))))
        bus_a = sum(k.request.current_a for k in kids if k.by_bus)
        return Node(id=name, request=asked, out_a=total_a, back_a=bus_a, children=tuple(kids))

    if count:
        kids.append(feeder("f2", [leaf(f"g{n}") for n in range(count)]))
    kids += [leaf(f"l{n}") for n in range(draw(st.integers(1, 2)))]
    return feeder("f1", kids)


def brute(tree: Node) -> tuple[int, float]:
    """The least cost over every size of every feeder, reckoned from scratch."""
    feeders = list(walk(tree))
    best = (99, 0.0)
    allowed = [[n.request.held.size] if n.request.held.size else SIZES for n in feeders]
    for sizes in itertools.product(*allowed):
        cost = total(tree, dict(zip((n.id for n in feeders), sizes, strict=True)), NONE, NONE)
        if cost is not None and cost < best:
            best = cost
    return best


NONE = Upstream(resistance_ohm=0.0, conductor_drop_v=0.0, path_drop_v=0.0)


def walk(node: Node) -> Iterator[Node]:
    if node.children:
        yield node
    for child in node.children:
        yield from walk(child)


def total(
    node: Node, sizes: Mapping[str, str], out: Upstream, back: Upstream
) -> tuple[int, float] | None:
    both = add(out, back) if node.by_bus else out
    behind = replace(node.request, upstream=None if both == NONE else both)
    if not node.children:
        made = size(behind, CATALOGUE)
        if made.chosen is None:
            return 1, 0.0
        return (0 if made.ok else 1), made.chosen.mass_g
    by_hand = not node.request.held.size
    made = size(replace(behind, held=Held(size=sizes[node.id])), CATALOGUE)
    if made.chosen is None or (by_hand and not made.ok):
        return None
    step = made.chosen
    out_ohm = step.wire_ohm - step.back_ohm
    other_ohm = made.own_ohm - step.wire_ohm
    ahead = add(
        out,
        Upstream(
            resistance_ohm=out_ohm + other_ohm,
            conductor_drop_v=node.out_a * out_ohm,
            path_drop_v=node.out_a * (out_ohm + other_ohm),
        ),
    )
    behind = add(
        back,
        Upstream(
            resistance_ohm=step.back_ohm,
            conductor_drop_v=node.back_a * step.back_ohm,
            path_drop_v=node.back_a * step.back_ohm,
        ),
    )
    fails, mass_g = 0, step.mass_g
    for child in node.children:
        part = total(child, sizes, ahead, behind)
        if part is None:
            return None
        fails, mass_g = fails + part[0], mass_g + part[1]
    return fails, mass_g


def add(a: Upstream, b: Upstream) -> Upstream:
    return Upstream(
        resistance_ohm=a.resistance_ohm + b.resistance_ohm,
        conductor_drop_v=a.conductor_drop_v + b.conductor_drop_v,
        path_drop_v=a.path_drop_v + b.path_drop_v,
    )


@settings(max_examples=150, deadline=None)
@given(tree=trees())
def test_least_copper_equals_trying_everything(tree: Node) -> None:
    found = least_copper(tree, CATALOGUE)
    fails, mass_g = brute(tree)
    assume(fails < 99)
    assert found.fails == fails
    if not fails:
        assert found.mass_g == pytest.approx(mass_g)
    for node in walk(tree):
        if node.request.held.size and node.id in found.sizes:
            assert found.sizes[node.id] == node.request.held.size


@settings(max_examples=60, deadline=None)
@given(forest=st.lists(trees(), min_size=2, max_size=5))
def test_what_was_sized_before_changes_no_answer(forest: list[Node]) -> None:
    """Nodes of one id with other requests, asked in turn: each tree gets what it gets alone."""
    alone = []
    for tree in forest:
        forget_sizes()
        alone.append(least_copper(tree, CATALOGUE))
    assert [least_copper(tree, CATALOGUE) for tree in [*forest, *forest]] == alone * 2


def _long_block() -> Job:
    """A block far away that feeds four small loads near it."""
    point = Point(
        id="p1",
        number=1,
        kind="fuse_block",
        name="Rear block",
        zone="cabin",
        positions=tuple(Position(name=str(n)) for n in range(1, 5)),
    )
    loads = tuple(Accessory(id=f"a{n}", name=f"Lamp {n}", watts=60) for n in range(4, 8))
    feeder = Circuit(
        id="c2",
        number=2,
        name="Feeder",
        feeds="p1",
        run=(segment("engine_bay", 1.0), segment("cabin", 5.0)),
    )
    circuits = tuple(
        Circuit(
            id=f"c{n}",
            number=n,
            name=f"Lamp {n}",
            accessory_ids=(f"a{n}",),
            start=Channel(point="p1", position=str(n - 3)),
            run=(segment("cabin", 2.5),),
        )
        for n in range(4, 8)
    )
    return Job(
        name="Test", last_number=9, points=(point,), accessories=loads, circuits=(feeder, *circuits)
    )


def test_the_design_of_a_whole_job_takes_what_is_least_and_keeps_what_is_held() -> None:
    job = _long_block()
    made = design(job, CATALOGUE)
    least = made.plan.least["c2"]
    chosen = made.circuit("c2").sizing.chosen
    assert chosen is not None
    assert chosen.conductor.size == least.sizes["c2"]
    assert made.count("caution") == 0
    masses = {}
    for rung in made.circuit("c2").sizing.ladder:
        held = apply(job, HoldChoice(circuit_id="c2", what="size", value=rung.conductor.size))
        other = design(held, CATALOGUE)
        if other.count("stop") == other.count("caution") == 0:
            sizings = [c.sizing.chosen for c in other.circuits]
            masses[rung.conductor.size] = sum(s.mass_g for s in sizings if s is not None)
    assert min(masses, key=lambda s: masses[s]) == chosen.conductor.size
    assert least.mass_g == pytest.approx(masses[chosen.conductor.size])
    tree = tree_of(made.plan, job.circuits[0])
    assert tree is not None
    equal_g = equal_shares_g(tree, CATALOGUE)
    assert equal_g is not None
    assert equal_g >= least.mass_g - 1e-6


def test_a_long_feeder_saves_copper_against_equal_shares() -> None:
    path = Path(__file__).parents[2] / "data" / "jobs" / "long_feeder_home_returns.json"
    made = design(read_job(path.read_bytes(), CATALOGUE), CATALOGUE)
    feeder = next(c.circuit for c in made.feeders)
    tree = tree_of(made.plan, feeder)
    assert tree is not None
    equal_g = equal_shares_g(tree, CATALOGUE)
    assert equal_g is not None
    assert made.plan.least[feeder.id].mass_g < 0.85 * equal_g
