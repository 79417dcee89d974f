"""The truth table: key and light states against on or off, by solving each state."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.netlist import Coil, ConverterInput, Network, SwitchContact
from ready_trail.core.outcome import CircuitDesign, Plan
from ready_trail.core.profile import load_nodes
from ready_trail.core.solver import solve
from ready_trail.core.states import (
    KEY_STATES,
    LIGHT_STATES,
    SIGNALS,
    KeyState,
    LightState,
    VehicleState,
)
from ready_trail.core.working import contacts_of

_ON_SHARE = 0.5  # a load counts as on from half the nominal voltage up


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthCell:
    """One solved state: whether the accessory is on, and its voltage."""

    key: KeyState
    lights: LightState
    signal: str = ""
    switch_on: bool
    is_on: bool
    chatters: bool
    load_v: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthTable:
    """All states of one circuit. ``switch`` names what works it; both positions were solved.

    Of an interlocked circuit the cells hold with its ``enabler`` switched on;
    ``on_without_enabler`` tells whether it could come on in any state without that.
    ``unsolved`` counts states without an operating point.
    """

    cells: tuple[TruthCell, ...]
    switch: str
    solves: int
    enabler: str = ""
    on_without_enabler: bool = False
    unsolved: int = 0
    signals: tuple[str, ...] = ()

    @property
    def has_switch(self) -> bool:
        """Whether both positions of a switch were solved."""
        return bool(self.switch)

    def cell(
        self, key: KeyState, lights: LightState, *, switch_on: bool, signal: str = ""
    ) -> TruthCell:
        """Return one state; ``signal`` is the one that is on, or none."""
        wanted = (key, lights, switch_on, signal)
        return next(c for c in self.cells if (c.key, c.lights, c.switch_on, c.signal) == wanted)

    @property
    def lights_matter(self) -> bool:
        """Whether the light state changes anything."""
        return any(
            len(
                {c.is_on for c in self.cells if (c.key, c.switch_on, c.signal) == (key, on, signal)}
            )
            > 1
            for key in KEY_STATES
            for on in (False, True)
            for signal in ("", *self.signals)
        )


def _ahead(design: CircuitDesign, plan: Plan) -> set[str]:
    """The contacts of the feeders ahead: all of them on."""
    found: set[str] = set()
    for feeder_id in design.ahead:
        feeder = plan.job.circuit(feeder_id)
        use = plan.job.use_of(feeder)
        found |= ({use.contact} if use.contact else set()) | contacts_of(plan, feeder)
    return found


def truth_table(design: CircuitDesign, plan: Plan) -> TruthTable | None:
    """Return the truth table of a circuit, or None where nothing could be wired.

    States with the same contacts closed and the same supply are solved once.
    """
    network = design.network
    if network is None:
        return None
    own = {design.use.contact} if design.use.contact else set()
    own = (own or contacts_of(plan, design.circuit)) & network.switches
    others = _ahead(design, plan)
    while_on = design.use.while_on
    enabler = next((c for c in plan.job.circuits if while_on and c.id == while_on), None)
    enabled: set[str] = set()
    if enabler is not None:
        enabled = {plan.job.use_of(enabler).contact} | contacts_of(plan, enabler)
    asked = network.signals | ({"charging"} if design.scheme.works_charging else set())
    signals = tuple(s for s in SIGNALS if s in asked)
    solved: dict[tuple[object, ...], tuple[bool, bool, float] | None] = {}
    cells = []
    for switch_on in (False, True) if own else (True,):
        on = frozenset(others | enabled | (own if switch_on else set()))
        for signal, key in ((s, k) for s in ("", *signals) for k in KEY_STATES):
            for lights in LIGHT_STATES:
                live = frozenset({signal} - {""})
                state = VehicleState(key=key, lights=lights, on=on, signals=live)
                alike = fingerprint(network, state)
                if alike not in solved:
                    solved[alike] = _is_on(design, network, state)
                is_on, chatters, load_v = solved[alike] or (False, False, 0.0)
                cells.append(
                    TruthCell(
                        key=key,
                        lights=lights,
                        signal=signal,
                        switch_on=switch_on,
                        is_on=is_on,
                        chatters=chatters,
                        load_v=load_v,
                    )
                )
    alone = frozenset(others | own)
    return TruthTable(
        cells=tuple(cells),
        switch=", ".join(sorted(own)),
        solves=len(solved),
        enabler=enabler.name if enabler else "",
        on_without_enabler=enabler is not None
        and bool(enabled - {""})
        and any(
            (_is_on(design, network, VehicleState(key=key, on=alone)) or (False,))[0]
            for key in KEY_STATES
        ),
        unsolved=sum(answer is None for answer in solved.values()),
        signals=signals,
    )


def fingerprint(network: Network, state: VehicleState) -> tuple[object, ...]:
    """Return what tells two states of a network apart: closed contacts, and the supply."""
    closed = tuple(
        e.closed.holds(state) if isinstance(e, SwitchContact) else e.enabled.holds(state)
        for e in network.elements
        if isinstance(e, SwitchContact | ConverterInput)
    )
    return (*closed, state.source_v(network.nominal_v))


def _is_on(
    design: CircuitDesign, network: Network, state: VehicleState
) -> tuple[bool, bool, float] | None:
    try:
        point = solve(network, state)
    except NotConvergedError:
        return None
    coil = _link_coil(design)
    if coil:  # the far battery is live by itself: what counts is whether the two are joined
        return point.energised[coil], coil in point.chatter, 0.0
    load_v = point.between_v(*load_nodes(design))
    nominal_v = design.sizing.request.supply.nominal_v
    return load_v >= _ON_SHARE * nominal_v, bool(point.chatter), load_v


def _link_coil(design: CircuitDesign) -> str:
    """Name of the coil that joins two batteries, or an empty text."""
    device = design.relay_device
    if design.feeds is None or not design.feeds.is_a.stores or device is None:
        return ""
    return next((e.name for e in device.elements() if isinstance(e, Coil)), "")
