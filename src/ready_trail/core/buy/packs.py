"""What is ordered: whole packs, the cheapest in total, and every cut from one of them whole."""

from __future__ import annotations

import csv
import heapq
import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from itertools import count

import highspy

from ready_trail.core.build.bill import Line
from ready_trail.core.build.cuts import Cut
from ready_trail.core.buy.solver import quiet
from ready_trail.core.kinds.around import FIXINGS, FUSES, LABELS, SHRINK, TERMINALS, WIRE

FOOT_M = 0.3048
PACKS_MOST = 8
"""Sizes that one part is bought in."""
_SIZE_MOST = 1_000_000.0
_KIND = {
    WIRE: "wire",
    TERMINALS: "terminal",
    FUSES: "fuse",
    SHRINK: "shrink",
    LABELS: "label",
    FIXINGS: "fixing",
}
_SAID = re.compile(
    r"^([0-9]+(?:[.,][0-9]+)?)(?:\s*(?:m|pc))?(?:\s*(?:at|@|=|:)\s*(-?[0-9]+(?:[.,][0-9]+)?))?$"
)
_EPS = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack:
    """What one buys at once: how much is in it, and its price where that is known."""

    size: float
    price: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """Packs of one part: how many of each, smallest first, and what is over in the end.

    ``cuts`` tells for wire what is cut from each length: first from the shelf's, if any, then
    from each pack in turn; ``from_shelf`` whether the first of them is the shelf's.
    """

    packs: tuple[tuple[Pack, int], ...]
    over: float
    cuts: tuple[tuple[float, ...], ...] = ()
    from_shelf: bool = False

    @property
    def bought(self) -> float:
        """What is in all of them."""
        return sum(pack.size * n for pack, n in self.packs)

    @property
    def price(self) -> float | None:
        """What they cost together; None where one has no price."""
        if any(pack.price is None for pack, _ in self.packs):
            return None
        return sum((pack.price or 0.0) * n for pack, n in self.packs)


def parse_packs(text: str) -> tuple[Pack, ...]:
    """Return packs as somebody types them: ``5 at 9.80, 25 at 38``. Raises ValueError in words."""
    found: dict[float, Pack] = {}
    for each in (part.strip() for part in re.split(r"[;\n]|,(?!\d)", text)):
        if not each:
            continue
        said = _SAID.match(each)
        if said is None:
            raise ValueError(f"“{each[:30]}” is no pack: write 5 at 9.80, and so on")
        size = float(said[1].replace(",", "."))
        price = float(said[2].replace(",", ".")) if said[2] else None
        if not 0 < size <= _SIZE_MOST:
            raise ValueError(f"a pack holds something: {each[:30]} does not")
        if price is not None and price <= 0:
            raise ValueError(f"{each[:30]}: leave the price out where it is not known")
        found[size] = Pack(size=size, price=price)
    if len(found) > PACKS_MOST:
        raise ValueError(f"at most {PACKS_MOST} packs")
    return tuple(found[size] for size in sorted(found))


def check_whole(packs: Sequence[Pack], unit: str) -> None:
    """Refuse packs of a part of a piece. Raises ValueError in words."""
    split = next((p for p in packs if unit == "pc" and not float(p.size).is_integer()), None)
    if split is not None:
        raise ValueError(f"a pack of {split.size:g} is no whole number of pieces")


def packs_said(packs: Sequence[Pack]) -> str:
    """Return packs as ``parse_packs`` reads them."""
    return ", ".join(f"{p.size:g}" + (f" at {p.price:.2f}" if p.price else "") for p in packs)


@lru_cache(maxsize=1)
def _usual() -> dict[tuple[str, str], tuple[float, ...]]:
    path = files("ready_trail").joinpath("data", "tables", "packs.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            (row["kind"], row["unit"]): tuple(float(size) for size in row["sizes"].split())
            for row in csv.DictReader(lines)
        }


def packs_for(
    line: Line, own: Sequence[Pack], price: float | None, *, in_feet: bool = False
) -> tuple[Pack, ...]:
    """Return the packs that a part is bought in: one's own, else the usual ones of its kind at the
    ``price`` of one; pieces that come singly are packs of one. [m] or pieces
    """
    if own:
        priced = tuple(p for p in own if p.price is not None)
        return priced or tuple(own)
    unit = line.unit
    sizes = _usual().get((_KIND.get(line.group, ""), unit), ())
    if line.group == WIRE and in_feet:
        sizes = tuple(size * FOOT_M for size in _usual()["wire", "ft"])
    if unit == "m" and not sizes:
        sizes = _usual()["shrink", "m"]
    return tuple(
        Pack(size=size, price=price * size if price is not None else None)
        for size in sizes or (1.0,)
    )


