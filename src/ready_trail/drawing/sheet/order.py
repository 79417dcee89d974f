"""Rows in the order that crosses fewest: siblings change places while that helps.

What crosses a row is what has to pass it: bars and wires between rows. So the rows that meet
the same bar, or each other, come together; the sum of all spans is what is made small.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from ready_trail.core.job import BATTERY
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design
from ready_trail.drawing.sheet.grid import Grid
from ready_trail.drawing.sheet.place import placed

_ROUNDS = 6
Meets = Mapping[str, frozenset[str]]


def ordered(design: Design, only: frozenset[str] | None = None) -> Grid:
    """Return the grid with its blocks in a good order; of some owners' rows alone, if asked."""
    return placed(design, best_order(design), only)


def best_order(design: Design) -> tuple[str, ...]:
    """Return the owners of blocks, first to last: every feeder before what hangs behind it."""
    children = _children(design)
    meets = _meets(design)
    order = list(_flat("", children))
    cost = spans(order, meets)
    for _ in range(_ROUNDS):
        better = False
        for siblings in children.values():
            for at in range(len(siblings) - 1):
                siblings[at], siblings[at + 1] = siblings[at + 1], siblings[at]
                tried = list(_flat("", children))
                now = spans(tried, meets)
                if now < cost:
                    order, cost, better = tried, now, True
                else:
                    siblings[at], siblings[at + 1] = siblings[at + 1], siblings[at]
        if not better:
            break
    return tuple(order)


def spans(order: Sequence[str], meets: Meets) -> int:
    """Return how many rows all meeting places have to pass, from their first to their last."""
    row = {owner: n for n, owner in enumerate(order)}
    total = 0
    for owners in meets.values():
        rows = [row[o] for o in owners if o in row]
        if rows:
            total += max(rows) - min(rows)
    return total


def _children(design: Design) -> dict[str, list[str]]:
    """Owners by what they hang behind: a feeder's circuit, or nothing."""
    tree = design.plan.tree
    found: dict[str, list[str]] = {"": []}
    for made in design.circuits:
        start = made.circuit.start.point
        feeder = tree.feeders.get(start) if start != BATTERY else None
        found.setdefault(feeder.id if feeder is not None else "", []).append(made.circuit.id)
    feeders = {c.circuit.id for c in design.feeders}
    found[""].sort(key=lambda o: o not in feeders)  # what feeds others stands on top
    return found


def _flat(at: str, children: Mapping[str, Sequence[str]]) -> Iterator[str]:
    for owner in children.get(at, ()):
        yield owner
        yield from _flat(owner, children)


def _meets(design: Design) -> Meets:
    """Rows by the node at which they meet."""
    found: dict[str, set[str]] = {}
    for made in design.circuits:
        parts = made.planned.parts
        if parts is None:
            continue
        shared = [design.shared[o].wires for o in parts.needs if o in design.shared]
        for wire in (*parts.wires, *(w for wires in shared for w in wires)):
            for end in (wire.start, wire.end):
                found.setdefault(end.node, set()).add(made.circuit.id)
        for device in parts.devices:
            if isinstance(device.spec, FuseSpec) and device.spec.on_bus:
                found.setdefault(device.spec.on_bus, set()).add(made.circuit.id)
    return {node: frozenset(rows) for node, rows in found.items() if len(rows) > 1}
