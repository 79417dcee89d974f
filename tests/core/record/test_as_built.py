"""A difference is taken over as what it is, and judged before it may stay."""

from __future__ import annotations

from typing import Literal

import pytest

from core.review.findings_cases import lights
from ready_trail.core.design import design
from ready_trail.core.edits import (
    HoldChoice,
    RecordFound,
    ReleaseChoice,
    SetHouseRules,
    SetReturn,
    apply,
)
from ready_trail.core.job import HouseRules, Job, Return
from ready_trail.core.job.kit import Found
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.record.as_built import taken_over
from ready_trail.core.record.facts import Different
from ready_trail.core.record.judged import stops_of, why_not_left, why_unread
from support import CATALOGUE, demo, job_with, small

METRIC = HouseRules(system="metric")


def said(value: str, what: str = "size", subject: str = "wire:C1-W2") -> Different:
    return Different.model_validate(
        {"made_at": "2026-11-30T10:00:00Z", "subject": subject, "what": what, "value": value}
    )


def wires_of(job: Job) -> set[tuple[str, str, str]]:
    made = design(job, CATALOGUE).circuits[0]
    return {
        (w.conductor.system, w.conductor.kind, w.conductor.size)
        for w in made.wires
        if not w.is_control
    }


@pytest.mark.parametrize(
    ("rules", "value", "wire"),
    [
        (HouseRules(), "10", ("awg", "copper", "10")),
        (HouseRules(), "10 AWG", ("awg", "copper", "10")),
        (HouseRules(), "AWG 10", ("awg", "copper", "10")),
        (HouseRules(), "6 mm²", ("metric", "copper", "6")),  # not 6 AWG, which is twice as thick
        (HouseRules(), "2,5 mm2", ("metric", "copper", "2.5")),
        (HouseRules(), "10 SAE", ("awg", "sae", "10")),
        (METRIC, "10 AWG", ("awg", "copper", "10")),  # nor 10 mm² for half of that
        (METRIC, "6", ("metric", "copper", "6")),
    ],
)
def test_a_size_is_taken_over_in_its_own_unit(
    rules: HouseRules, value: str, wire: tuple[str, str, str]
) -> None:
    job = apply(job_with(), SetHouseRules(rules=rules))
    before = design(job, CATALOGUE)
    edit = taken_over(said(value), before)
    assert edit is not None
    after = apply(job, edit)
    assert wires_of(after) == {wire}
    circuit = design(after, CATALOGUE).circuits[0]
    own = before.circuits[0].sizing
    assert own.fuse is not None
    assert circuit.sizing.fuse is not None
    assert circuit.sizing.fuse.rating_a == own.fuse.rating_a
    assert "found_unknown" not in {f.code for f in circuit.findings}


def test_what_was_found_takes_the_difference_into_its_record() -> None:
    known = Found(size="10", fuse_a=30.0, insulation_c=105)
    job = apply(job_with(), RecordFound(circuit_id="c1", found=known))
    edit = taken_over(said("12"), design(job, CATALOGUE))
    assert edit is not None
    after = apply(job, edit)
    assert after.circuits[0].found == known.model_copy(update={"size": "12"})
    assert wires_of(after) == {("awg", "copper", "12")}


def test_a_difference_that_may_burn_is_told_as_a_stop() -> None:
    made = design(
        apply(job_with(), HoldChoice(circuit_id="c1", what="fuse_a", value=30)), CATALOGUE
    )
    assert made.is_ready
    assert stops_of(said("10"), made, CATALOGUE) == ()
    thin = stops_of(said("18"), made, CATALOGUE)
    assert "fuse_over_wire" in {f.code for f in thin}
    large = stops_of(said("60", "fuse_a", "device:F1"), made, CATALOGUE)
    assert "fuse_over_wire" in {f.code for f in large}
    assert why_not_left(said("blue", "colour"), made, CATALOGUE) == ""


def test_a_control_fuse_is_judged_by_its_own_wire_and_never_taken_for_the_main_one() -> None:
    made = design(job_with(), CATALOGUE)
    fuse = next(
        d.ref
        for d in made.installation.devices.values()
        if isinstance(d.spec, FuseSpec) and d.spec.is_control
    )
    coil = next(w for w in made.installation.wires.values() if w.is_control)
    for value, stops in (("5 A", 0), ("30", 1), ("large", 0)):
        assert taken_over(said(value, "fuse_a", f"device:{fuse}"), made) is None
        assert len(stops_of(said(value, "fuse_a", f"device:{fuse}"), made, CATALOGUE)) == stops
    assert taken_over(said("30", "fuse_a", "device:K1"), made) is None
    assert stops_of(said("22", subject=f"wire:{coil.label}"), made, CATALOGUE) == ()


@pytest.mark.parametrize(
    "job", [demo("Bluebell"), *map(small, ("factory_channels", "charging_leads"))]
)
def test_what_is_as_designed_is_no_stop(job: Job) -> None:
    """Everything held as it is goes together: on channels, behind converters, at both ends."""
    made = design(job, CATALOGUE)
    told = 0
    for circuit in made.circuits:
        for wire in circuit.wires:
            if wire.role == "power" and wire.owner == circuit.circuit.id:
                same = said(wire.conductor.size, subject=f"wire:{wire.label}")
                assert stops_of(same, made, CATALOGUE) == ()
                told += 1
                break
        if circuit.fuse_device is not None:
            fuse = circuit.fuse_device
            same = said(f"{circuit.fuse_device.spec.rating_a:g}", "fuse_a", f"device:{fuse.ref}")  # type: ignore[attr-defined]
            assert stops_of(same, made, CATALOGUE) == ()
    assert told >= 3


