"""Every finding fires on its seeded fault, and never on the same work done right."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

import pytest

from core.review.findings_cases import Case, cases
from ready_trail.core import review
from ready_trail.core.design import design
from ready_trail.core.edits import apply
from ready_trail.core.job import Job
from ready_trail.core.outcome import Finding
from support import CATALOGUE

CASES = {case.code: case for case in cases()}


def found(job: Job, code: str) -> list[Finding]:
    made = design(job, CATALOGUE)
    everywhere = [f for circuit in made.circuits for f in circuit.findings]
    return [f for f in (*everywhere, *made.findings) if f.code == code]


def test_every_finding_has_a_seeded_fault() -> None:
    """The register, the checks and the cases name the same codes."""
    folder = Path(review.__file__).parent
    text = "".join(path.read_text() for path in folder.glob("*.py"))
    told = re.findall(r'code="([a-z_0-9]+)"', text)
    for pair in re.findall(r'code = "([a-z_0-9]+)" if \w+ else "([a-z_0-9]+)"', text):
        told += pair
    assert set(told) == set(CASES) == set(CATALOGUE.finding_rules)


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_finding_fires_on_its_fault_and_a_press_or_right_work_silences_it(case: Case) -> None:
    fired = found(case.job, case.code)
    assert [f.severity for f in fired][:1] == [case.severity]
    finding = fired[0]
    assert finding.text.endswith(".")
    assert finding.why
    if case.severity == "stop":
        assert not design(case.job, CATALOGUE).is_ready
    if case.mended is not None:
        assert not found(case.mended, case.code)
    else:
        assert finding.actions, "a fault that no press mends needs a twin"
    mends = [len(found(apply(case.job, a.edit), case.code)) < len(fired) for a in finding.actions]
    assert any(mends) or not mends, [a.label for a in finding.actions]


def test_the_register_tells_each_severity_and_the_page_is_current() -> None:
    """Run `make findings` where the page is not."""
    for code, case in CASES.items():
        assert case.severity in CATALOGUE.finding_rules[code].severity, code
    root = Path(__file__).parents[3]
    spec = importlib.util.spec_from_file_location("page", root / "scripts" / "write_findings.py")
    assert spec is not None
    assert spec.loader is not None
    page = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(page)
    assert (root / "docs" / "findings.md").read_text(encoding="utf-8") == page.text()
