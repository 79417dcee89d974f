"""Long work in a process of its own: it tells how far it is, can be left, and can be stopped.

The result is a file that is kept until the server stops. Nothing of the server is shared with
the process: it gets plain values, and answers through a pipe.
"""

from __future__ import annotations

import logging
import multiprocessing
import os
import signal
import tempfile
import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from threading import Lock, Thread
from typing import Any, Literal
from uuid import uuid4

from ready_trail.formats.pdf import PdfUnavailableError

State = Literal["running", "done", "failed", "stopped"]
Report = Callable[[int, int, str], None]
"""Called with what is done, of how much, and in words what comes next."""
Then = Callable[[Path], str]
"""What the server does with the file of work that is done; it returns where that leads."""

_KEPT_MOST = 30
_RUNNING_MOST = 3
_WAITING_MOST = 12
_log = logging.getLogger("ready_trail")


@dataclass(slots=True, kw_only=True)
class Work:
    """One piece of long work. ``name`` is the file that it makes; ``leads_to`` is the page where
    the result is, for work whose result is more than a file.
    """

    id: str
    key: str
    name: str
    media_type: str
    path: Path
    make: Callable[..., bytes] = bytes
    args: tuple[Any, ...] = ()
    begun: bool = False
    state: State = "running"
    done: int = 0
    total: int = 1
    words: str = "Waits for its turn"
    started: float = field(default_factory=time.monotonic)
    seconds: float = 0.0
    process: BaseProcess | None = None
    unavailable: bool = False
    then: Then | None = None
    leads_to: str = ""


class WorkRefusedError(Exception):
    """Raised by what makes a result: it was asked of something that will not do, in plain words."""


class WorkFailedError(Exception):
    """Work ended without a result, by a mistake of the program."""


class TooMuchWorkError(Exception):
    """As much is waiting as anybody would wait for."""


class Works:
    """The long work of one server."""

    def __init__(self) -> None:
        self._works: OrderedDict[str, Work] = OrderedDict()
        self._line: list[Work] = []
        self._lock = Lock()
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._context: Any = None
        self.mark = ""
        """Begins the names of this process's work, where several processes answer."""
        self.running_most = _RUNNING_MOST

    def start(
        self, key: str, name: str, media_type: str, make: Callable[..., bytes], *args: Any,
        then: Then | None = None,
    ) -> Work:  # fmt: skip
        """Start work in another process, or return what already runs or is done for this key.

        ``make`` is a function of a module; it gets the arguments and a ``report``. ``then`` runs
        here, once, when it is done, whether or not anybody still looks. It waits where others run.
        Raises TooMuchWorkError.
        """
        with self._lock:
            same = next((w for w in self._works.values()
                         if w.key == key and w.state in ("running", "done")), None)  # fmt: skip
            if same is not None:
                return same
            if sum(w.state == "running" for w in self._line) >= _WAITING_MOST:
                raise TooMuchWorkError(
                    f"{self.running_most} pieces of long work run and {_WAITING_MOST} wait "
                    "already; let some of them end, or stop them"
                )
            folder = self._prepare()
            work_id = f"{self.mark}{uuid4().hex}"
            work = Work(id=work_id, key=key, name=name, media_type=media_type,
                        path=folder / work_id, make=make, args=args, then=then)  # fmt: skip
            self._works[work_id] = work
            self._line.append(work)
            self._forget_old()
        self._begin_next()
        return work

    def _begin_next(self) -> None:
        """Begin what waits, the longest first, as far as this machine has room."""
        while True:
            with self._lock:
                self._line = [w for w in self._line if w.state == "running"]
                going = sum(w.begun and w.state == "running" for w in self._works.values())
                if going >= self.running_most or not self._line:
                    return
                work = self._line.pop(0)
                work.begun, work.words, work.started = True, "Starting", time.monotonic()
            self._begin(work)

    def _begin(self, work: Work) -> None:
        here, there = self._context.Pipe(duplex=False)
        process = self._context.Process(
            target=_run, args=(there, str(work.path), work.make, work.args), daemon=False
        )
        work.args = ()
        try:
            process.start()
        except Exception:  # it was asked for long ago: nobody is there to be told otherwise
            work.state, work.words = "failed", "This machine cannot start another process."
            _log.exception("no process for long work")
            here.close()
            return
        finally:
            there.close()
        work.process = process
        if work.state == "stopped":  # while it was being started
            _kill(process)
        Thread(target=self._follow, args=(work, here), daemon=True).start()

    def warm(self) -> None:
        """Have the clean process ready before anybody asks: its imports take a second."""
        with self._lock:
            self._prepare()
        process = self._context.Process(target=int, daemon=True)
        process.start()
        process.join()

    def _prepare(self) -> Path:
        """Make the folder of results, and the way to start processes, once."""
        if self._folder is None:
            self._folder = tempfile.TemporaryDirectory(prefix="ready-trail-")
            self._context = context_of_processes()
        return Path(self._folder.name)

    def get(self, work_id: str) -> Work | None:
        """Return a piece of work, or None."""
        with self._lock:
            return self._works.get(work_id)

    def stop(self, work_id: str) -> None:
        """Stop work that runs or waits; its process is gone at once."""
        work = self.get(work_id)
        if work is not None and work.state == "running":
            work.state = "stopped"
            if work.process is not None:
                _kill(work.process)

    def close(self) -> None:
        """Stop everything and throw the results away."""
        with self._lock:
            self._line.clear()
        for work in list(self._works.values()):
            self.stop(work.id)
        if self._folder is not None:
            self._folder.cleanup()

    def _follow(self, work: Work, pipe: Connection) -> None:
        """Read what the process tells until it is gone."""
        finished = False
        try:
            while True:
                kind, done, total, words = pipe.recv()
                work.done, work.total, work.words = done, max(1, total), words
                if kind != "report":
                    finished = kind == "done"
                    work.unavailable = kind == "unavailable"
                    break
        except (EOFError, OSError):
            work.words = "It ended without a result."
        finally:
            pipe.close()
            if work.process is not None:
                work.process.join()
            work.seconds = time.monotonic() - work.started
            if work.state == "running":
                done = finished and work.path.exists() and _followed_up(work)
                work.state = "done" if done else "failed"
            self._begin_next()

    def _forget_old(self) -> None:
        ended = [w for w in self._works.values() if w.state != "running"]
        for work in ended[: max(0, len(self._works) - _KEPT_MOST)]:
            work.path.unlink(missing_ok=True)
            del self._works[work.id]


