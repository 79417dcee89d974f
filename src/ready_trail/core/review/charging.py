"""Review of the budget: deficits, half and flat batteries, parked days, the winch's minutes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.budget import FLAT, HALF, Bank, ScenarioBudget
from ready_trail.core.budget.course import into, run
from ready_trail.core.budget.draws import bank_behind, is_live_parked, parked_draw_a
from ready_trail.core.budget.proposals import may_propose
from ready_trail.core.edits import (
    ChangePoint,
    ProposeScenarios,
    SaveScenario,
    SetDay,
    SetRunning,
    SetVehicle,
)
from ready_trail.core.edits.remedy import with_use_edit
from ready_trail.core.job import BATTERY, Scenario
from ready_trail.core.outcome import Action, Design, Finding
from ready_trail.core.review.base import BudgetCheck
from ready_trail.core.states import LIGHT_STATES, LightState
from ready_trail.core.supply.apart import most_together, pairs_apart
from ready_trail.core.supply.own_load import alternator_a, own_load_a
from ready_trail.core.supply.tree import LIT

AREA = "charging"
_SIZES_AH = (7, 12, 14, 18, 20, 30, 45, 60, 70, 80, 95, 105, 120, 140, 180, 225, 280, 400)
_ALTERNATORS_A = (70, 90, 110, 130, 150, 180, 220, 250, 300)


def check_scenarios(made: Design) -> Iterator[Finding]:
    """A battery that is half or flat before the scenario ends; a deficit while idling."""
    for found in made.budget.scenarios:
        told = False
        for bank, ends in found.ends.items():
            if ends <= HALF:
                told = told or bank == BATTERY
                yield _low(made, found, bank, ends)
        if found.scenario.engine != "off" and not told and found.into_a[BATTERY] < -0.05:
            yield Finding(
                code="charge_deficit",
                area=AREA,
                place=found.scenario.name,
                severity="note",
                text=f"{found.scenario.name}: the alternator does not keep up; the battery gives "
                f"{-found.into_a[BATTERY]:.0f} A.",
                why=f"It lasts for the {_time(found.scenario.minutes / 60)} stated; half the "
                f"battery would be gone after {_time(found.half_h.get(BATTERY, 0.0))}.",
                found=f"{found.load_a:.0f} A",
                allowed=f"{found.alternator_a:.0f} A",
            )


def _low(made: Design, found: ScenarioBudget, bank: str, ends: float) -> Finding:
    scenario, name = found.scenario, made.budget.names[bank]
    strands = bank == BATTERY and ends <= FLAT
    code = "battery_flat" if strands else "battery_half"
    return Finding(
        code=code,
        area=AREA,
        place=scenario.name,
        severity="stop" if strands else "caution",
        text=f"{scenario.name}: {name} is half empty after {_time(found.half_h[bank])}, before "
        f"its {_time(scenario.minutes / 60)} are over.",
        why="The engine may not start after it."
        if strands
        else "Below half a battery ages fast, and in the cold it may not start the engine.",
        found=f"{ends:.0%} left",
        allowed=f"{HALF:.0%}",
        actions=tuple(_ways_out(made, found, bank)),
    )


def _ways_out(made: Design, found: ScenarioBudget, bank: str) -> Iterator[Action]:
    """A bigger battery, less time, or the largest load for less of it."""
    scenario = found.scenario
    half_h = found.half_h[bank]
    if half_h * 60.0 >= 2.0:
        minutes = float(int(half_h * 60.0 * 0.95) // 5 * 5) or float(int(half_h * 60.0 * 0.95))
        if minutes >= 1:
            yield Action(
                label=f"Plan it for {_time(minutes / 60)}", edit=_with_minutes(scenario, minutes)
            )
    larger = _larger_ah(made, found, bank)
    if larger is not None:
        yield larger
    if scenario.engine != "off" and bank == BATTERY:
        yield from _larger_alternator(made, found)
    mine = [d for d in found.draws if d.bank == bank]
    shared = [r for r in scenario.running if mine and r.accessory == mine[0].accessory]
    if len(mine) > 1 and len(shared) == 1:
        edit = SetRunning(
            scenario_id=scenario.id,
            accessory=shared[0].accessory,
            output=shared[0].output,
            on=False,
        )
        yield Action(label=f"Leave out {mine[0].name}", edit=edit)


def _with_minutes(scenario: Scenario, minutes: float) -> SaveScenario:
    stated = scenario.model_dump(exclude={"id", "running"})
    return SaveScenario(scenario_id=scenario.id, **{**stated, "minutes": minutes})


def _larger_ah(made: Design, found: ScenarioBudget, bank: str) -> Action | None:
    """The next usual size that outlasts the scenario."""
    old = made.budget.banks[bank]
    hours = found.scenario.minutes / 60.0
    for size in _SIZES_AH:
        new = Bank(capacity_ah=float(size), chemistry=old.chemistry)
        if size > old.capacity_ah and new.falls_per_h(-found.into_a[bank]) * hours < HALF:
            break
    else:
        return None
    return _of_size(made, bank, size)


def _larger_alternator(made: Design, found: ScenarioBudget) -> Iterator[Action]:
    vehicle = made.job.vehicle
    hours = found.scenario.minutes / 60.0
    bank = made.budget.banks[BATTERY]
    for rating in _ALTERNATORS_A:
        larger = vehicle.model_copy(update={"charging_a": float(rating)})
        gain_a = alternator_a(larger, found.scenario.engine) - found.alternator_a
        if gain_a > 0 and bank.falls_per_h(-found.into_a[BATTERY] - gain_a) * hours < HALF:
            yield Action(label=f"Take an alternator of {rating} A", edit=SetVehicle(vehicle=larger))
            return


def check_day(made: Design) -> Iterator[Finding]:
    """The day as put together: never below half, and no emptier in the end than at its start."""
    day = made.budget.day
    if day is None:
        return
    for bank, name in made.budget.names.items():
        low, ends = day.lowest(bank), day.ends(bank)
        if low <= HALF:
            at_h = day.falls_to(HALF, bank) or 0.0
            strands = bank == BATTERY and low <= FLAT
            code = "day_flat" if strands else "day_half"
            yield Finding(
                code=code,
                area=AREA,
                place=f"day, {name}",
                severity="stop" if strands else "caution",
                text=f"Over the day {name} is half empty after {_time(at_h)}.",
                why="Charge in between, take less, or give it a bigger battery; the plot shows "
                "which part takes it.",
                found=f"{low:.0%} at the lowest",
                allowed=f"{HALF:.0%}",
                actions=tuple(_day_ways_out(made, bank)),
            )
        elif ends < 0.9:
            yield Finding(
                code="day_not_charged",
                area=AREA,
                place=f"day, {name}",
                severity="note",
                text=f"The day leaves {name} at {ends:.0%}.",
                why="The next one starts from there; a longer drive, or a charger at night, "
                "makes up for it.",
                found=f"{ends:.0%}",
                allowed="90%",
            )


def _day_ways_out(made: Design, bank: str) -> Iterator[Action]:
    """A shorter part, and the first usual size, with which the day stays above half."""
    day, banks = made.budget.day, dict(made.budget.banks)
    if day is None:
        return
    yield from _shorter_part(made, bank)
    for size in _SIZES_AH:
        if size <= banks[bank].capacity_ah:
            continue
        tried = {**banks, bank: Bank(capacity_ah=float(size), chemistry=banks[bank].chemistry)}
        if run(day.stretches, tried, made.budget.links).lowest(bank) > HALF:
            larger = _of_size(made, bank, size)
            if larger is not None:
                yield larger
            return


def _shorter_part(made: Design, bank: str) -> Iterator[Action]:
    """The part that takes most, for less time; the rest of the day stays as it is."""
    day = made.budget.day
    if day is None:
        return
    takes = [
        (
            s.hours
            * made.budget.banks[bank].falls_per_h(
                -into(s, full, made.budget.banks, made.budget.links)[bank]
            ),
            at,
        )
        for full in (dict.fromkeys(made.budget.banks, 1.0),)
        for at, s in enumerate(day.stretches)
    ]
    _, at = max(takes)
    for share in (0.75, 0.5, 0.25):
        minutes = max(1.0, round(made.job.day[at].minutes * share))
        stretches = list(day.stretches)
        stretches[at] = replace(stretches[at], hours=minutes / 60.0)
        if run(stretches, made.budget.banks, made.budget.links).lowest(bank) > HALF:
            parts = list(made.job.day)
            parts[at] = parts[at].model_copy(update={"minutes": minutes})
            name = day.stretches[at].name
            yield Action(
                label=f"Plan {name} for {_time(minutes / 60)}", edit=SetDay(parts=tuple(parts))
            )
            return


def _of_size(made: Design, bank: str, size: float) -> Action | None:
    """A press that gives a battery another capacity. [Ah]"""
    if bank == BATTERY:
        vehicle = made.job.vehicle
        battery = vehicle.battery.model_copy(update={"capacity_ah": float(size)})
        edit = SetVehicle(vehicle=vehicle.model_copy(update={"battery": battery}))
        return Action(label=f"Take a battery of {size:g} Ah", edit=edit)
    point = made.job.point(bank)
    if point.battery is None:
        return None
    battery = point.battery.model_copy(update={"capacity_ah": float(size)})
    changed = ChangePoint(point=point.model_copy(update={"battery": battery}))
    return Action(label=f"Take one of {size:g} Ah for {point.name}", edit=changed)


def check_alternator(made: Design) -> Iterator[Finding]:
    """Where no scenario is made, the worst state is one: all that stays on, the engine cruising."""
    job, vehicle = made.job, made.job.vehicle
    if job.scenarios or not vehicle.charging_a:
        return
    worst = max(LIGHT_STATES, key=lambda lights: _steady_a(made, lights))
    total_a = _steady_a(made, worst)
    gives_a = alternator_a(vehicle, "cruise")
    own_a = own_load_a(vehicle, "cruise", worst, key="run", blower=False)
    if total_a <= gives_a - own_a:
        return
    actions = []
    if may_propose(job):
        actions.append(Action(label="Propose scenarios", edit=ProposeScenarios()))
    larger = next((a for a in _ALTERNATORS_A if 0.85 * a - own_a >= total_a), None)
    if larger is not None:
        stronger = vehicle.model_copy(update={"charging_a": float(larger)})
        label = f"Take an alternator of {larger} A"
        actions.append(Action(label=label, edit=SetVehicle(vehicle=stronger)))
    yield Finding(
        code="alternator_small",
        area=AREA,
        place="alternator",
        severity="caution",
        text="All that may stay on together takes more than the alternator gives.",
        why="The battery gives the rest until it is flat. Say in scenarios what really runs "
        "together, or take a larger one.",
        found=f"{total_a:.0f} A and the vehicle's {own_a:.0f} A",
        allowed=f"{gives_a:.0f} A",
        actions=tuple(actions),
    )


def _steady_a(made: Design, lights: LightState) -> float:
    """What stays on at once on the vehicle's battery in one light state. [A]"""
    job, tree = made.job, made.plan.tree
    on: list[tuple[str, float]] = []
    for circuit in job.circuits:
        loads = job.loads_of(circuit)
        bank, factor = bank_behind(circuit, tree)
        steady = loads and all(a.duty == "continuous" for a in loads)
        if steady and bank == BATTERY and lights in LIT[job.use_of(circuit).lights]:
            on.append((circuit.id, factor * made.plan.currents.circuit_a(circuit)))
    return most_together(on, pairs_apart(job))


