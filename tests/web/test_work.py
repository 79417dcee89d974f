"""Work beside the answer: told by a table, stopped, and what became of it whoever dies."""

from __future__ import annotations

import os
import signal
import sqlite3
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest

from ready_trail.store import db, works
from ready_trail.store.works import KEPT_MOST, Work
from ready_trail.web import work
from ready_trail.web.work import Made, Report, TooMuchWorkError, WorkRefusedError, ask, start


@pytest.fixture
def conn(database: Path) -> Iterator[sqlite3.Connection]:
    with closing(db.connect(database)) as conn:
        yield conn
    work.close()


def number(conn: sqlite3.Connection, *, report: Report) -> Made:
    return Made(data=str(os.getpid()).encode(), leads_to="/there")


def refuses(conn: sqlite3.Connection, *, report: Report) -> Made:
    raise WorkRefusedError("That will not do.")


def breaks(conn: sqlite3.Connection, *, report: Report) -> Made:
    raise ValueError("odd")


def dies(conn: sqlite3.Connection, *, report: Report) -> Made:
    os._exit(3)


def goes_on(conn: sqlite3.Connection, *, report: Report) -> Made:
    for at in range(100_000):
        report(at, 100_000, f"part {at}")
        time.sleep(0.01)
    return Made()


def until(conn: sqlite3.Connection, work_id: str, is_so: Callable[[Work], bool]) -> Work:
    end = time.monotonic() + 180
    while True:
        found = works.get(conn, work_id)
        assert found is not None
        if is_so(found):
            return found
        assert time.monotonic() < end, found
        time.sleep(0.02)


def ended(conn: sqlite3.Connection, work_id: str) -> Work:
    return until(conn, work_id, lambda w: w.state != "running")


def test_it_is_done_in_another_process_and_told_by_the_table(
    database: Path, conn: sqlite3.Connection
) -> None:
    begun = start(database, "a", "A number", number)
    assert begun.words == "Waits for its turn"
    told = ended(conn, begun.work_id)
    assert (told.state, told.leads_to) == ("done", "/there")
    made = works.result(conn, begun.work_id)
    assert made is not None
    assert int(made) != os.getpid()
    assert start(database, "a", "A number", number).work_id == begun.work_id, "made once"
    for function, words in ((refuses, "That will not do."), (breaks, "It did not work: odd.")):
        told = ended(conn, start(database, words, words, function).work_id)
        assert (told.state, told.words) == ("failed", words)
    other = start(database, "b", "Another", number)
    ended(conn, other.work_id)
    assert works.result(conn, other.work_id) == made, "the same process, mistakes or not"


def test_what_is_stopped_ends_and_leaves_room(database: Path, conn: sqlite3.Connection) -> None:
    long = start(database, "long", "Long", goes_on)
    until(conn, long.work_id, lambda w: w.done > 2)
    waiting = [start(database, f"w{n}", "Waits", goes_on) for n in range(12)]
    with pytest.raises(TooMuchWorkError, match="stop them"):
        start(database, "one more", "Waits", number)
    for each in (long, *waiting):
        assert works.end(conn, each.work_id, "stopped", "It was stopped.")
    last = start(database, "one more", "Number", number)
    assert ended(conn, last.work_id).state == "done"
    assert works.get(conn, long.work_id).state == "stopped"  # type: ignore[union-attr]
    again = start(database, "long", "Long", number)
    assert again.work_id != long.work_id, "what was stopped can be begun again"
    ended(conn, again.work_id)
    for count in range(KEPT_MOST + 5):
        ended(conn, start(database, f"k{count}", "Kept", number).work_id)
    assert conn.execute("SELECT count(*) FROM work").fetchone()[0] <= KEPT_MOST + 1


def test_one_that_dies_says_so_and_the_next_is_made(
    database: Path, conn: sqlite3.Connection
) -> None:
    told = ended(conn, start(database, "x", "Dies", dies).work_id)
    assert (told.state, told.words) == ("failed", "It ended without a result.")
    assert ended(conn, start(database, "x", "Lives", number).work_id).state == "done"
    os.kill(ask(os.getpid).result(60), signal.SIGKILL)
    time.sleep(0.2)
    assert ask(os.getpid).result(60) != os.getpid()
    conn.execute(
        "INSERT INTO work VALUES ('gone', 'k', 'n', 99999999, 'running', 0, 1, 'w', NULL, "
        "'', '2026-01-01')"
    )
    lost = works.get(conn, "gone")
    assert lost is not None
    assert lost.state == "failed"
    assert "started anew" in lost.words


def test_work_that_no_process_can_be_started_for_says_so(
    database: Path, conn: sqlite3.Connection, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It stood as open for good, and its page waited for it."""

    def ask_in_vain(*args: object) -> None:
        raise OSError("cannot allocate memory")

    monkeypatch.setattr(work, "ask", ask_in_vain)
    begun = start(database, "in vain", "In vain", number)
    assert begun.state == "failed"
    assert begun.words == "No process could be started for it."
    assert works.running(conn) == ()
