"""Which spools a job is cut from: the least copper for every number of spools, proven.

A unit is what takes one size: a circuit's trunk, one of its branches, all coil and signal wire.
Each of its options asks for metres of some spools. A choice of one option for each unit is a plan.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import highspy

from ready_trail.core.buy.solver import quiet
from ready_trail.core.errors import CoreError

COPPER_MOST = 1.5
"""Copper over the lightest plan's beyond which nobody would buy (house)."""
_WHOLE = 0.5
"""A variable of 0 or 1 counts as 1 above this."""


class NoPlanError(CoreError):
    """No choice of sizes does with so few spools."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One size of a unit: what it weighs, and what it takes from each spool. [g], [m]"""

    key: str
    copper_g: float
    metres: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """Wires that share a size, with the sizes that they may have; the first is the design's."""

    key: str
    name: str
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """An option for each unit, by key; ``spools`` with the metres that are cut from each.

    ``to_buy`` counts the spools that the shelf does not have.
    """

    chosen: Mapping[str, str]
    copper_g: float
    spools: Mapping[str, float]
    to_buy: int


class Spools:
    """The choice as a mixed-integer problem: least copper with at most so many spools to buy.

    ``shelf`` has the metres that are there of some spools: what all fits on those is not bought.
    """

    def __init__(self, units: Sequence[Unit], shelf: Mapping[str, float] | None = None) -> None:
        self._units = tuple(units)
        self._shelf = {k: m for k, m in (shelf or {}).items() if m > 0}
        self._solver = quiet()
        self._takes: dict[tuple[str, str], highspy.highs.highs_var] = {}
        opened: dict[str, highspy.highs.highs_var] = {}
        shelved: dict[str, highspy.highs.highs_var] = {}
        asked: dict[str, list[tuple[float, highspy.highs.highs_var]]] = {}
        for unit in self._units:
            for option in unit.options:
                take = self._solver.addBinary(obj=option.copper_g)
                self._takes[unit.key, option.key] = take
                for spool, length_m in option.metres.items():
                    if spool not in opened:
                        opened[spool] = self._solver.addBinary()
                    self._solver.addConstr(take <= opened[spool])
                    asked.setdefault(spool, []).append((length_m, take))
            one = self._solver.qsum([self._takes[unit.key, o.key] for o in unit.options])
            self._solver.addConstr(one == 1)
        for spool, has_m in self._shelf.items():
            if spool in opened:
                shelved[spool] = there = self._solver.addBinary()
                self._solver.addConstr(there <= opened[spool])
                most_m = sum(length_m for length_m, _ in asked[spool])
                cut_m = self._solver.qsum([m * x for m, x in asked[spool]])
                self._solver.addConstr(cut_m + most_m * there <= has_m + most_m)
        self._opened = opened
        bought = self._solver.qsum([*opened.values(), *(-1 * there for there in shelved.values())])
        self._most = self._solver.addConstr(bought <= len(opened))

    def best(self, most: int) -> Plan:
        """Return the plan of least copper that buys at most so many spools. Raises NoPlanError."""
        self._solver.changeRowBounds(self._most.index, -highspy.kHighsInf, float(most))
        self._solver.run()
        if self._solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            raise NoPlanError(f"no choice of sizes does with {most} spools")
        values = self._solver.getSolution().col_value
        chosen = {
            unit.key: next(
                o.key for o in unit.options if values[self._takes[unit.key, o.key].index] > _WHOLE
            )
            for unit in self._units
        }
        return plan_of(self._units, chosen, self._shelf)

    def front(self) -> tuple[Plan, ...]:
        """Return the plans that no other beats in both copper and spools, most spools first, up to
        half as much copper again as the lightest.
        """
        found: list[Plan] = []
        most = len(self._opened)
        while most >= 0:
            try:
                plan = self.best(most)
            except NoPlanError:
                break
            if found and plan.copper_g > COPPER_MOST * found[0].copper_g:
                break
            if found and abs(found[-1].copper_g - plan.copper_g) < 1e-6:
                found.pop()
            found.append(plan)
            most = plan.to_buy - 1
        return tuple(found)


def plan_of(
    units: Sequence[Unit], chosen: Mapping[str, str], shelf: Mapping[str, float] | None = None
) -> Plan:
    """Return what a choice takes of each spool and weighs."""
    spools: dict[str, float] = {}
    copper_g = 0.0
    for unit in units:
        option = next(o for o in unit.options if o.key == chosen[unit.key])
        copper_g += option.copper_g
        for spool, length_m in option.metres.items():
            spools[spool] = round(spools.get(spool, 0.0) + length_m, 4)
    there = shelf or {}
    bought = sum(length_m > there.get(spool, 0.0) + 1e-9 for spool, length_m in spools.items())
    return Plan(chosen=dict(chosen), copper_g=copper_g, spools=spools, to_buy=bought)
