"""One process beside the server, for what a page can wait for: it takes nobody's turn.

It answers plain functions of plain values, one at a time, and yields to the server whenever that
has work to do. When it dies it is started again, once for each question.
"""

from __future__ import annotations

import os
import signal
from collections.abc import Callable
from concurrent.futures import Future
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from queue import SimpleQueue
from threading import Lock, Thread
from typing import Any

from ready_trail.core.catalogue import load_catalogue
from ready_trail.web.work import context_of_processes

_NICE = 19
"""Behind everything else: what it reckons is shown when it is there."""


class HelperError(Exception):
    """A question was not answered: the process ended twice over it, or the function raised."""


class Helper:
    """The process and the line of questions before it; it starts with the first of them."""

    def __init__(self) -> None:
        self._line: SimpleQueue[_Question | None] = SimpleQueue()
        self._lock = Lock()
        self._thread: Thread | None = None
        self._process: BaseProcess | None = None
        self._pipe: Connection | None = None
        self._closing = False

    def ask(
        self, function: Callable[..., Any], *args: Any, wanted: Callable[[], bool] = lambda: True
    ) -> Future[Any]:
        """Have a module's function called there; the future gets its answer, or its exception.

        ``wanted`` is asked when its turn comes: what nobody waits for any more is cancelled.
        """
        question = _Question(function, args, wanted)
        with self._lock:
            if self._thread is None:
                self._closing = False
                self._thread = Thread(target=self._work, daemon=True)
                self._thread.start()
        self._line.put(question)
        return question.future

    def warm(self) -> None:
        """Have the process ready, with the tables read, before anybody asks."""
        self.ask(_read_tables)

    def close(self) -> None:
        """End the process; questions in the line are cancelled."""
        with self._lock:
            thread, self._thread = self._thread, None
            self._closing = True
        if thread is not None:
            self._line.put(None)
            process = self._process
            if process is not None:
                process.kill()  # who waits for it sees that it is gone, and clears up
            thread.join(timeout=2)

    def _work(self) -> None:
        while (question := self._line.get()) is not None:
            try:
                if self._closing or not question.wanted():
                    question.future.cancel()
                elif question.future.set_running_or_notify_cancel():
                    self._answer(question)
            except Exception as error:  # one odd question must not end the line
                if not question.future.done():
                    question.future.set_exception(HelperError(f"{error}"))
        self._end()

    def _answer(self, question: _Question) -> None:
        for _ in range(2):
            if self._closing:
                break
            try:
                pipe = self._started()
                pipe.send((question.function, question.args))
                ok, value = pipe.recv()
            except (EOFError, OSError):
                self._end()
                continue
            if ok:
                question.future.set_result(value)
            else:
                question.future.set_exception(HelperError(value))
            return
        question.future.set_exception(HelperError("the helper ended without an answer"))

    def _started(self) -> Connection:
        if self._pipe is None:
            context = context_of_processes()
            self._pipe, theirs = context.Pipe()
            process = context.Process(target=_serve, args=(theirs,), daemon=True)
            process.start()
            self._process = process  # now: one that has not started cannot be ended
            theirs.close()
        return self._pipe

    def _end(self) -> None:
        process, pipe, self._process, self._pipe = self._process, self._pipe, None, None
        if pipe is not None:
            pipe.close()
        if process is not None:
            with suppress(OSError, ValueError):
                process.kill()
                process.join(timeout=2)


class _Question:
    def __init__(
        self, function: Callable[..., Any], args: tuple[Any, ...], wanted: Callable[[], bool]
    ) -> None:
        self.function, self.args, self.wanted = function, args, wanted
        self.future: Future[Any] = Future()


def _read_tables() -> None:
    load_catalogue()


def _serve(pipe: Connection) -> None:
    """In the process: answer until nobody is at the other end."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the server says when it is over
    if hasattr(os, "nice"):
        os.nice(_NICE)
    with suppress(EOFError, OSError):
        while True:
            function, args = pipe.recv()
            try:
                answer = True, function(*args)
            except Exception as error:
                answer = False, f"{type(error).__name__}: {error}"
            pipe.send(answer)


HELPER = Helper()
"""Of this process; who serves closes it."""
