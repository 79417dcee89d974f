"""What is in the vehicle stays what it is, whatever is chosen for new wire around it."""

from __future__ import annotations

import pytest

from ready_trail.core.build.found import changed, wire_is_there
from ready_trail.core.design import CircuitDesign, design
from ready_trail.core.edits import HoldChoice, RecordFound, ReleaseChoice, SetHouseRules, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import HouseRules, Job
from ready_trail.core.job.kit import Found
from ready_trail.core.references import unknown_references
from support import CATALOGUE, job_with, only_circuit, segment

from .findings_cases import branch, lights

AWG, METRIC = HouseRules(), HouseRules(system="metric")


def found(known: Found, rules: HouseRules = AWG, **label: object) -> Job:
    job = apply(job_with(**label), SetHouseRules(rules=rules))  # type: ignore[arg-type]
    return apply(job, RecordFound(circuit_id="c1", found=known))


def wires(made: CircuitDesign) -> list[tuple[str, str, str, int]]:
    return [
        (w.label, w.conductor.system, w.conductor.size, w.insulation_c)
        for w in made.wires
        if not w.is_control
    ]


def told(made: CircuitDesign) -> set[tuple[str, str, str, str]]:
    return {(f.code, f.severity, f.found, f.allowed) for f in made.findings}


@pytest.mark.parametrize(
    ("rules", "other", "known"),
    [
        (AWG, METRIC, Found(size="18", fuse_a=30.0)),
        (METRIC, AWG, Found(size="0.75", fuse_a=30.0, insulation_c=80)),
        (AWG, METRIC, Found(size="16", fuse_a=15.0)),  # a number of both systems
        (AWG, HouseRules(wire_kind="sae"), Found(size="16", fuse_a=20.0)),
        (HouseRules(wire_kind="cca"), METRIC, Found(size="12", fuse_a=20.0)),
        (AWG, METRIC, Found(size="2.5", system="metric", fuse_a=30.0)),
    ],
)
def test_other_house_wire_leaves_a_found_one_and_what_is_said_of_it(
    rules: HouseRules, other: HouseRules, known: Found
) -> None:
    """It was taken for new wire of the house: 18 AWG behind 30 A was *ready* with 4 mm²."""
    job = found(known, rules)
    before = only_circuit(job)
    changed_rules = apply(job, SetHouseRules(rules=other))
    assert not [*unknown_references(changed_rules, CATALOGUE)]
    after = only_circuit(changed_rules)
    assert wires(after) == wires(before)
    assert {x for x in told(after) if x[1] == "stop"} == {x for x in told(before) if x[1] == "stop"}
    made = design(changed_rules, CATALOGUE)
    assert all(wire_is_there(w, made) for w in after.wires)
    assert not changed(made)
    assert apply(changed_rules, SetHouseRules(rules=rules)) == job


def test_a_new_wire_is_one_of_the_house_and_told_as_replaced() -> None:
    job = apply(found(Found(size="18", fuse_a=30.0)), SetHouseRules(rules=METRIC))
    job = apply(job, ReleaseChoice(circuit_id="c1", what="size"))
    after = only_circuit(job)
    assert after.is_ready
    assert {system for _, system, _, _ in wires(after)} == {"metric"}
    rows = [(c.what, c.found) for c in changed(design(job, CATALOGUE))]
    assert rows == [("wire", "18 AWG")]
    with pytest.raises(EditRefusedError, match="another system"):
        apply(job, HoldChoice(circuit_id="c1", what="size", value="18"))


@pytest.mark.parametrize("class_c", [None, 80])
def test_a_found_wire_gets_no_hotter_by_a_press(class_c: int | None) -> None:
    """Neither the zone nor a held class makes it another wire: that one is new."""
    hot = (segment("engine_bay", 1.0), segment("exhaust", 1.0))
    job = found(Found.model_validate({"size": "8", "fuse_a": 30, "insulation_c": class_c}), run=hot)
    stop = next(f for f in only_circuit(job).findings if f.code == "insulation")
    assert (stop.severity, stop.actions[0].label) == ("stop", "Replace its wire by one of 125 °C")
    after = apply(job, stop.actions[0].edit)
    made = design(after, CATALOGUE)
    assert {c for _, _, _, c in wires(made.circuits[0])} == {125}
    assert not any(wire_is_there(w, made) for w in made.circuits[0].wires if not w.is_control)
    assert [(c.what, c.now) for c in changed(made)] == [("wire", "8 AWG, 125 °C")]


def test_what_nobody_recorded_is_told_where_it_matters() -> None:
    """Wire and fuse always; the class only where the lowest one would not bear the fuse."""

    def unknown(known: Found) -> str:
        texts = [f.text for f in only_circuit(found(known)).findings if f.code == "found_unknown"]
        return "".join(texts).removeprefix("As found, nobody recorded its ").rstrip(".")

    assert unknown(Found()) == "wire size, fuse and insulation class"
    assert unknown(Found(size="8", insulation_c=105)) == "fuse"
    assert unknown(Found(fuse_a=30.0, insulation_c=105)) == "wire size"
    assert unknown(Found(size="10", fuse_a=30.0)) == "insulation class"
    assert unknown(Found(size="8", fuse_a=30.0)) == ""
    assert unknown(Found(size="10", unfused=True, insulation_c=105)) == ""


def test_sizes_of_branches_go_with_the_houses_wire() -> None:
    """They stayed in the other system, where nothing has them, and the circuit had no wire."""
    job = apply(branch(lights(), size="18"), SetHouseRules(rules=METRIC))
    assert [b.size for b in job.circuits[0].branches] == [None, None]
    assert {w.conductor.system for w in only_circuit(job).wires} == {"metric"}
