"""One way of earthing for a whole job, and a body strap that bears what comes back."""

from __future__ import annotations

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    ChangePoint,
    EarthAll,
    SetReturn,
    SetVehicle,
    StartAt,
    apply,
)
from ready_trail.core.edits.point_preset import from_preset
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Channel, Job, Point, Position, Return, Vehicle
from ready_trail.core.kinds.base import BATTERY_DEVICE
from ready_trail.core.outcome import Finding
from ready_trail.core.review.returns import body_returns_a
from support import CATALOGUE, demo, table_of


def kinds(job: Job) -> dict[str, str]:
    return {c.name: c.back.kind for c in job.circuits}


@pytest.mark.parametrize("way", ["body", "home", "bus"])
def test_one_press_earths_every_accessory_and_leaves_when_it_is_on(way: str) -> None:
    job = demo()
    after = apply(job, EarthAll.model_validate({"way": way}))
    told = kinds(after)
    with_bus = {p.id for p in job.points if p.earth_bus}
    for circuit in after.circuits:
        loads = [job.accessory(i) for i in circuit.accessory_ids]
        if not loads or loads[0].model == "winch":
            assert told[circuit.name] == kinds(job)[circuit.name]
        elif way == "body":
            assert told[circuit.name] == "chassis"
        else:
            bus = way == "bus" and circuit.start.point in with_bus
            assert told[circuit.name] == ("bus" if bus else "wire")
    light = next(c for c in job.circuits if c.name == "Roof light bar")
    before, now = table_of(job, light.id), table_of(after, light.id)
    assert [c.is_on for c in before.cells] == [c.is_on for c in now.cells]


def test_a_composite_body_refuses_to_carry() -> None:
    with pytest.raises(EditRefusedError, match="composite"):
        apply(demo("Bluebell"), EarthAll(way="body"))


def test_new_work_takes_the_bus_where_there_is_one_and_begins_where_its_point_stands() -> None:
    point = Point(
        id="p1",
        number=1,
        kind="stud",
        name="Rear stud",
        zone="tail",
        earth_bus=True,
        positions=(Position(name="1"),),
    )
    job = Job(name="T", points=(point,), last_number=1)
    add = AddAccessory(
        accessory=AccessoryDraft(name="Lamp", watts=20), site="rear", start=Channel(point="p1")
    )
    (circuit,) = apply(job, add).circuits
    assert circuit.back.kind == "bus"
    assert [s.zone for s in circuit.run] == ["tail"], "a rear stud does not begin in the engine bay"
    bike = Job(name="T", vehicle=Vehicle(kind="motorcycle"))
    plain = AddAccessory(accessory=AccessoryDraft(name="Lamp", watts=20))
    assert apply(bike, plain).circuits[0].back.kind == "wire"


def test_a_strap_is_weighed_by_what_comes_back_at_once_and_a_second_one_carries_its_share() -> None:
    job = demo()
    returns_a = body_returns_a(design(job, CATALOGUE))
    assert returns_a > 40
    vehicle = job.vehicle.model_copy(update={"strap_a": returns_a * 0.8})
    small = design(apply(job, SetVehicle(vehicle=vehicle)), CATALOGUE)
    finding = next(f for f in small.findings if f.code == "strap_small")
    second = design(apply(small.job, finding.actions[0].edit), CATALOGUE)
    assert "strap_small" not in {f.code for f in second.findings}
    build = build_of(second, CATALOGUE)
    assert [line.key for line in build.parts if line.key == "earth-strap-2"] == ["earth-strap-2"]
    assert any(step.id == "strap:second" for step in build.steps)
    home = design(apply(small.job, finding.actions[1].edit), CATALOGUE)
    assert "strap_small" not in {f.code for f in home.findings}


@pytest.mark.parametrize("loads", [2, 6])
def test_returns_to_a_bus_leave_as_many_rings_less_as_the_press_says(loads: int) -> None:
    """Each load brings its return and its coil's there; the point's own takes their place."""
    job = Job(name="T", vehicle=Vehicle(body="composite"))
    blocks = [p for p in CATALOGUE.point_presets.values() if p.kind == "fuse_block"]
    for _ in range(2):
        job = apply(job, from_preset(blocks[0], job))
        block = job.points[-1]
        bare = block.model_copy(update={"earth_bus": False})
        job = apply(job, ChangePoint(point=bare))
        for number in range(loads):
            lamp = AccessoryDraft(name=f"Lamp {number} {block.id}", amps=9, at_v=13.2)
            job = apply(job, AddAccessory(accessory=lamp))
            own = job.circuits[-1].id
            job = apply(job, StartAt(circuit_id=own, start=Channel(point=block.id)))
            job = apply(job, SetReturn(circuit_id=own, back=Return(kind="wire")))
    before, finding = rings_of(job)
    assert finding is not None
    assert finding.found == str(before)
    press = next(a for a in finding.actions if a.label.startswith("Bring returns"))
    after, _ = rings_of(apply(job, press.edit))
    assert before - after == 2 * loads - 1
    assert f": {2 * loads - 1} rings less here" in press.label


def rings_of(job: Job) -> tuple[int, Finding | None]:
    """Rings on the battery's negative post, and what is said of them."""
    made = design(job, CATALOGUE)
    ends = [w.end for w in made.installation.wires.values()]
    count = sum((e.device, e.terminal) == (BATTERY_DEVICE, "-") for e in ends)
    told = [f for c in made.circuits for f in c.findings if f.code == "post_crowded"]
    return count, next((f for f in told if f.place == f"{BATTERY_DEVICE} -"), None)
