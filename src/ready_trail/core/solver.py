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

from ready_trail.core.curves import Curves, Port
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.folding import SMALLEST_OHM, Folded, fold, unfold
from ready_trail.core.netlist import (
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
_FOLD_STEPS = 30
_POWER_CLOSE_W = 1e-7
_DIODE_GUESS_S = 1.0
_UNCLEAR = (0.7, 1.15)
"""Shares of a coil's pull-in voltage between which straight-line loads do not tell."""

_STEP_CLOSE = 1e-8
"""A step so small leaves its square as error: the next one would change nothing."""


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


@dataclass(frozen=True, slots=True, kw_only=True)
class _Contact:
    """A switch or relay contact with its places in the matrix and its conductance."""

    element: SwitchContact | RelayContact
    a: int
    b: int
    conductance_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Board:
    """What a network is in every state, as arrays; ``size`` counts its nodes without ground.

    ``linear`` holds everything that never changes, with the loads as straight lines; its last
    row and column stand for ground.
    """

    folded: Folded
    nominal_v: float
    size: int
    linear: Floats
    ports: tuple[Port, ...]
    incidence: Floats
    guess_s: Floats
    curves: Curves
    switches: tuple[_Contact, ...]
    contacts: tuple[_Contact, ...]
    coils: tuple[Coil, ...]
    sources: tuple[Source, ...]

    def at(self, node: str) -> int:
        """Row of a node; the last one stands for ground."""
        return self.folded.index.get(node, self.size)


@dataclass(frozen=True, slots=True)
class _Deck:
    """A board in one state; ``fixed`` has the closed switches stamped in."""

    board: _Board
    state: VehicleState
    fixed: Floats


@dataclass(slots=True)
class _Modes:
    """What is iterated besides the relays: source modes and the power of converters."""

    source: dict[str, str]
    power_w: dict[str, float]
    fold_a: dict[str, float]
    """What a starved converter still gives, so that its input stays at its cut-in. [A]"""


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
    foreseen = _foreseen(deck)
    if foreseen is not None:
        found = _iterated(network, deck, foreseen)
        if _surely(found, deck, foreseen):
            return found
    return _iterated(network, deck, dict.fromkeys((c.name for c in deck.board.coils), False))


def _iterated(network: Network, deck: _Deck, energised: dict[str, bool]) -> OperatingPoint:
    """Let relays move from these positions until they rest, or one is found to chatter."""
    seen: list[dict[str, bool]] = []
    chatter: tuple[str, ...] = ()
    steps = 0
    modes = _Modes({s.name: "volts" for s in deck.board.sources}, {}, {})
    while True:
        answer = _settle_sources(deck, energised, modes)
        steps += answer.steps
        after = _moved(deck, answer.voltages, energised)
        if after == energised:
            break
        seen.append(energised)
        if after in seen or len(seen) > _RELAY_MOST:
            chatter = tuple(name for name in after if after[name] != energised[name])
            break
        energised = after
    return _results(network, deck, answer, energised, chatter, modes, steps)


def _moved(deck: _Deck, voltages: Floats, energised: Mapping[str, bool]) -> dict[str, bool]:
    return {c.name: _pulls(c, deck, voltages, energised[c.name]) for c in deck.board.coils}


def _foreseen(deck: _Deck) -> dict[str, bool] | None:
    """Relay positions with the loads as straight lines; None where one is not clear.

    The same rounds from rest, each at a fraction of the cost. What is foreseen is then solved
    in full, and counts only where every coil is clear of its hysteresis.
    """
    board = deck.board
    if not board.coils or any(s.limit_a is not None or s.fed_by for s in board.sources):
        return None
    modes = _Modes({s.name: "volts" for s in board.sources}, {}, {})
    energised = {c.name: False for c in board.coils}
    for _ in range(_RELAY_MOST):
        linear, sources = _stamped(deck, energised, modes)
        voltages = np.asarray(np.linalg.solve(linear, sources), dtype=np.float64)
        for coil in board.coils:
            share = coil.pull_v(_across(deck, voltages, coil.a, coil.b)) / coil.pull_in_v
            if _UNCLEAR[0] < share < _UNCLEAR[1]:
                return None
        after = _moved(deck, voltages, energised)
        if after == energised:
            return energised
        energised = after
    return None


def _surely(found: OperatingPoint, deck: _Deck, foreseen: Mapping[str, bool]) -> bool:
    """Whether relays stand as foreseen and would from rest: none is held by hysteresis alone."""
    if found.chatter or dict(found.energised) != dict(foreseen):
        return False
    return all(
        c.pull_v(found.between_v(c.a, c.b)) >= c.pull_in_v
        for c in deck.board.coils
        if foreseen[c.name]
    )


def _deck(network: Network, state: VehicleState) -> _Deck:
    board = _board(network)
    fixed = board.linear.copy()
    for contact in board.switches:
        assert isinstance(contact.element, SwitchContact)
        if contact.element.closed.holds(state):
            _stamp(fixed, contact.a, contact.b, contact.conductance_s)
    return _Deck(board, state, fixed)


def _board(network: Network) -> _Board:
    """Return the arrays of a network. Kept on the network: it is solved many times."""
    kept = network.__dict__.get("_board")
    if isinstance(kept, _Board):
        return kept
    folded = fold(network)
    index, size = folded.index, len(folded.index)
    linear = np.zeros((size + 1, size + 1))
    linear[np.diag_indices(size + 1)] += LEAK_S
    for chain in folded.chains:
        _stamp(linear, index.get(chain.a, size), index.get(chain.b, size), 1.0 / chain.ohm)
    others = folded.others
    for coil in (e for e in others if isinstance(e, Coil)):
        conductance = 1.0 / max(coil.ohm, SMALLEST_OHM)
        _stamp(linear, index.get(coil.a, size), index.get(coil.b, size), conductance)
    ports = tuple(e for e in others if isinstance(e, LoadElement | Diode | ConverterInput))
    incidence = np.zeros((size + 1, len(ports)))
    for at, port in enumerate(ports):
        incidence[index.get(port.a, size), at] += 1.0
        incidence[index.get(port.b, size), at] -= 1.0
    guess = np.array([_guess_s(e) for e in ports])
    linear += (incidence * guess) @ incidence.T
    worked = [
        _Contact(
            element=e,
            a=index.get(e.a, size),
            b=index.get(e.b, size),
            conductance_s=1.0 / max(e.ohm, SMALLEST_OHM),
        )
        for e in others
        if isinstance(e, SwitchContact | RelayContact)
    ]
    board = _Board(
        folded=folded,
        nominal_v=network.nominal_v,
        size=size,
        linear=linear,
        ports=ports,
        incidence=incidence[:size],
        guess_s=guess,
        curves=Curves.of(ports),
        switches=tuple(c for c in worked if isinstance(c.element, SwitchContact)),
        contacts=tuple(c for c in worked if isinstance(c.element, RelayContact)),
        coils=tuple(e for e in others if isinstance(e, Coil)),
        sources=tuple(e for e in others if isinstance(e, Source)),
    )
    network.__dict__["_board"] = board
    return board


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
    linked = [s for s in deck.board.sources if s.limit_a is not None or s.fed_by]
    for source in linked:
        if modes.source[source.name] == "fold":
            modes.source[source.name] = "volts"  # asked anew: relays may have moved
    answer = _solve_contacts(deck, energised, modes)
    if not linked:
        return answer
    inputs = {e.name: e for e in deck.board.ports if isinstance(e, ConverterInput)}
    for _ in range(_SOURCE_MOST):
        changed = False
        for source in linked:
            mode = _mode(source, deck, answer, modes, inputs)
            if mode != modes.source[source.name]:
                modes.source[source.name] = mode
                changed = True
            feed = inputs.get(source.fed_by)
            if feed is not None:
                given_w = _given_w(source, deck, answer, modes) / feed.efficiency_ratio
                if abs(given_w - modes.power_w.get(feed.name, 0.0)) > _POWER_CLOSE_W:
                    modes.power_w[feed.name] = given_w
                    changed = True
        if not changed:
            starved = next((s for s in linked if s.fed_by in answer.cut_out), None)
            if starved is None:
                return answer
            answer = _folded_back(starved, inputs[starved.fed_by], deck, energised, modes, answer)
            continue
        steps = answer.steps
        answer = _solve_contacts(deck, energised, modes)
        answer.steps += steps
    raise NotConvergedError("a converter or charger finds no steady output")


def _folded_back(
    source: Source,
    feed: ConverterInput,
    deck: _Deck,
    energised: Mapping[str, bool],
    modes: _Modes,
    answer: _Answer,
) -> _Answer:
    """Let a converter that its feed starves give the most for which its input stays alive.

    At its full output the input falls under its cut-in, without load it recovers: between the
    two lies what it can give for good. It never gives more than it takes.
    """
    low_a, high_a = 0.0, _given_a(source, deck, answer, modes)
    best: _Answer | None = None
    for _ in range(_FOLD_STEPS):
        modes.source[source.name] = "fold"
        modes.fold_a[source.name] = (low_a + high_a) / 2
        tried = _at_fold(source, feed, deck, energised, modes)
        if tried is None or feed.name in tried.cut_out:
            high_a = modes.fold_a[source.name]
        else:
            low_a, best = modes.fold_a[source.name], tried
    modes.fold_a[source.name] = low_a
    if best is not None:
        found = _at_fold(source, feed, deck, energised, modes)
        if found is not None:
            return found
    modes.source[source.name] = "off"
    modes.power_w[feed.name] = 0.0
    return _solve_contacts(deck, energised, modes)


def _at_fold(
    source: Source,
    feed: ConverterInput,
    deck: _Deck,
    energised: Mapping[str, bool],
    modes: _Modes,
) -> _Answer | None:
    """Solve with a converter's output held at a current, its input taking what that asks."""
    try:
        for _ in range(_SOURCE_MOST):
            answer = _solve_contacts(deck, energised, modes)
            given_w = _given_w(source, deck, answer, modes) / feed.efficiency_ratio
            if abs(given_w - modes.power_w.get(feed.name, 0.0)) <= _POWER_CLOSE_W:
                return answer
            modes.power_w[feed.name] = given_w
    except NotConvergedError:
        return None
    return None


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
    if was == "fold":
        return was
    if was == "limit":
        return "volts" if across_v > set_v - (source.limit_a or 0.0) * source.ohm + 1e-9 else was
    if was == "off" and source.fed_by:
        return "volts" if across_v < set_v else was
    current_a = (set_v - across_v) / source.ohm
    if source.limit_a is not None and current_a > source.limit_a + 1e-9:
        return "limit"
    return "off" if current_a < -1e-9 else "volts"


def _given_w(source: Source, deck: _Deck, answer: _Answer, modes: _Modes) -> float:
    across_v = _across(deck, answer.voltages, source.a, source.b)
    return max(0.0, across_v * _given_a(source, deck, answer, modes))


def _given_a(source: Source, deck: _Deck, answer: _Answer, modes: _Modes) -> float:
    """What a source gives in its mode; never over its limit, whatever its mode still says. [A]"""
    held_a = {
        "off": 0.0,
        "limit": source.limit_a or 0.0,
        "fold": modes.fold_a.get(source.name, 0.0),
    }
    mode = modes.source[source.name]
    if mode in held_a:
        return held_a[mode]
    across_v = _across(deck, answer.voltages, source.a, source.b)
    given_a = (_set_v(source, deck) - across_v) / source.ohm
    return given_a if source.limit_a is None else min(given_a, source.limit_a)


def _set_v(source: Source, deck: _Deck) -> float:
    return deck.state.source_v(deck.board.nominal_v) if source.set_v is None else source.set_v


def _across(deck: _Deck, voltages: Floats, a: str, b: str) -> float:
    at = deck.board.folded.index.get(a)
    to = deck.board.folded.index.get(b)
    va = 0.0 if at is None else float(voltages[at])
    return va - (0.0 if to is None else float(voltages[to]))


def _solve_contacts(deck: _Deck, energised: Mapping[str, bool], modes: _Modes) -> _Answer:
    """Solve with contacts and source modes as they stand; loads under cut-in drop out."""
    board = deck.board
    linear, sources = _stamped(deck, energised, modes)
    incidence, guess, curves = board.incidence, board.guess_s, board.curves
    answers = np.linalg.solve(linear, np.column_stack([sources, incidence]))
    open_v, transfer = answers[:, 0], answers[:, 1:]
    off = np.zeros(len(board.ports), dtype=bool)
    open_port_v, impedance = incidence.T @ open_v, incidence.T @ transfer
    port_v, steps = open_port_v, 0
    while True:
        port_v, more = _newton(board, modes, open_port_v, impedance, off)
        steps += more
        under = (port_v < curves.drops_under_v) & ~off
        if not under.any():
            break
        off = off | under
    current = curves.currents(port_v, modes.power_w, off)[0]
    rest_a = current - guess * port_v
    voltages = open_v - transfer @ rest_a
    true_a = current - guess * (incidence.T @ voltages)  # not port_v: they differ unless it holds
    residual = linear @ voltages - sources + incidence @ true_a
    residual_a = float(np.abs(residual).max(initial=0.0))
    if not residual_a <= RESIDUAL_MOST_A:
        raise NotConvergedError(f"residual {residual_a:.3g} A is above {RESIDUAL_MOST_A:g} A")
    cut_out = frozenset(
        board.ports[at].name for at in np.flatnonzero(off & (port_v >= curves.drops_under_v))
    )
    return _Answer(voltages, current, cut_out, residual_a, steps)


def _stamped(deck: _Deck, energised: Mapping[str, bool], modes: _Modes) -> tuple[Floats, Floats]:
    """The matrix with contacts and sources stamped in, and what sources push into each node."""
    board = deck.board
    linear = deck.fixed.copy()
    sources = np.zeros(board.size + 1)
    for contact in board.contacts:
        assert isinstance(contact.element, RelayContact)
        if energised[contact.element.coil] == contact.element.makes:
            _stamp(linear, contact.a, contact.b, contact.conductance_s)
    for source in board.sources:
        a, b = board.at(source.a), board.at(source.b)
        mode = modes.source[source.name]
        if mode == "off":
            continue
        amps = modes.fold_a.get(source.name, 0.0) if mode == "fold" else source.limit_a or 0.0
        if mode == "volts":
            conductance = 1.0 / source.ohm
            _stamp(linear, a, b, conductance)
            amps = conductance * _set_v(source, deck)
        sources[a] += amps
        sources[b] -= amps
    return linear[:-1, :-1], sources[:-1]


def _newton(
    board: _Board, modes: _Modes, open_port_v: Floats, impedance: Floats, off: NDArray[np.bool_]
) -> tuple[Floats, int]:
    """Voltages at the loads: ``u = u_open - Z (i(u) - g u)`` by damped Newton steps."""
    guess, curves = board.guess_s, board.curves
    port_v = open_port_v.copy()
    identity = np.eye(len(board.ports))
    for step in range(1, _NEWTON_MOST + 1):
        current, slope = curves.currents(port_v, modes.power_w, off)
        error = port_v - open_port_v + impedance @ (current - guess * port_v)
        change = np.linalg.solve(identity + impedance * (slope - guess), error)
        largest = float(np.abs(change).max(initial=0.0))
        port_v = port_v - change * min(1.0, 4.0 / largest if largest else 1.0)
        if largest < _STEP_CLOSE * (1.0 + float(np.abs(port_v).max(initial=0.0))):
            return port_v, step
    return port_v, _NEWTON_MOST


def _pulls(coil: Coil, deck: _Deck, voltages: Floats, was: bool) -> bool:
    pull_v = coil.pull_v(_across(deck, voltages, coil.a, coil.b))
    if pull_v >= coil.pull_in_v:
        return True
    return was and pull_v > coil.release_v


def _results(
    network: Network,
    deck: _Deck,
    answer: _Answer,
    energised: Mapping[str, bool],
    chatter: tuple[str, ...],
    modes: _Modes,
    steps: int,
) -> OperatingPoint:
    reduced = {node: float(answer.voltages[at]) for node, at in deck.board.folded.index.items()}
    reduced[GROUND] = 0.0
    node_v, branch_a = unfold(deck.board.folded, reduced)
    closed: dict[str, bool] = {}
    port_a = {e.name: float(a) for e, a in zip(deck.board.ports, answer.port_a, strict=True)}
    for e in deck.board.folded.others:
        across_v = node_v[e.a] - node_v[e.b]
        if isinstance(e, SwitchContact):
            closed[e.name] = e.closed.holds(deck.state)
        elif isinstance(e, RelayContact):
            closed[e.name] = energised[e.coil] == e.makes
        if isinstance(e, Source):
            mode = modes.source[e.name]
            limit_a = e.limit_a or 0.0
            held = {"off": 0.0, "limit": -limit_a, "fold": -modes.fold_a.get(e.name, 0.0)}
            branch_a[e.name] = held.get(mode, (across_v - _set_v(e, deck)) / e.ohm)
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
        limited=frozenset(n for n, m in modes.source.items() if m in ("limit", "fold")),
        idle=frozenset(n for n, m in modes.source.items() if m == "off"),
        taken_w=dict(modes.power_w),
    )
