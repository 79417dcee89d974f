"""The state in which a circuit works: key, lights, and every switch and channel on its way."""

from __future__ import annotations

from ready_trail.core.job import Circuit, Point
from ready_trail.core.outcome import Plan
from ready_trail.core.states import REST_V, RUNNING_V, KeyState, LightState, VehicleState


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
    engine = False
    circuits = [circuit, *(job.circuit(i) for i in plan.tree.parts_needed(circuit))]
    enabler = job.use_of(circuit).while_on
    circuits += [c for c in job.circuits if c.id == enabler] if enabler else []
    for at in circuits:
        use = job.use_of(at)
        on |= {use.contact} if use.contact else set()
        on |= contacts_of(plan, at)
        key = _later(key, "off" if use.key == "always" else use.key)
        lights = use.lights if lights == "off" and use.lights != "any" else lights
        engine = engine or use.engine_only
    for point in job.points:
        if point.fed_by_vehicle and point.id in {c.start.point for c in circuits}:
            key = _later(key, "off" if point.key == "always" else point.key)
            lights = point.lights if lights == "off" and point.lights != "any" else lights
    if emf_v is None:
        emf_v = sagging_v or (RUNNING_V if engine else REST_V) * job.vehicle.nominal_v / 12
    return VehicleState(key=key, lights=lights, on=frozenset(on), emf_v=emf_v)


def contacts_of(plan: Plan, circuit: Circuit) -> set[str]:
    """Return the channels that have to be on for a circuit."""
    found = set()
    channel = plan.job.use_of(circuit).channel
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
