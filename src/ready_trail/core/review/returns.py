"""Review of the body as a way back: its strap to the battery, with all that returns through it."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.conductors import PAIR_SHARE_RATIO
from ready_trail.core.edits import EarthAll, SetVehicle
from ready_trail.core.job import Circuit
from ready_trail.core.outcome import Action, Design, Finding
from ready_trail.core.review.base import BudgetCheck
from ready_trail.core.states import LIGHT_STATES
from ready_trail.core.supply.apart import most_together, pairs_apart
from ready_trail.core.supply.tree import LIT

AREA = "wire"


def body_returns_a(made: Design) -> float:
    """Return the most that comes back through the body at once: of what scenarios run together, or
    of what can be on in one state. [A]
    """
    plan, job = made.plan, made.job
    on_body = [c for c in job.circuits if c.back.on_body and c.accessory_ids]
    apart = pairs_apart(job)

    def together(circuits: list[Circuit]) -> float:
        return most_together([(c.id, plan.currents.circuit_a(c)) for c in circuits], apart)

    if job.scenarios:
        running = (plan.currents.runs.on(s) for s in job.scenarios)
        return max(together([c for c in on_body if c.id in on]) for on in running)
    return max(
        together([c for c in on_body if lights in LIT[job.use_of(c).lights]])
        for lights in LIGHT_STATES
    )


def check_strap(made: Design) -> Iterator[Finding]:
    """The strap from battery to body bears what comes back through the body."""
    vehicle = made.job.vehicle
    if vehicle.strap_a is None or vehicle.body == "composite":
        return
    bears_a = vehicle.strap_a / (PAIR_SHARE_RATIO if vehicle.second_strap else 1.0)
    returns_a = body_returns_a(made)
    if returns_a <= bears_a:
        return
    actions = []
    if not vehicle.second_strap:
        doubled = vehicle.model_copy(update={"second_strap": True})
        actions.append(
            Action(label="Put a second earth cable beside it", edit=SetVehicle(vehicle=doubled))
        )
    actions.append(Action(label="Bring the returns home", edit=EarthAll(way="home")))
    yield Finding(
        code="strap_small",
        area=AREA,
        place="BAT -",
        severity="caution",
        text="More comes back through the body than its strap to the battery bears.",
        why="It heats, and every light dims when the largest load comes on. A second cable as "
        "thick, from the battery to clean metal, carries its share.",
        found=f"{returns_a:.0f} A",
        allowed=f"{bears_a:.0f} A",
        actions=tuple(actions),
    )


CHECKS: tuple[BudgetCheck, ...] = (check_strap,)
