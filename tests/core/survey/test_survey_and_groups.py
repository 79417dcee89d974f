"""Found feeds and their room, function wires, and how accessories become circuits."""

from __future__ import annotations

import pytest

from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessories,
    NoteItem,
    PutOnCircuit,
    RemoveItem,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.grouping import suggestions
from ready_trail.core.job import Battery, InputWire, Job, Use, Vehicle
from ready_trail.core.job.survey import SurveyItem
from ready_trail.core.survey import room
from support import CATALOGUE, codes, demo, job_with, only_circuit

CALM = Vehicle(battery=Battery(resistance_mohm=12))


@pytest.mark.parametrize(
    ("kind", "figures", "standing", "spare_a"),
    [
        ("factory_channel", {"fuse_a": 20, "carries_a": 3}, "ready", 13.0),  # 80 % of 20, less 3
        ("factory_channel", {"fuse_a": 20, "limit_a": 10, "carries_a": 3}, "ready", 7.0),
        ("tapped_circuit", {"fuse_a": 7.5, "carries_a": 6.5}, "stop", 0.0),  # 80 % is 6
        ("tapped_circuit", {"fuse_a": 15, "carries_a": 0}, "ready", 12.0),
        ("tapped_circuit", {"fuse_a": 15}, "caution", None),  # nobody has clamped it
        ("spare_fuse", {"fuse_a": 15}, "ready", 12.0),  # nothing hangs on it
        ("converter", {"limit_a": 25, "carries_a": 5}, "ready", 15.0),  # 80 % of 25, less 5
        ("factory_channel", {}, "caution", None),
        ("earth_point", {"drop_mv_at_10_a": 50}, "ready", None),
        ("earth_point", {"drop_mv_at_10_a": 51}, "stop", None),
        ("earth_point", {}, "caution", None),
        ("mount", {"flat": True, "dry": True, "reachable": True}, "ready", None),
        ("mount", {"flat": True, "reachable": True}, "note", None),
        ("mount", {"flat": True, "dry": False, "reachable": True}, "caution", None),
        (
            "mount",
            {"flat": True, "dry": True, "reachable": True, "temperature_c": 110},
            "stop",
            None,
        ),
        ("hazard", {}, "caution", None),
    ],
)
def test_room(kind: str, figures: dict[str, float], standing: str, spare_a: float | None) -> None:
    got = room(SurveyItem(id="s1", kind=kind, name="X", **figures))  # type: ignore[arg-type]
    assert got.standing == standing
    assert got.spare_a == (None if spare_a is None else pytest.approx(spare_a))
    assert got.words


def test_items_come_change_and_go() -> None:
    job = apply(Job(name="J"), NoteItem(item=SurveyItem(id="new", kind="hazard", name="Fan")))
    item = job.survey.items[0]
    assert item.id == "s1"
    job = apply(job, NoteItem(item=item.model_copy(update={"name": "Radiator fan"})))
    assert job.survey.items[0].name == "Radiator fan"
    assert apply(job, RemoveItem(item_id="s1")).survey.items == ()
    with pytest.raises(EditRefusedError, match="no longer in the survey"):
        apply(job, NoteItem(item=item.model_copy(update={"id": "s9"})))


def test_resting_low_input_wants_a_diode() -> None:
    wire = InputWire(name="pattern", must_float=True, rests="ground")
    job = job_with(inputs=(wire,), vehicle=CALM)
    made = only_circuit(job)
    assert "resting_low" in codes(made, "caution")
    finding = next(f for f in made.findings if f.code == "resting_low")
    assert "cathode to the accessory" in finding.why
    assert "resting_low" not in codes(only_circuit(apply(job, finding.actions[0].edit)))
    for calm in ({"rests": "open"}, {"must_float": False}, {"diode": True}):
        other = job_with(inputs=(wire.model_copy(update=calm),), vehicle=CALM)
        assert "resting_low" not in codes(only_circuit(other))


