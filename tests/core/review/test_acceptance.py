"""An acceptance covers what was accepted, or less; anything worse opens the finding again."""

from __future__ import annotations

import pytest

from ready_trail.core.design import Finding, design
from ready_trail.core.edits import AcceptFinding, HoldChoice, WithdrawAcceptance, apply
from ready_trail.core.job import AcceptedFinding, Job
from ready_trail.core.review.acceptance import covers
from support import CATALOGUE, typed_demo


def of(finding: Finding, reason: str = "the lamp is a short one") -> AcceptedFinding:
    return AcceptedFinding(
        code=finding.code,
        place=finding.place,
        reason=reason,
        severity=finding.severity,
        text=finding.text,
        found=finding.found,
        allowed=finding.allowed,
    )


def held(job: Job, circuit_id: str, **choices: str | float) -> Job:
    for what, value in choices.items():
        edit = HoldChoice(circuit_id=circuit_id, what=what, value=value)  # type: ignore[arg-type]
        job = apply(job, edit)
    return job


def over_wire(job: Job, circuit_id: str) -> Finding | None:
    circuit = design(job, CATALOGUE).circuit(circuit_id)
    return next((f for f in circuit.findings if f.code == "fuse_over_wire"), None)


def test_it_opens_again_when_it_gets_worse_and_holds_when_it_gets_better() -> None:
    job = typed_demo()
    circuit_id = next(c.id for c in job.circuits if not c.is_feeder and not c.branches)
    job = held(job, circuit_id, size="10", fuse_a=60.0)
    first = over_wire(job, circuit_id)
    assert first is not None
    assert first.is_open
    assert first.severity == "stop"
    job = apply(job, AcceptFinding(circuit_id=circuit_id, accepted=of(first)))
    same = over_wire(job, circuit_id)
    assert same is not None
    assert same.accepted_reason == "the lamp is a short one"

    worse = over_wire(held(job, circuit_id, size="14"), circuit_id)
    assert worse is not None
    assert worse.is_open
    assert first.found in worse.lapsed
    assert first.allowed in worse.lapsed
    better = over_wire(held(job, circuit_id, fuse_a=50.0), circuit_id)
    assert better is not None
    assert not better.is_open
    opened = apply(
        job, WithdrawAcceptance(circuit_id=circuit_id, code=first.code, place=first.place)
    )
    again = over_wire(opened, circuit_id)
    assert again is not None
    assert again.is_open
    assert not again.lapsed


@pytest.mark.parametrize(
    ("was", "now", "holds"),
    [
        (("60 A", "41.0 A"), ("60 A", "40.8 A"), True),  # the same, rounded
        (("60 A", "41.0 A"), ("60 A", "17.0 A"), False),
        (("60 A", "41.0 A"), ("50 A", "41.0 A"), True),
        (("280 A", "at least 300 A"), ("200 A", "at least 300 A"), False),  # under is worse
        (("280 A", "at least 300 A"), ("290 A", "at least 300 A"), True),
        (("120 A for 0.1 s", ""), ("120 A for 0.1 s", ""), True),
        (("120 A for 0.1 s", ""), ("150 A for 0.1 s", ""), False),
        (("opens after 3.00 s", "within 2.00 s"), ("never opens", "within 2.00 s"), False),
        (("", ""), ("", ""), True),
    ],
)
def test_no_worse_is_told_by_the_figures(
    was: tuple[str, str], now: tuple[str, str], holds: bool
) -> None:
    def finding(figures: tuple[str, str], severity: str = "caution") -> Finding:
        return Finding(
            code="c",
            area="wire",
            place="W1",
            severity=severity,  # type: ignore[arg-type]
            text="x",
            why="y",
            found=figures[0],
            allowed=figures[1],
        )

    assert covers(of(finding(was)), finding(now)) is holds
    assert not covers(of(finding(was)), finding(now, "stop")), "a caution that became a stop"


def test_an_older_files_acceptance_covers_no_stop() -> None:
    old = AcceptedFinding(code="c", place="W1", reason="as before")
    finding = Finding(code="c", area="wire", place="W1", severity="caution", text="x", why="y")
    stop = Finding(code="c", area="wire", place="W1", severity="stop", text="x", why="y")
    assert covers(old, finding)
    assert not covers(old, stop)
