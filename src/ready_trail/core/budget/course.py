"""The state of charge over the hours of a scenario or a day, stepped with the midpoint rule."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ready_trail.core.budget.battery import HALF, Bank
from ready_trail.core.job.points import BATTERY

STEPS = 96


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """What a second battery is charged by while the engine runs.

    ``limit_a`` is what it may carry into that battery; ``factor`` the amps that it takes out of
    the vehicle for each of these (a charger takes more than it gives). One that ``insists`` takes
    them whether the alternator has them to spare or not, as a charger does.
    """

    limit_a: float
    factor: float = 1.0
    insists: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Some hours of one state: loads by battery, what the alternator gives to the vehicle's, and
    what others give to each, mains and sun. [A]
    """

    name: str
    hours: float
    engine_on: bool
    charge_a: float
    load_a: Mapping[str, float]
    given_a: Mapping[str, float] = field(default_factory=dict)

    @property
    def charging_a(self) -> float:
        """What is given to the vehicle's battery and its loads. [A]"""
        return self.charge_a + self.given_a.get(BATTERY, 0.0)

    def net_a(self, bank: str) -> float:
        """What a battery's own loads lack; negative where it is given more than they take. [A]"""
        return self.load_a.get(bank, 0.0) - self.given_a.get(bank, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """Batteries at one time: state of charge from 0 to 1, and current into each. [h, A]"""

    at_h: float
    state: Mapping[str, float]
    into_a: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """What the batteries do: ``moments`` in order; two of one time stand where states change."""

    stretches: tuple[Stretch, ...]
    moments: tuple[Moment, ...]

    def lowest(self, bank: str = BATTERY) -> float:
        """Return the lowest state of charge of a battery."""
        return min(m.state[bank] for m in self.moments)

    def ends(self, bank: str = BATTERY) -> float:
        """Return the state of charge in the end."""
        return self.moments[-1].state[bank]

    def part(self, index: int) -> tuple[Moment, ...]:
        """Return the moments of one stretch, from its own start to its own end."""
        return self.moments[index * (STEPS + 1) : (index + 1) * (STEPS + 1)]

    def mean_a(self, index: int, bank: str = BATTERY) -> float:
        """Return the current into a battery over one stretch, on average. [A]"""
        flows = [m.into_a[bank] for m in self.part(index)]
        return (sum(flows) - (flows[0] + flows[-1]) / 2) / (len(flows) - 1)

    def falls_to(self, level: float = HALF, bank: str = BATTERY) -> float | None:
        """Return when a battery first falls to a level, or None. [h]"""
        before = self.moments[0]
        for now in self.moments[1:]:
            was, is_ = before.state[bank], now.state[bank]
            if is_ <= level < was:
                return before.at_h + (was - level) / (was - is_) * (now.at_h - before.at_h)
            before = now
        return None


def run(
    stretches: Iterable[Stretch],
    banks: Mapping[str, Bank],
    links: Mapping[str, Link],
    *,
    start: float | Mapping[str, float] = 1.0,
) -> Course:
    """Return the course of all batteries over the stretches, from full or from given states."""
    state = {b: start if isinstance(start, (int, float)) else start[b] for b in banks}
    listed = tuple(stretches)
    at_h = 0.0
    moments: list[Moment] = []
    for stretch in listed:
        step_h = stretch.hours / STEPS
        moments.append(
            Moment(at_h=at_h, state=dict(state), into_a=into(stretch, state, banks, links))
        )
        for at in range(1, STEPS + 1):
            half = _after(state, into(stretch, state, banks, links), banks, step_h / 2)
            state = _after(state, into(stretch, half, banks, links), banks, step_h)
            now_a = into(stretch, state, banks, links)
            moments.append(Moment(at_h=at_h + at * step_h, state=dict(state), into_a=now_a))
        at_h += stretch.hours
    return Course(stretches=listed, moments=tuple(moments))


def into(
    stretch: Stretch,
    state: Mapping[str, float],
    banks: Mapping[str, Bank],
    links: Mapping[str, Link],
) -> dict[str, float]:
    """Return the current into each battery, negative when it gives. [A]

    The alternator serves the vehicle and what hangs on its own battery first, then the links,
    then that battery. What is missing comes out of the batteries.
    """
    spare_a = stretch.charge_a - stretch.net_a(BATTERY)
    found: dict[str, float] = {}
    for name, bank in banks.items():
        if name == BATTERY:
            continue
        load_a, most_a = stretch.net_a(name), bank.accepts_a(state[name])
        link = links.get(name)
        given_a = 0.0
        if stretch.engine_on and link is not None and (spare_a > 0 or link.insists):
            given_a = max(0.0, min(load_a + most_a, link.limit_a))
            if not link.insists:
                given_a = min(given_a, spare_a / link.factor)
            spare_a -= given_a * link.factor
        found[name] = min(given_a - load_a, most_a)
    main = banks[BATTERY]
    found[BATTERY] = min(spare_a, main.accepts_a(state[BATTERY])) if spare_a > 0 else spare_a
    return found


def _after(
    state: Mapping[str, float], into_a: Mapping[str, float], banks: Mapping[str, Bank], hours: float
) -> dict[str, float]:
    found = {}
    for name, bank in banks.items():
        amps = into_a[name]
        change = bank.rises_per_h(amps) if amps > 0 else -bank.falls_per_h(-amps)
        found[name] = min(1.0, max(0.0, state[name] + change * hours))
    return found
