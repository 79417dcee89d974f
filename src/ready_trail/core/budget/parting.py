"""What a battery disconnect parts: what dies when it opens, what lives on, and what flows in it."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.budget.draws import standby_a
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import BATTERY, Point
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.own_load import own_load_a, parked_a, starting_a
from ready_trail.core.supply.tree import Tree


@dataclass(frozen=True, slots=True, kw_only=True)
class Parting:
    """A disconnect by what hangs behind it.

    ``dies`` lists the circuits of accessories behind it, ``lives`` those that stay on a battery;
    ``parked_a`` is what they take from the vehicle's battery while all is parked and it is open,
    ``flows_a`` is the most that it carries for long, ``surges_a`` that of a winch behind it and
    ``cranking_a`` the starter's, where the vehicle hangs behind it. [A]
    """

    dies: tuple[Circuit, ...]
    lives: tuple[Circuit, ...]
    parked_a: float
    flows_a: float
    surges_a: float
    cranking_a: float | None


def parting(point: Point, job: Job, tree: Tree, currents: Currents) -> Parting:
    """Return what a disconnect parts.

    Source
    ------
    The vehicle's own load and starting current are the house's figures unless stated.
    """
    vehicle = job.vehicle
    dies: list[Circuit] = []
    lives: list[Circuit] = []
    for circuit in job.circuits:
        if circuit.accessory_ids:
            (dies if point.id in _on_the_way(circuit, tree) else lives).append(circuit)
    flows_a = currents.total_a(point)
    pull_a = max((currents.peak_a(c) for c in dies if currents.pulls(c)), default=0.0)
    behind = tree.parts_vehicle(point)
    if behind and tree.main_post is None:
        own_a = own_load_a(vehicle, "cruise", "low", key="run", blower=vehicle.has_blower)
        flows_a = max(flows_a + own_a, vehicle.charging_a)
    return Parting(
        dies=tuple(dies),
        lives=tuple(lives),
        parked_a=standby_a(job, tree, lives).get(BATTERY, 0.0)
        + (0.0 if behind else parked_a(vehicle)),
        flows_a=flows_a,
        surges_a=pull_a + currents.total_a(point) if pull_a else 0.0,
        cranking_a=starting_a(vehicle) if behind else None,
    )


def _on_the_way(circuit: Circuit, tree: Tree) -> set[str]:
    """Every point between a circuit and its battery; a second battery feeds by itself."""
    found: set[str] = set()
    at = circuit.start.point
    while at != BATTERY and not tree.points[at].is_a.stores:
        found.add(at)
        feeder = tree.feeders.get(at)
        point = tree.points[at]
        if feeder is None:
            behind = next((p for p in tree.points.values() if p.is_a.parts_battery), None)
            if point.is_a.is_there and behind is not None and tree.parts_vehicle(behind):
                found.add(behind.id)  # a bank of the vehicle's own dies with the vehicle
            break
        at = feeder.start.point
    return found
