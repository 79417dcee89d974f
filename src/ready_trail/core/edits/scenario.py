"""Edits of scenarios and of the day that is put together from them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ready_trail.core.budget.draws import usual_ratio
from ready_trail.core.budget.proposals import proposed
from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import rows
from ready_trail.core.job.circuit import AcceptedFinding
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Name, ShortText
from ready_trail.core.job.scenario import DayPart, Engine, Minutes, Running, Scenario
from ready_trail.core.supply.running import Runs
from ready_trail.core.supply.tree import Tree


class SaveScenario(Edit):
    """Add a scenario, or change one: its name, state and minutes.

    ``running`` left out, what runs in it stays.
    """

    kind: Literal["save_scenario"] = "save_scenario"
    scenario_id: Ident | None = None
    name: Name
    key: Literal["off", "accessory", "run"] = "run"
    lights: Literal["off", "side", "low", "high"] = "off"
    engine: Engine = "cruise"
    blower: bool = False
    minutes: Minutes = 60.0
    mains: bool = False
    sun_ratio: Annotated[float, Field(ge=0, le=1)] = 0.0
    running: Annotated[tuple[Running, ...], Field(max_length=400)] | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Take the lines that are ticked, their shares in per cent."""
        if not isinstance(typed.get("running"), list):
            return dict(typed)
        listed = enumerate(rows(typed["running"]))
        running = [_in_use(at, row) for at, row in listed if str(row.get("on")).lower() == "true"]
        stood = next((s for s in job.scenarios if s.id == typed.get("scenario_id")), None)
        order = [(r.accessory, r.output) for r in stood.running] if stood is not None else []
        running.sort(key=lambda r: _place_in(order, (str(r["accessory"]), str(r["output"]))))
        return {**typed, "running": running}

    def added(self, after: Job) -> str:
        """Return the scenario's id."""
        return self.scenario_id or after.scenarios[-1].id

    def apply(self, job: Job) -> Job:
        """Return the job with it. What could not be on in the new state is refused by name."""
        if self.engine != "off" and self.key != "run":
            raise EditRefusedError("engine", "the engine runs only with the ignition on")
        old = None if self.scenario_id is None else find_scenario(job, self.scenario_id)
        stated = dict(self)
        for name in ("kind", "scenario_id", *(("running",) if self.running is None else ())):
            del stated[name]
        for other in job.scenarios:
            if other.name.casefold() == self.name.casefold() and other != old:
                raise EditRefusedError("name", "there is a scenario of this name")
        if old is None:
            new = Scenario(id=_free_id(job), **stated)
            return _checked(rebuilt(job, scenarios=(*job.scenarios, new)), new)
        return _checked(job, rebuilt(old, **stated))

    def title(self, job: Job) -> str:
        """Say which."""
        return f"{'Add' if self.scenario_id is None else 'Change'} scenario {self.name}"


class RemoveScenario(Edit):
    """Remove a scenario; the day loses its parts."""

    kind: Literal["remove_scenario"] = "remove_scenario"
    scenario_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job without it."""
        gone = find_scenario(job, self.scenario_id)
        return rebuilt(
            job,
            scenarios=tuple(s for s in job.scenarios if s.id != gone.id),
            day=tuple(p for p in job.day if p.scenario != gone.id),
        )

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Remove scenario {find_scenario(job, self.scenario_id).name}"


class SetRunning(Edit):
    """Say that an accessory, or one output, is in use in a scenario, and at what share."""

    merges: ClassVar[bool] = True
    kind: Literal["set_running"] = "set_running"
    scenario_id: Ident
    accessory: Ident
    output: ShortText = ""
    ratio: Annotated[float, Field(ge=0.01, le=1)] | None = None
    on: bool = True

    def apply(self, job: Job) -> Job:
        """Return the job with it in use or not; what cannot be on there is refused with why."""
        scenario = find_scenario(job, self.scenario_id)
        accessory = next((a for a in job.accessories if a.id == self.accessory), None)
        if accessory is None:
            raise EditRefusedError("accessory", "this accessory is no longer in the job")
        others = tuple(
            r for r in scenario.running if (r.accessory, r.output) != (self.accessory, self.output)
        )
        if not self.on:
            return _with_scenario(job, rebuilt(scenario, running=others))
        was = scenario.share_of(self.accessory, self.output)
        ratio = self.ratio or was or usual_ratio(accessory)
        item = Running(accessory=self.accessory, output=self.output, ratio=ratio)
        return _checked(job, rebuilt(scenario, running=(*others, item)), only=item)

    def title(self, job: Job) -> str:
        """Say what, and where."""
        name = next((a.name for a in job.accessories if a.id == self.accessory), self.accessory)
        what = f"{name}, {self.output}" if self.output else name
        share = f" {self.ratio:.0%} of the time" if self.ratio else ""
        where = find_scenario(job, self.scenario_id).name
        return f"{where}: {what}{share}" if self.on else f"{where}: without {what}"


class ProposeScenarios(Edit):
    """Add the scenarios that this vehicle probably knows."""

    kind: Literal["propose_scenarios"] = "propose_scenarios"

    def apply(self, job: Job) -> Job:
        """Return the job with them; those of a name that stands are left alone."""
        new = proposed(job)
        if not new:
            raise EditRefusedError("form", "every scenario that could be proposed is there")
        return rebuilt(job, scenarios=(*job.scenarios, *new))

    def title(self, job: Job) -> str:
        """Plain name."""
        return "Propose scenarios"


class SetDay(Edit):
    """Put a day together from scenarios."""

    kind: Literal["set_day"] = "set_day"
    parts: Annotated[tuple[DayPart, ...], Field(max_length=24)]

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out a line without a scenario; blank minutes are the scenario's own."""
        usual = {s.id: s.minutes for s in job.scenarios}
        parts = [
            {**row, "minutes": row.get("minutes") or usual.get(str(row["scenario"]), 60.0)}
            for row in rows(typed.get("parts"))
            if row.get("scenario")
        ]
        return {**typed, "parts": parts}

    def apply(self, job: Job) -> Job:
        """Return the job with that day; it may be no longer than two weeks in all."""
        for part in self.parts:
            find_scenario(job, part.scenario)
        if sum(p.minutes for p in self.parts) > 14 * 24 * 60:
            raise EditRefusedError("parts", "a course of two weeks is the longest")
        return rebuilt(job, day=self.parts)

    def title(self, job: Job) -> str:
        """Say how long."""
        hours = sum(p.minutes for p in self.parts) / 60.0
        return f"Put together a day of {hours:g} h" if self.parts else "Take the day apart"


