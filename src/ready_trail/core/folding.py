"""Series folding: wires are chains of pieces and joints; the solver sees each chain as one.

A node that only two plain resistances touch is folded away before solving and unfolded after;
the result equals the plain solve.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ready_trail.core.netlist import GROUND, Element, Network, Resistor

SMALLEST_OHM = 1e-6


@dataclass(frozen=True, slots=True)
class Chain:
    """Resistors in series from node ``a`` to node ``b``; ``forward`` tells how each one lies."""

    a: str
    b: str
    ohm: float
    links: tuple[tuple[Resistor, bool], ...]


@dataclass(frozen=True, slots=True)
class Folded:
    """A network with its series resistances folded: chains, everything else, and the nodes left."""

    chains: tuple[Chain, ...]
    others: tuple[Element, ...]
    index: Mapping[str, int]


def fold(network: Network) -> Folded:
    """Return the network with its chains folded. Kept on the network: it is solved many times."""
    kept = network.__dict__.get("_folded")
    if isinstance(kept, Folded):
        return kept
    touching: dict[str, list[Element]] = {}
    for element in network.elements:
        touching.setdefault(element.a, []).append(element)
        touching.setdefault(element.b, []).append(element)
    inner = {
        node
        for node, elements in touching.items()
        if node != GROUND
        and len(elements) == 2
        and elements[0] is not elements[1]
        and all(isinstance(e, Resistor) for e in elements)
    }
    chains: list[Chain] = []
    used: set[str] = set()
    others: list[Element] = []
    for element in network.elements:
        if not isinstance(element, Resistor):
            others.append(element)
        elif element.name not in used and not (element.a in inner and element.b in inner):
            chains.append(_chain(element, touching, inner, used))
    for element in network.elements:  # a ring of resistors with no way in floats as it is
        if isinstance(element, Resistor) and element.name not in used:
            used.add(element.name)
            chains.append(Chain(element.a, element.b, _ohm(element), ((element, True),)))
    index: dict[str, int] = {}
    for chain in chains:
        index.setdefault(chain.a, len(index))
        index.setdefault(chain.b, len(index))
    for other in others:
        index.setdefault(other.a, len(index))
        index.setdefault(other.b, len(index))
    if GROUND in index:
        nodes = [n for n in index if n != GROUND]
        index = {n: at for at, n in enumerate(nodes)}
    folded = Folded(tuple(chains), tuple(others), index)
    network.__dict__["_folded"] = folded
    return folded


def unfold(
    folded: Folded, voltages: Mapping[str, float]
) -> tuple[dict[str, float], dict[str, float]]:
    """Return the voltage of every node and the current of every resistor of the chains."""
    node_v = dict(voltages)
    branch_a: dict[str, float] = {}
    for chain in folded.chains:
        start_v = node_v[chain.a]
        current_a = (start_v - node_v[chain.b]) / chain.ohm
        at_v = start_v
        for link, forward in chain.links:
            branch_a[link.name] = current_a if forward else -current_a
            at_v -= current_a * _ohm(link)
            node_v.setdefault(link.b if forward else link.a, at_v)
    return node_v, branch_a


def _chain(
    first: Resistor, touching: Mapping[str, list[Element]], inner: set[str], used: set[str]
) -> Chain:
    """Follow a chain from the end of ``first`` that is no inner node."""
    start = first.a if first.a not in inner else first.b
    links: list[tuple[Resistor, bool]] = []
    node, element = start, first
    while True:
        forward = element.a == node
        links.append((element, forward))
        used.add(element.name)
        node = element.b if forward else element.a
        if node not in inner:
            break
        one, two = touching[node]
        after = two if one is element else one
        if not isinstance(after, Resistor) or after.name in used:
            break
        element = after
    return Chain(start, node, sum(_ohm(r) for r, _ in links), tuple(links))


def _ohm(resistor: Resistor) -> float:
    return max(resistor.ohm, SMALLEST_OHM)


__all__ = ["SMALLEST_OHM", "Chain", "Folded", "fold", "unfold"]
