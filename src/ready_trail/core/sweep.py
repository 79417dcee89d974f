"""Every single fault of a design: what is seen of it, with its circuit on and then off."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fault_list import NamedFault, single_faults
from ready_trail.core.faults import FaultError, Open, Series, faulted
from ready_trail.core.heating import LONGEST_S, outlasts
from ready_trail.core.kinds.controls import ControllerSpec
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.kinds.vehicle import FeedSpec, HeadlampsSpec
from ready_trail.core.kinds.winch_box import remote_contact
from ready_trail.core.live import FLOWS_A, wire_current_a
from ready_trail.core.netlist import LoadElement, Network
from ready_trail.core.opening import Protection, protections
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, VehicleState
from ready_trail.core.truth import fingerprint
from ready_trail.core.working import taken_off, working_state

Symptom = Literal["burns", "dead", "part", "weak", "on", "fuse", "nothing", "unsure"]
"""What counts first: a wire burns because no fuse opens in time; else what a person notices: it
does not run, some of its units do not, it runs weakly, runs when it should not, a fuse opens,
nothing at all; or the state has no steady answer.
"""
SYMPTOMS: tuple[Symptom, ...] = ("burns", "dead", "part", "weak", "fuse", "on", "nothing", "unsure")

VEHICLES_OWN = "the vehicle's own fuse"

_LESS_RATIO = 0.95
_DEAD_RATIO = 0.2
_SOONER_RATIO = 0.5
_MORE_RATIO = 1.2
"""A wire that carries hardly more than when all is sound is the review's matter, not a fault's."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultEffect:
    """A fault with one circuit working; where that shows nothing, with it switched off.

    ``load_v`` is what its accessory still gets, of several the one that loses most, and
    ``sound_v`` what that one had; ``opens``
    names the fuse that opens first, within ``opens_s`` at the latest. ``works`` says whether
    everything that worked still does, and as well as before; ``runs`` names what runs though it
    should not, ``burns`` the wire that gives up before a fuse of its own way opens, with what it
    carries; ``state`` is the state in which all this is so. [V, A, s]
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
    burns: str = ""
    burns_a: float = 0.0
    trouble: str = ""
    left: int = 0
    """How many units of the circuit itself still run beside one that no longer does."""

    @property
    def symptom(self) -> Symptom:
        """Return what is noticed first."""
        if self.trouble:
            return "unsure"
        if self.burns:
            return "burns"
        if self.opens:
            return "fuse"
        if self.works:
            return "nothing"
        if self.runs:
            return "on"
        if self.load_v > _DEAD_RATIO * self.sound_v:
            return "weak"
        return "part" if self.left else "dead"


def sweep(design: Design) -> tuple[FaultEffect, ...]:
    """Return the effect of each single fault on the circuit whose states show it."""
    return tuple(effects(design))


def effects(
    design: Design, *, everywhere: bool = False, of: Sequence[NamedFault] | None = None
) -> Iterator[FaultEffect]:
    """The same one by one, for who tells how far it is; ``of`` some faults alone.

    ``everywhere`` asks what is seen of it on each circuit that needs what is broken, as of a
    feeder's fuse; else the first of them stands for all.
    """
    circuits = {c.circuit.id: c for c in design.circuits if c.network is not None}
    sound: dict[tuple[str, VehicleState], OperatingPoint | None] = {}
    shown: dict[str, tuple[VehicleState, ...]] = {}
    for named in single_faults(design) if of is None else of:
        for circuit in _showing(named.owner, circuits, design):
            at = circuit.circuit.id
            if at not in shown:
                shown[at] = _states(design, circuit)
            found = _effect(named, circuit, design, shown[at], sound)
            if found is not None:
                yield found
                if not everywhere:
                    break


def resting_state(design: Design, circuit: CircuitDesign) -> VehicleState:
    """Return the state in which a circuit should be off: what takes it off, its switch open, or
    the key out.
    """
    working = working_state(design.plan, circuit.circuit)
    if circuit.scheme.at_rest:
        return taken_off(working, circuit.use)
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
    shown = False
    for circuit in circuits.values():
        if circuit.installation is not None and not circuit.circuit.is_feeder:
            installed = circuit.installation
            owners = {d.owner for d in installed.devices.values()}
            if owner in owners | {w.owner for w in installed.wires.values()}:
                shown = True
                yield circuit
    if own is not None and not shown:
        yield own


def _states(design: Design, circuit: CircuitDesign) -> tuple[VehicleState, ...]:
    """The states in which a fault is looked for: working, at rest, then every other."""
    told = (working_state(design.plan, circuit.circuit), resting_state(design, circuit))
    return tuple(dict.fromkeys((*told, *other_states(design, circuit))))


def _effect(
    named: NamedFault,
    circuit: CircuitDesign,
    design: Design,
    states: tuple[VehicleState, ...],
    sound: dict[tuple[str, VehicleState], OperatingPoint | None],
) -> FaultEffect | None:
    """The effect on one circuit; None where that circuit's own part has no such fault."""
    assert circuit.network is not None
    working = states[0]
    found = FaultEffect(fault=named, circuit_id=circuit.circuit.id, state=working, works=False)
    try:
        changed = faulted(circuit.network, named.faults)
    except FaultError:
        return None
    told = (working, resting_state(design, circuit))
    for state in states:
        at = (circuit.circuit.id, state)
        if at not in sound:
            sound[at] = _solved(circuit.network, state)
        if state not in told and _cannot_show(named, sound[at]):
            continue
        found = _in_state(replace(found, state=state), circuit, design, changed, sound[at])
        if not found.works:
            return found
    return replace(found, state=working, works=True)