class AcceptBudget(Edit):
    """Accept a finding on the job as a whole, with a written reason."""

    kind: Literal["accept_budget"] = "accept_budget"
    accepted: AcceptedFinding

    def apply(self, job: Job) -> Job:
        """Return the job with the reason on record."""
        at = (self.accepted.code, self.accepted.place)
        others = tuple(a for a in job.accepted if (a.code, a.place) != at)
        return rebuilt(job, accepted=(*others, self.accepted))

    def title(self, job: Job) -> str:
        """Say which finding."""
        return f"Accept {self.accepted.code} on {self.accepted.place}"


class WithdrawBudget(Edit):
    """Open an accepted finding on the job as a whole again."""

    kind: Literal["withdraw_budget"] = "withdraw_budget"
    code: str
    place: str

    def apply(self, job: Job) -> Job:
        """Return the job with the finding open."""
        kept = tuple(a for a in job.accepted if (a.code, a.place) != (self.code, self.place))
        return rebuilt(job, accepted=kept)

    def title(self, job: Job) -> str:
        """Say which finding."""
        return f"Open {self.code} again on {self.place}"


def _place_in(order: list[tuple[str, str]], line: tuple[str, str]) -> int:
    """Where a line stood; new ones come after those that did."""
    return order.index(line) if line in order else len(order)


def _in_use(at: int, row: Mapping[str, Any]) -> dict[str, Any]:
    """One line of a scenario's form that is ticked; a blank share is all of the time."""
    try:
        ratio = float(str(row.get("percent") or "100").removesuffix("%")) / 100.0
    except ValueError:
        ratio = -1.0
    if not 0.01 <= ratio <= 1.0:
        message = "Type a share of the time from 1 to 100 per cent."
        raise EditRefusedError(f"running.{at}.percent", message)
    return {"accessory": row.get("accessory"), "output": row.get("output", ""), "ratio": ratio}


def find_scenario(job: Job, scenario_id: str) -> Scenario:
    """Return a scenario of the job, or refuse the edit."""
    for scenario in job.scenarios:
        if scenario.id == scenario_id:
            return scenario
    raise EditRefusedError("scenario_id", "this scenario is no longer in the job")


def _checked(job: Job, scenario: Scenario, *, only: Running | None = None) -> Job:
    """The job with a scenario changed; refused where something cannot be on in it."""
    for item, why in Runs(Tree(job)).clash(scenario):
        if only is None or item == only:
            name = job.accessory(item.accessory).name
            told = f"{name}, {item.output}" if item.output else name
            raise EditRefusedError("running", f"{told} {why}")
    return _with_scenario(job, scenario)


def _with_scenario(job: Job, scenario: Scenario) -> Job:
    scenarios = tuple(scenario if s.id == scenario.id else s for s in job.scenarios)
    return rebuilt(job, scenarios=scenarios)


def _free_id(job: Job) -> str:
    used = [int(s.id[1:]) for s in job.scenarios if s.id[1:].isdigit()]
    return f"s{max(used, default=0) + 1}"
