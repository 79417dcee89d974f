"""Facts: ticks and stock moves are appended, counted once, never changed."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from ready_trail.core.build.progress import Tick
from ready_trail.core.buy.stock import Part
from ready_trail.core.job import Job
from ready_trail.core.prove.progress import Reading
from ready_trail.store import db, jobs, readings, shelf, ticks, vehicles
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


def reading(number: int, value: float | None = 12.5) -> readings.NewReading:
    return readings.NewReading(
        key=f"read-{number:06}",
        reading=Reading(
            circuit_id="c1",
            test="point:volts:a~b@on",
            asked="Volts",
            instrument="volts",
            value=value,
            skipped="" if value is not None else "no way in",
            verdict="pass" if value is not None else "skipped",
            made_at="2026-01-02T10:00:00Z",
        ),
    )


def test_readings_belong_to_a_vehicle_count_once_and_stay(conn: sqlite3.Connection) -> None:
    first = vehicles.list_vehicles(conn, 1)
    assert [v.name for v in first] == [""]
    second = vehicles.add_vehicle(conn, 1, "Number two")
    own = first[0].vehicle_id
    assert readings.add_readings(conn, own, [reading(1), reading(2, None), reading(1, 9.0)]) == 2
    assert readings.add_readings(conn, own, [reading(2)]) == 0
    assert readings.add_readings(conn, second, [reading(3, float("inf"))]) == 1
    kept = readings.list_readings(conn, own)
    assert [(r.value, r.skipped) for r in kept] == [(12.5, ""), (None, "no way in")]
    assert readings.list_readings(conn, second)[0].value == float("inf")
    for change in ("UPDATE reading SET value = 1", "DELETE FROM reading", "DELETE FROM vehicle"):
        with pytest.raises(sqlite3.IntegrityError):
            conn.execute(change)
    with pytest.raises(NotFoundError):
        readings.add_readings(conn, 99, [reading(4)])
    with pytest.raises(NotFoundError):
        vehicles.vehicle_of(conn, 1, 99)


def test_ticks_are_a_vehicles_own(conn: sqlite3.Connection) -> None:
    second = vehicles.add_vehicle(conn, 1, "Number two")
    ticks.add_ticks(conn, 1, (tick(1),))
    ticks.add_ticks(conn, 1, (tick(2), tick(3)), second)
    assert [len(ticks.list_ticks(conn, 1, v)) for v in (None, second)] == [1, 2]
    assert ticks.count_ticks(conn, 1) == 3


def test_ticks_made_before_there_were_vehicles_move_to_the_first_and_none_is_lost(
    tmp_path: Path,
) -> None:
    path = tmp_path / "old.db"
    old = tuple(m for m in db.shipped_migrations() if m[0] < "0008")
    conn = db.connect(path)
    db.migrate(conn, old)
    with db.transaction(conn):
        jobs.create_job(conn, Job(name="A"), kind="new", title="Start A")
        jobs.create_job(conn, Job(name="B"), kind="new", title="Start B")
        for number in range(20):
            conn.execute(
                "INSERT INTO tick "
                "(key, job_id, item, done, print, asked, who, made_at, received_at)"
                " VALUES (?, ?, 'step:a', 1, '', 'Do it', '', ?, ?)",
                (f"old-{number:05}", 1 + number % 2, *("2026-01-02T10:00:00Z",) * 2),
            )
    conn.close()
    db.initialise(path)
    conn = db.connect(path)
    assert [len(ticks.list_ticks(conn, job)) for job in (1, 2)] == [10, 10]
    with pytest.raises(sqlite3.IntegrityError):
        conn.execute("DELETE FROM tick")
    conn.close()
