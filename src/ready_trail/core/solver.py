"""The DC solver: operating point of a network in one vehicle state (docs/rules/solver.md).

Three stages: *deck* turns a network in a state into arrays, *solve* works on arrays only,
*results* are named again. Relays, limited sources and converters are iterated from rest to a
fixed point; when a relay switches itself off, there is none, and the result says which one
chatters.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.folding import SMALLEST_OHM, Folded, fold, unfold
from ready_trail.core.loads import diode_current_a, load_current_a
from ready_trail.core.network import (
    GROUND,
    Coil,
    ConverterInput,
    Diode,
    LoadElement,
    Network,
    RelayContact,
    Source,
    SwitchContact,
)
from ready_trail.core.states import VehicleState

Floats = NDArray[np.float64]

LEAK_S = 1e-12
"""Conductance from each node to ground, so that a floating wire has a voltage. [S]"""

RESIDUAL_MOST_A = 1e-6
_NEWTON_MOST = 80
_RELAY_MOST = 40
_SOURCE_MOST = 60
_POWER_CLOSE_W = 1e-7
_DIODE_GUESS_S = 1.0

Port = LoadElement | Diode | ConverterInput


@dataclass(frozen=True, slots=True, kw_only=True)
class OperatingPoint:
    """Voltages, currents and relay states of one solved state.

    ``node_v`` excludes ground; currents count from ``a`` to ``b`` of an element. ``limited``
    holds the sources that give their limit, ``idle`` those that give nothing.
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
    limited: frozenset[str] = frozenset()
    idle: frozenset[str] = frozenset()
    taken_w: Mapping[str, float] = field(default_factory=dict)

    def voltage_v(self, node: str) -> float:
        """Voltage of a node against the battery's negative post. [V]"""
        return 0.0 if node == GROUND else self.node_v[node]

    def between_v(self, a: str, b: str) -> float:
        """Voltage from node ``a`` to node ``b``. [V]"""
        return self.voltage_v(a) - self.voltage_v(b)


@dataclass(slots=True)
class _Deck:
    """A network in a state as arrays; ``size`` is the number of nodes without ground."""

    folded: Folded
    state: VehicleState
    nominal_v: float
    size: int
    fixed: Floats
    ports: list[Port]
    sources: list[Source]
    contacts: list[RelayContact]
    coils: list[Coil]
    incidence: Floats
    guess_s: Floats

    def at(self, node: str) -> int:
        """Row of a node; the last one stands for ground."""
        return self.folded.index.get(node, self.size)


@dataclass(slots=True)
class _Modes:
    """What is iterated besides the relays: source modes and the power of converters."""

    source: dict[str, str]
    power_w: dict[str, float]


@dataclass(slots=True)
class _Answer:
    voltages: Floats
    port_a: Floats
    cut_out: frozenset[str]
    residual_a: float
    steps: int


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
    energised = {coil.name: False for coil in deck.coils}
    seen: list[dict[str, bool]] = []
    chatter: tuple[str, ...] = ()
    steps = 0
    modes = _Modes({s.name: "volts" for s in deck.sources}, {})
    while True:
        answer = _settle_sources(deck, energised, modes)
        steps += answer.steps
        after = {c.name: _pulls(c, deck, answer.voltages, energised[c.name]) for c in deck.coils}
        if after == energised:
            break
        seen.append(energised)
        if after in seen or len(seen) > _RELAY_MOST:
            chatter = tuple(name for name in after if after[name] != energised[name])
            break
        energised = after
    return _results(network, deck, answer, energised, chatter, modes, steps)


