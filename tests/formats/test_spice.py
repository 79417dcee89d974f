"""The exported deck in an independent simulator: every node, many states, all demo jobs."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace
from pathlib import Path

import pytest

from ready_trail.core.design import design, job_network
from ready_trail.core.loads import Load
from ready_trail.core.netlist import LoadElement, Network, SwitchContact
from ready_trail.core.solver import solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, VehicleState
from ready_trail.formats.job_json import read_job
from ready_trail.formats.spice import spice_deck
from simulator import simulated, worst_v
from support import CATALOGUE, DEMO_DIR, demo

STATES = [
    ("off", "off", False),
    ("accessory", "off", False),
    ("run", "off", True),
    ("run", "high", True),
    ("run", "low", True),
    ("cranking", "side", True),
]


def with_linear_loads(network: Network) -> Network:
    elements = []
    for element in network.elements:
        if isinstance(element, LoadElement):
            load = Load(
                model="resistive", rated_a=element.load.rated_a, rated_v=element.load.rated_v
            )
            element = replace(element, load=load)
        elements.append(element)
    return replace(network, elements=tuple(elements))


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
@pytest.mark.parametrize(("key", "lights", "all_on"), STATES)
def test_ngspice_agrees(name: str, key: str, lights: str, all_on: bool, tmp_path: Path) -> None:
    network = job_network(design(demo(name), CATALOGUE))
    on = network.switches if all_on else frozenset()
    state = VehicleState(key=key, lights=lights, on=on)  # type: ignore[arg-type]
    assert worst_v(network, solve(network, state), tmp_path) < 0.001
    linear = with_linear_loads(network)
    assert worst_v(linear, solve(linear, state), tmp_path) < 0.0001


SMALL = sorted((Path(__file__).parents[1] / "data" / "jobs").glob("*.json"))
SMALL += sorted((DEMO_DIR.parent / "schemes").glob("*.json"))


def states_of(network: Network) -> list[VehicleState]:
    """Every state that a truth table shows, once for each set of closed contacts."""
    found: dict[tuple[object, ...], VehicleState] = {}
    contacts = [e.closed for e in network.elements if isinstance(e, SwitchContact)]
    for signal, on in itertools.product(("", *sorted(network.signals)), (False, True)):
        for key, lights in itertools.product(KEY_STATES, LIGHT_STATES):
            state = VehicleState(
                key=key,
                lights=lights,
                on=network.switches if on else frozenset(),
                signals=frozenset({signal} - {""}),
            )
            shut = tuple(c.holds(state) for c in contacts)
            found.setdefault((*shut, state.source_v(network.nominal_v)), state)
    return list(found.values())


@pytest.mark.parametrize("path", SMALL, ids=[p.stem for p in SMALL])
def test_ngspice_agrees_on_small_vehicles_in_every_state(path: Path, tmp_path: Path) -> None:
    network = job_network(design(read_job(path.read_bytes(), CATALOGUE), CATALOGUE))
    for state in states_of(network):
        assert worst_v(network, solve(network, state), tmp_path) < 0.001, state


def test_deck_differs_when_the_design_does(tmp_path: Path) -> None:
    """The comparison can fail: another fuse resistance moves the simulated voltages."""
    network = job_network(design(demo(), CATALOGUE))
    point = solve(network, VehicleState(key="run", on=frozenset({"Roof bar"})))
    deck = spice_deck("a test", network, point)
    changed = re.sub(r"^Rf15 (\S+) (\S+) \S+", r"Rf15 \1 \2 0.05", deck, flags=re.MULTILINE)
    assert changed != deck
    got = simulated(changed, tmp_path)
    assert max(abs(got[name] - volts) for name, volts in point.node_v.items()) > 0.05
