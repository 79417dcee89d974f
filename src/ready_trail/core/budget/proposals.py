"""Scenarios proposed from how accessories are used, and from the vehicle."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.budget.draws import usual_ratio
from ready_trail.core.job.document import Job
from ready_trail.core.job.scenario import Running, Scenario
from ready_trail.core.supply.running import Row, Runs, rows_of
from ready_trail.core.supply.tree import Tree

_LAMP_SIGNALS = frozenset({"brake", "left", "right", "reverse"})


def proposed(job: Job) -> tuple[Scenario, ...]:
    """Return scenarios that this vehicle probably knows and that nobody has stated yet, under
    whatever name.

    Each holds only what can be on in it; what is left out is for a person to add.
    """
    runs = Runs(Tree(job))
    number = max((int(s.id[1:]) for s in job.scenarios if s.id[1:].isdigit()), default=0)
    found: list[Scenario] = []
    for scenario, wanted in _ideas(job):
        if _is_stated(job, scenario, wanted):
            continue
        number += 1
        named = scenario.model_copy(update={"id": f"s{number}"})
        running = tuple(_running(job, runs, named, wanted, rows_of(job)))
        if running:
            found.append(named.model_copy(update={"running": running}))
    return tuple(found)


def may_propose(job: Job) -> bool:
    """Return whether anything could be proposed, without working all of it out."""
    runs, rows = Runs(Tree(job)), rows_of(job)
    return any(
        not _is_stated(job, scenario, wanted)
        and any(any(True for _ in _running(job, runs, scenario, wanted, (row,))) for row in rows)
        for scenario, wanted in _ideas(job)
    )


def _is_stated(job: Job, idea: Scenario, wanted: frozenset[str]) -> bool:
    """Whether somebody stated the like: of that name, a winch's pull, or the same state of engine,
    key and lights; one long stay with the engine off is enough.
    """
    for stated in job.scenarios:
        if stated.name.casefold() == idea.name.casefold():
            return True
        if "winch" in wanted:
            pulls = (job.accessory(r.accessory).model == "winch" for r in stated.running)
            if any(pulls):
                return True
            continue
        same = (stated.engine, stated.key) == (idea.engine, idea.key)
        if same and (stated.engine == "off" or stated.lights == idea.lights):
            return True
    return False


def _ideas(job: Job) -> Iterator[tuple[Scenario, frozenset[str]]]:
    """Scenarios without what runs, and the kinds of things that belong there."""
    steady = frozenset({"continuous", "intermittent"})
    yield (
        Scenario(id="s0", name="Day driving", minutes=120),
        frozenset({"continuous", "day", "unswitched"}),
    )
    yield (
        Scenario(
            id="s0", name="Night driving", lights="high", blower=job.vehicle.has_blower, minutes=120
        ),
        steady,
    )
    yield (
        Scenario(id="s0", name="At work, engine idling", lights="side", engine="idle", minutes=45),
        steady,
    )
    yield (
        Scenario(id="s0", name="Parked overnight", key="off", engine="off", minutes=600),
        frozenset({"continuous", "unswitched"}),
    )
    if any(a.model == "winch" for a in job.accessories):
        yield (
            Scenario(id="s0", name="Recovery", engine="idle", minutes=30),
            frozenset({"continuous", "winch"}),
        )


def _running(
    job: Job, runs: Runs, scenario: Scenario, wanted: frozenset[str], rows: tuple[Row, ...]
) -> Iterator[Running]:
    taken: list[Running] = []
    for row in rows:
        if not _belongs(job, row, wanted):
            continue
        ratio = usual_ratio(job.accessory(row.accessory))
        item = Running(accessory=row.accessory, output=row.output, ratio=ratio)
        draft = scenario.model_copy(update={"running": (*taken, item)})
        if any(True for _ in runs.clash(draft)):
            continue
        taken.append(item)
    yield from taken


def _belongs(job: Job, row: Row, wanted: frozenset[str]) -> bool:
    accessory = job.accessory(row.accessory)
    if not row.circuit:
        return False
    if accessory.model == "winch":
        return "winch" in wanted
    use = job.use_of(job.circuit(row.circuit))
    if use.signal in _LAMP_SIGNALS:
        return False  # it repeats a lamp for moments
    if accessory.duty not in wanted or accessory.hazard:
        return False
    if "unswitched" in wanted and use.switch:
        return False
    return not ("day" in wanted and use.lights != "any")