def check_parked(made: Design) -> Iterator[Finding]:
    """Days parked until half the battery is gone, against those that the house wants."""
    wanted = made.job.rules.parked_days
    for bank, days in made.budget.parked_days.items():
        if days >= wanted or made.budget.names.get(bank) is None:
            continue
        yield Finding(
            code="parked_days",
            area=AREA,
            place=made.budget.names[bank],
            severity="caution",
            text=f"Parked, {made.budget.names[bank]} is half empty after {_time(24 * days)}.",
            why="What stays live takes it. A feed that sleeps with the key, a disconnect, or a "
            "bigger battery keeps it longer.",
            found=_time(24 * days),
            allowed=f"{wanted:g} days",
            actions=tuple(_parked_ways_out(made, bank, days)),
        )


def _parked_ways_out(made: Design, bank: str, days: float) -> Iterator[Action]:
    wanted = made.job.rules.parked_days
    least_ah = made.budget.banks[bank].capacity_ah * wanted / days
    size = next((s for s in _SIZES_AH if s >= least_ah), None)
    larger = _of_size(made, bank, size) if size is not None else None
    if larger is not None:
        yield larger
    job, tree = made.job, made.plan.tree
    live = [
        (parked_draw_a(a, tree.nominal_v(c.start.point)), c.number, c, a)
        for c in job.circuits
        for a in job.loads_of(c)
        if is_live_parked(c, job, tree) and bank_behind(c, tree)[0] == bank
    ]
    if live:
        _, _, circuit, accessory = max(live, key=lambda x: x[:2])
        keyed = job.use_of(circuit).model_copy(update={"key": "run"})
        yield Action(
            label=f"Let {accessory.name} sleep with the ignition",
            edit=with_use_edit(job, circuit, keyed),
            alters=("when", "fuse"),
        )


