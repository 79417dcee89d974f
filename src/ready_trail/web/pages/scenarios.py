"""The matrix of scenarios as a template sees it, with the plot of one of them or of the day."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ready_trail.core.budget import Budget, Course, ScenarioBudget, budget_of
from ready_trail.core.edits import SetVehicle
from ready_trail.core.job import BATTERY, Job, Scenario, Vehicle
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.running import Row, Runs, rows_of
from ready_trail.core.supply.tree import Tree
from ready_trail.drawing.course import CourseShape, draw_course
from ready_trail.web.fields import FieldsRefusedError, build
from ready_trail.web.pages.shell import Shell
from ready_trail.web.pages.what_if import Slider

KEY_WORDS = {"off": "key off", "accessory": "accessory key", "run": "ignition"}
LIGHT_WORDS = {"off": "no lights", "side": "side lights", "low": "low beam", "high": "high beam"}
ENGINE_WORDS = {"off": "engine off", "idle": "idling", "cruise": "cruising"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """Where an accessory meets a scenario: in use at a share, free, or not possible and why."""

    scenario: Scenario
    ratio: float | None
    why_not: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MatrixRow:
    """One line of the matrix."""

    row: Row
    amps: float
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartRow:
    """One part of the plotted course in figures: what the plot tells, for reading aloud."""

    name: str
    hours: float
    load_a: float
    charge_a: float
    into_a: float
    ends: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenariosView:
    """Everything on the page. ``edit`` keeps what the sliders show; None while nothing moved."""

    matrix: tuple[MatrixRow, ...]
    budget: Budget
    columns: tuple[ScenarioBudget, ...]
    shown: str
    shown_name: str
    plot: CourseShape | None
    parts: tuple[PartRow, ...]
    sliders: tuple[Slider, ...]
    edit: SetVehicle | None
    moved: bool


def scenarios_of(shell: Shell, asked: Mapping[str, str]) -> ScenariosView:
    """Return the page's view; ``asked`` names what is plotted and where sliders stand.

    Raises FieldsRefusedError for a slider out of range.
    """
    job = shell.stored.job
    sliders, vehicle = _sliders(job, asked)
    moved = vehicle != job.vehicle
    budget = shell.design.budget
    if moved:
        tried = job.model_copy(update={"vehicle": vehicle})
        tree = Tree(tried)
        budget = budget_of(tried, tree, Currents(tree))
    shown = asked.get("show", "")
    known = {s.id for s in job.scenarios}
    if shown not in known and not (shown == "day" and budget.day is not None):
        shown = "day" if budget.day is not None else (job.scenarios[0].id if known else "")
    course = _course(budget, shown)
    loads = _loads(budget, shown, job)
    return ScenariosView(
        matrix=tuple(_matrix(job, shell)),
        budget=budget,
        columns=budget.scenarios,
        shown=shown,
        shown_name="The day"
        if shown == "day"
        else next((s.name for s in job.scenarios if s.id == shown), ""),
        plot=draw_course(course, loads, budget.names) if course is not None else None,
        parts=tuple(_parts(course, budget)) if course is not None else (),
        sliders=sliders,
        edit=SetVehicle(vehicle=vehicle) if moved else None,
        moved=moved,
    )


def _course(budget: Budget, shown: str) -> Course | None:
    if shown == "day":
        return budget.day
    return budget.course_of(shown) if shown else None


def _loads(budget: Budget, shown: str, job: Job) -> list[list[tuple[str, float]]]:
    """What draws from the vehicle's own battery, stretch by stretch."""
    ids = [p.scenario for p in job.day] if shown == "day" else [shown] if shown else []
    found = []
    for scenario_id in ids:
        one = budget.of(scenario_id)
        part = [("the vehicle itself", one.own_a)]
        found.append(part + [(d.name, d.mean_a) for d in one.draws if d.bank == BATTERY])
    return found


def _matrix(job: Job, shell: Shell) -> list[MatrixRow]:
    runs = Runs(Tree(job))
    lines = []
    for row in rows_of(job):
        circuit = job.circuit(row.circuit) if row.circuit else None
        cells = []
        for scenario in job.scenarios:
            why = runs.why_not(circuit, scenario) if circuit is not None else "has no circuit yet"
            cells.append(
                Cell(
                    scenario=scenario,
                    why_not=why,
                    ratio=scenario.share_of(row.accessory, row.output),
                )
            )
        amps = shell.design.circuit(row.circuit).current_a if row.circuit else 0.0
        lines.append(MatrixRow(row=row, amps=amps, cells=tuple(cells)))
    return lines


def _parts(course: Course, budget: Budget) -> list[PartRow]:
    found = []
    for index, stretch in enumerate(course.stretches):
        end = course.part(index)[-1]
        found.append(
            PartRow(
                name=stretch.name,
                hours=stretch.hours,
                load_a=stretch.load_a.get(BATTERY, 0.0),
                charge_a=stretch.charging_a,
                into_a=course.mean_a(index),
                ends=tuple((name, end.state[bank]) for bank, name in budget.names.items()),
            )
        )
    return found


def _sliders(job: Job, asked: Mapping[str, str]) -> tuple[tuple[Slider, ...], Vehicle]:
    """The sliders where the query sets them, and the vehicle that they mean."""
    vehicle = job.vehicle
    document = vehicle.model_dump()
    if asked.get("capacity_ah"):
        document["battery"]["capacity_ah"] = asked["capacity_ah"]
    if asked.get("charging_a"):
        document["charging_a"] = asked["charging_a"]
    try:
        tried = build(Vehicle, document)
    except FieldsRefusedError as refused:
        words = next(iter(refused.errors.values()))
        raise FieldsRefusedError({"sliders": words}) from refused
    stated_ah, stated_a = vehicle.battery.capacity_ah, vehicle.charging_a
    sliders = (
        Slider(
            name="capacity_ah",
            label="Battery",
            unit="Ah",
            low=min(5.0, stated_ah),
            high=max(400.0, 2 * stated_ah),
            step=5.0 if stated_ah >= 20 else 1.0,
            base=stated_ah,
            value=tried.battery.capacity_ah,
        ),
        Slider(
            name="charging_a",
            label="Alternator",
            unit="A",
            low=0.0,
            high=max(300.0, 1.5 * stated_a),
            step=5.0,
            base=stated_a,
            value=tried.charging_a,
        ),
    )
    moved = {s.name for s in sliders if s.moved}
    battery = tried.battery if "capacity_ah" in moved else vehicle.battery
    charging_a = tried.charging_a if "charging_a" in moved else stated_a
    return sliders, vehicle.model_copy(update={"battery": battery, "charging_a": charging_a})