@pytest.mark.parametrize("watts", [8, 30])
def test_a_thinner_branch_is_judged_with_the_fuse_that_is_ahead_of_it(watts: int) -> None:
    """The fuse was chosen anew for it; of a branch in another system nothing was said at all."""
    job = apply(lights(watts=watts), HoldChoice(circuit_id="c1", what="fuse_a", value=15))
    job = apply(job, ReleaseChoice(circuit_id="c1", what="size"))
    made = design(job, CATALOGUE)
    assert made.is_ready
    branch = next(w for w in made.circuits[0].wires if w.branch and w.role == "power")
    for value, stops in (("22", True), ("0.35 mm²", True), ("10", False), ("6 mm²", False)):
        told = stops_of(said(value, subject=f"wire:{branch.label}"), made, CATALOGUE)
        assert bool(told) == stops, value
    edit = taken_over(said("22", subject=f"wire:{branch.label}"), made)
    assert edit is not None
    assert edit.title(job) == f"Take over {branch.label}, wire size: 22"
    after = design(apply(job, edit), CATALOGUE).circuits[0]
    assert after.sizing.fuse is not None
    assert after.sizing.fuse.rating_a == 15
    assert not after.is_ready


def test_a_long_note_is_taken_over_as_far_as_it_goes() -> None:
    made = design(job_with(), CATALOGUE)
    for what, value, subject in (("size", "10", "wire:C1-W2"), ("colour", "RD", "wire:C1-W2")):
        long = said(value, what, subject).model_copy(update={"note": "seen " * 70})
        edit = taken_over(long, made)
        assert edit is not None
        assert apply(made.job, edit).circuits[0].held.note.startswith("seen seen")


@pytest.mark.parametrize(
    ("value", "what", "subject", "words"),
    [
        ("10mm", "size", "wire:C1-W2", "may be a diameter"),
        ("77", "size", "wire:C1-W2", "no wire size here"),
        ("14 ga", "size", "wire:C1-W2", "no wire size here"),  # AWG or SAE, an eighth apart
        ("6 mm²", "size", "device:F1", "Only a wire"),
        ("a large one", "fuse_a", "device:F1", "no rating"),
        ("30", "fuse_a", "device:K1", "Only a fuse"),
        ("a hand longer", "length_m", "wire:C1-W2", "no length"),
        ("9", "position", "device:F1", "Only what starts at a block"),
    ],
)
def test_what_nobody_can_read_may_not_stay(value: str, what: str, subject: str, words: str) -> None:
    """It was kept, judged by nothing, and handed over."""
    made = design(job_with(), CATALOGUE)
    assert words in why_unread(said(value, what, subject), made, CATALOGUE)
    assert words in why_not_left(said(value, what, subject), made, CATALOGUE)
    assert why_unread(said(value, "other", subject), made, CATALOGUE) == ""


def test_a_rating_that_no_family_has_is_held_against_the_wire() -> None:
    made = design(
        apply(job_with(), HoldChoice(circuit_id="c1", what="fuse_a", value=30)), CATALOGUE
    )
    for value, stops in (("32", True), ("2.9", False)):
        why = why_not_left(said(value, "fuse_a", "device:F1"), made, CATALOGUE)
        assert ("lets more through" in why) == stops, why


def test_a_longer_lead_ahead_of_the_fuse_is_a_stop_in_a_layout_and_without() -> None:
    plain, whole = design(job_with(), CATALOGUE), design(demo(), CATALOGUE)
    for made, label, taken in ((plain, "C1-W1", True), (whole, "C2-W1", False)):
        lead = made.installation.wires[label]
        assert lead.role == "feed"
        for value, stops in ((f"{lead.cut_length_m:g}", False), ("60 cm", True), ("2' 3\"", True)):
            longer = said(value, "length_m", f"wire:{label}")
            why = why_not_left(longer, made, CATALOGUE)
            assert ("between the source and the fuse" in why) == stops, (label, why)
            assert (taken_over(longer, made) is not None) == taken


@pytest.mark.parametrize(
    ("back", "label"),
    [("chassis", "C1-W2"), ("chassis", "C1-W4"), ("chassis", "C1-W5"), ("wire", "C1-W4")],
)
def test_a_length_is_taken_over_and_nothing_else_follows(
    back: Literal["chassis", "wire"], label: str
) -> None:
    job = apply(job_with(), SetReturn(circuit_id="c1", back=Return(kind=back)))
    made = design(job, CATALOGUE)
    wire = made.installation.wires[label]
    edit = taken_over(said(f"{wire.cut_length_m + 2:g} m", "length_m", f"wire:{label}"), made)
    assert edit is not None
    after = design(apply(made.job, edit), CATALOGUE).installation.wires
    more_m = {k: after[k].length_m - w.length_m for k, w in made.installation.wires.items()}
    assert sum(more_m.values()) == pytest.approx(2.0, abs=0.02)
    same = {k: (w.conductor, w.colour) for k, w in made.installation.wires.items()}
    assert {k: (w.conductor, w.colour) for k, w in after.items()} == same


def test_a_larger_fuse_and_a_thinner_wire_are_judged_together() -> None:
    """Each is well by itself: 10 AWG bears 30 A, and 14 AWG bears 20 A."""
    job = apply(job_with(), HoldChoice(circuit_id="c1", what="size", value="10"))
    made = design(apply(job, HoldChoice(circuit_id="c1", what="fuse_a", value=20)), CATALOGUE)
    fuse, wire = said("30", "fuse_a", "device:F1"), said("14")
    own = [d.model_copy(update={"circuit_id": "c1"}) for d in (fuse, wire)]
    for each in own:
        assert why_not_left(each, made, CATALOGUE, (each,)) == ""
        assert "lets more through" in why_not_left(each, made, CATALOGUE, tuple(own))