def other_states(design: Design, circuit: CircuitDesign) -> tuple[VehicleState, ...]:
    """Return every state that a circuit's own network tells apart: key, lights, signals, its
    switch on, off or to its other side, and each further contact that is there.
    """
    network = circuit.network
    if network is None:
        return ()
    working = working_state(design.plan, circuit.circuit)
    use = design.job.use_of(circuit.circuit)
    sides = [f"{use.switch} "] if use.switch else []
    sides += [remote_contact(circuit.circuit.name, "")]  # one thumb presses one way at a time
    thrown = {c for c in network.switches if c.startswith(tuple(sides))}
    sets = [working.on, working.on - {use.contact}]
    sets += [working.on - thrown | {other} for other in sorted(network.switches - working.on)]
    seen: dict[tuple[object, ...], VehicleState] = {}
    for on in dict.fromkeys(sets):
        for signal in ("", *sorted(network.signals)):
            for key in KEY_STATES:
                for lights in LIGHT_STATES:
                    live = frozenset({signal} - {""})
                    state = VehicleState(key=key, lights=lights, on=on, signals=live)
                    seen.setdefault(fingerprint(network, state), state)
    return tuple(seen.values())


def _cannot_show(named: NamedFault, sound: OperatingPoint | None) -> bool:
    """Whether what is broken carries nothing in a state: then nothing of it is seen there."""
    if sound is None or not all(isinstance(f, Series | Open) for f in named.faults):
        return False
    names = {f.element for f in named.faults if isinstance(f, Series | Open)}
    return all(abs(sound.branch_a.get(name, 0.0)) < FLOWS_A for name in names)


def _solved(network: Network, state: VehicleState) -> OperatingPoint | None:
    try:
        return solve(network, state)
    except NotConvergedError:
        return None


def _in_state(
    found: FaultEffect,
    circuit: CircuitDesign,
    design: Design,
    changed: Network,
    before: OperatingPoint | None,
) -> FaultEffect:
    """The same effect with what its state shows of it."""
    assert circuit.installation is not None
    try:
        after = solve(changed, found.state)
    except NotConvergedError as error:
        return replace(found, works=False, trouble=f"{error}")
    works, sound_v, load_v, runs, left = True, 0.0, 0.0, "", 0
    brief = found.state.key == "cranking"  # what is lost in that second is the starter's doing
    own = {name for outlet in circuit.planned.outlets for name in outlet.amps}
    for load, title in _loads(circuit):
        was_a = before.branch_a.get(load.name, 0.0) if before is not None else 0.0
        now_a = after.branch_a.get(load.name, 0.0)
        # a lamp whose switched side is its earth has its terminals the other way round
        was_v = abs(before.between_v(load.a, load.b)) if before is not None else 0.0
        # one that has cut out may measure its full voltage: what it does not use does not count
        now_v = abs(after.between_v(load.a, load.b)) if abs(now_a) > FLOWS_A else 0.0
        if abs(was_a) > FLOWS_A and not brief:
            if was_v - now_v >= sound_v - load_v:
                sound_v, load_v = was_v, now_v
            works = works and now_v >= _LESS_RATIO * was_v
            left += load.name in own and now_v >= _LESS_RATIO * was_v
        elif abs(was_a) <= FLOWS_A and abs(now_a) > max(FLOWS_A, 0.2 * load.load.rated_a):
            works, runs = False, runs or title
    found = replace(found, works=works, sound_v=sound_v, load_v=load_v, runs=runs, left=left)
    return _played_out(found, circuit, design, changed, before, after)


