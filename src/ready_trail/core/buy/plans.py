"""Buying plans of a job, from exactly as designed to the fewest spools, and how one is kept."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ready_trail.core.build.cuts import CutList, Spool, cut_list
from ready_trail.core.buy.spools import Plan, Spools, Unit, plan_of
from ready_trail.core.buy.units import CONTROL, Dress, dresses, units_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import design
from ready_trail.core.edits.spools import KeepSpools, SizeOf
from ready_trail.core.house import differences
from ready_trail.core.outcome import Design

_ROUNDS_MOST = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Raised:
    """A unit that takes another size than the design chose, and what that weighs. [g]"""

    key: str
    name: str
    was: str
    now: str
    copper_g: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """One plan in its dress. ``more`` is its copper over the design's, as a ratio."""

    dress: Dress
    plan: Plan
    raised: tuple[Raised, ...]
    more: float

    @property
    def key(self) -> str:
        """What tells it from the others: colours, class, spools."""
        return f"{self.dress.colours}-{self.dress.one_class_c}-{self.plan.to_buy}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Offers:
    """Every plan that no other of its colours beats; ``designed`` is what the design asks for."""

    designed: Plan
    by_colours: Mapping[str, tuple[Offer, ...]]

    @property
    def every(self) -> tuple[Offer, ...]:
        """All of them."""
        return tuple(o for offers in self.by_colours.values() for o in offers)


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """A plan as an edit, with the design that follows; ``opens`` and ``closes`` are the findings
    that come and go with it, in words; ``rules`` the house rules that it changes: each question
    with both answers. ``same`` tells whether the spools are the plan's.
    """

    edit: KeepSpools
    made: Design
    spools: tuple[Spool, ...]
    rules: tuple[tuple[str, str, str], ...]
    opens: tuple[str, ...]
    closes: tuple[str, ...]
    same: bool
    changes_nothing: bool

    @property
    def opens_a_stop(self) -> bool:
        """Whether the review would stop something that it does not stop now."""
        return any(words.startswith("stop") for words in self.opens)


def offers_of(
    made: Design,
    cuts: CutList,
    catalogue: Catalogue,
    shelf: Mapping[str, float],
    report: Callable[[int, int], None] = lambda done, total: None,
) -> Offers:
    """Return the plans of a design; spools of which the ``shelf`` has enough metres are free.

    ``report`` is told how many sets of colours are done, of how many.
    """
    by_colours: dict[str, list[Offer]] = {}
    designed: Plan | None = None
    ways = dresses(made, cuts)
    for done, dress in enumerate(ways):
        report(done, len(ways))
        units = units_of(made, cuts, dress, catalogue)
        as_is = plan_of(units, {u.key: u.options[0].key for u in units}, shelf)
        designed = designed or as_is
        for plan in Spools(units, shelf).front():
            offer = Offer(
                dress=dress,
                plan=plan,
                raised=_raised(units, plan),
                more=plan.copper_g / as_is.copper_g - 1.0 if as_is.copper_g else 0.0,
            )
            by_colours.setdefault(dress.colours, []).append(offer)
    empty = Plan(chosen={}, copper_g=0.0, spools={}, to_buy=0)
    return Offers(
        designed=designed or empty,
        by_colours={colours: _unbeaten(offers) for colours, offers in by_colours.items()},
    )


def _unbeaten(offers: list[Offer]) -> tuple[Offer, ...]:
    """Of the same colours with and without one class: the least copper for each number."""
    best: list[Offer] = []
    for offer in sorted(offers, key=lambda o: (o.plan.to_buy, o.plan.copper_g, o.key)):
        if not best or offer.plan.copper_g < best[-1].plan.copper_g - 1e-6:
            best.append(offer)
    return tuple(reversed(best))


def _raised(units: tuple[Unit, ...], plan: Plan) -> tuple[Raised, ...]:
    found = []
    for unit in units:
        first = unit.options[0]
        now = next(o for o in unit.options if o.key == plan.chosen[unit.key])
        if now.key != first.key:
            found.append(
                Raised(
                    key=unit.key,
                    name=unit.name,
                    was=first.key,
                    now=now.key,
                    copper_g=now.copper_g - first.copper_g,
                )
            )
    return tuple(found)


def kept(made: Design, offer: Offer, catalogue: Catalogue) -> Kept:
    """Return a plan as one edit of the job, designed and looked at.

    What the plan raises is held; so is what the design would choose otherwise once a feeder is
    thicker, until the cut list asks for the plan's spools.
    """
    sizes = {r.key: r.now for r in offer.raised if r.key != CONTROL}
    edit = _edit(made, offer, sizes)
    after = design(edit.apply(made.job), catalogue)
    for _ in range(_ROUNDS_MOST):
        strays = {k: v for k, v in _strays(after, offer, catalogue).items() if k not in sizes}
        if not strays:
            break
        sizes |= strays
        edit = _edit(made, offer, sizes)
        after = design(edit.apply(made.job), catalogue)
    was, now = _open(made), _open(after)
    wanted = {spool for spool, length_m in offer.plan.spools.items() if length_m > 0}
    spools = cut_list(after, catalogue).spools
    return Kept(
        edit=edit,
        made=after,
        spools=spools,
        rules=differences(made.job.rules, after.job.rules),
        opens=tuple((now - was).elements()),
        closes=tuple((was - now).elements()),
        same={s.key for s in spools} == wanted,
        changes_nothing=after.job == made.job,
    )


def _edit(made: Design, offer: Offer, sizes: Mapping[str, str]) -> KeepSpools:
    held = []
    for key, size in sorted(sizes.items()):
        circuit_id, _, branches = key.partition("/")
        for branch_id in branches.split("+"):
            held.append(SizeOf(circuit_id=circuit_id, branch_id=branch_id, size=size))
    return KeepSpools(
        spools=len(offer.plan.spools),
        colours=offer.dress.colours,
        control_mm2=float(offer.plan.chosen.get(CONTROL, made.job.rules.control_mm2)),
        one_class_c=offer.dress.one_class_c,
        sizes=tuple(held),
    )


def _strays(after: Design, offer: Offer, catalogue: Catalogue) -> dict[str, str]:
    """Units whose size is not the plan's in the design that follows from it."""
    as_is = Dress(colours=after.job.rules.colours)
    units = units_of(after, cut_list(after, catalogue), as_is, catalogue)
    return {
        unit.key: offer.plan.chosen[unit.key]
        for unit in units
        if unit.key != CONTROL
        and unit.key in offer.plan.chosen
        and unit.options[0].key != offer.plan.chosen[unit.key]
    }


def _open(made: Design) -> Counter[str]:
    """Open findings by what and where they are, without figures that a thicker wire moves."""
    every = [("", f) for f in made.findings]
    every += [(c.circuit.name, f) for c in made.circuits for f in c.findings]
    return Counter(
        f"{f.severity}: {f'{name}, ' if name else ''}{f.text}"
        for name, f in dict.fromkeys(every)
        if f.is_open
    )
