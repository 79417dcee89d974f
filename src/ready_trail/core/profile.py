"""The voltage profile: what is lost, and where, on the way out and back, by the solver."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import replace

from ready_trail.core.job import Circuit, Job, Use
from ready_trail.core.loads import Load
from ready_trail.core.network import (
    BATTERY_POSITIVE,
    GROUND,
    Element,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    SwitchContact,
)
from ready_trail.core.outcome import Profile, ProfileStep
from ready_trail.core.solver import OperatingPoint
from ready_trail.core.states import REST_V, RUNNING_V, KeyState, LightState, VehicleState
from ready_trail.core.wiring import Wiring

_PathElement = Resistor | RelayContact | SwitchContact
REST_OF_BLOCK = "rest_of_block"


def working_state(
    job: Job, circuit: Circuit, use: Use, *, emf_v: float | None = None
) -> VehicleState:
    """Return the state in which the circuit is on: key, lights, its switch and its enabler's."""
    key: KeyState = "off" if use.key == "always" else use.key
    lights: LightState = "off" if use.lights == "any" else use.lights
    on = {circuit.id}
    enabler = enabling_circuit(job, use)
    if enabler is not None:
        on.add(enabler.id)
        other = job.accessory(enabler.accessory_ids[0]).use
        key = other.key if key == "off" and other.key != "always" else key
        lights = other.lights if lights == "off" and other.lights != "any" else lights
    if emf_v is None:
        emf_v = (RUNNING_V if use.engine_only else REST_V) * job.vehicle.nominal_v / 12
    return VehicleState(key=key, lights=lights, on=frozenset(on), emf_v=emf_v)


def enabling_circuit(job: Job, use: Use) -> Circuit | None:
    """Return the circuit that an interlocked accessory waits for."""
    return next((c for c in job.circuits if use.while_on and c.id == use.while_on), None)


def at_design_current(network: Network, number: int, currents_a: Iterable[float]) -> Network:
    """Return the netlist with this circuit's loads drawing their design current, whatever
    the voltage: the case that sizing takes.
    """
    left = list(currents_a)
    elements: list[Element] = []
    for element in network.elements:
        if isinstance(element, LoadElement) and element.name.startswith(f"l{number}_"):
            rated_v = element.load.rated_v
            load = Load(model="electronics", rated_a=left.pop(0), rated_v=rated_v, cut_in_v=1.0)
            element = replace(element, load=load)
        elements.append(element)
    return replace(network, elements=tuple(elements))


def with_rest_of_block(network: Network, bus: str, rest_a: float) -> Network:
    """Return the netlist with the block's other circuits as one current at its bus."""
    if rest_a <= 0.0:
        return network
    load = Load(model="electronics", rated_a=rest_a, rated_v=network.nominal_v, cut_in_v=1.0)
    rest = LoadElement(name=REST_OF_BLOCK, a=bus, b=GROUND, load=load)
    return replace(network, elements=(*network.elements, rest))


def read_profile(
    network: Network,
    wiring: Wiring,
    number: int,
    point: OperatingPoint,
    *,
    at_design_current: bool,
) -> Profile:
    """Return the profile of one circuit from a solved state.

    ``wiring`` tells which wire, and how long a piece, each resistor of the netlist is.
    """
    load = f"l{number}"
    labels = _lengths_and_places(wiring)
    outward = _steps(network, labels, point, BATTERY_POSITIVE, f"{load}_pos")
    back = _steps(network, labels, point, f"{load}_neg", GROUND)
    every = (*outward, *back)
    current_a = sum(a for name, a in point.branch_a.items() if name.startswith(f"{load}_"))
    return Profile(
        outward=outward,
        back=back,
        current_a=current_a,
        posts_v=point.voltage_v(BATTERY_POSITIVE),
        load_v=point.between_v(f"{load}_pos", f"{load}_neg"),
        conductor_drop_v=sum(step.drop_v for step in every if step.kind == "wire"),
        path_drop_v=sum(step.drop_v for step in every),
        steepest=max(every, key=lambda step: step.drop_v, default=None),
        at_design_current=at_design_current,
    )


def by_place(profile: Profile) -> dict[str, float]:
    """Return the drop of each wire or device on the way, summed. [V]"""
    sums: dict[str, float] = {}
    for step in (*profile.outward, *profile.back):
        sums[step.place] = sums.get(step.place, 0.0) + step.drop_v
    return sums


def _steps(
    network: Network,
    labels: tuple[dict[str, float], dict[str, str]],
    point: OperatingPoint,
    start: str,
    end: str,
) -> tuple[ProfileStep, ...]:
    lengths, places = labels
    steps = []
    at = start
    for element in _way(network, start, end):
        after = element.b if element.a == at else element.a
        kind = element.kind if isinstance(element, Resistor) else "contact"
        steps.append(
            ProfileStep(
                element=element.name,
                place=places.get(element.name, element.name.split("_")[0].upper()),
                kind=kind,
                length_m=lengths.get(element.name, 0.0),
                before_v=point.voltage_v(at),
                after_v=point.voltage_v(after),
            )
        )
        at = after
    return tuple(steps)


def _lengths_and_places(wiring: Wiring) -> tuple[dict[str, float], dict[str, str]]:
    lengths: dict[str, float] = {}
    places: dict[str, str] = {}
    for wire in wiring.wires:
        pieces = iter(wire.pieces)
        for resistor in wire.resistors():
            places[resistor.name] = wire.label
            if resistor.kind == "wire":
                lengths[resistor.name] = next(pieces).length_m
    for device in wiring.devices:
        for element in device.elements:
            places[element.name] = device.ref
    return lengths, places


def _way(network: Network, start: str, end: str) -> list[_PathElement]:
    """Breadth first from start to end over wires, fuses and contacts, never through a load."""
    near: dict[str, list[tuple[str, _PathElement]]] = {}
    for element in network.elements:
        if isinstance(element, Resistor | RelayContact | SwitchContact):
            near.setdefault(element.a, []).append((element.b, element))
            near.setdefault(element.b, []).append((element.a, element))
    came: dict[str, tuple[str, _PathElement]] = {}
    queue = deque([start])
    while queue:
        node = queue.popleft()
        if node == end:
            break
        for other, element in near.get(node, ()):
            # ground joins every earth point: a way may end there, never pass it
            if other not in came and other != start and (other != GROUND or end == GROUND):
                came[other] = (node, element)
                queue.append(other)
    way: list[_PathElement] = []
    node = end
    while node != start and node in came:
        node, element = came[node]
        way.append(element)
    return way[::-1]
