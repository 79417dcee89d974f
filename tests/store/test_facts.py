"""Facts: ticks and stock moves are appended, counted once, never changed."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from ready_trail.core.build.progress import Tick
from ready_trail.core.build.stock import Part
from ready_trail.core.job import Job
from ready_trail.store import db, jobs, shelf, ticks
from ready_trail.store.errors import NotEnoughError, NotFoundError


@pytest.fixture
def path(tmp_path: Path) -> Path:
    path = tmp_path / "t.db"
    db.initialise(path)
    return path


@pytest.fixture
def conn(path: Path) -> Iterator[sqlite3.Connection]:
    conn = db.connect(path)
    with db.transaction(conn):
        jobs.create_job(conn, Job(name="A"), kind="new", title="Start A")
        shelf.save_part(conn, Part(key="fuse-15", label="Fuse 15 A", group="Fuses"))
    yield conn
    conn.close()


def tick(number: int, *, done: bool = True) -> ticks.NewTick:
    at = f"2026-01-02T10:{number // 60:02}:{number % 60:02}Z"
    return ticks.NewTick(
        key=f"key-{number:06}",
        tick=Tick(item=f"step:s{number % 7}", done=done, print="abc", asked="Do it", made_at=at),
    )


def test_a_tick_counts_once_however_often_it_comes(conn: sqlite3.Connection, path: Path) -> None:
    """A phone that never saw the answer sends its queue again, while another sends its own."""
    mine = tuple(tick(n) for n in range(100))
    theirs = tuple(tick(n) for n in range(50, 150))
    errors: list[Exception] = []

    def send(batch: tuple[ticks.NewTick, ...]) -> None:
        own = db.connect(path)
        try:
            with db.transaction(own):
                ticks.add_ticks(own, 1, batch)
        except Exception as error:
            errors.append(error)
        finally:
            own.close()

    threads = [threading.Thread(target=send, args=(b,)) for b in (mine, theirs, mine, theirs)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert errors == []
    kept = ticks.list_ticks(conn, 1)
    assert len(kept) == 150
    times = [t.made_at for t in kept]
    assert times in (sorted(times), [*times[:100], *sorted(times[100:])])


def test_facts_cannot_be_changed_and_a_clock_ahead_counts_as_now(conn: sqlite3.Connection) -> None:
    late = tick(1)
    late = replace(late, tick=replace(late.tick, made_at="2999-01-01T00:00:00Z"))
    with db.transaction(conn):
        assert ticks.add_ticks(conn, 1, (late,)) == 1
        assert ticks.add_ticks(conn, 1, (late,)) == 0
        shelf.move_stock(conn, "move-0001", "fuse-15", "bought", 5)
    assert ticks.list_ticks(conn, 1)[0].made_at < "2999"
    for statement in (
        "UPDATE tick SET done = 0",
        "DELETE FROM tick",
        "UPDATE stock_move SET quantity = 9",
        "DELETE FROM stock_move",
    ):
        with pytest.raises(sqlite3.IntegrityError, match="append-only"):
            conn.execute(statement)
    with pytest.raises(NotFoundError):
        ticks.add_ticks(conn, 99, (late,))


def test_stock_is_the_sum_of_moves_since_the_last_count(conn: sqlite3.Connection) -> None:
    def stock() -> float:
        return shelf.get_part(conn, "fuse-15").part.stock

    moves: list[tuple[shelf.MoveKind, float, float]] = [
        ("bought", 10, 10),
        ("taken", 4, 6),
        ("returned", 1, 7),
        ("counted", 3, 3),
        ("bought", 2, 5),
        ("counted", 0, 0),
    ]
    for number, (kind, quantity, then) in enumerate(moves):
        with db.transaction(conn):
            assert shelf.move_stock(conn, f"move-{number:04}", "fuse-15", kind, quantity)
        assert stock() == then
    with db.transaction(conn):
        assert not shelf.move_stock(conn, "move-0004", "fuse-15", "bought", 2), "pressed twice"
    assert stock() == 0
    with pytest.raises(NotEnoughError, match="the shelf has 0"), db.transaction(conn):
        shelf.move_stock(conn, "move-0099", "fuse-15", "taken", 1)
    assert shelf.list_moves(conn, "fuse-15")[0].kind == "counted"
