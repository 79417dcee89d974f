"""Designs are shared: made once however many ask, tried again after a failure, the oldest go."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator

import pytest

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design, design
from ready_trail.core.job import Job
from ready_trail.web import designs
from support import job_with

JOB = job_with(watts=60)


@pytest.fixture(autouse=True)
def nothing_kept() -> Iterator[None]:
    designs._designs.clear()
    yield
    designs._designs.clear()


def asked_by(count: int, ask: Callable[[], None]) -> None:
    threads = [threading.Thread(target=ask) for _ in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def test_a_design_is_made_once_for_all_who_ask(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[Job] = []

    def slowly(job: Job, catalogue: Catalogue) -> Design:
        time.sleep(0.05)
        made.append(job)
        return design(job, catalogue)

    monkeypatch.setattr(designs, "design", slowly)
    found: list[Design] = []
    asked_by(12, lambda: found.append(designs.designed(JOB, ())))
    assert len(found) == 12
    assert all(one is found[0] for one in found)
    assert made == [JOB]
    other = JOB.model_copy(update={"name": "Other"})
    assert designs.designed(other, ()).job.name == "Other"


def test_a_failure_is_told_to_all_who_wait_and_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    def fail(job: Job, catalogue: Catalogue) -> Design:
        time.sleep(0.05)
        raise ValueError("no")

    told: list[str] = []

    def ask() -> None:
        try:
            designs.designed(JOB, ())
        except ValueError as error:
            told.append(str(error))

    with monkeypatch.context() as broken:
        broken.setattr(designs, "design", fail)
        asked_by(5, ask)
    assert told == ["no"] * 5
    assert designs.designed(JOB, ()).circuits


def test_the_oldest_are_forgotten() -> None:
    first = designs.designed(JOB, ())
    assert designs.designed(JOB, ()) is first
    for number in range(designs._KEPT):
        designs.designed(JOB.model_copy(update={"name": f"Job {number}"}), ())
    assert len(designs._designs) == designs._KEPT
    assert designs.designed(JOB, ()) is not first
