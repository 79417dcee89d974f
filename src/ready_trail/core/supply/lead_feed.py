"""What may feed an accessory's other leads: memory and function wires have a voltage range too."""

from __future__ import annotations

from collections.abc import Iterable

from ready_trail.core.job.accessory import Accessory, InputWire
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.points import BATTERY
from ready_trail.core.supply.tree import Tree


def memory_feed(tree: Tree, circuit: Circuit, accessories: Iterable[Accessory]) -> str | None:
    """Return the point (or the battery) that feeds a memory wire: of its voltage, and always live.

    None where there is none: the wire is then capped.
    """
    keeps = [a for a in accessories if a.memory_wire]
    candidates = (BATTERY, circuit.start.point, *tree.points)
    for point_id in dict.fromkeys(candidates):
        if not all(a.bears_v(tree.nominal_v(point_id)) for a in keeps):
            continue
        point = tree.points.get(point_id)
        if point is None:
            return BATTERY
        waking = tree.waking(point_id)
        plain = not point.switches_its_positions and not point.fed_by_vehicle
        if plain and tree.is_fed(point_id) and not waking.sleeps and not waking.switched:
            return point_id
    return None


def hand_feed(tree: Tree, circuit: Circuit, accessories: Iterable[Accessory]) -> str:
    """Return what feeds the hand switch of a function wire: the vehicle's key feed (the battery),
    or where that does not fit the accessory, the point at which its circuit starts.
    """
    fits = all(a.bears_v(tree.job.vehicle.nominal_v) for a in accessories)
    return BATTERY if fits else circuit.start.point


def input_v(tree: Tree, circuit: Circuit, accessory: Accessory, wire: InputWire) -> float | None:
    """Return the nominal voltage that a function wire brings; None where it brings none. [V]"""
    if wire.ends == "signal":
        return float(tree.job.vehicle.nominal_v)
    if wire.ends == "switch" and wire.active == "high":
        return tree.nominal_v(hand_feed(tree, circuit, (accessory,)))
    return None
