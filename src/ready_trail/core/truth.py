"""The truth table: key and light states against on or off, by solving each state."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.network import LoadElement, Network, SwitchContact
from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.profile import enabling_circuit
from ready_trail.core.solver import solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, KeyState, LightState, VehicleState

_ON_SHARE = 0.5  # a load counts as on from half the nominal voltage up


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthCell:
    """One solved state: whether the accessory is on, and its voltage."""

    key: KeyState
    lights: LightState
    switch_on: bool
    is_on: bool
    chatters: bool
    load_v: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthTable:
    """All states of one circuit. ``has_switch`` tells whether both positions were solved.

    Of an interlocked circuit the cells hold with its ``enabler`` switched on;
    ``on_without_enabler`` tells whether it could come on in any state without that.
    """

    cells: tuple[TruthCell, ...]
    has_switch: bool
    solves: int
    enabler: str = ""
    on_without_enabler: bool = False

    def cell(self, key: KeyState, lights: LightState, *, switch_on: bool) -> TruthCell:
        """Return one state."""
        return next(
            c for c in self.cells if (c.key, c.lights, c.switch_on) == (key, lights, switch_on)
        )

    @property
    def lights_matter(self) -> bool:
        """Whether the light state changes anything."""
        return any(
            len({c.is_on for c in self.cells if (c.key, c.switch_on) == (key, on)}) > 1
            for key in KEY_STATES
            for on in (False, True)
        )


def truth_table(design: CircuitDesign) -> TruthTable | None:
    """Return the truth table of a circuit, or None where nothing could be wired.

    States with the same contacts closed and the same supply are solved once.
    """
    network = design.network
    if network is None:
        return None
    has_switch = design.circuit.id in network.switches
    enabler = enabling_circuit(design.job, design.accessories[0].use)
    enabled = frozenset({enabler.id}) if enabler else frozenset()
    solved: dict[tuple[object, ...], tuple[bool, bool, float]] = {}
    cells = []
    for switch_on in (False, True) if has_switch else (True,):
        on = enabled | ({design.circuit.id} if switch_on else frozenset())
        for key in KEY_STATES:
            for lights in LIGHT_STATES:
                state = VehicleState(key=key, lights=lights, on=on)
                alike = _fingerprint(network, state)
                if alike not in solved:
                    solved[alike] = _is_on(design, network, state)
                is_on, chatters, load_v = solved[alike]
                cells.append(
                    TruthCell(key=key, lights=lights, switch_on=switch_on, is_on=is_on,
                              chatters=chatters, load_v=load_v)
                )  # fmt: skip
    alone = frozenset({design.circuit.id})
    return TruthTable(
        cells=tuple(cells),
        has_switch=has_switch,
        solves=len(solved),
        enabler=enabler.name if enabler else "",
        on_without_enabler=enabler is not None
        and any(_is_on(design, network, VehicleState(key=key, on=alone))[0] for key in KEY_STATES),
    )


def _fingerprint(network: Network, state: VehicleState) -> tuple[object, ...]:
    closed = tuple(e.closed.holds(state) for e in network.elements if isinstance(e, SwitchContact))
    return (*closed, state.source_v(network.nominal_v))


def _is_on(
    design: CircuitDesign, network: Network, state: VehicleState
) -> tuple[bool, bool, float]:
    point = solve(network, state)
    prefix = f"l{design.circuit.number}_"
    voltages = [
        point.between_v(e.a, e.b)
        for e in network.elements
        if isinstance(e, LoadElement) and e.name.startswith(prefix)
    ]
    load_v = max(voltages)
    return load_v >= _ON_SHARE * network.nominal_v, bool(point.chatter), load_v
