"""What each function wire of an accessory sees at rest and when on, by solving both."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.job import InputWire
from ready_trail.core.kinds.base import node_of
from ready_trail.core.outcome import CircuitDesign, Plan
from ready_trail.core.schemes.functions import input_contact
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import VehicleState
from ready_trail.core.working import working_state

ACTS_RATIO = 0.6
"""An input acts from this share of its supply up (active high), or this share below it."""

_FREE = (0.3, 0.7)
"""An input that floats inside reads about half its supply while nothing pulls it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class InputReading:
    """One function wire: the voltages at the accessory, and whether it does what it should.

    ``rest_v`` and ``on_v`` are None where that state could not be solved, ``on_v`` also where
    nothing of this job switches it on.
    """

    wire: InputWire
    ends: str
    rest_v: float | None
    on_v: float | None
    rest: Literal["free", "idle", "acts", "pulled", "unknown"]
    acts: bool | None

    @property
    def is_right(self) -> bool:
        """Whether it rests as its maker asks, and acts when it is switched on."""
        rests = self.rest == "free" if self.wire.must_float else self.rest in ("idle", "free")
        return rests and self.acts is not False


def read_inputs(design: CircuitDesign, plan: Plan) -> tuple[InputReading, ...]:
    """Return every function wire of a circuit's accessories; of several units the first one's."""
    if design.network is None:
        return ()
    found = []
    told: set[str] = set()
    state = working_state(plan, design.circuit)
    rest = _solved(design, state)
    for end in design.outlets:
        for accessory in end.outlet.accessories:
            for wire in accessory.inputs:
                if wire.name not in told:
                    told.add(wire.name)
                    found.append(_read(design, plan, end.outlet.ref, wire, state, rest))
    return tuple(found)


def _read(
    design: CircuitDesign,
    plan: Plan,
    ref: str,
    wire: InputWire,
    state: VehicleState,
    rest: OperatingPoint | None,
) -> InputReading:
    node, minus = node_of(ref, wire.name), node_of(ref, "-")
    plus = design.outlets[0].outlet.plus

    def across(point: OperatingPoint | None, at: str) -> float | None:
        if point is None or at not in point.node_v:
            return None
        return point.between_v(at, minus)

    supply_v = across(rest, node_of(ref, plus)) or design.sizing.request.supply.nominal_v
    rest_v = across(rest, node)
    on_v = None
    if wire.ends in ("controller", "switch"):
        contact = input_contact(design.circuit.name, wire)
        on_v = across(_solved(design, replace(state, on=state.on | {contact})), node)
    elif wire.ends == "signal":
        on_v = across(_solved(design, _with_signal(state, wire.at)), node)
    return InputReading(
        wire=wire,
        ends=_ends_words(plan, wire),
        rest_v=rest_v,
        on_v=on_v,
        rest=_resting(wire, rest_v, supply_v),
        acts=None if on_v is None else _acts(wire, on_v, supply_v),
    )


def _solved(design: CircuitDesign, state: VehicleState) -> OperatingPoint | None:
    if design.network is None:
        return None
    try:
        return solve(design.network, state)
    except NotConvergedError:
        return None


def _with_signal(state: VehicleState, name: str) -> VehicleState:
    if name in ("side", "low", "high"):
        return replace(state, lights=name)  # type: ignore[arg-type]
    if name in ("accessory", "run"):
        return replace(state, key=name)  # type: ignore[arg-type]
    return replace(state, signals=state.signals | {name})


def _acts(wire: InputWire, volts: float, supply_v: float) -> bool:
    share = volts / supply_v
    return share >= ACTS_RATIO if wire.active == "high" else share <= 1 - ACTS_RATIO - 0.15


def _resting(
    wire: InputWire, rest_v: float | None, supply_v: float
) -> Literal["free", "idle", "acts", "pulled", "unknown"]:
    if rest_v is None:
        return "unknown"
    if wire.must_float:
        return "free" if _FREE[0] <= rest_v / supply_v <= _FREE[1] else "pulled"
    if wire.active == "low" and wire.ends in ("cap", "accessory"):
        return "idle"
    return "acts" if wire.active == "high" and _acts(wire, rest_v, supply_v) else "idle"


def _ends_words(plan: Plan, wire: InputWire) -> str:
    if wire.ends == "controller":
        rests = {"open": "rests open", "ground": "rests at ground", "supply": "rests at supply"}
        return f"controller, {rests[wire.rests]}"
    if wire.ends == "cap":
        return "capped"
    if wire.ends == "accessory":
        other, _, its = wire.at.partition(" ")
        return f"{plan.job.accessory(other).name}, {its}"
    return f"switch {wire.at}" if wire.ends == "switch" else f"{wire.at} signal"
