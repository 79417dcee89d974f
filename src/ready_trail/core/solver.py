"""The DC solver: operating point of a network in one vehicle state (docs/rules/solver.md).

Three stages: *deck* turns a network in a state into arrays, *solve* works on arrays only,
*results* are named again. Relays are iterated from rest to a fixed point; when a relay
switches itself off, there is none, and the result says which one chatters.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.loads import load_current_a
from ready_trail.core.network import (
    GROUND,
    Coil,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.states import VehicleState

Floats = NDArray[np.float64]

LEAK_S = 1e-12
"""Conductance from each node to ground, so that a floating wire has a voltage. [S]"""

RESIDUAL_MOST_A = 1e-6
_SMALLEST_OHM = 1e-6
_NEWTON_MOST = 80
_RELAY_MOST = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class OperatingPoint:
    """Voltages, currents and relay states of one solved state.

    ``node_v`` excludes ground; currents count from ``a`` to ``b`` of an element.
    """

    state: VehicleState
    node_v: Mapping[str, float]
    branch_a: Mapping[str, float]
    energised: Mapping[str, bool]
    closed: Mapping[str, bool]
    cut_out: frozenset[str]
    chatter: tuple[str, ...]
    residual_a: float
    iterations: int

    def voltage_v(self, node: str) -> float:
        """Voltage of a node against the battery's negative post. [V]"""
        return 0.0 if node == GROUND else self.node_v[node]

    def between_v(self, a: str, b: str) -> float:
        """Voltage from node ``a`` to node ``b``. [V]"""
        return self.voltage_v(a) - self.voltage_v(b)


@dataclass(slots=True)
class _Deck:
    """A network in a state as arrays; ``size`` is the number of nodes without ground."""

    index: dict[str, int]
    fixed: Floats
    sources: Floats
    loads: list[LoadElement]
    incidence: Floats
    load_guess_s: Floats


def solve(network: Network, state: VehicleState) -> OperatingPoint:
    """Return the operating point of a network in one vehicle state.

    Raises
    ------
    NotConvergedError
        The loads admit no operating point, or the residual stays above 1 µA.

    Notes
    -----
    Loads are linearised into the matrix and their remainder is solved by Newton's method at
    the load terminals only, so each relay state costs one factorisation.
    """
    deck = _deck(network, state)
    relays = [e for e in network.elements if isinstance(e, Coil)]
    energised = {coil.name: False for coil in relays}
    seen: list[dict[str, bool]] = []
    chatter: tuple[str, ...] = ()
    iterations = 0
    while True:
        voltages, cut_out, residual_a, steps = _solve_contacts(network, deck, energised)
        iterations += steps
        after = {c.name: _pulls(c, deck, voltages, energised[c.name]) for c in relays}
        if after == energised:
            break
        seen.append(energised)
        if after in seen or len(seen) > _RELAY_MOST:
            chatter = tuple(name for name in after if after[name] != energised[name])
            break
        energised = after
    return _results(network, state, deck, voltages, energised, cut_out, chatter,
                    residual_a, iterations)  # fmt: skip


def _deck(network: Network, state: VehicleState) -> _Deck:
    index = {node: at for at, node in enumerate(network.nodes)}
    size = len(index)
    fixed = np.zeros((size + 1, size + 1))  # the last row and column stand for ground
    sources = np.zeros(size + 1)
    loads: list[LoadElement] = []
    for element in network.elements:
        a, b = index.get(element.a, size), index.get(element.b, size)
        if isinstance(element, Resistor | Coil):
            _stamp(fixed, a, b, 1.0 / max(element.ohm, _SMALLEST_OHM))
        elif isinstance(element, SwitchContact):
            if element.closed.holds(state):
                _stamp(fixed, a, b, 1.0 / max(element.ohm, _SMALLEST_OHM))
        elif isinstance(element, Source):
            conductance = 1.0 / element.ohm
            _stamp(fixed, a, b, conductance)
            sources[a] += conductance * state.source_v(network.nominal_v)
            sources[b] -= conductance * state.source_v(network.nominal_v)
        elif isinstance(element, LoadElement):
            loads.append(element)
    incidence = np.zeros((size + 1, len(loads)))
    for at, element in enumerate(loads):
        incidence[index.get(element.a, size), at] += 1.0
        incidence[index.get(element.b, size), at] -= 1.0
    guess = np.array([e.load.rated_a / e.load.rated_v for e in loads])
    fixed[np.diag_indices(size + 1)] += LEAK_S
    return _Deck(index, fixed, sources, loads, incidence, guess)


def _stamp(matrix: Floats, a: int, b: int, conductance: float) -> None:
    matrix[a, a] += conductance
    matrix[b, b] += conductance
    matrix[a, b] -= conductance
    matrix[b, a] -= conductance


