"""One cause is one finding: what a feeder's stop does to the circuits behind it is folded."""

from __future__ import annotations

import pytest

from ready_trail.core.design import Design, design
from ready_trail.core.edits import AcceptFinding, ChangePoint, HoldChoice, apply
from ready_trail.core.job import AcceptedFinding
from support import CATALOGUE, demo


def broken(what: str, value: object) -> Design:
    job = demo()
    feeder = next(c for c in job.circuits if c.name == "Feeder of Bay block")
    hold = HoldChoice.model_validate({"circuit_id": feeder.id, "what": what, "value": value})
    return design(apply(job, hold), CATALOGUE)


def stops(made: Design) -> list[tuple[str, str, str]]:
    return [
        (c.circuit.name, f.code, f.follows)
        for c in made.circuits
        for f in c.findings
        if f.severity == "stop"
    ]


@pytest.mark.parametrize(
    ("what", "value", "own"),
    [
        ("size", "22", {"far_short_burns", "far_short_slow", "fuse_over_wire"}),
        ("fuse_a", 500.0, {"held_rating"}),
        ("scheme", "winch", {"scheme", "winch_return"}),
    ],
)
def test_a_broken_feeder_is_told_once_and_nothing_behind_it_is_ready(
    what: str, value: object, own: set[str]
) -> None:
    made = broken(what, value)
    roots = {(name, code) for name, code, follows in stops(made) if not follows}
    assert roots == {
        *(("Feeder of Bay block", code) for code in own),
        ("Rear work lights", "fuse_over_wire"),  # a mistake of its own
    }
    assert made.count("stop") == len(roots)
    behind = [c for c in made.circuits if "c2" in c.ahead]
    assert len(behind) > 8
    assert not any(c.is_ready for c in behind), "folded is not mended"
    assert {follows for _, _, follows in stops(made)} == {"", "Feeder of Bay block"}


def test_an_accepted_stop_causes_nothing_that_is_folded() -> None:
    made = broken("size", "22")
    job = made.job
    feeder = next(c for c in made.circuits if c.circuit.name == "Feeder of Bay block")
    for finding in feeder.findings:
        if finding.severity == "stop":
            told = AcceptedFinding(
                code=finding.code,
                place=finding.place,
                reason="seen",
                severity="stop",
                text=finding.text,
                found=finding.found,
                allowed=finding.allowed,
            )
            job = apply(job, AcceptFinding(circuit_id=feeder.circuit.id, accepted=told))
    after = design(job, CATALOGUE)
    told = {name: follows for name, code, follows in stops(after) if code == "unsized"}
    assert told["Feeder of Cabin block"] == "", "it stands by itself now"


def test_a_position_that_is_too_small_has_ways_out_that_mend_it() -> None:
    job = demo()
    block = job.points[0]
    told = tuple(
        p.model_copy(update={"rating_a": 5.0}) if p.name == "6" else p for p in block.positions
    )
    free = told[-1].model_copy(update={"name": "9", "legend": "", "rating_a": 30.0})
    changed = block.model_copy(update={"positions": (*told, free)})
    made = design(apply(job, ChangePoint(point=changed)), CATALOGUE)
    cooler = next(c for c in made.circuits if c.circuit.name == "Instrument cooler")
    stop = next(f for f in cooler.findings if f.code == "fuse_over_element")
    labels = [a.label for a in stop.actions]
    assert labels == [
        "Take position 9 of Bay block",
        "Start it at the battery, with a fuse of its own",
    ]
    for action in stop.actions:
        after = design(apply(made.job, action.edit), CATALOGUE).circuit(cooler.circuit.id)
        assert "fuse_over_element" not in {f.code for f in after.findings}