def _followed_up(work: Work) -> bool:
    """Do what follows from a result; tell whether that went well."""
    try:
        if work.then is not None:
            work.leads_to = work.then(work.path)
    except Exception as error:
        _log.exception("what follows long work failed")
        work.words = f"It did not work: {error}."
        return False
    return True


def _kill(process: BaseProcess) -> None:
    """Stop a process with everything that it started."""
    if process.pid is not None and hasattr(os, "killpg"):
        with suppress(ProcessLookupError, PermissionError):
            if os.getpgid(process.pid) == process.pid:
                os.killpg(process.pid, signal.SIGKILL)
                return
    process.kill()


def context_of_processes() -> Any:
    """Fork from a clean process that has the slow imports done; start anew where that is not."""
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(
        [
            "ready_trail.web.app",
            "ready_trail.web.pages.book",
            "ready_trail.web.pages.effects",
            "ready_trail.web.warm",
            "pikepdf",
        ]
    )
    return context


def _run(pipe: Connection, path: str, make: Callable[..., bytes], args: tuple[Any, ...]) -> None:
    """In the process: make the result, and tell how far it is."""

    def report(done: int, total: int, words: str) -> None:
        pipe.send(("report", done, total, words))

    if hasattr(os, "setsid"):
        os.setsid()  # what this process starts is stopped with it
    try:
        result = make(*args, report=report)
        partial = Path(f"{path}.part")
        partial.write_bytes(result)
        partial.rename(path)
        pipe.send(("done", 1, 1, "Done"))
    except BrokenPipeError:
        return  # the server is gone, and nobody wants the result
    except WorkRefusedError as error:
        pipe.send(("refused", 0, 1, f"{error}"))
    except PdfUnavailableError as error:
        pipe.send(("unavailable", 0, 1, f"{error}"))
    except Exception as error:
        _log.exception("long work failed")
        pipe.send(("failed", 0, 1, f"It did not work: {error}."))


WORKS = Works()
"""Of this process; a server's lifespan closes it."""
