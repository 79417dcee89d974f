"""A relay in a cut wire of the vehicle: on only while both the vehicle and the switch say so."""

from __future__ import annotations

from ready_trail.core.build import build_of
from ready_trail.core.design import design, job_network
from ready_trail.core.netlist import RelayContact
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, small, table_of

JOB = "cut_factory_wire"


def test_it_is_on_with_the_vehicle_and_its_switch_alone() -> None:
    job = small(JOB)
    cells = table_of(job, job.circuits[0].id).cells
    on = {(c.key, c.lights) for c in cells if c.is_on and c.switch_on}
    assert on == {(k, x) for k in ("accessory", "run") for x in ("side", "low", "high")}
    assert not any(c.is_on for c in cells if not c.switch_on)


def test_the_factory_fuse_stays_and_no_second_one_is_put_behind_it() -> None:
    job = small(JOB)
    made = design(job, CATALOGUE)
    (circuit,) = made.circuits
    assert circuit.sizing.fuse is not None
    assert circuit.sizing.fuse.rating_a == job.points[0].fuse_a
    ours = [d.ref for d in circuit.planned.parts.devices if d.spec.protects]  # type: ignore[union-attr]
    assert ours == []
    whole = job_network(made)
    point = solve(whole, VehicleState(key="run", lights="side", on=frozenset({"Step lamps"})))
    contact = next(e for e in whole.elements if isinstance(e, RelayContact) and e.makes)
    assert abs(point.branch_a[contact.name]) > 1.5


def test_only_what_is_ours_is_bought_and_the_cut_comes_before_the_joints() -> None:
    build = build_of(design(small(JOB), CATALOGUE), CATALOGUE)
    bought = [line.key for line in build.parts if line.to_get]
    assert not any(key.startswith("accessory-") for key in bought)
    returns = [c for c in build.cuts.cuts if c.role == "return"]
    assert returns == [], "it keeps its own way back"
    ids = [step.id for step in build.steps]
    cut = next(i for i in ids if i.startswith("cut-wire:"))
    joins = next(i for i in ids if i.startswith("power:"))
    assert ids.index("off") < ids.index(cut) < ids.index(joins)
