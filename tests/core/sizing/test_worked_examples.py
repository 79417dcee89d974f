"""The worked examples: every figure of every case, within half a percent."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from ready_trail.formats.size_json import SizeInputs, size_inputs
from support import CATALOGUE

CASES = json.loads((Path(__file__).parents[2] / "data" / "worked_examples.json").read_text())


@pytest.mark.parametrize("case", CASES, ids=[case["name"] for case in CASES])
def test_worked_example(case: dict[str, Any]) -> None:
    got = size_inputs(SizeInputs(**case["inputs"]), CATALOGUE)
    for name, wanted in case["expected"].items():
        if isinstance(wanted, float):
            assert got[name] == pytest.approx(wanted, rel=0.005), name
        else:
            assert got[name] == wanted, name


def test_there_are_all_cases() -> None:
    assert len(CASES) == 18
