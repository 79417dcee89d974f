"""Shared results: made once however many ask, tried again after a failure, the oldest forgotten."""

from __future__ import annotations

import threading
import time

import pytest

from ready_trail.web.kept import Kept


def test_a_result_is_made_once_for_all_who_ask() -> None:
    kept: Kept[str, int] = Kept(4)
    made: list[int] = []

    def make() -> int:
        time.sleep(0.05)
        made.append(1)
        return 7

    found: list[int] = []
    threads = [threading.Thread(target=lambda: found.append(kept.get("a", make)))
               for _ in range(12)]  # fmt: skip
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == [7] * 12
    assert made == [1]


def test_a_failure_is_told_to_one_and_tried_again_by_the_next() -> None:
    kept: Kept[str, int] = Kept(4)
    outcomes: list[object] = []
    tries = iter([ValueError("no"), 3, 4])

    def make() -> int:
        time.sleep(0.02)
        value = next(tries)
        if isinstance(value, Exception):
            raise value
        return int(value)

    def ask() -> None:
        try:
            outcomes.append(kept.get("a", make))
        except ValueError as error:
            outcomes.append(str(error))

    threads = [threading.Thread(target=ask) for _ in range(5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(map(str, outcomes)) == ["3", "3", "3", "3", "no"]


@pytest.mark.parametrize("most", [1, 3])
def test_the_oldest_are_forgotten(most: int) -> None:
    kept: Kept[int, int] = Kept(most)
    for key in range(10):
        assert kept.get(key, lambda key=key: key * 2) == key * 2  # type: ignore[misc]
    assert kept.newest(lambda key: key >= 0) == 18
    assert kept.newest(lambda key: key < 10 - most) is None
