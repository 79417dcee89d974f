"""A quotation: parts with a margin, hours at a rate, circuit by circuit."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ready_trail.core.build import Build
from ready_trail.core.build.bill import Line


@dataclass(frozen=True, slots=True, kw_only=True)
class Terms:
    """What the work is charged at. ``margin`` and ``tax`` are ratios: 0.2 is a fifth on top."""

    rate_per_h: float = 0.0
    margin: float = 0.0
    tax: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class QuoteLine:
    """What one circuit, switch or point takes: parts with the margin. ``owner`` is empty for
    spares, reserve and what belongs to no circuit.
    """

    owner: str
    parts: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Quote:
    """Everything that is charged; ``unpriced`` are the parts that no price is known of."""

    terms: Terms
    lines: tuple[QuoteLine, ...]
    minutes: float
    unpriced: tuple[Line, ...]

    @property
    def parts(self) -> float:
        """All parts, with the margin."""
        return sum(line.parts for line in self.lines)

    @property
    def labour(self) -> float:
        """The hours at the rate."""
        return self.minutes / 60.0 * self.terms.rate_per_h

    @property
    def net(self) -> float:
        """Parts and labour."""
        return self.parts + self.labour

    @property
    def tax(self) -> float:
        """The tax on both."""
        return self.net * self.terms.tax

    @property
    def total(self) -> float:
        """What is to pay."""
        return self.net + self.tax


def quote_of(build: Build, prices: Mapping[str, float], terms: Terms) -> Quote:
    """Return the quotation of a build at prices by part's key, of one piece or metre."""
    by_owner: dict[str, float] = {}
    unpriced = []
    for line in (x for x in build.parts if x.to_get and x.buy > 0):
        price = prices.get(line.key)
        if price is None:
            unpriced.append(line)
            continue
        charged = price * (1.0 + terms.margin)
        for owner, quantity in line.by_owner.items():
            by_owner[owner] = by_owner.get(owner, 0.0) + quantity * charged
        over = line.buy - sum(line.by_owner.values())
        by_owner[""] = by_owner.get("", 0.0) + over * charged
    lines = (QuoteLine(owner=o, parts=p) for o, p in by_owner.items() if p > 0.005)
    return Quote(
        terms=terms,
        lines=tuple(sorted(lines, key=lambda x: (not x.owner, -x.parts))),
        minutes=build.minutes,
        unpriced=tuple(unpriced),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """What the priced parts of two builds cost; ``open`` counts changed lines without a price."""

    was: float
    now: float
    open: int

    @property
    def is_known(self) -> bool:
        """Whether anything has a price."""
        return self.was > 0 or self.now > 0


def cost_change(
    before: tuple[Line, ...], after: tuple[Line, ...], price: Callable[[str], float | None]
) -> Cost:
    """Return what the parts cost before and after a change."""
    sums = [0.0, 0.0]
    needs: dict[str, list[float]] = {}
    for at, lines in enumerate((before, after)):
        for line in (x for x in lines if x.to_get):
            needs.setdefault(line.key, [0.0, 0.0])[at] += line.buy
            one = price(line.key)
            sums[at] += line.buy * one if one is not None else 0.0
    changed = [key for key, (was, now) in needs.items() if abs(was - now) > 1e-6]
    return Cost(was=sums[0], now=sums[1], open=sum(price(key) is None for key in changed))
