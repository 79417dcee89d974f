"""Edits: typed, pure, named, refused with the field that must change."""

from __future__ import annotations

from typing import Literal

import pytest
from pydantic import ValidationError

from ready_trail.core.edits import (
    EDIT_ADAPTER,
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    AddSwitch,
    ChangeAccessory,
    ChangeSwitch,
    FitGrommet,
    HoldChoice,
    MoveFuse,
    PointDraft,
    ReleaseChoice,
    RemoveAccessory,
    RemoveSupply,
    RemoveSwitch,
    SetHouseRules,
    SetReturn,
    SetRun,
    SplitAccessory,
    StartAt,
    WhatIf,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import (
    BATTERY,
    Channel,
    HouseRules,
    Job,
    Position,
    Return,
    Use,
    Vehicle,
)
from support import circuit_named, demo, job_with, segment


def test_adding_proposes_a_circuit_and_removing_takes_it_along() -> None:
    job = apply(Job(name="J"), AddAccessory(accessory=AccessoryDraft(name="Lamp", watts=50)))
    assert (job.accessories[0].id, job.circuits[0].accessory_ids) == ("a1", ("a1",))
    assert not any(s.taped for s in job.circuits[0].run)
    gone = apply(job, RemoveAccessory(accessory_id="a1"))
    assert (gone.accessories, gone.circuits) == ((), ())


def test_composite_bodies_get_return_wires() -> None:
    job = Job(name="J", vehicle=Vehicle(body="composite"))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(name="Lamp", watts=50)))
    assert job.circuits[0].back.kind == "wire"


def test_numbers_never_return() -> None:
    job = Job(name="J")
    for name in ("A", "B"):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=name, watts=50)))
    job = apply(job, RemoveAccessory(accessory_id="a1"))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(name="C", watts=50)))
    assert [c.number for c in job.circuits] == [2, 3]
    for accessory_id in ("a2", "a3"):
        job = apply(job, RemoveAccessory(accessory_id=accessory_id))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(name="D", watts=50)))
    assert [c.id for c in job.circuits] == ["c4"]


def test_a_circuit_follows_its_accessory_name_until_it_has_its_own() -> None:
    job = job_with()
    renamed = job.accessories[0].model_copy(update={"name": "Roof bar"})
    assert apply(job, ChangeAccessory(accessory=renamed)).circuits[0].name == "Roof bar"


def test_split_halves_the_units() -> None:
    job = apply(job_with(quantity=5, watts=60), SplitAccessory(accessory_id="a1"))
    assert [a.quantity for a in job.accessories] == [3, 2]
    assert len(job.circuits) == 2
    with pytest.raises(EditRefusedError, match="one unit"):
        apply(job_with(), SplitAccessory(accessory_id="a1"))


def test_hold_and_release() -> None:
    job = apply(job_with(), HoldChoice(circuit_id="c1", what="fuse_a", value="25"))
    assert job.circuits[0].held.fuse_a == 25.0
    assert apply(job, ReleaseChoice(circuit_id="c1", what="all")).circuits[0].held.fuse_a is None
    with pytest.raises(EditRefusedError, match="number of amps"):
        apply(job, HoldChoice(circuit_id="c1", what="fuse_a", value="big"))


def test_changing_the_system_lets_held_sizes_go() -> None:
    job = apply(job_with(), HoldChoice(circuit_id="c1", what="size", value="8"))
    job = apply(job, SetHouseRules(rules=HouseRules(system="metric")))
    assert job.circuits[0].held.size is None


def test_a_block_comes_with_its_feeder_and_goes_only_when_its_circuits_have_a_place() -> None:
    draft = PointDraft(kind="fuse_block", name="Block", positions=(Position(name="1"),))
    job = apply(job_with(), AddSupply(point=draft))
    block = job.points[0]
    assert job.feeder_of(block.id) is not None
    job = apply(job, StartAt(circuit_id="c1", start=Channel(point=block.id, position="1")))
    with pytest.raises(EditRefusedError, match="still feeds Light bar"):
        apply(job, RemoveSupply(point_id=block.id))
    gone = apply(job, RemoveSupply(point_id=block.id, move_to=Channel(point=BATTERY)))
    assert (gone.points, gone.circuits[0].start.point) == ((), BATTERY)
    assert [c.id for c in gone.circuits] == ["c1"]