def _deck(network: Network, state: VehicleState) -> _Deck:
    folded = fold(network)
    size = len(folded.index)
    fixed = np.zeros((size + 1, size + 1))  # the last row and column stand for ground
    index = folded.index
    for chain in folded.chains:
        _stamp(fixed, index.get(chain.a, size), index.get(chain.b, size), 1.0 / chain.ohm)
    ports: list[Port] = []
    sources: list[Source] = []
    contacts: list[RelayContact] = []
    coils: list[Coil] = []
    for element in folded.others:
        a, b = index.get(element.a, size), index.get(element.b, size)
        if isinstance(element, Coil):
            coils.append(element)
            _stamp(fixed, a, b, 1.0 / max(element.ohm, SMALLEST_OHM))
        elif isinstance(element, SwitchContact):
            if element.closed.holds(state):
                _stamp(fixed, a, b, 1.0 / max(element.ohm, SMALLEST_OHM))
        elif isinstance(element, RelayContact):
            contacts.append(element)
        elif isinstance(element, Source):
            sources.append(element)
        elif isinstance(element, LoadElement | Diode | ConverterInput):
            ports.append(element)
    incidence = np.zeros((size + 1, len(ports)))
    for at, element in enumerate(ports):
        incidence[index.get(element.a, size), at] += 1.0
        incidence[index.get(element.b, size), at] -= 1.0
    guess = np.array([_guess_s(e) for e in ports])
    fixed[np.diag_indices(size + 1)] += LEAK_S
    return _Deck(folded, state, network.nominal_v, size, fixed, ports, sources, contacts, coils,
                 incidence, guess)  # fmt: skip


def _guess_s(element: Port) -> float:
    if isinstance(element, LoadElement):
        return element.load.rated_a / element.load.rated_v
    return _DIODE_GUESS_S if isinstance(element, Diode) else 0.1


def _stamp(matrix: Floats, a: int, b: int, conductance: float) -> None:
    matrix[a, a] += conductance
    matrix[b, b] += conductance
    matrix[a, b] -= conductance
    matrix[b, a] -= conductance


def _settle_sources(deck: _Deck, energised: Mapping[str, bool], modes: _Modes) -> _Answer:
    """Solve with the relays as they stand until every source's mode and converter's power hold."""
    linked = [s for s in deck.sources if s.limit_a is not None or s.fed_by]
    answer = _solve_contacts(deck, energised, modes)
    if not linked:
        return answer
    inputs = {e.name: e for e in deck.ports if isinstance(e, ConverterInput)}
    for _ in range(_SOURCE_MOST):
        changed = False
        for source in linked:
            mode = _mode(source, deck, answer, modes, inputs)
            if mode != modes.source[source.name]:
                modes.source[source.name] = mode
                changed = True
            feed = inputs.get(source.fed_by)
            if feed is not None:
                given_w = _given_w(source, deck, answer, mode) / feed.efficiency_ratio
                if abs(given_w - modes.power_w.get(feed.name, 0.0)) > _POWER_CLOSE_W:
                    modes.power_w[feed.name] = given_w
                    changed = True
        if not changed:
            return answer
        steps = answer.steps
        answer = _solve_contacts(deck, energised, modes)
        answer.steps += steps
    raise NotConvergedError("a converter or charger finds no steady output")


def _mode(
    source: Source,
    deck: _Deck,
    answer: _Answer,
    modes: _Modes,
    inputs: Mapping[str, ConverterInput],
) -> str:
    """How a limited source works: it holds its volts, gives its limit, or gives nothing."""
    feed = inputs.get(source.fed_by)
    if source.fed_by:
        if feed is None or not feed.enabled.holds(deck.state):
            return "off"
        if _across(deck, answer.voltages, feed.a, feed.b) < feed.cut_in_v:
            return "off"
    across_v = _across(deck, answer.voltages, source.a, source.b)
    set_v = _set_v(source, deck)
    was = modes.source[source.name]
    if was == "limit":
        return "volts" if across_v > set_v - (source.limit_a or 0.0) * source.ohm + 1e-9 else was
    if was == "off" and source.fed_by:
        return "volts" if across_v < set_v else was
    current_a = (set_v - across_v) / source.ohm
    if source.limit_a is not None and current_a > source.limit_a + 1e-9:
        return "limit"
    return "off" if current_a < -1e-9 else "volts"