def test_sealed_connector_adds_its_resistance_and_a_service_loop() -> None:
    bare, sealed = only_circuit(job_with()), only_circuit(job_with(tail_end="sealed"))
    assert bare.profile is not None
    assert sealed.profile is not None
    more_v = sealed.profile.path_drop_v - bare.profile.path_drop_v
    assert more_v == pytest.approx(2 * 0.003 * sealed.current_a, rel=1e-6)
    assert sealed.sizing.path_drop_v == pytest.approx(sealed.profile.path_drop_v, rel=1e-6)
    cut = [next(w for w in c.wires if w.label == "C1-W3").cut_length_m for c in (bare, sealed)]
    assert cut[1] - cut[0] == pytest.approx(0.10)


def test_the_cable_that_comes_with_an_accessory_is_not_cut_again() -> None:
    plain, tailed = only_circuit(job_with()), only_circuit(job_with(tail_m=0.6))
    for role in ("power", "return"):
        before, after = plain.wire_on(role), tailed.wire_on(role)
        assert before is not None
        assert after is not None
        covered_m = min(0.6, before.length_m) * 1.08
        assert before.cut_length_m - after.cut_length_m == pytest.approx(covered_m, abs=0.011)
        assert before.length_m == after.length_m
    load = tailed.device(lambda spec: spec.is_load)
    assert load is not None
    assert "0.6 m of its own cable" in load.detail


def lamps(*uses: Use, watts: float = 60, quantity: int = 1) -> Job:
    drafts = tuple(
        AccessoryDraft(name=f"Lamp {n}", watts=watts, quantity=quantity, use=use)
        for n, use in enumerate(uses, start=1)
    )
    return apply(Job(name="J", vehicle=CALM), AddAccessories(accessories=drafts))


def test_same_switch_is_joined_and_the_reason_is_said() -> None:
    job = lamps(Use(switch="S1"), Use(switch="S1"), Use(switch="S2"))
    found = suggestions(design(job, CATALOGUE))
    assert len(found) == 1
    assert "Both are worked by S1 and draw 10.0 A together" in found[0].why
    after = apply(job, found[0].edit)
    made = design(after, CATALOGUE)
    assert [c.circuit.accessory_ids for c in made.circuits] == [("a2", "a3"), ("a5",)]
    joined = made.circuits[0]
    assert joined.current_a == pytest.approx(10.0)
    assert joined.profile is not None
    assert joined.profile.current_a == pytest.approx(10.0)
    assert suggestions(made) == ()


def test_a_pair_that_needs_too_big_a_fuse_is_split() -> None:
    job = lamps(Use(switch="S1"), watts=200, quantity=2)
    found = suggestions(design(job, CATALOGUE))
    assert "Split Lamp 1" in found[0].words
    after = design(apply(job, found[0].edit), CATALOGUE)
    assert [c.sizing.fuse.rating_a for c in after.circuits if c.sizing.fuse] == [25.0, 25.0]
    assert suggestions(after) == ()


def test_regrouping_by_hand_and_back() -> None:
    job = lamps(Use(switch="S1"), Use(switch="S2"))
    with pytest.raises(EditRefusedError, match="differ in switch"):
        apply(job, PutOnCircuit(accessory_id="a4", circuit_id="c2"))
    job = apply(job, PutOnCircuit(accessory_id="a4", circuit_id="c2", follow=True))
    assert len(job.circuits) == 1
    assert {a.use.switch for a in job.accessories} == {"S1"}
    assert [s.name for s in job.switches] == ["S1"], "a switch that works nothing goes"
    job = apply(job, PutOnCircuit(accessory_id="a4", circuit_id="new"))
    assert [c.accessory_ids for c in job.circuits] == [("a2",), ("a4",)]
    assert job.circuits[1].name == "Lamp 2"
    with pytest.raises(EditRefusedError, match="no longer in the job"):
        apply(job, PutOnCircuit(accessory_id="a4", circuit_id="c99"))


def test_demo_is_grouped_well() -> None:
    assert suggestions(design(demo(), CATALOGUE)) == ()
