"""Every single fault of a design: what is seen of it, with its circuit on and then off."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fault_list import NamedFault, single_faults
from ready_trail.core.faults import FaultError, faulted
from ready_trail.core.live import FLOWS_A, fuse_reading
from ready_trail.core.network import LoadElement, Network
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import VehicleState
from ready_trail.core.working import working_state

Symptom = Literal["dead", "weak", "on", "fuse", "nothing", "unsure"]
"""What a person notices first: it does not run, runs weakly, runs when it should not, a fuse
opens, nothing at all; or the state has no steady answer.
"""

SYMPTOMS: tuple[Symptom, ...] = ("dead", "weak", "fuse", "on", "nothing", "unsure")

_LESS_RATIO = 0.95
_DEAD_RATIO = 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultEffect:
    """A fault with one circuit working; where that shows nothing, with it switched off.

    ``load_v`` is what its accessory still gets, of several the one that loses most, and
    ``sound_v`` what that one had; ``opens``
    names the fuse that opens first, within ``opens_s`` at the latest. ``works`` says whether
    everything that worked still does, and as well as before; ``runs`` names what runs though it
    should not, ``state`` is the state in which all this is so.
    """

    fault: NamedFault
    circuit_id: str
    state: VehicleState
    works: bool
    sound_v: float = 0.0
    load_v: float = 0.0
    opens: str = ""
    opens_s: float = 0.0
    runs: str = ""
    trouble: str = ""

    @property
    def symptom(self) -> Symptom:
        """Return what is noticed first."""
        if self.trouble:
            return "unsure"
        if self.opens:
            return "fuse"
        if self.works:
            return "nothing"
        if self.runs:
            return "on"
        return "dead" if self.load_v <= _DEAD_RATIO * self.sound_v else "weak"


def sweep(design: Design) -> tuple[FaultEffect, ...]:
    """Return the effect of each single fault on the circuit whose states show it."""
    return tuple(effects(design))


def effects(design: Design) -> Iterator[FaultEffect]:
    """The same one by one, for who tells how far it is."""
    circuits = {c.circuit.id: c for c in design.circuits if c.network is not None}
    sound: dict[tuple[str, VehicleState], OperatingPoint | None] = {}
    for named in single_faults(design):
        shown_by = next(_showing(named.owner, circuits, design), None)
        if shown_by is not None:
            yield _effect(named, shown_by, design, sound)


def resting_state(design: Design, circuit: CircuitDesign) -> VehicleState:
    """Return the state in which a circuit should be off: its switch open, or the key out."""
    working = working_state(design.plan, circuit.circuit)
    contact = design.job.use_of(circuit.circuit).contact
    if contact:
        return replace(working, on=working.on - {contact})
    return VehicleState(on=working.on)


def _showing(
    owner: str, circuits: dict[str, CircuitDesign], design: Design
) -> Iterator[CircuitDesign]:
    """The circuits that show a fault of one owner: its own, else those that need it."""
    own = circuits.get(owner)
    if own is not None and not own.circuit.is_feeder:
        yield own
        return
    for circuit in circuits.values():
        if circuit.installation is not None and not circuit.circuit.is_feeder:
            installed = circuit.installation
            owners = {d.owner for d in installed.devices.values()}
            if owner in owners | {w.owner for w in installed.wires.values()}:
                yield circuit
    if own is not None:
        yield own


def _effect(
    named: NamedFault, circuit: CircuitDesign, design: Design,
    sound: dict[tuple[str, VehicleState], OperatingPoint | None],
) -> FaultEffect:  # fmt: skip
    assert circuit.network is not None
    working = working_state(design.plan, circuit.circuit)
    found = FaultEffect(fault=named, circuit_id=circuit.circuit.id, state=working, works=False)
    try:
        changed = faulted(circuit.network, named.faults)
    except FaultError as error:
        return replace(found, trouble=f"{error}")
    for state in dict.fromkeys((working, resting_state(design, circuit))):
        at = (circuit.circuit.id, state)
        if at not in sound:
            sound[at] = _solved(circuit.network, state)
        found = _in_state(replace(found, state=state), circuit, design, changed, sound[at])
        if not found.works:
            return found
    return replace(found, state=working)


def _solved(network: Network, state: VehicleState) -> OperatingPoint | None:
    try:
        return solve(network, state)
    except NotConvergedError:
        return None


def _in_state(
    found: FaultEffect, circuit: CircuitDesign, design: Design, changed: Network,
    before: OperatingPoint | None,
) -> FaultEffect:  # fmt: skip
    """The same effect with what its state shows of it."""
    assert circuit.network is not None
    assert circuit.installation is not None
    try:
        after = solve(changed, found.state)
    except NotConvergedError as error:
        return replace(found, works=False, trouble=f"{error}")
    works, sound_v, load_v, runs = True, 0.0, 0.0, ""
    for load in (e for e in circuit.network.elements if isinstance(e, LoadElement)):
        was_a = before.branch_a.get(load.name, 0.0) if before is not None else 0.0
        now_a = after.branch_a.get(load.name, 0.0)
        # a lamp whose switched side is its earth has its terminals the other way round
        was_v = abs(before.between_v(load.a, load.b)) if before is not None else 0.0
        now_v = abs(after.between_v(load.a, load.b)) if load.name in after.branch_a else 0.0
        if abs(was_a) > FLOWS_A:
            if was_v - now_v >= sound_v - load_v:
                sound_v, load_v = was_v, now_v
            works = works and abs(now_a) > FLOWS_A and now_v >= _LESS_RATIO * was_v
        elif abs(now_a) > max(FLOWS_A, 0.2 * load.load.rated_a):
            works, runs = False, runs or _title(circuit, load)
    opened = [
        r for ref, device in circuit.installation.devices.items()
        if (r := fuse_reading(device, design.installation.elements_of(ref), after)) is not None
        and r.opens
    ]  # fmt: skip
    first = min(opened, key=lambda r: r.slowest_s, default=None)
    return replace(
        found, works=works and first is None, sound_v=sound_v, load_v=load_v, runs=runs,
        opens=first.ref if first is not None else "",
        opens_s=first.slowest_s if first is not None else 0.0,
    )  # fmt: skip


def _title(circuit: CircuitDesign, load: LoadElement) -> str:
    """Name of the accessory that a load belongs to."""
    assert circuit.installation is not None
    installed = circuit.installation
    return next(d.title for ref, d in installed.devices.items()
                if load in installed.elements_of(ref))  # fmt: skip