def _played_out(
    found: FaultEffect,
    circuit: CircuitDesign,
    design: Design,
    changed: Network,
    before: OperatingPoint | None,
    after: OperatingPoint,
) -> FaultEffect:
    """What opens and what burns: one fuse after the other opens until none does any more.

    A fuse only counts for a wire if, with it open, the wire no longer carries too much.
    """
    assert circuit.installation is not None
    network, point = changed, after
    left = [p for p in protections(circuit.installation) if not _opens_anyway(p, before, point)]
    while True:
        first = _first(left, point)
        opens_s = first.read(point).slowest_s if first is not None else LONGEST_S
        burning = _burning(circuit, design, before, point, min(opens_s, LONGEST_S))
        if burning is not None and _vehicle_feeds(circuit, burning[0]):
            return replace(found, works=False, opens=VEHICLES_OWN)
        if burning is not None:
            return replace(found, works=False, burns=burning[0], burns_a=burning[1])
        if first is None:
            return found
        if not found.opens:
            found = replace(found, works=False, opens=first.ref, opens_s=opens_s)
        left.remove(first)
        try:
            network = faulted(network, [Open(first.element)])
            point = solve(network, found.state)
        except (FaultError, NotConvergedError):
            return found


def _opens_anyway(fuse: Protection, before: OperatingPoint | None, point: OperatingPoint) -> bool:
    """Whether a fuse would open so in sound work too, as a winch's does after a long pull."""
    if before is None:
        return False
    sound, now = fuse.read(before), fuse.read(point)
    return sound.opens and now.slowest_s > _SOONER_RATIO * sound.slowest_s


def _first(left: list[Protection], point: OperatingPoint) -> Protection | None:
    """Which of them opens first at what it carries, if any does."""
    opening = [p for p in left if p.read(point).opens]
    return min(opening, key=lambda p: p.read(point).slowest_s, default=None)


def _vehicle_feeds(circuit: CircuitDesign, label: str) -> bool:
    """Whether a wire begins at a feed of the vehicle or at a controller: nobody has told us the
    fuse that these have of their own.
    """
    assert circuit.installation is not None
    device = circuit.installation.devices.get(circuit.installation.wires[label].start.device)
    spec = device.spec if device is not None else None
    return isinstance(spec, FeedSpec | HeadlampsSpec | ControllerSpec) or (
        isinstance(spec, PointSpec) and spec.vehicle_feed is not None
    )


def _burning(
    circuit: CircuitDesign,
    design: Design,
    before: OperatingPoint | None,
    point: OperatingPoint,
    bears_s: float,
) -> tuple[str, float] | None:
    """The wire that carries most of those that do not bear it that long. [s, A]"""
    assert circuit.installation is not None
    found: tuple[str, float] | None = None
    for label, wire in circuit.installation.wires.items():
        amps = abs(wire_current_a(design, wire, point))
        sound_a = abs(wire_current_a(design, wire, before)) if before is not None else 0.0
        if not wire.pieces or amps <= max(found[1] if found else 0.0, _MORE_RATIO * sound_a):
            continue
        hottest = max(wire.pieces, key=lambda p: p.ambient_c)
        bears = partial(
            outlasts,
            current_a=amps,
            area_mm2=wire.conductor.area_mm2,
            insulation_c=wire.insulation_c,
            ambient_c=hottest.ambient_c,
        )
        for_good = bears(start_c=hottest.ambient_c, for_s=LONGEST_S)
        if not for_good and not bears(start_c=hottest.conductor_c, for_s=bears_s):
            found = label, amps
    return found


def _loads(circuit: CircuitDesign) -> Iterator[tuple[LoadElement, str]]:
    """The accessories that a circuit shows, with their names; not what stands for the others."""
    assert circuit.installation is not None
    for ref, device in circuit.installation.devices.items():
        for element in circuit.installation.elements_of(ref):
            if isinstance(element, LoadElement):
                yield element, device.title
