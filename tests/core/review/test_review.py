"""Review: sound work is ready, acceptance needs a reason, house rules are heard."""

from __future__ import annotations

import pytest

from ready_trail.core.edits import (
    AcceptFinding,
    HoldChoice,
    SetHouseRules,
    WithdrawAcceptance,
    apply,
)
from ready_trail.core.job import AcceptedFinding, Battery, HouseRules, Vehicle
from support import codes, job_with, only_circuit, segment

CALM = Battery(resistance_mohm=12)
LONG = (segment("engine_bay", 1.0), segment("cabin", 6.0))


def test_a_plain_circuit_is_ready_with_notes_only() -> None:
    made = only_circuit(job_with(vehicle=Vehicle(battery=CALM)))
    assert made.is_ready
    assert codes(made) == {"estimate"}


def test_acceptance_needs_a_reason_and_can_be_withdrawn() -> None:
    held = HoldChoice(circuit_id="c1", what="size", value="18")
    job = job_with(watts=100, run=LONG, edits=(held,))
    finding = next(f for f in only_circuit(job).findings if f.code == "conductor_drop")
    accepted = AcceptedFinding(
        code=finding.code, place=finding.place, reason="short use, tested at the lamp"
    )
    job = apply(job, AcceptFinding(circuit_id="c1", accepted=accepted))
    made = only_circuit(job)
    again = next(f for f in made.findings if f.code == "conductor_drop")
    assert not again.is_open
    assert made.count("caution") == sum(
        f.severity == "caution" and f.is_open for f in made.findings
    )
    job = apply(job, WithdrawAcceptance(circuit_id="c1", code=finding.code, place=finding.place))
    assert next(f for f in only_circuit(job).findings if f.code == "conductor_drop").is_open
    with pytest.raises(ValueError, match="at least 3"):
        AcceptedFinding(code="x", place="y", reason=" ")


def test_the_limit_of_unprotected_wire_is_a_house_rule() -> None:
    job = job_with(fuse_at_m=0.4)
    job = apply(job, SetHouseRules(rules=HouseRules(unprotected_m=0.45)))
    assert "unprotected" not in codes(only_circuit(job))