def _given_w(source: Source, deck: _Deck, answer: _Answer, mode: str) -> float:
    if mode == "off":
        return 0.0
    across_v = _across(deck, answer.voltages, source.a, source.b)
    if mode == "limit":
        return max(0.0, across_v) * (source.limit_a or 0.0)
    return max(0.0, across_v * (_set_v(source, deck) - across_v) / source.ohm)


def _set_v(source: Source, deck: _Deck) -> float:
    return deck.state.source_v(deck.nominal_v) if source.set_v is None else source.set_v


def _across(deck: _Deck, voltages: Floats, a: str, b: str) -> float:
    at = deck.folded.index.get(a)
    to = deck.folded.index.get(b)
    va = 0.0 if at is None else float(voltages[at])
    return va - (0.0 if to is None else float(voltages[to]))


def _solve_contacts(deck: _Deck, energised: Mapping[str, bool], modes: _Modes) -> _Answer:
    """Solve with contacts and source modes as they stand; loads under cut-in drop out."""
    size = deck.size
    matrix = deck.fixed.copy()
    sources = np.zeros(size + 1)
    for contact in deck.contacts:
        if energised[contact.coil] == contact.makes:
            _stamp(matrix, deck.at(contact.a), deck.at(contact.b), 1.0 / contact.ohm)
    for source in deck.sources:
        a, b = deck.at(source.a), deck.at(source.b)
        mode = modes.source[source.name]
        if mode == "off":
            continue
        amps = source.limit_a or 0.0
        if mode == "volts":
            conductance = 1.0 / source.ohm
            _stamp(matrix, a, b, conductance)
            amps = conductance * _set_v(source, deck)
        sources[a] += amps
        sources[b] -= amps
    matrix, sources = matrix[:size, :size], sources[:size]
    incidence = deck.incidence[:size]
    linear = matrix + (incidence * deck.guess_s) @ incidence.T
    answers = np.linalg.solve(linear, np.column_stack([sources, incidence]))
    open_v, transfer = answers[:, 0], answers[:, 1:]
    off: frozenset[str] = frozenset()
    steps = 0
    while True:
        port_v, more = _newton(deck, modes, incidence.T @ open_v, incidence.T @ transfer, off)
        steps += more
        under = {
            e.name
            for e, v in zip(deck.ports, port_v, strict=True)
            if v < _cut_in_v(e) and e.name not in off
        }
        if not under:
            break
        off = off | under
    current = _currents(deck, modes, port_v, off)[0]
    voltages = open_v - transfer @ (current - deck.guess_s * port_v)
    residual = matrix @ voltages - sources + incidence @ current
    residual_a = float(np.abs(residual).max(initial=0.0))
    if not residual_a <= RESIDUAL_MOST_A:
        raise NotConvergedError(f"residual {residual_a:.3g} A is above {RESIDUAL_MOST_A:g} A")
    cut_out = frozenset(
        e.name
        for e, v in zip(deck.ports, port_v, strict=True)
        if e.name in off and v >= _cut_in_v(e)
    )
    return _Answer(voltages, current, cut_out, residual_a, steps)


def _cut_in_v(element: Port) -> float:
    """Voltage under which a port draws nothing; minus infinity where it always conducts."""
    if isinstance(element, LoadElement) and element.load.model == "constant_power":
        return element.load.cut_in_v
    return element.cut_in_v if isinstance(element, ConverterInput) else -np.inf


