"""Few spools: proven against every choice tried by hand, and kept without a finding more."""

from __future__ import annotations

from itertools import pairwise, product
from random import Random

import pytest

from ready_trail.core.build.cuts import cut_list
from ready_trail.core.buy.plans import kept, offers_of
from ready_trail.core.buy.spools import NoPlanError, Option, Spools, Unit, plan_of
from ready_trail.core.design import Design, design
from ready_trail.core.edits import EDIT_ADAPTER, apply
from ready_trail.core.truth import truth_table
from support import CATALOGUE, demo


def some_units(chance: Random) -> list[Unit]:
    """A small job: three to five wires with up to three sizes, over few spools."""
    units = []
    for n in range(chance.randint(3, 5)):
        options = []
        copper_g = chance.uniform(5, 60)
        for k in range(chance.randint(1, 3)):
            spools = chance.sample([f"s{i}" for i in range(5)], chance.randint(1, 2))
            metres = {s: round(chance.uniform(0.1, 4), 2) for s in spools}
            options.append(Option(key=str(k), copper_g=copper_g * 1.5**k, metres=metres))
        units.append(Unit(key=f"u{n}", name="", options=tuple(options)))
    return units


@pytest.mark.parametrize("seed", range(100))
def test_a_plan_is_the_best_of_every_choice(seed: int) -> None:
    chance = Random(seed)
    units = some_units(chance)
    shelf = {f"s{i}": round(chance.uniform(0, 6), 1) for i in chance.sample(range(5), 2)}
    every = [
        plan_of(units, {u.key: o.key for u, o in zip(units, choice, strict=True)}, shelf)
        for choice in product(*(u.options for u in units))
    ]
    solver = Spools(units, shelf)
    for most in range(6):
        least = min((p.copper_g for p in every if p.to_buy <= most), default=None)
        if least is None:
            with pytest.raises(NoPlanError):
                solver.best(most)
            continue
        best = solver.best(most)
        assert best.copper_g == pytest.approx(least)
        assert best.to_buy <= most
    front = solver.front()
    assert all(a.copper_g < b.copper_g for a, b in pairwise(front))
    assert all(a.to_buy > b.to_buy for a, b in pairwise(front))


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_plans_of_the_demo_jobs_are_kept_as_they_say(name: str) -> None:
    made = design(demo(name), CATALOGUE)
    cuts = cut_list(made, CATALOGUE)
    offers = offers_of(made, cuts, CATALOGUE, {})
    assert offers.designed.to_buy == len(cuts.spools)
    assert offers.designed.copper_g == pytest.approx(
        sum(c.conductor.area_mm2 * c.cut_m * 8.89 for s in cuts.spools for c in s.cuts)
    )
    for line in offers.by_colours.values():
        for offer in (line[0], line[len(line) // 2], line[-1]):
            looked = kept(made, offer, CATALOGUE)
            assert looked.same, offer.key
            assert (looked.opens, looked.closes) == ((), ()), offer.key
            assert len(looked.spools) == offer.plan.to_buy
            # the edit survives its way through the store, and a kept plan is what stands first
            document = EDIT_ADAPTER.dump_json(looked.edit)
            assert apply(made.job, EDIT_ADAPTER.validate_json(document)) == looked.made.job
            fuses = [(c.sizing.fuse, c.sizing.relay) for c in made.circuits]
            now = [(c.sizing.fuse, c.sizing.relay) for c in looked.made.circuits]
            assert [(f and f.rating_a, r) for f, r in fuses] == [
                (f and f.rating_a, r) for f, r in now
            ]
            assert states_of(looked.made) == states_of(made)


def states_of(made: Design) -> dict[str, list[bool]]:
    """When each circuit is on."""
    tables = {c.circuit.id: truth_table(c, made.plan) for c in made.circuits}
    return {i: [cell.is_on for cell in t.cells] for i, t in tables.items() if t is not None}


def test_marmot_is_bought_from_twelve_spools() -> None:
    made = design(demo(), CATALOGUE)
    offers = offers_of(made, cut_list(made, CATALOGUE), CATALOGUE, {})
    few = [o for o in offers.every if o.plan.to_buy <= 12 and o.more < 0.15]
    assert few
    again = kept(made, min(few, key=lambda o: o.more), CATALOGUE).made
    left = offers_of(again, cut_list(again, CATALOGUE), CATALOGUE, {})
    assert left.designed.to_buy <= 12


def test_what_the_shelf_has_is_not_bought() -> None:
    made = design(demo(), CATALOGUE)
    cuts = cut_list(made, CATALOGUE)
    has = {s.key: s.total_m + 1 for s in cuts.spools[:20]}
    offers = offers_of(made, cuts, CATALOGUE, has)
    assert offers.designed.to_buy == len(cuts.spools) - 20
    enough = {s.key: 200.0 for s in cuts.spools}
    assert offers_of(made, cuts, CATALOGUE, enough).designed.to_buy == 0
