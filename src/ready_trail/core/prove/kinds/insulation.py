"""Before power: nothing that carries plus touches the body."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.prove.bench import NEGATIVE, Bench
from ready_trail.core.prove.kinds.base import AWAY, AWAY_SETTING, between, own_wires
from ready_trail.core.prove.records import Test


def tests(bench: Bench) -> Iterator[Test]:
    """Yield one test an end of each wire on the plus side, against the battery's negative."""
    seen: set[str] = {NEGATIVE.node}
    for wire in own_wires(bench):
        if wire.role in ("return", "control_return"):
            continue
        for end in (wire.start, wire.end):
            if end.node in seen:
                continue
            seen.add(end.node)
            yield between(
                bench,
                "insulation",
                "before",
                f"{wire.label} against the body, at {bench.installation.words(end)}",
                end,
                NEGATIVE,
                AWAY_SETTING,
                instrument="ohms",
                minutes=0.7,
                look=wire.label,
                caution=AWAY,
                why="What is there is the accessory's or the coil's own resistance; much less is "
                "a wire on the body, and a fuse that opens.",
            )
