"""Edits: typed, pure, named, refused with the field that must change."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from ready_trail.core.edits import (
    EDIT_ADAPTER,
    AccessoryDraft,
    AddAccessory,
    ChangeAccessory,
    FitGrommet,
    HoldChoice,
    MoveFuse,
    ReleaseChoice,
    RemoveAccessory,
    RemoveBlock,
    SetBlock,
    SetHouseRules,
    SetRun,
    SplitAccessory,
    WhatIf,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import FuseBlock, HouseRules, Job, Return, Use, Vehicle
from support import demo, job_with, segment


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


def test_numbers_are_not_reused_while_a_later_one_stands() -> None:
    job = Job(name="J")
    for name in ("A", "B"):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=name, watts=50)))
    job = apply(job, RemoveAccessory(accessory_id="a1"))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(name="C", watts=50)))
    assert [c.number for c in job.circuits] == [2, 3]


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


def test_block_comes_and_goes() -> None:
    block = FuseBlock(feeder=(segment("engine_bay", 1.0),))
    job = apply(job_with(), SetBlock(block=block))
    circuit = job.circuits[0]
    job = apply(job, SetRun(circuit_id="c1", source="block", run=circuit.run, back=circuit.back,
                            fuse_at_m=0, switching_at_m=0.3, control_m=2))  # fmt: skip
    assert apply(job, RemoveBlock()).circuits[0].source == "battery"


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        (MoveFuse(circuit_id="c1", fuse_at_m=9.0), "fuse_at_m"),
        (MoveFuse(circuit_id="c9", fuse_at_m=0.1), "circuit_id"),
        (FitGrommet(circuit_id="c1", segment=0), "segment"),
        (RemoveAccessory(accessory_id="a9"), "accessory_id"),
        (
            SetRun(circuit_id="c1", run=(segment("cabin", 2.0),), back=Return(), fuse_at_m=0.1,
                   switching_at_m=5.0, control_m=2.0),
            "switching_at_m",
        ),
    ],
)  # fmt: skip
def test_refusals_name_their_field(edit: MoveFuse, field: str) -> None:
    with pytest.raises(EditRefusedError) as refused:
        apply(job_with(), edit)
    assert refused.value.field == field


def test_what_if_is_the_edit_that_keep_stores() -> None:
    job = demo()
    edit = WhatIf(circuit_id="c1", load_w=140, run_m=10.4, loaded_conductors=5, ambient_c=80,
                  ambients_c=(70, 50, 55))  # fmt: skip
    after = apply(job, edit)
    circuit = after.circuit("c1")
    assert circuit.run_m == pytest.approx(10.4)
    assert after.accessory("a1").watts == pytest.approx(140)
    assert [s.loaded_conductors for s in circuit.run] == [5, 5, 2]
    assert [s.ambient_c for s in circuit.run] == [80, None, None]
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
