"""Feeders with all that hangs behind them, as one tree for the least copper."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Circuit
from ready_trail.core.outcome import Plan
from ready_trail.core.sizing.shares import Node, Shared, equal_shares_g, least_copper


def roots(plan: Plan) -> tuple[Circuit, ...]:
    """Return the feeders at which a system's copper begins, and behind which something hangs."""
    found = []
    for circuit in plan.job.circuits:
        if circuit.feeds is None or plan.tree.chain(circuit):
            continue
        point = plan.tree.points[circuit.feeds]
        if point.is_a.holds_vehicle:
            continue  # cranking decides its cable
        if not point.starts_a_system and plan.tree.starting.get(point.id):
            found.append(circuit)
    return tuple(found)


def tree_of(plan: Plan, feeder: Circuit) -> Node | None:
    """Return one tree; None where one of its circuits lies outside every formula."""
    try:
        return _node(plan, feeder)
    except KeyError:
        return None


def least_of(plan: Plan, feeder: Circuit, catalogue: Catalogue) -> Shared | None:
    """Return the sizes for one tree; None where it cannot be reckoned."""
    tree = tree_of(plan, feeder)
    try:
        return least_copper(tree, catalogue) if tree is not None else None
    except CoreError:
        return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Copper:
    """A tree's copper as chosen, and with equal shares of the drop where that works out. [g]

    ``binds`` is the circuit that uses most of its allowed drop, ``binds_ratio`` that share.
    """

    feeder_id: str
    sizes: dict[str, str]
    mass_g: float
    equal_g: float | None
    binds: str
    binds_ratio: float

    @property
    def saved_g(self) -> float:
        """What was saved against equal shares. [g]"""
        return max(0.0, self.equal_g - self.mass_g) if self.equal_g is not None else 0.0


def copper_of(plan: Plan, catalogue: Catalogue) -> tuple[Copper, ...]:
    """Return the copper of each tree that was sized for the least of it."""
    found = []
    for feeder_id, least in plan.least.items():
        if least.fails:
            continue
        tree = tree_of(plan, plan.circuits[feeder_id].circuit)
        binds, ratio = least.binds
        found.append(
            Copper(
                feeder_id=feeder_id,
                sizes=dict(least.sizes),
                mass_g=least.mass_g,
                binds=binds,
                equal_g=equal_shares_g(tree, catalogue) if tree is not None else None,
                binds_ratio=ratio,
            )
        )
    return tuple(found)


def _node(plan: Plan, circuit: Circuit) -> Node:
    tree, currents = plan.tree, plan.currents
    request = plan.requests[circuit.id]
    point = tree.points.get(circuit.feeds or "")
    if point is None or point.starts_a_system:
        return Node(id=circuit.id, request=request, by_bus=circuit.back.by_bus)
    here = tree.starting.get(point.id, ())
    total_a = currents.total_a(point)
    bus_a = sum(currents.circuit_a(c) for c in here if c.back.by_bus)
    return Node(
        id=circuit.id,
        request=request,
        out_a=total_a,
        back_a=min(bus_a, total_a),
        by_bus=circuit.back.by_bus,
        children=tuple(_node(plan, c) for c in here),
    )
