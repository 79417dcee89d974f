"""A meter on the live drawing: volts between two points, ohms with the power away."""

from __future__ import annotations

import math

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.netlist import GROUND, Network, Resistor, Source
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState

TEST_V, INSIDE_OHM = 0.2, 100.0
"""What the meter itself gives on ohms: too little for a diode or a driver (typical)."""

OPEN_OHM = 10e6


INPUT_OHM = 10e6
"""What a meter on volts puts between its probes (typical): a wire that floats reads nothing."""


def volts(network: Network, state: VehicleState, a: str, b: str) -> float:
    """Return what a meter reads between two nodes, its own resistance between them. [V]

    Raises NotConvergedError where there is no steady state, KeyError for an unknown node.
    """
    if a == b:
        return 0.0
    nodes = {GROUND, *network.nodes}
    if not {a, b} <= nodes:
        raise KeyError(a if a not in nodes else b)
    meter = Resistor(name="meter", a=a, b=b, ohm=INPUT_OHM, kind="vehicle")
    tested = Network(nominal_v=network.nominal_v, elements=(*network.elements, meter))
    return solve(tested, state).between_v(a, b)


def has_power(network: Network) -> bool:
    """Whether a source is still connected: an ohmmeter would be harmed, and read nonsense."""
    return any(isinstance(e, Source) for e in network.elements)


def without_power(network: Network) -> Network:
    """Return the network with every source away and every fuse out."""
    kept = tuple(
        e
        for e in network.elements
        if not isinstance(e, Source) and not (isinstance(e, Resistor) and e.is_fuse)
    )
    return Network(nominal_v=network.nominal_v, elements=kept)


def ohms(network: Network, state: VehicleState, a: str, b: str) -> float:
    """Return the resistance between two nodes, power away; infinity where nothing joins them.

    Raises ValueError while a source is connected. [Ω]
    """
    if has_power(network):
        raise ValueError("power is present")
    if a == b:
        return 0.0
    nodes = {GROUND, *network.nodes}
    if not {a, b} <= nodes:
        return math.inf
    meter = Source(name="meter", a=a, b=b, ohm=INSIDE_OHM, set_v=TEST_V)
    tested = Network(nominal_v=network.nominal_v, elements=(*network.elements, meter))
    try:
        point = solve(tested, state)
    except NotConvergedError:
        return math.inf
    across_v = point.between_v(a, b)
    current_a = (TEST_V - across_v) / INSIDE_OHM
    if current_a <= TEST_V / OPEN_OHM:
        return math.inf
    return max(0.0, across_v / current_a)
