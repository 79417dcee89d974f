"""The solver: Kirchhoff, relays to a fixed point, chatter, loads under their cut-in."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import design, job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.loads import Load
from ready_trail.core.netlist import (
    Coil,
    Element,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.solver import LEAK_S, OperatingPoint, _deck, _iterated, solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, Closed, VehicleState
from support import CATALOGUE, demo

BATTERY = Source(name="bat", a="bat_pos", b="0", ohm=0.005)


def wire(name: str, a: str, b: str, ohm: float) -> Resistor:
    return Resistor(name=name, a=a, b=b, ohm=ohm, kind="wire")


def network(*elements: Element) -> Network:
    return Network(nominal_v=12.0, elements=(BATTERY, *elements))


def load(model: str, amps: float = 10.0) -> LoadElement:
    made = Load(model=model, rated_a=amps, rated_v=12.0)  # type: ignore[arg-type]
    return LoadElement(name="l1", a="out", b="0", load=made)


def sum_at_node(net: Network, point: OperatingPoint, node: str) -> float:
    total = 0.0
    for element in net.elements:
        current = point.branch_a[element.name]
        total += current if element.a == node else 0.0
        total -= current if element.b == node else 0.0
    return total


def test_a_divider_by_hand() -> None:
    net = network(wire("r1", "bat_pos", "mid", 1.0), wire("r2", "mid", "0", 2.0))
    point = solve(net, VehicleState())
    assert point.voltage_v("mid") == pytest.approx(12.7 * 2.0 / 3.005)
    assert point.branch_a["bat"] == pytest.approx(-12.7 / 3.005)


@given(
    st.sampled_from(["resistive", "filament", "constant_power", "electronics", "motor"]),
    st.floats(0.5, 30.0),
    st.floats(0.001, 0.05),
)
@settings(max_examples=80, deadline=None)
def test_currents_at_every_node_sum_to_zero(model: str, amps: float, ohm: float) -> None:
    net = network(wire("w1", "bat_pos", "out", ohm), load(model, amps))
    point = solve(net, VehicleState())
    assert point.residual_a <= 1e-6
    for node in net.nodes:
        assert abs(sum_at_node(net, point, node)) <= 1e-6


def test_constant_power_draws_more_at_the_end_of_a_thin_wire() -> None:
    net = network(wire("w1", "bat_pos", "out", 0.1), load("constant_power"))
    point = solve(net, VehicleState())
    across_v = point.voltage_v("out")
    assert across_v * point.branch_a["l1"] == pytest.approx(120.0)
    # v = (E + sqrt(E² - 4 P R)) / 2 with R = 0.105
    assert across_v == pytest.approx((12.7 + (12.7**2 - 4 * 120 * 0.105) ** 0.5) / 2)


def test_a_driver_that_pulls_its_own_supply_down_cuts_out() -> None:
    net = network(wire("w1", "bat_pos", "out", 0.5), load("constant_power", 30.0))
    point = solve(net, VehicleState())
    assert point.cut_out == {"l1"}
    assert point.branch_a["l1"] == 0.0
    assert point.voltage_v("out") == pytest.approx(12.7, abs=1e-6)


def test_relay_holds_down_to_its_release_voltage() -> None:
    coil = Coil(name="k1_coil", a="sw", b="0", ohm=90.0, pull_in_v=8.0, release_v=1.5)
    contact = RelayContact(name="k1_30_87", a="bat_pos", b="out", ohm=0.002, coil="k1_coil")
    key = SwitchContact(name="s1", a="bat_pos", b="sw", ohm=0.01, closed=Closed(switch="c1"))
    net = network(key, coil, contact, load("motor"))
    assert not solve(net, VehicleState()).energised["k1_coil"]
    on = VehicleState(on=frozenset({"c1"}))
    assert solve(net, on).branch_a["l1"] == pytest.approx(10.4, abs=0.2)
    weak = VehicleState(on=frozenset({"c1"}), emf_v=7.5)
    assert not solve(net, weak).energised["k1_coil"]


def test_a_relay_that_switches_itself_off_is_reported() -> None:
    """The coil is fed through the rest contact, as in a buzzer."""
    coil = Coil(name="k1_coil", a="rest", b="0", ohm=90.0, pull_in_v=8.0, release_v=1.5)
    rest = RelayContact(
        name="k1_30_87a", a="bat_pos", b="rest", ohm=0.002, coil="k1_coil", makes=False
    )
    assert solve(network(rest, coil), VehicleState()).chatter == ("k1_coil",)


def test_floating_wire_is_solved_and_dead() -> None:
    net = network(wire("w1", "a", "b", 0.01), load("resistive"))
    assert solve(net, VehicleState()).voltage_v("a") == 0.0


@pytest.mark.parametrize("key", KEY_STATES)
@pytest.mark.parametrize("lights", LIGHT_STATES)
def test_every_state_of_the_demo_job_balances(key: str, lights: str) -> None:
    net = job_network(design(demo(), CATALOGUE))
    point = solve(net, VehicleState(key=key, lights=lights, on=net.switches))  # type: ignore[arg-type]
    assert point.residual_a <= 1e-6
    assert max(abs(sum_at_node(net, point, node)) for node in net.nodes) <= 1e-6


def any_network(pick: random.Random) -> Network:
    """A network of chains, switches, linear loads and relays; parts of it may float."""
    nodes = ["bat_pos", "0", *(f"n{i}" for i in range(pick.randint(3, 14)))]
    elements: list[Element] = []
    for number in range(pick.randint(4, 24)):
        a, b = pick.sample(nodes, 2)
        kind, name = pick.random(), f"e{number}"
        if kind < 0.55:
            at = a
            for link in range(pick.randint(1, 4)):  # a chain that is folded
                to = f"{name}_{link}"
                elements.append(wire(f"{name}w{link}", at, to, pick.uniform(1e-4, 0.5)))
                at = to
            elements.append(wire(f"{name}e", at, b, pick.uniform(1e-4, 0.5)))
        elif kind < 0.7:
            closed = Closed(switch=pick.choice(["s1", "s2"]))
            elements.append(SwitchContact(name=name, a=a, b=b, ohm=0.01, closed=closed))
        elif kind < 0.85:
            model = pick.choice(["resistive", "motor"])
            made = Load(model=model, rated_a=pick.uniform(0.5, 20), rated_v=12.0)  # type: ignore[arg-type]
            elements.append(LoadElement(name=name, a=a, b=b, load=made))
        else:
            c, d = pick.sample(nodes, 2)
            elements.append(
                RelayContact(
                    name=f"{name}c", a=a, b=b, ohm=0.002, coil=name, makes=pick.random() < 0.8
                )
            )
            elements.append(Coil(name=name, a=c, b=d, ohm=90, pull_in_v=8, release_v=1.5))
    return network(*elements)


def plain_v(net: Network, point: OperatingPoint) -> dict[str, float]:
    """Every node by plain nodal analysis: nothing folded, contacts as the solver left them."""
    index = {node: n for n, node in enumerate(net.nodes)}
    matrix, into = np.eye(len(index)) * LEAK_S, np.zeros(len(index))
    for element in net.elements:
        if isinstance(element, RelayContact | SwitchContact) and not point.closed[element.name]:
            continue
        if isinstance(element, LoadElement):
            conductance = element.load.rated_a / element.load.rated_v
        else:
            conductance = 1.0 / max(element.ohm, 1e-6)  # type: ignore[union-attr]
        ends = [(index[n], s) for n, s in ((element.a, 1), (element.b, -1)) if n in index]
        for i, si in ends:
            for j, sj in ends:
                matrix[i, j] += conductance * si * sj
            if isinstance(element, Source):
                into[i] += si * conductance * point.state.source_v(net.nominal_v)
    return dict(zip(index, np.linalg.solve(matrix, into), strict=True))


def test_folded_and_foreseen_solves_equal_plain_ones_on_500_networks() -> None:
    moved = 0
    for seed in range(500):
        pick = random.Random(seed)
        net = any_network(pick)
        on = frozenset(s for s in ("s1", "s2") if pick.random() < 0.6)
        state = VehicleState(key="run", on=on)
        try:
            point = solve(net, state)
        except NotConvergedError:
            continue
        if point.chatter:
            continue
        right = plain_v(net, point)
        worst = max(abs(point.node_v[node] - volts) for node, volts in right.items())
        assert worst < 1e-6, seed
        rest = _iterated(net, _deck(net, state), dict.fromkeys(point.energised, False))
        assert rest.energised == point.energised, seed
        moved += any(point.energised.values())
    assert moved > 50
