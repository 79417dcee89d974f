"""Packs: the cheapest together, every piece from one length, what is over counted."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.build import build_of
from ready_trail.core.buy.order import order_of
from ready_trail.core.buy.packs import Pack, pack, packs_said, parse_packs
from ready_trail.core.buy.stock import Part, shopping
from ready_trail.core.design import design
from support import CATALOGUE, demo

SIZES = st.lists(st.sampled_from([1.0, 2.0, 5.0, 10.0, 25.0]), min_size=1, max_size=3, unique=True)


@given(
    need=st.floats(min_value=0.1, max_value=60),
    sizes=SIZES,
    price=st.lists(st.integers(min_value=1, max_value=40), min_size=3, max_size=3),
    priced=st.booleans(),
)
@settings(deadline=None)
def test_no_other_handful_is_cheaper(
    need: float, sizes: list[float], price: list[int], priced: bool
) -> None:
    packs = [
        Pack(size=s, price=float(p) if priced else None) for s, p in zip(sizes, price, strict=False)
    ]
    found = pack(need, packs)
    cost = [p.price if p.price is not None else p.size for p in packs]
    most = [int(need // p.size) + 1 for p in packs]
    best = min(
        (sum(c * n for c, n in zip(cost, counts, strict=True)), sum(counts))
        for counts in product(*(range(m + 1) for m in most))
        if sum(p.size * n for p, n in zip(packs, counts, strict=True)) >= need - 1e-9
    )
    counts = dict(found.packs)
    got = sum(c * counts.get(p, 0) for c, p in zip(cost, packs, strict=True))
    assert got == pytest.approx(best[0])
    assert sum(counts.values()) == best[1]
    assert found.over == pytest.approx(found.bought - need, abs=1e-3)


@given(
    pieces=st.lists(st.floats(min_value=0.1, max_value=9.9), min_size=1, max_size=12),
    sizes=SIZES.filter(lambda s: max(s) >= 10),
    there_m=st.sampled_from([0.0, 0.5, 3.0, 12.0]),
)
@settings(deadline=None)
def test_every_piece_is_cut_from_one_length(
    pieces: list[float], sizes: list[float], there_m: float
) -> None:
    pieces = [round(p, 2) for p in pieces]
    packs = [Pack(size=s) for s in sizes]
    need = max(0.0, sum(pieces) - there_m)
    found = pack(need, packs, pieces=pieces, there_m=there_m)
    lengths = ([there_m] if there_m else []) + [p.size for p, n in found.packs for _ in range(n)]
    assert len(found.cuts) == len(lengths)
    for cut, length in zip(found.cuts, lengths, strict=True):
        assert sum(cut) <= length + 1e-5
    assert sorted(p for cut in found.cuts for p in cut) == sorted(pieces)
    left = sum(lengths) - sum(pieces)
    assert found.over == pytest.approx(min(left, found.bought - need), abs=1e-3)


def test_two_long_pieces_do_not_share_what_holds_their_sum() -> None:
    # 12 m fit into 5 + 10 by sum; 8 and 4 do, 6 and 6 do not
    assert pack(12, [Pack(size=5), Pack(size=10)], pieces=[8, 4]).bought == 15
    assert pack(12, [Pack(size=5), Pack(size=10)], pieces=[6, 6]).bought == 20
    with pytest.raises(ValueError, match=r"12\.00 m is longer than every pack"):
        pack(12, [Pack(size=5), Pack(size=10)], pieces=[12])


def test_packs_are_read_as_they_are_said() -> None:
    read = parse_packs("25 m at 38; 5 at 9,80, 100")
    assert read == (Pack(size=5, price=9.8), Pack(size=25, price=38), Pack(size=100))
    assert parse_packs(packs_said(read)) == read
    assert parse_packs("") == ()
    for bad, words in (
        ("0 at 5", "holds something"),
        ("5 at 0", "leave the price out"),
        ("5 at -3", "leave the price out"),
        ("a roll", "is no pack"),
    ):
        with pytest.raises(ValueError, match=words):
            parse_packs(bad)


@pytest.mark.parametrize("in_feet", [False, True])
def test_the_order_of_a_job_holds_everything_it_lacks(in_feet: bool) -> None:
    made = design(demo(), CATALOGUE)
    build = build_of(made, CATALOGUE)
    some = build.cuts.spools[4]
    shelf = {
        some.key: Part(
            key=some.key, label="", group="Wire", unit="m", price=2.0, stock=1.0, supplier="North"
        )
    }
    bought = shopping(build.parts, shelf)
    order = order_of(bought, build.cuts, in_feet=in_feet)
    assert {x.needed.line.key for x in order.lines} == {
        n.line.key for n in bought.needed if n.missing
    }
    for x in order.lines:
        assert x.packed is not None, x.refusal
        assert x.packed.bought >= x.needed.missing - 1e-6
        assert x.packed.over == pytest.approx(x.packed.bought - x.needed.missing, abs=1e-3)
    for spool in build.cuts.spools:
        line = next(x for x in order.lines if x.needed.line.key == spool.key)
        assert line.packed is not None
        cut = sorted(p for length in line.packed.cuts for p in length)
        assert cut == sorted(c.cut_m for c in spool.cuts for _ in range(c.conductor.count))
    first, *_ = order.by_supplier
    assert first == "North"
    assert order.unpriced == len(order.lines) - 1
