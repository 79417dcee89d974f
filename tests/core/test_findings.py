"""Every finding fires on its seeded fault, and never on the same work done right."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from core.findings_cases import Case, cases
from ready_trail.core import review
from ready_trail.core.design import design
from ready_trail.core.edits import apply
from ready_trail.core.job import Job
from ready_trail.core.outcome import Finding
from support import CATALOGUE

CASES = {case.code: case for case in cases()}


def found(job: Job, code: str) -> list[Finding]:
    circuits = design(job, CATALOGUE).circuits
    return [f for circuit in circuits for f in circuit.findings if f.code == code]


def test_every_finding_has_a_seeded_fault() -> None:
    folder = Path(review.__file__).parent
    text = "".join(path.read_text() for path in folder.glob("*.py"))
    assert set(re.findall(r'code="([a-z_0-9]+)"', text)) == set(CASES)


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_finding_fires_on_its_fault_and_a_press_or_right_work_silences_it(case: Case) -> None:
    fired = found(case.job, case.code)
    assert [f.severity for f in fired][:1] == [case.severity]
    finding = fired[0]
    assert finding.text.endswith(".")
    assert finding.why
    if case.severity == "stop":
        made = design(case.job, CATALOGUE)
        assert made.ready_count < len(made.circuits)
    if case.mended is not None:
        assert not found(case.mended, case.code)
    else:
        assert finding.actions, "a fault that no press mends needs a twin"
    mends = [len(found(apply(case.job, a.edit), case.code)) < len(fired) for a in finding.actions]
    assert any(mends) or not mends, [a.label for a in finding.actions]
