"""A function wire may feed its function itself, beside those that only signal."""

from __future__ import annotations

import pytest

from ready_trail.core.design import design, job_network
from ready_trail.core.edits import ChangeAccessory, apply
from ready_trail.core.job import InputWire, Job
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, job_with


def lit(powers_w: float | None) -> Job:
    job = job_with(watts=20)
    wires = (
        InputWire(name="Amber", ends="controller", powers_w=powers_w),
        InputWire(name="Pattern", ends="controller"),
    )
    lamp = job.accessories[0].model_copy(update={"inputs": wires})
    return apply(job, ChangeAccessory(accessory=lamp))


def drawn_a(job: Job, *on: str) -> float:
    """What the battery gives with some of the controller's outputs on. [A]"""
    whole = job_network(design(job, CATALOGUE))
    name = job.circuits[0].name
    state = VehicleState(key="run", on=frozenset(f"{name} {x}" for x in on))
    assert {f"{name} {x}" for x in on} <= whole.switches
    return abs(solve(whole, state).branch_a["bat"])


def test_the_wire_that_powers_carries_its_functions_current_and_the_others_none() -> None:
    job = lit(24.0)
    rest_a = drawn_a(job)
    assert drawn_a(job, "Amber") - rest_a == pytest.approx(2.0, rel=0.15)
    assert drawn_a(job, "Pattern") - rest_a < 0.01
    assert drawn_a(lit(None), "Amber") - drawn_a(lit(None)) < 0.01