def pack(
    need: float, packs: Sequence[Pack], *, pieces: Sequence[float] = (), there_m: float = 0.0
) -> Packed:
    """Return the cheapest packs for a need; without prices the fewest metres or pieces, then the
    fewest packs. Exact: packs are tried from the cheapest together upwards.

    ``pieces`` are lengths to cut, each from one length: a pack, or what the shelf has
    (``there_m``, one length). Of a pack that is too short for the longest piece nothing of that
    piece is cut. Raises ValueError where no pack is long enough.
    """
    longest = max(pieces, default=0.0)
    if longest > max([there_m, *(p.size for p in packs)]) + _EPS:
        raise ValueError(f"a piece of {longest:.2f} m is longer than every pack")
    shelf = [there_m] if there_m > 0 else []
    saw = _Saw(pieces)
    for counts in _cheapest(need, packs):
        bought = sum(p.size * n for p, n in zip(packs, counts, strict=True))
        lengths = [p.size for p, n in zip(packs, counts, strict=True) for _ in range(n)]
        cuts = saw.cut(shelf + lengths)
        if cuts is not None:
            taken = tuple((p, n) for p, n in zip(packs, counts, strict=True) if n)
            return Packed(
                packs=taken,
                over=round(max(0.0, bought - need), 4),
                cuts=cuts,
                from_shelf=bool(shelf),
            )
    raise AssertionError("packs are tried without end")


def _cheapest(need: float, packs: Sequence[Pack]) -> Iterator[tuple[int, ...]]:
    """Every handful of packs that holds the need, cheapest first: by price, or by what is in them;
    then by number. What a handful will cost at least leads the search.
    """
    priced = all(p.price is not None for p in packs)
    order = sorted(range(len(packs)), key=lambda n: -packs[n].size)
    costs = [(packs[n].price or 0.0) if priced else packs[n].size for n in order]
    sizes = [packs[n].size for n in order]
    rates = [
        min(c / s for c, s in zip(costs[at:], sizes[at:], strict=True)) for at in range(len(packs))
    ]
    serial = count()

    def ahead(counts: tuple[int, ...], first: int) -> tuple[float, float, float, int]:
        cost = sum(c * n for c, n in zip(costs, counts, strict=True))
        held = sum(s * n for s, n in zip(sizes, counts, strict=True))
        lacks = need - held if need - held > _EPS else 0.0
        least = cost + lacks * rates[first]
        number = sum(counts) + math.ceil(lacks / sizes[first])
        return round(least, 6), number, -held, next(serial)

    start = (0,) * len(packs)
    heap = [(ahead(start, 0), 0, start)]
    while heap:
        (_, _, minus, _), first, counts = heapq.heappop(heap)
        if -minus + _EPS >= need:
            yield tuple(n for _, n in sorted(zip(order, counts, strict=True)))
        for at in range(first, len(packs)):  # each handful once: only packs from the last on
            more = (*counts[:at], counts[at] + 1, *counts[at + 1 :])
            heapq.heappush(heap, (ahead(more, at), at, more))


class _Saw:
    """Cutting pieces from lengths. The long pieces are tried first, and what does not go with
    them is remembered: shorter lengths do not help it.
    """

    def __init__(self, pieces: Sequence[float]) -> None:
        self._pieces = sorted(pieces, reverse=True)
        self._goes: dict[tuple[float, tuple[float, ...]], bool] = {}

    def cut(self, lengths: Sequence[float]) -> tuple[tuple[float, ...], ...] | None:
        """Return what is cut from each length, no piece from two; None where it does not go."""
        for piece in dict.fromkeys(self._pieces):
            long_ones = [p for p in self._pieces if p >= piece]
            takes = tuple(n for n in lengths if n + _EPS >= piece)
            if (piece, takes) not in self._goes:
                self._goes[piece, takes] = _cut(long_ones, takes) is not None
            if not self._goes[piece, takes]:
                return None
        return _cut(self._pieces, lengths)


def _cut(pieces: Sequence[float], lengths: Sequence[float]) -> tuple[tuple[float, ...], ...] | None:
    """The pieces, longest first, each into the tightest length that takes it, or exactly."""
    if sum(pieces) > sum(lengths) + _EPS:
        return None
    left = list(lengths)
    cuts: list[list[float]] = [[] for _ in lengths]
    for piece in pieces:
        fits = [at for at, room in enumerate(left) if room + _EPS >= piece]
        if not fits:
            return _cut_exactly(pieces, lengths)
        at = min(fits, key=lambda n: left[n])
        left[at] -= piece
        cuts[at].append(piece)
    return tuple(tuple(c) for c in cuts)


def _cut_exactly(
    pieces: Sequence[float], lengths: Sequence[float]
) -> tuple[tuple[float, ...], ...] | None:
    solver = quiet()
    put = [[solver.addBinary() for _ in lengths] for _ in pieces]
    for row in put:
        solver.addConstr(solver.qsum(row) == 1)
    for at, length in enumerate(lengths):
        filled = solver.qsum([p * row[at] for p, row in zip(pieces, put, strict=True)])
        solver.addConstr(filled <= length + _EPS)
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        return None
    values = solver.getSolution().col_value
    return tuple(
        tuple(p for p, row in zip(pieces, put, strict=True) if values[row[at].index] > 0.5)
        for at in range(len(lengths))
    )


def lengths_of(cuts: Sequence[Cut]) -> tuple[float, ...]:
    """Return the pieces of some cuts, a pair's cables apart. [m]"""
    return tuple(cut.cut_m for cut in cuts for _ in range(cut.conductor.count))
