"""What each accessory takes out of which battery, on the average of a scenario."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import BATTERY
from ready_trail.core.job.scenario import Scenario
from ready_trail.core.supply.currents import Currents, load_currents_a
from ready_trail.core.supply.running import feeds
from ready_trail.core.supply.tree import Tree

MEMORY_A = 0.010
"""A radio's memory wire draws about this (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Draw:
    """One accessory's average current, as its battery sees it; ``bank`` is that battery's id."""

    accessory: str
    name: str
    mean_a: float
    bank: str


def bank_behind(circuit: Circuit, tree: Tree) -> tuple[str, float]:
    """Return the battery that a circuit lives on, and amps taken from it for each amp given.

    A converter on the way takes more or fewer amps in than it gives out.
    """
    factor, at = 1.0, circuit.start.point
    while at != BATTERY:
        point = tree.points[at]
        if point.is_a.stores:
            return at, factor
        feeder = tree.feeders.get(at)
        set_v = point.is_a.output_12_v
        if set_v is not None:
            in_v = tree.nominal_v(feeder.start.point) if feeder is not None else 12.0
            out_v = float(point.output_v or tree.job.vehicle.nominal_v) * set_v / 12.0
            factor *= out_v / point.efficiency_ratio / (in_v * set_v / 12.0)
        if feeder is None:
            break
        at = feeder.start.point
    return BATTERY, factor


def draws_in(scenario: Scenario, job: Job, tree: Tree, currents: Currents) -> tuple[Draw, ...]:
    """Return what runs in a scenario, on the average, largest first."""
    found: dict[tuple[str, str], float] = {}
    on = currents.runs.on(scenario)
    for circuit in job.circuits:
        if circuit.id not in on:
            continue
        bank, factor = bank_behind(circuit, tree)
        for accessory in job.loads_of(circuit):
            ratio = max(
                (
                    i.ratio
                    for i in scenario.running
                    if i.accessory == accessory.id and feeds(circuit, i, job)
                ),
                default=None,
            )
            if ratio is None:
                continue
            mean_a = factor * _mean_a(accessory, ratio, tree.nominal_v(circuit.start.point))
            key = (accessory.id, bank)
            found[key] = found.get(key, 0.0) + mean_a
    draws = [
        Draw(accessory=i, name=job.accessory(i).name, mean_a=amps, bank=bank)
        for (i, bank), amps in found.items()
    ]
    return tuple(sorted(draws, key=lambda d: (-d.mean_a, d.name)))


def _mean_a(accessory: Accessory, ratio: float, nominal_v: float) -> float:
    """Full current for its share, and for the rest what it takes without pull or on standby."""
    full_a = sum(load_currents_a((accessory,), nominal_v))
    if accessory.model == "winch":
        return ratio * accessory.rated_a
    idle_a = min(accessory.idle_a or 0.0, full_a)
    return idle_a + (full_a - idle_a) * ratio


_DUTY_RATIO = {"continuous": 1.0, "intermittent": 0.2, "momentary": 0.05}
_WINCH_RATIO = 0.1
_COLD_BOX_RATIO = 0.45
_STANDBY_RATIO = 0.15
_SWITCHED_MOTOR_RATIO = 0.25
"""Share of the time at full current, by duty; a cold box that is fed always runs less than half
of it, an inverter that waits a seventh, and a motor that somebody switches on a quarter
(typical)."""


def usual_ratio(accessory: Accessory) -> float:
    """Return the share of the time that an accessory draws its full current. (typical)"""
    if accessory.model == "winch":
        return _WINCH_RATIO
    cold_box = accessory.min_v is not None and accessory.use.key == "always"
    if cold_box and accessory.duty == "continuous":
        return _COLD_BOX_RATIO
    usual = _DUTY_RATIO[accessory.duty]
    waits = accessory.idle_a is not None and accessory.model in ("electronics", "constant_power")
    if waits and accessory.duty == "continuous":
        return _STANDBY_RATIO  # for what is plugged into it
    if accessory.model == "motor" and accessory.use.switch:
        return min(usual, _SWITCHED_MOTOR_RATIO)
    return usual


def _remembers(circuit: Circuit, tree: Tree) -> bool:
    """Whether the channel at which a circuit starts comes up as it was left."""
    point = tree.points[circuit.start.point]
    channel = point.position(circuit.start.position)
    return channel is not None and channel.memory == "remembers"


def is_live_parked(circuit: Circuit, job: Job, tree: Tree) -> bool:
    """Whether a circuit is live with the key out and nobody near: nothing switches it off."""
    use, waking = job.use_of(circuit), tree.waking_of(circuit)
    by_hand = tree.by_hand(circuit) and not _remembers(circuit, tree)
    by_itself = not use.switch and use.channel is None and not use.while_on and not by_hand
    return use.follows == "always" and by_itself and not waking.sleeps and not waking.switched


def parked_draw_a(accessory: Accessory, nominal_v: float) -> float:
    """Return what an accessory takes that is live while all is parked: a steady one at its duty,
    one that is worked by hand what it takes on standby. [A]
    """
    stated_a = (accessory.standby_ma or 0.0) * 1e-3
    if accessory.duty != "continuous":
        return stated_a
    return max(stated_a, _mean_a(accessory, usual_ratio(accessory), nominal_v))


def standby_a(job: Job, tree: Tree, circuits: Iterable[Circuit] | None = None) -> dict[str, float]:
    """Return what accessories draw while all is parked, summed for each battery: of all circuits,
    or of those named. [A]
    """
    found: dict[str, float] = {}
    for circuit in job.circuits if circuits is None else circuits:
        if not circuit.accessory_ids:
            continue
        bank, factor = bank_behind(circuit, tree)
        for accessory in job.loads_of(circuit):
            nominal_v = tree.nominal_v(circuit.start.point)
            live = is_live_parked(circuit, job, tree)
            stated_a = parked_draw_a(accessory, nominal_v) if live else 0.0
            memory_a = MEMORY_A if accessory.memory_wire else 0.0
            found[bank] = found.get(bank, 0.0) + factor * max(stated_a, memory_a)
    return found
