"""The process beside the server: answers in turn, survives a death, lets go of what is unwanted."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator
from threading import Event, Timer
from typing import Any

import pytest

from ready_trail.web.helper import Helper, HelperError
from ready_trail.web.work import context_of_processes


@pytest.fixture
def helper() -> Iterator[Helper]:
    helper = Helper()
    yield helper
    helper.close()


def test_it_answers_in_another_process_and_tells_what_went_wrong(helper: Helper) -> None:
    other = helper.ask(os.getpid).result(60)
    assert other != os.getpid()
    with pytest.raises(HelperError, match="ValueError"):
        helper.ask(int, "no number").result(60)
    with pytest.raises(HelperError, match="pickle"):
        helper.ask(lambda: 1).result(60)  # no function of a module

    def odd() -> bool:
        raise OSError("no database")

    with pytest.raises(HelperError, match="no database"):
        helper.ask(int, "1", wanted=odd).result(60)
    assert helper.ask(os.getpid).result(60) == other, "a mistake does not end it"


def test_one_that_died_is_started_again_for_the_next_question(helper: Helper) -> None:
    other = helper.ask(os.getpid).result(60)
    os.kill(other, signal.SIGKILL)
    assert helper.ask(os.getpid).result(60) not in (other, os.getpid())
    with pytest.raises(HelperError, match="without an answer"):
        helper.ask(os._exit, 3).result(60)
    assert helper.ask(int, "7").result(60) == 7


def test_what_nobody_waits_for_is_not_done(helper: Helper) -> None:
    assert helper.ask(int, "1").result(60) == 1
    unwanted = helper.ask(int, "2", wanted=lambda: False)
    assert helper.ask(int, "3").result(60) == 3
    assert unwanted.cancelled()


def test_it_ends_with_its_owner() -> None:
    helper = Helper()
    other = helper.ask(os.getpid).result(60)
    helper.close()
    with pytest.raises(ProcessLookupError):
        os.kill(other, 0)


def test_it_can_be_closed_while_it_starts(monkeypatch: pytest.MonkeyPatch) -> None:
    """A server that is told to end in its first second ends without a trace."""
    starting, go_on = Event(), Event()

    class Slow:
        def Process(self, **more: Any) -> Any:
            process = context_of_processes().Process(**more)
            begin = process.start

            def start() -> None:
                starting.set()
                go_on.wait(20)
                del process.start  # it goes to the other process as it is
                begin()

            process.start = start
            return process

        def Pipe(self) -> Any:
            return context_of_processes().Pipe()

    monkeypatch.setattr("ready_trail.web.helper.context_of_processes", Slow)
    early = Helper()
    early.ask(os.getpid)
    assert starting.wait(20)
    Timer(0.2, go_on.set).start()
    worker = early._thread
    early.close()
    assert worker is not None
    worker.join(20)
    assert not worker.is_alive()
    assert early._process is None, "what had started meanwhile is ended too"
