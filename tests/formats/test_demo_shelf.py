"""The demo's shelf is stocked and priced for the demo jobs."""

from __future__ import annotations

from ready_trail.core.build import build_of
from ready_trail.core.design import design
from ready_trail.formats.demo import demo_jobs, demo_shelf
from support import CATALOGUE


def test_every_part_of_the_demo_jobs_has_a_price_and_much_is_there() -> None:
    shelf = {part.key: part for part, _ in demo_shelf()}
    lines = [
        line
        for job in demo_jobs(CATALOGUE)
        for line in build_of(design(job, CATALOGUE), CATALOGUE).parts
        if line.to_get
    ]
    assert [x.key for x in lines if x.key not in shelf or not shelf[x.key].price] == []
    stocked = [x for x in lines if shelf[x.key].stock >= x.to_get]
    assert len(lines) / 4 < len(stocked) < len(lines), "some are there, some are to buy"
