"""Many vehicles at once: one network with a small change in each, all solved as stacked arrays.

The same equations and rules as the solver's: relays from rest, loads by Newton at their
terminals, what is under its cut-in drops out. Fuses that open do so one after the other. Networks
with limited sources or converters are left to the solver, one by one.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.curves import Curves, Port
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fuses import opening_time_s
from ready_trail.core.netlist import (
    GROUND,
    Coil,
    ConverterInput,
    Diode,
    Element,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.opening import Protection
from ready_trail.core.solver import LEAK_S, solve
from ready_trail.core.states import VehicleState

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

METER_S = 1e-7
"""What a meter on volts would draw at every terminal. [S]"""

OPENS_WITHIN_S = 30.0
"""A fuse that opens within this has opened before anybody has put the probes. (house)"""

_SMALLEST_OHM = 1e-6
_RELAY_MOST, _NEWTON_MOST, _FUSE_MOST = 8, 40, 4
_PASSIVE_V = 0.2
_PASSIVE_LEAK_S = 1e-9  # far over what a meter calls open, and few enough digits are lost to it
_DIODE_GUESS_S = 1.0
_STILL_A = 2e-6
"""Under this a joint loses less than a meter shows, even at its worst. [A]"""


@dataclass(frozen=True, slots=True)
class Solved:
    """Every vehicle of a batch in one state: volts of each node (ground last), amps of each wire.

    ``sure`` is False where there is no steady state, or it cannot be had under power at all.
    """

    volts: Floats
    wire_a: Floats
    sure: NDArray[np.bool_]
    blown: NDArray[np.bool_]


class Batch:
    """The vehicles as arrays: (vehicle, node, node) and (element, vehicle)."""

    def __init__(
        self,
        networks: Sequence[Network],
        *,
        terminals: Sequence[str],
        clamps: Mapping[str, Sequence[str]],
        fuses: Sequence[Protection],
        offset_v: Floats | None = None,
    ) -> None:
        """Take networks that differ in little; ``clamps`` names each wire's elements, ``offset_v``
        how far each vehicle's battery is from what its state says.
        """
        self._offset_v = offset_v if offset_v is not None else np.zeros(len(networks))
        self.networks = networks
        self.nominal_v = networks[0].nominal_v
        names: dict[str, int] = {}
        for network in networks:
            for element in network.elements:
                for node in (element.a, element.b):
                    if node != GROUND:
                        names.setdefault(node, len(names))
        self.index, self.size, self.count = names, len(names), len(networks)
        self.limited = any(
            isinstance(e, ConverterInput) or (isinstance(e, Source) and e.limit_a is not None)
            for n in networks
            for e in n.elements
        )
        by_name: list[dict[str, Element]] = [{e.name: e for e in n.elements} for n in networks]
        every: dict[str, Element] = {}
        for named in by_name:
            for name, element in named.items():
                every.setdefault(name, element)
        first = by_name[0]
        self._every = every
        self._changed: dict[str, list[tuple[int, Element | None]]] = {}
        for v, named in enumerate(by_name):
            for name in every:
                known = named.get(name)
                if known is not first.get(name):
                    self._changed.setdefault(name, []).append((v, known))
        self._first = first
        self._kept_ends: dict[str, tuple[Ints, Ints, Floats]] = {}
        self._terminals = np.array([names[t] for t in terminals if t in names], dtype=np.intp)
        self._switches = [n for n, e in every.items() if isinstance(e, SwitchContact)]
        self._contacts = [n for n, e in every.items() if isinstance(e, RelayContact)]
        self._coils = [n for n, e in every.items() if isinstance(e, Coil)]
        self._sources = [n for n, e in every.items() if isinstance(e, Source)]
        self._ports = [n for n, e in every.items() if isinstance(e, LoadElement | Diode)]
        self._fuses = [f for f in fuses if f.element in every]
        self.clamps = clamps
        self._linear = self._stamped_linear()
        self._incidence, self._curves, self._guess = self._port_arrays(every)
        self._guessed = self._linear.copy()
        self._guessed[:, :-1, :-1] += _joined(self._incidence, self._guess)

    def at(self, node: str) -> int:
        """Column of a node; the last one is ground."""
        return self.index.get(node, self.size)

    def _stamped_linear(self) -> Floats:
        """Resistors and coils of every vehicle: the first one's, and where others differ."""
        n = self.size + 1
        base = np.zeros((n, n))
        base[np.diag_indices(n)] += LEAK_S
        for name, element in self._first.items():
            if name not in self._changed:
                self._stamp_one(base, element)
        stack = np.repeat(base[None], self.count, axis=0)
        for name in self._changed:
            if isinstance(self._every[name], Resistor | Coil | SwitchContact | RelayContact):
                a, b, g = self._ends(name)
                _stamp(stack, a, b, np.where(self._is_plain(name), g, 0.0))
        return stack

    def _is_plain(self, name: str) -> NDArray[np.bool_]:
        """In which vehicles an element is a resistance in every state: a contact may be stuck."""
        plain = np.full(self.count, isinstance(self._first.get(name), Resistor | Coil))
        for v, element in self._changed.get(name, ()):
            plain[v] = isinstance(element, Resistor | Coil)
        return plain

    def _stamp_one(self, matrix: Floats, element: Element) -> None:
        if isinstance(element, Resistor | Coil):
            g = 1.0 / max(element.ohm, _SMALLEST_OHM)
            a, b = self.at(element.a), self.at(element.b)
            matrix[a, a] += g
            matrix[b, b] += g
            matrix[a, b] -= g
            matrix[b, a] -= g

    def _port_arrays(self, every: Mapping[str, Element]) -> tuple[Floats, Curves, Floats]:
        count, ports = self.count, self._ports
        incidence = np.zeros((count, self.size + 1, len(ports)))
        grid: list[list[Port]] = []
        guess = np.zeros((count, len(ports)))
        for p, name in enumerate(ports):
            usual = every[name]
            assert isinstance(usual, LoadElement | Diode)
            column: list[Port] = [usual] * count
            changed = dict(self._changed.get(name, ()))
            plain = [v for v in range(count) if v not in changed]
            if name in self._first:
                self._put(incidence, guess, p, np.array(plain, dtype=np.intp), usual)
            for v, element in changed.items():
                if isinstance(element, LoadElement | Diode):
                    column[v] = element
                    self._put(incidence, guess, p, np.array([v], dtype=np.intp), element)
            grid.append(column)
        flat = [column[v] for v in range(count) for column in grid]
        return incidence[:, :-1], Curves.of(flat), guess

    def _put(
        self, incidence: Floats, guess: Floats, p: int, rows: Ints, port: LoadElement | Diode
    ) -> None:
        incidence[rows, self.at(port.a), p] += 1.0
        incidence[rows, self.at(port.b), p] -= 1.0
        guess[rows, p] = _DIODE_GUESS_S
        if isinstance(port, LoadElement):
            guess[rows, p] = port.load.rated_a / port.load.rated_v

    def _ends(self, name: str) -> tuple[Ints, Ints, Floats]:
        """Ends and conductance of an element in every vehicle; 0 where it is gone."""
        kept = self._kept_ends.get(name)
        if kept is not None:
            return kept
        a = np.full(self.count, self.size, dtype=np.intp)
        b = np.full(self.count, self.size, dtype=np.intp)
        g = np.zeros(self.count)
        for rows, e in self._each(name):
            g[rows] = 0.0
            if e is not None and not isinstance(e, LoadElement | Diode | ConverterInput):
                a[rows], b[rows] = self.at(e.a), self.at(e.b)
                g[rows] = 1.0 / max(e.ohm, _SMALLEST_OHM)
        self._kept_ends[name] = a, b, g
        return a, b, g

    def _each(self, name: str) -> list[tuple[Ints | slice, Element | None]]:
        """An element as most vehicles have it, then as those have it where it differs."""
        changed = self._changed.get(name, [])
        found: list[tuple[Ints | slice, Element | None]] = [(slice(None), self._first.get(name))]
        return found + [(np.array([v], dtype=np.intp), e) for v, e in changed]

    def whole(self, device: str, blown: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """In which vehicles a device's fuse is whole, as far as ``blown`` tells what opened."""
        at = next(i for i, fuse in enumerate(self._fuses) if fuse.device == device)
        return (self._ends(self._fuses[at].element)[2] > 0.0) & ~blown[:, at]

    def solve(
        self,
        state: VehicleState,
        blown: NDArray[np.bool_] | None = None,
        series: Sequence[str] = (),
    ) -> Solved:
        """Solve every vehicle in a state; ``blown`` tells which fuses are open already.

        ``series`` names for each vehicle the one element that has more resistance than the first
        vehicle's, empty where it differs otherwise: while that carries nothing it reads the same.
        """
        open_ = np.zeros((self.count, len(self._fuses)), dtype=bool)
        if blown is not None:
            open_ |= blown
        if self.limited:
            return self._one_by_one(state, open_, series)
        first = self._steady(state, np.zeros(1, dtype=np.intp), open_)
        volts = np.repeat(first[0], self.count, axis=0)
        amps = np.repeat(first[1], self.count, axis=0)
        sure = np.repeat(first[2], self.count)
        differs = self._differing(series, first[0][0], open_)
        volts[differs], amps[differs], sure[differs] = self._steady(state, differs, open_)
        for _ in range(_FUSE_MOST):
            opening = self._opening(volts, open_)
            rows = np.flatnonzero(opening >= 0)
            if not rows.size:
                break
            open_[rows, opening[rows]] = True
            volts[rows], amps[rows], sure[rows] = self._steady(state, rows, open_)
        sure &= ~self._beyond(volts)
        wire_a = self._wire_amps(volts)
        still = np.setdiff1d(np.arange(self.count), differs)
        wire_a[still] = wire_a[0]  # where the added joint is, the first has no node
        return Solved(volts, wire_a, sure, open_)

    def _differing(self, series: Sequence[str], volts: Floats, open_: NDArray[np.bool_]) -> Ints:
        """The vehicles that may read otherwise than the first, by what flows in that."""
        if not series:
            return np.arange(self.count, dtype=np.intp)
        carries: dict[str, bool] = {"": True}
        for name in set(series) - {""}:
            e = self._first.get(name)
            flows = 0.0
            if isinstance(e, Resistor):
                flows = (volts[self.at(e.a)] - volts[self.at(e.b)]) / max(e.ohm, _SMALLEST_OHM)
            carries[name] = not isinstance(e, Resistor) or abs(flows) > _STILL_A
        live = np.array([carries[name] for name in series]) | (open_ != open_[0]).any(axis=1)
        return np.flatnonzero(live)

    def _steady(
        self, state: VehicleState, rows: Ints, open_: NDArray[np.bool_]
    ) -> tuple[Floats, Floats, NDArray[np.bool_]]:
        """Volts of some vehicles with relays moved from rest until they stay; port amps; sure."""
        fixed = self._guessed[rows]
        self._stamp_switches(fixed, state, rows)
        self._stamp_open(fixed, rows, open_)
        pushed = self._stamp_sources(fixed, state, rows)
        if self._terminals.size:
            fixed[:, self._terminals, self._terminals] += METER_S
            fixed[:, self.size, self.size] += METER_S
        volts = np.zeros((len(rows), self.size + 1))
        amps = np.zeros((len(rows), len(self._ports)))
        energised = np.zeros((len(rows), len(self._coils)), dtype=bool)
        sure = np.ones(len(rows), dtype=bool)
        left = np.arange(len(rows), dtype=np.intp)
        for _ in range(_RELAY_MOST):
            matrix = fixed[left].copy()
            self._stamp_contacts(matrix, rows[left], energised[left])
            volts[left, :-1], amps[left], sure[left] = self._loads(
                matrix[:, :-1, :-1], pushed[left], rows[left]
            )
            after = self._pulled(volts[left], rows[left], energised[left])
            moved = (after != energised[left]).any(axis=1)
            energised[left] = after
            left = left[moved]
            if not left.size:
                return volts, amps, sure
        sure[left] = False  # it chatters
        return volts, amps, sure

    def _stamp_switches(self, matrix: Floats, state: VehicleState, rows: Ints) -> None:
        for name in self._switches:
            a, b, g = self._ends(name)
            closed = np.zeros(self.count, dtype=bool)
            for at, e in self._each(name):
                closed[at] = isinstance(e, SwitchContact) and e.closed.holds(state)
            _stamp(matrix, a[rows], b[rows], np.where(closed[rows], g[rows], 0.0))

    def _stamp_contacts(self, matrix: Floats, rows: Ints, energised: NDArray[np.bool_]) -> None:
        for name in self._contacts:
            usual = self._every[name]
            if not isinstance(usual, RelayContact):
                continue
            a, b, g = self._ends(name)
            there = np.zeros(self.count, dtype=bool)
            for at, e in self._each(name):
                there[at] = isinstance(e, RelayContact)
            made = energised[:, self._coils.index(usual.coil)] == usual.makes
            _stamp(matrix, a[rows], b[rows], np.where(made & there[rows], g[rows], 0.0))

    def _stamp_open(self, matrix: Floats, rows: Ints, open_: NDArray[np.bool_]) -> None:
        for f, fuse in enumerate(self._fuses):
            gone = open_[rows, f]
            if gone.any():
                a, b, g = self._ends(fuse.element)
                _stamp(matrix, a[rows], b[rows], np.where(gone, -g[rows], 0.0))

    def _stamp_sources(self, matrix: Floats, state: VehicleState, rows: Ints) -> Floats:
        pushed = np.zeros((len(rows), self.size + 1))
        for name in self._sources:
            all_a, all_b, all_g = self._ends(name)
            a, b, g = all_a[rows], all_b[rows], all_g[rows]
            every_v = np.zeros(self.count)
            for at, e in self._each(name):
                if isinstance(e, Source):
                    every_v[at] = e.set_v or 0.0
                    if e.set_v is None:
                        every_v[at] = state.source_v(self.nominal_v) + self._offset_v[at]
            set_v = every_v[rows]
            _stamp(matrix, a, b, g)
            np.add.at(pushed, (np.arange(len(rows)), a), g * set_v)
            np.add.at(pushed, (np.arange(len(rows)), b), -g * set_v)
        return pushed[:, :-1]

    def _loads(
        self, matrix: Floats, pushed: Floats, rows: Ints
    ) -> tuple[Floats, Floats, NDArray[np.bool_]]:
        """Newton at the ports: ``u = u_open - Z (i(u) - g u)``, all vehicles at once."""
        incidence, guess = self._incidence[rows], self._guess[rows]
        ports = incidence.shape[2]
        wanted = np.concatenate((pushed[:, :, None], incidence), axis=2)
        found = np.linalg.solve(matrix, wanted)
        open_v = np.asarray(found[:, :, 0], dtype=np.float64)
        transfer = found[:, :, 1:]
        if not ports:
            return open_v, np.zeros((len(rows), 0)), np.ones(len(rows), dtype=bool)
        turned = incidence.transpose(0, 2, 1)
        open_u = (turned @ open_v[:, :, None])[:, :, 0]
        z = turned @ transfer
        curves = _Curves(self._curves, rows, ports)
        u, off = open_u.copy(), np.zeros(open_u.shape, dtype=bool)
        under_v = self._curves.drops_under_v.reshape(-1, ports)[rows]
        sure: NDArray[np.bool_] = np.ones(len(rows), dtype=bool)
        eye = np.eye(ports)
        for _ in range(ports + 1):
            u, sure = _newton(open_u, z, guess, curves, off, eye)
            under = (u < under_v) & ~off
            if not under.any():
                break
            off |= under
        amps = curves.currents(u, off)[0]
        volts = open_v - (transfer @ (amps - guess * u)[:, :, None])[:, :, 0]
        return volts, amps, sure

    def _pulled(self, volts: Floats, rows: Ints, energised: NDArray[np.bool_]) -> NDArray[np.bool_]:
        after = np.zeros_like(energised)
        volts = np.concatenate((volts[:, :-1], np.zeros((len(rows), 1))), axis=1)
        each = np.arange(len(rows), dtype=np.intp)
        for c, name in enumerate(self._coils):
            a, b, _ = self._ends(name)
            pull, release = np.full((2, self.count), np.inf)
            share = np.zeros(self.count)
            for at, e in self._each(name):
                if isinstance(e, Coil):
                    pull[at], release[at], share[at] = e.pull_in_v, e.release_v, e.pull_v(1.0)
            pull_v = np.abs(volts[each, a[rows]] - volts[each, b[rows]]) * share[rows]
            held = energised[:, c] & (pull_v > release[rows])
            after[:, c] = (pull_v >= pull[rows]) | held
        return after

    def _opening(self, volts: Floats, open_: NDArray[np.bool_]) -> Ints:
        """Which fuse of each vehicle opens first, and soon; -1 where none does."""
        first = np.full(self.count, -1, dtype=np.intp)
        soonest = np.full(self.count, OPENS_WITHIN_S)
        every = np.arange(self.count, dtype=np.intp)
        for f, fuse in enumerate(self._fuses):
            if not fuse.gates or fuse.rating_a <= 0:
                continue
            a, b, g = self._ends(fuse.element)
            flows = np.abs((volts[every, a] - volts[every, b]) * g) / fuse.rating_a
            flows[open_[:, f]] = 0.0
            for v in np.flatnonzero(flows > 1.1):
                opens_s = opening_time_s(fuse.gates, float(flows[v]), slowest=True)
                if opens_s < soonest[v]:
                    soonest[v], first[v] = opens_s, f
        return first

    def _beyond(self, volts: Floats) -> NDArray[np.bool_]:
        """Vehicles whose battery is shorted with nothing that opens: nobody reads them live."""
        every = np.arange(self.count, dtype=np.intp)
        found = np.zeros(self.count, dtype=bool)
        for name in self._sources:
            a, b, g = self._ends(name)
            first = self._first.get(name)
            if isinstance(first, Source) and first.set_v is None:
                across = np.abs(volts[every, a] - volts[every, b])
                found |= (g > 0) & (across < 0.5 * self.nominal_v)
        return found

    def _wire_amps(self, volts: Floats) -> Floats:
        """The amps of each clamped wire, in its direction; the larger of its two halves."""
        every = np.arange(self.count, dtype=np.intp)
        made = np.zeros((self.count, len(self.clamps)))
        for w, names in enumerate(self.clamps.values()):
            for name in names:
                a, b, g = self._ends(name)
                flows = (volts[every, a] - volts[every, b]) * g
                made[:, w] = np.where(np.abs(flows) > np.abs(made[:, w]), flows, made[:, w])
        return made

    def _one_by_one(
        self, state: VehicleState, open_: NDArray[np.bool_], series: Sequence[str]
    ) -> Solved:
        """The same by the solver: converters and chargers settle on their limits there."""
        volts = np.zeros((self.count, self.size + 1))
        sure = np.ones(self.count, dtype=bool)
        volts[0], sure[0] = self._alone(state, 0, open_)
        differs = self._differing(series, volts[0], open_)
        still = np.setdiff1d(np.arange(self.count), differs)
        volts[still], sure[still] = volts[0], sure[0]
        for v in differs:
            if v:
                volts[v], sure[v] = self._alone(state, int(v), open_)
        sure &= ~self._beyond(volts)
        wire_a = self._wire_amps(volts)
        wire_a[still] = wire_a[0]
        return Solved(volts, wire_a, sure, open_)

    def _alone(self, state: VehicleState, v: int, open_: NDArray[np.bool_]) -> tuple[Floats, bool]:
        """Volts of one vehicle by the solver, its fuses played out, and whether they are steady."""
        volts, sure = np.zeros(self.size + 1), True
        own = replace(state, emf_v=state.source_v(self.nominal_v) + float(self._offset_v[v]))
        for _ in range(_FUSE_MOST):
            gone = {f.element for f, o in zip(self._fuses, open_[v], strict=True) if o}
            network = _metered(self.networks[v], gone, self._terminals, self.index)
            try:
                point = solve(network, own)
            except NotConvergedError:
                return volts, False
            volts[:-1] = [point.node_v.get(n, 0.0) for n in self.index]
            sure = not point.chatter
            opening = [
                (f.read(point).slowest_s, i)
                for i, f in enumerate(self._fuses)
                if not open_[v, i] and f.read(point).slowest_s < OPENS_WITHIN_S
            ]
            if not opening:
                break
            open_[v, min(opening)[1]] = True
        return volts, sure

    def passive(self, state: VehicleState) -> Floats:
        """Return what a small current meets with the power away: (vehicle, node, node). [Ω]

        Every source and fuse is away, relays rest, hand switches stand as in ``state``.
        """
        matrix = self._linear + np.diag(np.full(self.size + 1, _PASSIVE_LEAK_S))
        every = np.arange(self.count, dtype=np.intp)
        gone = np.ones((self.count, len(self._fuses)), dtype=bool)
        self._stamp_open(matrix, every, gone)
        self._stamp_switches(matrix, state, every)
        self._stamp_contacts(matrix, every, np.zeros((self.count, len(self._coils)), dtype=bool))
        ports = len(self._ports)
        if ports:
            small = np.full((self.count, ports), _PASSIVE_V)
            off = small < self._curves.drops_under_v.reshape(self.count, ports)
            amps = _Curves(self._curves, every, ports).currents(small, off)[0]
            slope = np.where(self._guess > 0, amps / _PASSIVE_V, 0.0)
            matrix[:, :-1, :-1] += _joined(self._incidence, slope)
        inverse = np.zeros((self.count, self.size + 1, self.size + 1))
        inverse[:, :-1, :-1] = np.linalg.inv(matrix[:, :-1, :-1])
        own = np.diagonal(inverse, axis1=1, axis2=2)
        found: Floats = own[:, :, None] + own[:, None, :] - 2 * inverse
        return np.maximum(found, 0.0)


class _Curves:
    """The ports' curves for some of the vehicles, as arrays of (vehicle, port)."""

    def __init__(self, curves: Curves, rows: Ints, ports: int) -> None:
        self._curves, self._rows, self._ports = curves, rows, ports
        self._count = len(curves.slope_s) // ports

    def currents(self, u: Floats, off: NDArray[np.bool_]) -> tuple[Floats, Floats]:
        """Return amps and slopes at the ports' volts."""
        whole_u = np.zeros((self._count, self._ports))
        whole_off = np.zeros((self._count, self._ports), dtype=bool)
        whole_u[self._rows], whole_off[self._rows] = u, off
        amps, slope = self._curves.currents(whole_u.ravel(), {}, whole_off.ravel())
        shape = (self._count, self._ports)
        return amps.reshape(shape)[self._rows], slope.reshape(shape)[self._rows]


def _newton(
    open_u: Floats, z: Floats, guess: Floats, curves: _Curves, off: NDArray[np.bool_], eye: Floats
) -> tuple[Floats, NDArray[np.bool_]]:
    u = open_u.copy()
    close = np.zeros(len(u), dtype=bool)
    for _ in range(_NEWTON_MOST):
        amps, slope = curves.currents(u, off)
        error = u - open_u + (z @ (amps - guess * u)[:, :, None])[:, :, 0]
        jacobian = eye + z * (slope - guess)[:, None, :]
        change = np.linalg.solve(jacobian, error[:, :, None])[:, :, 0]
        largest = np.abs(change).max(axis=1)
        u = u - change * np.minimum(1.0, 4.0 / np.maximum(largest, 1e-12))[:, None]
        close = largest < 1e-6 * (1.0 + np.abs(u).max(axis=1))
        if close.all():
            break
    return u, close


def _joined(incidence: Floats, slope: Floats) -> Floats:
    """The ports as plain conductances between their nodes: (vehicle, node, node). [S]"""
    found: Floats = (incidence * slope[:, None, :]) @ incidence.transpose(0, 2, 1)
    return found


def _stamp(matrix: Floats, a: Ints, b: Ints, g: Floats) -> None:
    """Add a conductance between two nodes of each vehicle."""
    rows = np.flatnonzero(g)
    if not rows.size:
        return
    a, b, g = a[rows], b[rows], g[rows]
    matrix[rows, a, a] += g
    matrix[rows, b, b] += g
    matrix[rows, a, b] -= g
    matrix[rows, b, a] -= g


def _metered(
    network: Network, gone: set[str], terminals: Ints, index: Mapping[str, int]
) -> Network:
    """A network without blown fuses, with what a meter draws at every terminal."""
    names = list(index)
    kept = [e for e in network.elements if e.name not in gone]
    kept += [
        Resistor(name=f"meter{t}", a=names[t], b=GROUND, ohm=1.0 / METER_S, kind="vehicle")
        for t in terminals
    ]
    return Network(nominal_v=network.nominal_v, elements=tuple(kept))
