"""The budget of a job: each scenario's surplus, the day, parked days, minutes of winch."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ready_trail.core.budget.battery import HALF, Bank, bank_of
from ready_trail.core.budget.course import Course, Link, Stretch, into, run
from ready_trail.core.budget.draws import Draw, bank_behind, draws_in, standby_a
from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import BATTERY
from ready_trail.core.job.scenario import Running, Scenario
from ready_trail.core.supply.currents import CHARGE_RATIO, Currents
from ready_trail.core.supply.own_load import alternator_a, own_load_a, parked_a
from ready_trail.core.supply.tree import Tree

_RECHARGED = 0.95
_RECHARGE_STEP_H, _RECHARGE_MOST_H = 1.0 / 12.0, 72.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenarioBudget:
    """One scenario from full batteries: what draws, what charges, what is left in the end.

    ``own_a`` is the vehicle itself, ``alternator_a`` what charges, ``given_a`` what mains and sun
    give to each battery. ``into_a`` is the current into
    each battery, ``ends`` its state of charge after the scenario's minutes, ``half_h`` when it
    would be half empty. ``impossible`` lists what stands in it and cannot be on there.
    """

    scenario: Scenario
    draws: tuple[Draw, ...]
    own_a: float
    alternator_a: float
    given_a: Mapping[str, float]
    into_a: Mapping[str, float]
    ends: Mapping[str, float]
    half_h: Mapping[str, float]
    impossible: tuple[tuple[Running, str], ...]

    @property
    def load_a(self) -> float:
        """What hangs on the vehicle's own battery, on the average. [A]"""
        return self.own_a + sum(d.mean_a for d in self.draws if d.bank == BATTERY)

    @property
    def surplus_a(self) -> float:
        """What the sources have left, or lack where negative. [A]"""
        return self.alternator_a + self.given_a.get(BATTERY, 0.0) - self.load_a


@dataclass(frozen=True, slots=True, kw_only=True)
class WinchBudget:
    """Minutes at rated pull, engine idling, until half the battery; then to charge it. [min]"""

    accessory: str
    name: str
    pull_min: float | None
    recharge_min: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """What the batteries of a job do. ``day`` is None where no day is put together."""

    banks: Mapping[str, Bank]
    names: Mapping[str, str]
    links: Mapping[str, Link]
    scenarios: tuple[ScenarioBudget, ...]
    day: Course | None
    parked_days: Mapping[str, float]
    winches: tuple[WinchBudget, ...]
    unlisted: frozenset[str] = frozenset()

    def of(self, scenario_id: str) -> ScenarioBudget:
        """Return one scenario's; KeyError when there is none of that id."""
        for found in self.scenarios:
            if found.scenario.id == scenario_id:
                return found
        raise KeyError(scenario_id)

    def course_of(self, scenario_id: str) -> Course:
        """Return the course of one scenario from full batteries."""
        found = self.of(scenario_id)
        return run((stretch_of(found),), self.banks, self.links)


def budget_of(job: Job, tree: Tree, currents: Currents) -> Budget:
    """Return the budget of a job."""
    banks = {BATTERY: bank_of(job.vehicle.battery)}
    names = {BATTERY: "Battery"}
    links: dict[str, Link] = {}
    for point in job.points:
        if point.is_a.stores and point.battery is not None:
            banks[point.id], names[point.id] = bank_of(point.battery), point.name
            link = _link(point.id, tree)
            if link is not None:
                links[point.id] = link
    scenarios = tuple(_scenario(s, job, tree, currents, banks, links) for s in job.scenarios)
    by_id = {s.scenario.id: s for s in scenarios}
    stretches = [
        replace(stretch_of(by_id[part.scenario]), hours=part.minutes / 60.0) for part in job.day
    ]
    standby = standby_a(job, tree)
    parked = {
        bank: (parked_a(job.vehicle) if bank == BATTERY else 0.0) + standby.get(bank, 0.0)
        for bank in banks
    }
    return Budget(
        banks=banks,
        names=names,
        links=links,
        scenarios=scenarios,
        day=run(stretches, banks, links) if stretches else None,
        parked_days={
            b: HALF * banks[b].capacity_ah / (24.0 * amps) for b, amps in parked.items() if amps > 0
        },
        winches=tuple(
            _winch(a, job, banks[BATTERY]) for a in job.accessories if a.model == "winch"
        ),
        unlisted=currents.runs.unlisted if job.scenarios else frozenset(),
    )


