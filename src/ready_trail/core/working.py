"""The state in which a circuit works: key, lights, and every switch and channel on its way."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.job import Circuit, Job, Point, Use
from ready_trail.core.kinds.winch_box import remote_contact
from ready_trail.core.outcome import CircuitDesign, Plan
from ready_trail.core.schemes.relay_unit import unit_contact
from ready_trail.core.states import (
    CHARGING_V,
    REST_V,
    RUNNING_V,
    KeyState,
    LightState,
    VehicleState,
)
from ready_trail.core.supply.apart import pairs_apart


def channel_contact(point: Point, position: str) -> str:
    """Return the name under which a channel is switched on."""
    return f"{point.name} {position}"


def working_state(
    plan: Plan, circuit: Circuit, *, emf_v: float | None = None, sagging_v: float | None = None
) -> VehicleState:
    """Return the state in which a circuit is on: key, lights, every switch on its way."""
    job = plan.job
    key: KeyState = "off"
    lights: LightState = "off"
    on: set[str] = set()
    signals: set[str] = set()
    engine = False
    circuits = [circuit, *(job.circuit(i) for i in plan.tree.parts_needed(circuit))]
    enabler = job.use_of(circuit).while_on
    circuits += [c for c in job.circuits if c.id == enabler] if enabler else []
    circuits += beside(job, circuit)
    for at in circuits:
        use = job.use_of(at)
        on |= {use.contact} if use.contact else set()
        on |= contacts_of(plan, at)
        key = _later(key, "off" if use.key == "always" else use.key)
        lights = use.lights if lights == "off" and use.lights != "any" else lights
        signals |= {use.signal} if use.signal else set()
        engine = engine or use.engine_only
    for point in job.points:
        enabled = point.fed_by_vehicle or point.is_a.converts
        if enabled and point.id in {c.start.point for c in circuits}:
            key = _later(key, "off" if point.key == "always" else point.key)
            lights = point.lights if lights == "off" and point.lights != "any" else lights
    planned = plan.circuits.get(circuit.id)
    if emf_v is None and planned is not None and planned.scheme.works_charging:
        emf_v = CHARGING_V * job.vehicle.nominal_v / 12
    if emf_v is None:
        emf_v = sagging_v or (RUNNING_V if engine else REST_V) * job.vehicle.nominal_v / 12
    return VehicleState(
        key=key, lights=lights, on=frozenset(on), signals=frozenset(signals), emf_v=emf_v
    )


def taken_off(state: VehicleState, use: Use) -> VehicleState:
    """Return the state in which what takes a use off is there as well."""
    match use.unless:
        case "":
            return state
        case "side" | "low" | "high" as lights:
            return replace(state, lights=lights)
        case signal:
            return replace(state, signals=state.signals | {signal})


def pulling_state(state: VehicleState, made: CircuitDesign) -> VehicleState:
    """Return the state in which a circuit's coil pulls: at work, or taken off."""
    return taken_off(state, made.use) if made.scheme.at_rest else state


def beside(job: Job, circuit: Circuit) -> tuple[Circuit, ...]:
    """Return the circuits of further outputs that can be on together with this one."""
    if not circuit.output:
        return ()
    leader = job.leader(circuit)
    apart = pairs_apart(job)
    return tuple(
        c
        for c in (leader, *job.followers(leader))
        if c.id != circuit.id and frozenset((c.id, circuit.id)) not in apart
    )


def contacts_of(plan: Plan, circuit: Circuit) -> set[str]:
    """Return the channels that have to be on for a circuit."""
    use = plan.job.use_of(circuit)
    found = {unit_contact(use.unit)} if use.unit else set()
    if any(a.remote for a in plan.job.loads_of(circuit)):
        found.add(remote_contact(circuit.name, "in"))
    channel = use.channel
    for point_id, position in (
        (circuit.start.point, circuit.start.position),
        (channel.point, channel.position) if channel else ("", ""),
    ):
        point = plan.tree.points.get(point_id)
        if point is not None and point.switches_its_positions and position:
            found.add(channel_contact(point, position))
    return found


def _later(a: KeyState, b: KeyState) -> KeyState:
    order: tuple[KeyState, ...] = ("off", "accessory", "run", "cranking")
    return a if order.index(a) >= order.index(b) else b