def _solve_contacts(
    network: Network, deck: _Deck, energised: Mapping[str, bool]
) -> tuple[Floats, frozenset[str], float, int]:
    """Solve with the relay contacts as they stand; loads under cut-in drop out."""
    size = len(deck.index)
    matrix = deck.fixed.copy()
    for element in network.elements:
        if isinstance(element, RelayContact) and energised[element.coil] == element.makes:
            a, b = deck.index.get(element.a, size), deck.index.get(element.b, size)
            _stamp(matrix, a, b, 1.0 / element.ohm)
    matrix, sources = matrix[:size, :size], deck.sources[:size]
    incidence = deck.incidence[:size]
    linear = matrix + (incidence * deck.load_guess_s) @ incidence.T
    answers = np.linalg.solve(linear, np.column_stack([sources, incidence]))
    open_v, transfer = answers[:, 0], answers[:, 1:]
    off: frozenset[str] = frozenset()
    steps = 0
    while True:
        port_v, more = _newton(deck, incidence.T @ open_v, incidence.T @ transfer, off)
        steps += more
        under = {
            e.name
            for e, v in zip(deck.loads, port_v, strict=True)
            if e.load.model == "constant_power" and v < e.load.cut_in_v and e.name not in off
        }
        if not under:
            break
        off = off | under
    current = _currents(deck, port_v, off)[0]
    voltages = open_v - transfer @ (current - deck.load_guess_s * port_v)
    residual = matrix @ voltages - sources + incidence @ current
    residual_a = float(np.abs(residual).max(initial=0.0))
    if not residual_a <= RESIDUAL_MOST_A:
        raise NotConvergedError(f"residual {residual_a:.3g} A is above {RESIDUAL_MOST_A:g} A")
    cut_out = frozenset(
        e.name
        for e, v in zip(deck.loads, port_v, strict=True)
        if e.name in off and v >= e.load.cut_in_v
    )
    return voltages, cut_out, residual_a, steps


def _newton(
    deck: _Deck, open_port_v: Floats, impedance: Floats, off: frozenset[str]
) -> tuple[Floats, int]:
    """Voltages at the loads: ``u = u_open - Z (i(u) - g u)`` by damped Newton steps."""
    guess = deck.load_guess_s
    port_v = open_port_v.copy()
    identity = np.eye(len(deck.loads))
    for step in range(1, _NEWTON_MOST + 1):
        current, slope = _currents(deck, port_v, off)
        error = port_v - open_port_v + impedance @ (current - guess * port_v)
        change = np.linalg.solve(identity + impedance * (slope - guess), error)
        largest = float(np.abs(change).max(initial=0.0))
        port_v = port_v - change * min(1.0, 4.0 / largest if largest else 1.0)
        if largest < 1e-12 * (1.0 + float(np.abs(port_v).max(initial=0.0))) * 10:
            return port_v, step
    return port_v, _NEWTON_MOST


def _currents(deck: _Deck, port_v: Floats, off: frozenset[str]) -> tuple[Floats, Floats]:
    current, slope = np.zeros(len(deck.loads)), np.zeros(len(deck.loads))
    for at, element in enumerate(deck.loads):
        if element.name in off:
            continue
        load, voltage = element.load, float(port_v[at])
        if load.model == "constant_power" and voltage < load.cut_in_v:
            # while iterating, join cut-in and zero by a line; who stays under it drops out
            slope[at] = load.power_w / load.cut_in_v**2
            current[at] = slope[at] * voltage
        else:
            current[at], slope[at] = load_current_a(load, voltage)
    return current, slope


def _pulls(coil: Coil, deck: _Deck, voltages: Floats, was: bool) -> bool:
    size = len(deck.index)
    extended = np.append(voltages, 0.0)
    across_v = abs(
        float(extended[deck.index.get(coil.a, size)] - extended[deck.index.get(coil.b, size)])
    )
    if across_v >= coil.pull_in_v:
        return True
    return was and across_v > coil.release_v


def _results(
    network: Network,
    state: VehicleState,
    deck: _Deck,
    voltages: Floats,
    energised: Mapping[str, bool],
    cut_out: frozenset[str],
    chatter: tuple[str, ...],
    residual_a: float,
    iterations: int,
) -> OperatingPoint:
    node_v = {node: float(voltages[at]) for node, at in deck.index.items()}
    node_v[GROUND] = 0.0
    branch_a: dict[str, float] = {}
    closed: dict[str, bool] = {}
    emf_v = state.source_v(network.nominal_v)
    for e in network.elements:
        across_v = node_v[e.a] - node_v[e.b]
        if isinstance(e, SwitchContact):
            closed[e.name] = e.closed.holds(state)
        elif isinstance(e, RelayContact):
            closed[e.name] = energised[e.coil] == e.makes
        if isinstance(e, Source):
            branch_a[e.name] = (across_v - emf_v) / e.ohm
        elif isinstance(e, LoadElement):
            under = e.load.model == "constant_power" and across_v < e.load.cut_in_v
            dropped = under or e.name in cut_out
            branch_a[e.name] = 0.0 if dropped else load_current_a(e.load, across_v)[0]
        elif closed.get(e.name, True):
            branch_a[e.name] = across_v / max(e.ohm, _SMALLEST_OHM)
        else:
            branch_a[e.name] = 0.0
    del node_v[GROUND]
    return OperatingPoint(
        state=state,
        node_v=node_v,
        branch_a=branch_a,
        energised=dict(energised),
        closed=closed,
        cut_out=cut_out,
        chatter=chatter,
        residual_a=residual_a,
        iterations=iterations,
    )