def stretch_of(found: ScenarioBudget) -> Stretch:
    """Return a scenario as a stretch of a course."""
    load_a: dict[str, float] = {BATTERY: found.own_a}
    for draw in found.draws:
        load_a[draw.bank] = load_a.get(draw.bank, 0.0) + draw.mean_a
    return Stretch(
        name=found.scenario.name,
        hours=found.scenario.minutes / 60.0,
        engine_on=found.scenario.engine != "off",
        charge_a=found.alternator_a,
        load_a=load_a,
        given_a=found.given_a,
    )


def _scenario(
    scenario: Scenario,
    job: Job,
    tree: Tree,
    currents: Currents,
    banks: Mapping[str, Bank],
    links: Mapping[str, Link],
) -> ScenarioBudget:
    own_a = own_load_a(
        job.vehicle, scenario.engine, scenario.lights, key=scenario.key, blower=scenario.blower
    )
    bare = ScenarioBudget(
        scenario=scenario,
        draws=draws_in(scenario, job, tree, currents),
        own_a=own_a,
        alternator_a=alternator_a(job.vehicle, scenario.engine),
        given_a=_given_a(scenario, job, tree),
        into_a={},
        ends={},
        half_h={},
        impossible=tuple(currents.runs.clash(scenario)),
    )
    full = dict.fromkeys(banks, 1.0)
    into_a = into(stretch_of(bare), full, banks, links)
    ends, half_h = {}, {}
    for name, bank in banks.items():
        falls = bank.falls_per_h(-into_a[name])
        ends[name] = max(0.0, 1.0 - falls * scenario.minutes / 60.0)
        if falls > 0:
            half_h[name] = HALF / falls
    return replace(bare, into_a=into_a, ends=ends, half_h=half_h)


def _given_a(scenario: Scenario, job: Job, tree: Tree) -> dict[str, float]:
    """What chargers on the mains and solar controllers give to each battery. [A]"""
    shares = {"mains": 1.0 if scenario.mains else 0.0, "sun": scenario.sun_ratio}
    found: dict[str, float] = {}
    for point in job.points:
        lead = tree.feeders.get(point.id)
        given_a = shares.get(point.is_a.gives_by, 0.0) * (point.output_a or 0.0)
        if lead is not None and given_a > 0:
            bank, factor = bank_behind(lead, tree)
            found[bank] = found.get(bank, 0.0) + factor * given_a
    return found


def _link(point_id: str, tree: Tree) -> Link | None:
    """What charges a second battery: a plain link, or the charger ahead of it."""
    point = tree.points[point_id]
    feeder = tree.feeders.get(point_id)
    if feeder is None or point.battery is None or not tree.is_fed(point_id):
        return None
    at = feeder.start.point
    while at != BATTERY:
        ahead = tree.points[at]
        before = tree.feeders.get(at)
        if ahead.is_a.converts and ahead.output_a is not None:
            in_v = tree.nominal_v(before.start.point) if before is not None else 12.0
            ratio = float(ahead.output_v or in_v) / in_v
            return Link(limit_a=ahead.output_a, factor=ratio / ahead.efficiency_ratio, insists=True)
        if before is None:
            break
        at = before.start.point
    return Link(limit_a=point.output_a or CHARGE_RATIO * point.battery.capacity_ah)


def _winch(winch: Accessory, job: Job, bank: Bank) -> WinchBudget:
    own_a = own_load_a(job.vehicle, "idle", "off", key="run", blower=False)
    lacks_a = winch.rated_a + own_a - alternator_a(job.vehicle, "idle")
    pull_h = bank.hours_to(lacks_a)
    cruise_a = alternator_a(job.vehicle, "cruise")
    spare_a = cruise_a - own_load_a(job.vehicle, "cruise", "off", key="run", blower=False)
    return WinchBudget(
        accessory=winch.id,
        name=winch.name,
        pull_min=None if pull_h is None else 60.0 * pull_h,
        recharge_min=recharge_min(bank, spare_a),
    )


def recharge_min(bank: Bank, spare_a: float, *, start: float = HALF) -> float | None:
    """Return the minutes from half to 95 % at cruise; None where nothing is left to charge it."""
    state, hours = start, 0.0
    while state < _RECHARGED:
        amps = min(spare_a, bank.accepts_a(state))
        if amps <= 0 or hours > _RECHARGE_MOST_H:
            return None
        state += bank.rises_per_h(amps) * _RECHARGE_STEP_H
        hours += _RECHARGE_STEP_H
    return 60.0 * hours
