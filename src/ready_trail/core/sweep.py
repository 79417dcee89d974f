"""Every single fault of a design in its working state: what it does to whom."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fault_list import NamedFault, single_faults
from ready_trail.core.faults import FaultError, faulted
from ready_trail.core.live import FLOWS_A, fuse_reading
from ready_trail.core.network import LoadElement
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.working import working_state

_LESS_RATIO = 0.95


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultEffect:
    """A fault in the working state of one circuit.

    ``load_v`` is what its accessory still gets, of several the one that loses most, and
    ``sound_v`` what that one had; ``opens``
    names the fuse that opens first, within ``opens_s`` at the latest. ``works`` says whether
    everything that worked still does, and as well as before.
    """

    fault: NamedFault
    circuit_id: str
    works: bool
    sound_v: float
    load_v: float
    opens: str = ""
    opens_s: float = 0.0
    trouble: str = ""


def sweep(design: Design) -> tuple[FaultEffect, ...]:
    """Return the effect of each single fault on the circuit whose working state shows it."""
    circuits = {c.circuit.id: c for c in design.circuits if c.network is not None}
    sound: dict[str, OperatingPoint | None] = {}
    found: list[FaultEffect] = []
    for named in single_faults(design):
        shown_by = next(_showing(named.owner, circuits, design), None)
        if shown_by is None:
            continue
        found.append(_effect(named, shown_by, design, sound))
    return tuple(found)


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


def _solved(circuit: CircuitDesign, design: Design) -> OperatingPoint | None:
    assert circuit.network is not None
    try:
        return solve(circuit.network, working_state(design.plan, circuit.circuit))
    except NotConvergedError:
        return None


def _effect(
    named: NamedFault, circuit: CircuitDesign, design: Design,
    sound: dict[str, OperatingPoint | None],
) -> FaultEffect:  # fmt: skip
    at = circuit.circuit.id
    if at not in sound:
        sound[at] = _solved(circuit, design)
    before = sound[at]
    assert circuit.network is not None
    try:
        changed = faulted(circuit.network, named.faults)
        after = solve(changed, working_state(design.plan, circuit.circuit))
    except (FaultError, NotConvergedError) as error:
        return FaultEffect(fault=named, circuit_id=at, works=False, sound_v=0.0, load_v=0.0,
                           trouble=f"{error}")  # fmt: skip
    loads = [e for e in circuit.network.elements if isinstance(e, LoadElement)]
    works, sound_v, load_v = True, 0.0, 0.0
    for load in loads:
        was_a = before.branch_a.get(load.name, 0.0) if before is not None else 0.0
        now_a = after.branch_a.get(load.name, 0.0)
        was_v = before.between_v(load.a, load.b) if before is not None else 0.0
        now_v = after.between_v(load.a, load.b) if load.name in after.branch_a else 0.0
        if abs(was_a) > FLOWS_A:
            if was_v - now_v >= sound_v - load_v:
                sound_v, load_v = was_v, now_v
            works = works and abs(now_a) > FLOWS_A and now_v >= _LESS_RATIO * was_v
        elif abs(now_a) > max(FLOWS_A, 0.2 * load.load.rated_a):
            works = False  # comes on where it should not
    opened = [
        r for ref, device in (circuit.installation.devices.items() if circuit.installation else ())
        if (r := fuse_reading(device, design.installation.elements_of(ref), after)) is not None
        and r.opens
    ]  # fmt: skip
    first = min(opened, key=lambda r: r.slowest_s, default=None)
    return FaultEffect(
        fault=named, circuit_id=at, works=works and first is None, sound_v=sound_v, load_v=load_v,
        opens=first.ref if first is not None else "",
        opens_s=first.slowest_s if first is not None else 0.0,
    )  # fmt: skip
