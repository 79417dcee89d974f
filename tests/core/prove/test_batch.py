"""Many vehicles at once: the same as the solver, one by one; and as an independent program."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ready_trail.core.design import design
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.meter import ohms, without_power
from ready_trail.core.netlist import GROUND, Network, Resistor
from ready_trail.core.prove.batch import METER_S
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.candidates import candidates
from ready_trail.core.solver import solve
from ready_trail.formats.spice import spice_deck
from simulator import simulated
from support import CATALOGUE, demo

DESIGNS = {name: design(demo(name), CATALOGUE) for name in ("Marmot", "Kestrel")}
SHOWN = [
    ("Marmot", "Roof light bar"),
    ("Marmot", "Amber beacon"),
    ("Marmot", "Bumper winch"),
    ("Kestrel", "Heated grips"),
    ("Kestrel", "Marshal's radio"),
]


def bench(job: str, name: str) -> Bench:
    made = DESIGNS[job]
    circuit = next(c for c in made.circuits if c.circuit.name == name)
    found = bench_of(made, circuit.circuit.id)
    assert found is not None
    return found


def metered(network: Network, own: Bench) -> Network:
    """A network with what a meter draws at every terminal, as a batch has it."""
    nodes = {GROUND, *network.nodes}
    extra = tuple(
        Resistor(name=f"meter_{n}", a=n, b=GROUND, ohm=1 / METER_S, kind="vehicle")
        for n in own.terminals
        if n in nodes and n != GROUND
    )
    return Network(nominal_v=network.nominal_v, elements=(*network.elements, *extra))


@pytest.mark.parametrize(("job", "name"), SHOWN)
def test_every_fault_reads_as_the_solver_reads_it(job: str, name: str) -> None:
    own = bench(job, name)
    found = [n for c in candidates(own.design, own.installation) for n in [own.faulty(c.rungs[0])]]
    networks = [own.sound, *(n for n in found if n is not None)][:60]
    batch = own.batch(networks)
    batch._fuses.clear()  # the solver opens none
    compared = 0
    for setting in (own.working, own.resting):
        solved = batch.solve(setting.state)
        for v, network in enumerate(networks):
            if not solved.sure[v]:
                continue
            try:
                point = solve(metered(network, own), setting.state)
            except NotConvergedError:
                continue
            for node, at in batch.index.items():
                if node in point.node_v:
                    assert solved.volts[v, at] == pytest.approx(point.node_v[node], abs=2e-4)
                    compared += 1
    assert compared > 500


@pytest.mark.parametrize(("job", "name"), SHOWN[:3])
def test_ohms_with_the_power_away_are_the_meters(job: str, name: str) -> None:
    own = bench(job, name)
    found = own.batch([own.sound]).passive(own.parked.state)[0]
    batch = own.batch([own.sound])
    away = without_power(own.sound)
    ends = list(own.terminals)[:9]
    for a in ends:
        for b in ends:
            known = ohms(away, own.parked.state, a, b)
            mine = found[batch.at(a), batch.at(b)]
            if known > 5e6:
                assert mine > 5e6, (a, b)
            else:
                assert mine == pytest.approx(known, rel=0.02, abs=2e-3), (a, b)


def test_what_is_expected_is_what_an_independent_program_reads(tmp_path: Path) -> None:
    own = bench("Marmot", "Heated wiper rest")
    network = metered(own.sound, own)
    point = solve(network, own.working.state)
    told = simulated(spice_deck("a bench", network, point), tmp_path)
    solved = own.batch([own.sound]).solve(own.working.state)
    batch = own.batch([own.sound])
    read = {n: solved.volts[0, batch.at(n)] for n in own.terminals if n in told}
    assert len(read) > 10
    for node, volts in read.items():
        assert volts == pytest.approx(told[node], abs=0.02, rel=0.01), node


def test_a_fuse_that_opens_stays_open_into_the_next_state() -> None:
    own = bench("Marmot", "Heated wiper rest")
    on_body = [c for c in candidates(own.design, own.installation) if c.kind == "body"]
    shorted = [n for c in on_body for n in [own.faulty(c.rungs[0])] if n is not None]
    batch = own.batch([own.sound, *shorted])
    working = batch.solve(own.working.state)
    assert not working.blown[0].any()
    assert working.blown.any(axis=1).sum() >= 3
    resting = batch.solve(own.resting.state, working.blown)
    assert np.array_equal(resting.blown, working.blown)
