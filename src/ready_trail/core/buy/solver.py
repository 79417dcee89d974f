"""The mixed-integer solver, as this package asks it: silent, exact, on one thread."""

from __future__ import annotations

from typing import Any

import highspy

_SETTINGS: tuple[tuple[str, Any], ...] = (
    ("output_flag", False),
    ("mip_rel_gap", 0.0),
    ("mip_abs_gap", 1e-6),
    ("threads", 1),
)


def quiet() -> highspy.Highs:
    """Return a new solver."""
    solver = highspy.Highs()  # type: ignore[no-untyped-call]
    for setting, value in _SETTINGS:
        solver.setOptionValue(setting, value)
    return solver
