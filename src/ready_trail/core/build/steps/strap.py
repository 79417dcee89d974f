"""A second earth cable from the battery to the body, beside the factory's strap."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.bill import SECOND_STRAP
from ready_trail.core.build.steps.base import Step, Yard


def steps(yard: Yard) -> Iterator[Step]:
    """Yield its step, where the vehicle gets one."""
    if not yard.made.job.vehicle.second_strap:
        return
    yield Step(
        id="strap:second",
        stage="earths",
        site=yard.battery,
        title="Second earth cable to the body",
        doing=(
            "Beside the factory's strap, as thick: its body end first, on clean bright metal.",
            "Its battery end waits with the negative leads; grease after tightening.",
        ),
        tools=("spanner", "wire brush"),
        minutes=15.0,
        parts=tuple(line.key for line in yard.lines if line.key == SECOND_STRAP),
    )
