"""What holds in every state that the solver finds, whatever the job: volts at coils, energy."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings

from core.review.findings_cases import Case, cases
from core.review.test_ways_out import installations
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.job import Job
from ready_trail.core.netlist import Coil, ConverterInput, Network, Source
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, demo

OVER = 1.35
"""A coil bears a third more than its name says (DIN: 16 V on 12 V)."""
CASES = {case.code: case for case in cases()}


def states(made: Design) -> list[VehicleState]:
    names = frozenset(
        contact
        for s in made.job.switches
        for contact in ((s.name, f"{s.name} I") if s.throws == 2 else (s.name,))
    )
    return [
        VehicleState(key="run", lights=lights, on=on, signals=frozenset(signals))
        for lights in ("off", "high")
        for on in (frozenset(), names)
        for signals in ((), ("charging",))
    ]


def nothing_is_made_of_nothing(network: Network, point: OperatingPoint) -> None:
    """What a converter gives came in at its efficiency, and a little for its own board."""
    inputs = {e.name: e for e in network.elements if isinstance(e, ConverterInput)}
    for source in (e for e in network.elements if isinstance(e, Source) and e.fed_by in inputs):
        feed = inputs[source.fed_by]
        given_a = -point.branch_a[source.name]
        given_w = given_a * (point.between_v(source.a, source.b))
        taken_w = point.branch_a[feed.name] * point.between_v(feed.a, feed.b)
        assert taken_w * feed.efficiency_ratio >= given_w - 0.05, (source.name, taken_w, given_w)


def no_coil_has_too_much(made: Design, network: Network, point: OperatingPoint) -> None:
    relays = {f"K{c.circuit.number}": c.sizing.relay for c in made.circuits if c.sizing.relay}
    for coil in (e for e in network.elements if isinstance(e, Coil)):
        relay = relays.get(coil.name.split("_")[0].upper())
        if relay is not None:
            volts = abs(point.between_v(coil.a, coil.b))
            assert volts <= OVER * relay.coil_v, (coil.name, volts, relay.coil_v)


def check_states(made: Design) -> int:
    network, solved = job_network(made), 0
    for state in states(made):
        try:
            point = solve(network, state)
        except NotConvergedError:
            continue
        nothing_is_made_of_nothing(network, point)
        no_coil_has_too_much(made, network, point)
        solved += 1
    return solved


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_of_the_demo_jobs(name: str) -> None:
    assert check_states(design(demo(name), CATALOGUE)) == 8


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_of_every_seeded_fault(case: Case) -> None:
    check_states(design(case.job, CATALOGUE))


@given(installations())
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_of_careless_work(job: Job) -> None:
    check_states(design(job, CATALOGUE))