def check_winch(made: Design) -> Iterator[Finding]:
    """Minutes of pull in a scenario against those that leave half the battery."""
    minutes = {w.accessory: w for w in made.budget.winches}
    for found in made.budget.scenarios:
        for item in found.scenario.running:
            winch = minutes.get(item.accessory)
            if winch is None or winch.pull_min is None:
                continue
            pull_min = item.ratio * found.scenario.minutes
            if pull_min <= winch.pull_min or found.ends[BATTERY] <= HALF:
                continue
            ratio = max(0.01, int(100 * winch.pull_min / found.scenario.minutes) / 100)
            less = SetRunning(
                scenario_id=found.scenario.id,
                accessory=item.accessory,
                output=item.output,
                ratio=ratio,
            )
            yield Finding(
                code="winch_minutes",
                area=AREA,
                place=found.scenario.name,
                severity="caution",
                text=f"{found.scenario.name}: {winch.name} pulls for {pull_min:.0f} minutes; in "
                f"one go the battery gives {winch.pull_min:.1f}.",
                why="Let it rest while the engine charges, or pull less.",
                found=f"{pull_min:.0f} min",
                allowed=f"{winch.pull_min:.1f} min",
                actions=(Action(label=f"Plan {ratio:.0%} of the time", edit=less),),
            )


