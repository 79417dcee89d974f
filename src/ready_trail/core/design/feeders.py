"""Feeders with all that hangs behind them, as one tree for the least copper."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.request import sizing_request
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Circuit
from ready_trail.core.outcome import Plan
from ready_trail.core.schemes import BY_KEY, propose
from ready_trail.core.sizing.records import SizingRequest
from ready_trail.core.sizing.shares import Node, Shared, Sized, equal_shares_g, least_copper
from ready_trail.core.supply.currents import load_currents_a


def roots(plan: Plan) -> tuple[Circuit, ...]:
    """Return the feeders at which a system's copper begins, and behind which something hangs."""
    found = []
    for circuit in plan.job.circuits:
        if circuit.feeds is None or plan.tree.chain(circuit):
            continue
        point = plan.tree.points[circuit.feeds]
        if not point.starts_a_system and plan.tree.starting.get(point.id):
            found.append(circuit)
    return tuple(found)


def members(plan: Plan, feeder: Circuit) -> tuple[Circuit, ...]:
    """Return a feeder and everything behind it in its own system."""
    found = [feeder]
    point = plan.tree.points.get(feeder.feeds or "")
    if point is None or point.starts_a_system:
        return (feeder,)
    for circuit in plan.tree.starting.get(point.id, ()):
        found += members(plan, circuit)
    return tuple(found)


Requests = Callable[[Circuit, Callable[[], SizingRequest]], SizingRequest]
"""Returns the sizing request of a circuit, from before or made now."""


def tree_of(
    plan: Plan, feeder: Circuit, catalogue: Catalogue, requests: Requests = lambda _, make: make()
) -> Node | None:
    """Return one tree; None where one of its circuits lies outside every formula."""
    try:
        return _node(plan, feeder, catalogue, requests)
    except CoreError:
        return None


def least_of(
    plan: Plan, feeder: Circuit, catalogue: Catalogue, sized: Sized,
    requests: Requests = lambda _, make: make(),
) -> Shared | None:  # fmt: skip
    """Return the sizes for one tree; None where it cannot be reckoned.

    ``sized`` keeps what was sized, so that a tree of which little changed is done soon.
    """
    tree = tree_of(plan, feeder, catalogue, requests)
    try:
        return least_copper(tree, catalogue, sized=sized) if tree is not None else None
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
        tree = tree_of(plan, plan.circuits[feeder_id].circuit, catalogue)
        binds, ratio = least.binds
        found.append(
            Copper(
                feeder_id=feeder_id, sizes=dict(least.sizes), mass_g=least.mass_g, binds=binds,
                equal_g=equal_shares_g(tree, catalogue) if tree is not None else None,
                binds_ratio=ratio,
            )
        )  # fmt: skip
    return tuple(found)


def _node(plan: Plan, circuit: Circuit, catalogue: Catalogue, requests: Requests) -> Node:
    tree, currents = plan.tree, plan.currents
    request = requests(circuit, lambda: _request(plan, circuit, catalogue))
    point = tree.points.get(circuit.feeds or "")
    if point is None or point.starts_a_system:
        return Node(id=circuit.id, request=request, by_bus=circuit.back.kind == "bus")
    here = tree.starting.get(point.id, ())
    total_a = currents.total_a(point)
    bus_a = sum(currents.circuit_a(c) for c in here if c.back.kind == "bus")
    return Node(
        id=circuit.id, request=request, out_a=total_a, back_a=min(bus_a, total_a),
        by_bus=circuit.back.kind == "bus",
        children=tuple(_node(plan, c, catalogue, requests) for c in here),
    )  # fmt: skip


def _request(plan: Plan, circuit: Circuit, catalogue: Catalogue) -> SizingRequest:
    """What sizing needs to know of one circuit, with nothing ahead of it."""
    tree, currents = plan.tree, plan.currents
    current_a = currents.circuit_a(circuit)
    ask = ask_of(plan.job, tree, circuit, current_a)
    nominal_v = tree.nominal_v(circuit.start.point)
    amps = load_currents_a(ask.accessories, nominal_v) if ask.accessories else (current_a,)
    held = circuit.held.scheme
    scheme = BY_KEY[held] if held in BY_KEY else propose(ask)[0]
    return sizing_request(ask, scheme, catalogue, None, amps, currents)
