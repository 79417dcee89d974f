"""A press is the edit that its words told: nothing is read into it, nothing out of it."""

from __future__ import annotations

import json

import pytest

from core.review.findings_cases import Case, cases
from ready_trail.core.design import design
from ready_trail.web.routes.edits import edit_of
from support import CATALOGUE, demo

JOBS = {name: demo(name) for name in ("Marmot", "Bluebell", "Kestrel")}
CASES = {f"{at}-{case.code}": case for at, case in enumerate(cases())}


@pytest.mark.parametrize("case", [*JOBS, *CASES])
def test_a_way_out_is_pressed_as_it_was_offered(case: str) -> None:
    found: Case | None = CASES.get(case)
    job = found.job if found is not None else JOBS[case]
    made = design(job, CATALOGUE)
    findings = [f for c in made.circuits for f in c.findings] + list(made.findings)
    for action in (a for f in findings for a in f.actions):
        for posted in (action.edit.model_dump_json(), action.edit.press()):
            assert edit_of(job, json.loads(posted), {}) == action.edit, action.label