def test_two_circuits_that_meet_on_a_position_change_places() -> None:
    block = PointDraft(
        kind="fuse_block", name="Block", positions=(Position(name="1"), Position(name="2"))
    )
    job = apply(job_with(), AddSupply(point=block))
    lamp = AccessoryDraft(name="Lamp", watts=20)
    point = job.points[0].id
    first, second = (Channel(point=point, position=n) for n in "12")
    job = apply(job, AddAccessory(accessory=lamp, start=second))
    job = apply(job, StartAt(circuit_id="c1", start=first))
    lamp_id = job.circuits[-1].id
    swapped = apply(job, StartAt(circuit_id=lamp_id, start=first))
    assert swapped.circuit("c1").start == second
    feeder = job.feeder_of(point)
    assert feeder is not None
    stud = PointDraft(kind="stud", name="Stud")
    far = apply(job, AddSupply(point=stud, start=Channel(point=point)))
    with pytest.raises(EditRefusedError, match="loop"):
        apply(far, StartAt(circuit_id=feeder.id, start=Channel(point=far.points[-1].id)))


def test_a_switch_is_named_once_and_its_new_name_follows_everywhere() -> None:
    job = job_with()
    switch = job.switches[0]
    renamed = switch.model_copy(update={"name": "Roof", "throws": 2})
    job = apply(job, ChangeSwitch(was=switch.name, switch=renamed))
    assert job.accessories[0].use.switch == "Roof"
    with pytest.raises(EditRefusedError, match="still works Light bar"):
        apply(job, RemoveSwitch(name="Roof"))
    with pytest.raises(EditRefusedError, match="a switch of this name"):
        apply(job, AddSwitch(switch=renamed))


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        (MoveFuse(circuit_id="c1", fuse_at_m=9.0), "fuse_at_m"),
        (MoveFuse(circuit_id="c9", fuse_at_m=0.1), "circuit_id"),
        (FitGrommet(circuit_id="c1", segment=0), "segment"),
        (RemoveAccessory(accessory_id="a9"), "accessory_id"),
        (
            SetRun(
                circuit_id="c1",
                run=(segment("cabin", 2.0),),
                back=Return(),
                fuse_at_m=0.1,
                switching_at_m=5.0,
                control_m=2.0,
            ),
            "switching_at_m",
        ),
    ],
)
def test_refusals_name_their_field(edit: MoveFuse, field: str) -> None:
    with pytest.raises(EditRefusedError) as refused:
        apply(job_with(), edit)
    assert refused.value.field == field


def test_what_if_is_the_edit_that_keep_stores() -> None:
    job = demo()
    bar = circuit_named(job, "Roof light bar")
    edit = WhatIf(
        circuit_id=bar,
        load_w=140,
        run_m=10.4,
        loaded_conductors=5,
        ambient_c=80,
        ambients_c=(70, 50),
    )
    after = apply(job, edit)
    circuit = after.circuit(bar)
    assert circuit.run_m == pytest.approx(10.4)
    assert after.accessory(circuit.accessory_ids[0]).watts == pytest.approx(140)
    assert [s.loaded_conductors for s in circuit.run] == [5, 5]
    assert [s.ambient_c for s in circuit.run] == [80, None]
    assert not any(s.taped for s in circuit.run)
    assert "140 W, 10.4 m, 80 °C, 5 loaded" in edit.title(job)


def test_edits_travel_as_json() -> None:
    edit = HoldChoice(circuit_id="c1", what="size", value="8")
    assert EDIT_ADAPTER.validate_json(edit.model_dump_json()) == edit
    with pytest.raises(ValidationError):
        EDIT_ADAPTER.validate_python({"kind": "drop_everything"})


@pytest.mark.parametrize(
    "fields",
    [
        {"watts": None, "amps": None},
        {"watts": 10, "amps": 1},
        {"watts": -5},
        {"watts": float("nan")},
        {"watts": 1e9},
        {"watts": 10, "quantity": 0},
        {"watts": 10, "name": "  "},
        {"watts": 10, "surprise": 1},
    ],
)
def test_accessories_out_of_sense_are_refused(fields: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        AccessoryDraft.model_validate({"name": "Lamp", "use": Use().model_dump(), **fields})


@pytest.mark.parametrize("kind", ["wire", "bus"])
def test_a_return_that_is_turned_leaves_what_was_measured_of_its_earth(
    kind: Literal["wire", "bus"],
) -> None:
    stub = Return(stub_m=0.9, taped=True, path="poor", measured_mohm=4.5)
    job = apply(job_with(), SetReturn(circuit_id="c1", back=stub))
    turned = SetReturn.turned(job, "c1", kind)
    back = apply(job, turned).circuits[0].back
    assert back == stub.model_copy(update={"kind": kind})
    assert {"wire": "a return wire", "bus": "earth bus"}[kind] in turned.title(job)
