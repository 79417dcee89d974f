"""Work beside the answer: processes of the standard library's, told and stopped by a table.

Designing computes for seconds where a file is large, every fault of a job or every way out is
played through: the server's own process answers meanwhile.
"""

from __future__ import annotations

import logging
import multiprocessing
import sqlite3
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

from ready_trail.core.catalogue import load_catalogue
from ready_trail.formats.paper import set_type
from ready_trail.store import db, works
from ready_trail.store.works import Work

Report = Callable[[int, int, str], None]
"""Called with what is done, of how much, and in words what comes next."""

_WAITING_MOST = 12
_log = logging.getLogger("ready_trail")
_lock = Lock()
_pool: ProcessPoolExecutor | None = None
_press: ProcessPoolExecutor | None = None
_DOCUMENTS = 40
"""Set by one process before another takes over."""
T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Made:
    """What work made: a result that is kept, or the page where it is."""

    data: bytes = b""
    leads_to: str = ""


class WorkRefusedError(Exception):
    """Raised by work: it was asked of something that will not do, in plain words."""


class TooMuchWorkError(Exception):
    """As much is waiting as anybody would wait for."""


class _StoppedError(Exception):
    """Somebody stopped the work."""


def ask(function: Callable[..., T], *args: Any) -> Future[T]:
    """Have a plain function of a module answered beside the server."""
    global _pool
    with _lock:
        if _pool is None:
            _pool = ProcessPoolExecutor(
                1, multiprocessing.get_context("spawn"), initializer=load_catalogue
            )
        try:
            return _pool.submit(function, *args)
        except BrokenProcessPool:  # its process was killed: another one takes over
            _pool = None
    return ask(function, *args)


def typeset(data: str) -> bytes:
    """Return a document set as PDF, beside the server: what setting takes is given back there."""
    global _press
    with _lock:
        if _press is None:
            spawn = multiprocessing.get_context("spawn")
            _press = ProcessPoolExecutor(1, spawn, max_tasks_per_child=_DOCUMENTS)
        press = _press
    try:
        return press.submit(set_type, data).result()
    except (BrokenProcessPool, RuntimeError):  # killed, or the server ends: set it here
        with _lock:
            _press = None if _press is press else _press
        return set_type(data)


def close() -> None:
    """End the processes at once; what they were at is told as lost, what waits is not begun."""
    global _pool, _press
    with _lock:
        pools, _pool, _press = (_pool, _press), None, None
    for pool in pools:
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)
    if any(pools):
        for child in multiprocessing.active_children():
            child.terminate()


def start(database: Path, key: str, name: str, make: Callable[..., Made], *args: Any) -> Work:
    """Start work, or return what runs or is done for this key.

    ``make`` is a function of a module; it gets a connection, the arguments and a ``report``.
    Raises TooMuchWorkError.
    """
    conn = db.connect(database)
    try:
        with db.transaction(conn):
            known = works.same(conn, key)
            if known is not None:
                return known
            if len(works.running(conn)) > _WAITING_MOST:
                raise TooMuchWorkError(
                    f"{_WAITING_MOST} pieces of long work wait already; let some of them end, "
                    "or stop them"
                )
            work_id = works.begin(conn, key, name)
        try:
            ask(_run, database, work_id, make, args).add_done_callback(
                lambda told: _lost(database, work_id) if _is_lost(told) else None
            )
        except (OSError, RuntimeError):  # out of memory, or the server ends
            _log.exception("no process for long work")
            works.end(conn, work_id, "failed", "No process could be started for it.")
        found = works.get(conn, work_id)
        assert found is not None, "it was begun in this very transaction"
        return found
    finally:
        conn.close()


def _is_lost(told: Future[None]) -> bool:
    return told.cancelled() or told.exception() is not None


def _lost(database: Path, work_id: str) -> None:
    """Its process was killed, or the server ends: say so."""
    try:
        conn = db.connect(database)
        try:
            works.end(conn, work_id, "failed", "It ended without a result.")
        finally:
            conn.close()
    except sqlite3.Error:
        _log.exception("lost work could not be told")


def _run(database: Path, work_id: str, make: Callable[..., Made], args: tuple[Any, ...]) -> None:
    """In the process: make the result, and tell how far it is."""
    conn = db.connect(database)

    def report(done: int, total: int, words: str) -> None:
        if not works.report(conn, work_id, done, total, words):
            raise _StoppedError

    try:
        report(0, 1, "Starting")
        made = make(conn, *args, report=report)
        works.end(conn, work_id, "done", "Done", made=made.data, leads_to=made.leads_to)
    except _StoppedError:
        return
    except WorkRefusedError as error:
        works.end(conn, work_id, "failed", f"{error}")
    except Exception as error:
        _log.exception("long work failed")
        works.end(conn, work_id, "failed", f"It did not work: {error}.")
    finally:
        conn.close()