def _newton(
    deck: _Deck, modes: _Modes, open_port_v: Floats, impedance: Floats, off: frozenset[str]
) -> tuple[Floats, int]:
    """Voltages at the loads: ``u = u_open - Z (i(u) - g u)`` by damped Newton steps."""
    guess = deck.guess_s
    port_v = open_port_v.copy()
    identity = np.eye(len(deck.ports))
    for step in range(1, _NEWTON_MOST + 1):
        current, slope = _currents(deck, modes, port_v, off)
        error = port_v - open_port_v + impedance @ (current - guess * port_v)
        change = np.linalg.solve(identity + impedance * (slope - guess), error)
        largest = float(np.abs(change).max(initial=0.0))
        port_v = port_v - change * min(1.0, 4.0 / largest if largest else 1.0)
        if largest < 1e-12 * (1.0 + float(np.abs(port_v).max(initial=0.0))) * 10:
            return port_v, step
    return port_v, _NEWTON_MOST


def _currents(
    deck: _Deck, modes: _Modes, port_v: Floats, off: frozenset[str]
) -> tuple[Floats, Floats]:
    current, slope = np.zeros(len(deck.ports)), np.zeros(len(deck.ports))
    for at, element in enumerate(deck.ports):
        if element.name in off:
            continue
        voltage = float(port_v[at])
        if isinstance(element, Diode):
            current[at], slope[at] = diode_current_a(voltage)
            continue
        cut_in_v = _cut_in_v(element)
        if isinstance(element, ConverterInput):
            power_w = modes.power_w.get(element.name, 0.0)
        elif element.load.model == "constant_power":
            power_w = element.load.power_w
        else:
            current[at], slope[at] = load_current_a(element.load, voltage)
            continue
        if voltage < cut_in_v:
            # while iterating, join cut-in and zero by a line; who stays under it drops out
            slope[at] = power_w / cut_in_v**2
            current[at] = slope[at] * voltage
        else:
            current[at], slope[at] = power_w / voltage, -power_w / voltage**2
    return current, slope


def _pulls(coil: Coil, deck: _Deck, voltages: Floats, was: bool) -> bool:
    across_v = abs(_across(deck, voltages, coil.a, coil.b))
    if across_v >= coil.pull_in_v:
        return True
    return was and across_v > coil.release_v


def _results(
    network: Network,
    deck: _Deck,
    answer: _Answer,
    energised: Mapping[str, bool],
    chatter: tuple[str, ...],
    modes: _Modes,
    steps: int,
) -> OperatingPoint:
    reduced = {node: float(answer.voltages[at]) for node, at in deck.folded.index.items()}
    reduced[GROUND] = 0.0
    node_v, branch_a = unfold(deck.folded, reduced)
    closed: dict[str, bool] = {}
    port_a = {e.name: float(a) for e, a in zip(deck.ports, answer.port_a, strict=True)}
    for e in deck.folded.others:
        across_v = node_v[e.a] - node_v[e.b]
        if isinstance(e, SwitchContact):
            closed[e.name] = e.closed.holds(deck.state)
        elif isinstance(e, RelayContact):
            closed[e.name] = energised[e.coil] == e.makes
        if isinstance(e, Source):
            mode = modes.source[e.name]
            limit_a = e.limit_a or 0.0
            branch_a[e.name] = {"off": 0.0, "limit": -limit_a}.get(
                mode, (across_v - _set_v(e, deck)) / e.ohm
            )
        elif e.name in port_a:
            branch_a[e.name] = port_a[e.name]
        elif isinstance(e, SwitchContact | RelayContact | Coil):
            live = closed.get(e.name, True)
            branch_a[e.name] = across_v / max(e.ohm, SMALLEST_OHM) if live else 0.0
    del node_v[GROUND]
    return OperatingPoint(
        state=deck.state,
        node_v=node_v,
        branch_a=branch_a,
        energised=dict(energised),
        closed=closed,
        cut_out=answer.cut_out,
        chatter=chatter,
        residual_a=answer.residual_a,
        iterations=steps,
        limited=frozenset(n for n, m in modes.source.items() if m == "limit"),
        idle=frozenset(n for n, m in modes.source.items() if m == "off"),
        taken_w=dict(modes.power_w),
    )
