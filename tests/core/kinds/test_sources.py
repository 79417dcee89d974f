"""Sources by their lead: an alternator, a charger on the mains, a solar controller."""

from __future__ import annotations

import pytest

from ready_trail.core.design import design
from ready_trail.core.edits import AddSupply, PointDraft, SetVehicle, apply
from ready_trail.core.job import Battery, Job, Vehicle
from support import CATALOGUE


def lead(kind: str, **facts: object) -> tuple[float, float, float]:
    """Amps in the lead, its fuse, and where that sits from the battery. [A, A, m]"""
    draft = PointDraft.model_validate({"kind": kind, "name": "Source", **facts})
    job = Job(name="T", vehicle=Vehicle(charging_a=140, battery=Battery(resistance_mohm=8)))
    made = design(apply(job, AddSupply(point=draft)), CATALOGUE)
    (circuit,) = made.circuits
    assert circuit.sizing.fuse is not None
    assert [f.code for f in circuit.findings if f.severity != "note"] == []
    fuse = circuit.fuse_device
    assert fuse is not None
    return circuit.current_a, circuit.sizing.fuse.rating_a, fuse.at_m or 0.0


@pytest.mark.parametrize(
    ("kind", "facts", "amps", "fuse"),
    [
        ("alternator", {}, 140.0, 200.0),
        ("alternator", {"output_a": 90}, 90.0, 125.0),
        ("alternator", {"doubled": True}, 84.0, 125.0),
        ("mains_charger", {"output_a": 16}, 16.0, 25.0),
        ("solar_controller", {"output_a": 30}, 30.0, 50.0),
    ],
)
def test_a_lead_carries_what_its_source_gives_and_is_fused_at_the_battery(
    kind: str, facts: dict[str, object], amps: float, fuse: float
) -> None:
    carried, rating, at_m = lead(kind, **facts)
    assert (carried, rating) == (pytest.approx(amps), fuse)
    assert at_m <= 0.18


def test_a_stronger_alternator_in_the_brief_asks_for_a_thicker_lead() -> None:
    job = apply(Job(name="T"), AddSupply(point=PointDraft(kind="alternator", name="Alternator")))
    areas = []
    for charging_a in (90.0, 220.0):
        vehicle = job.vehicle.model_copy(update={"charging_a": charging_a})
        chosen = (
            design(apply(job, SetVehicle(vehicle=vehicle)), CATALOGUE).circuits[0].sizing.chosen
        )
        assert chosen is not None
        areas.append(chosen.conductor.area_mm2)
    assert areas[0] < areas[1]