def check_listed(made: Design) -> Iterator[Finding]:
    """What stands in no scenario, and what stands where it cannot be on."""
    for accessory in made.job.accessories:
        if accessory.id in made.budget.unlisted and made.job.circuits_of(accessory.id):
            yield Finding(
                code="in_no_scenario",
                area=AREA,
                place=accessory.name,
                severity="note",
                text=f"{accessory.name} is in no scenario.",
                why="Feeders are sized as if it ran in each one that allows it; the battery does "
                "not count it.",
            )
    for found in made.budget.scenarios:
        for item, why in found.impossible:
            name = made.job.accessory(item.accessory).name
            out = SetRunning(
                scenario_id=found.scenario.id,
                accessory=item.accessory,
                output=item.output,
                on=False,
            )
            yield Finding(
                code="not_possible_there",
                area=AREA,
                place=f"{found.scenario.name}, {name}",
                severity="caution",
                text=f"{found.scenario.name} counts on {name}, which {why}.",
                why="It draws nothing there; the scenario says something that does not happen.",
                actions=(Action(label=f"Take it out of {found.scenario.name}", edit=out),),
            )


def _time(hours: float) -> str:
    """Hours and minutes in words."""
    if hours < 1:
        return f"{hours * 60:.0f} min"
    return f"{hours:.1f} h" if hours < 24 else f"{hours / 24:.0f} days"


CHECKS: tuple[BudgetCheck, ...] = (
    check_scenarios,
    check_day,
    check_alternator,
    check_parked,
    check_winch,
    check_listed,
)
