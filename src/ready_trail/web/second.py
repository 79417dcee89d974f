"""A second process that answers for some of the jobs, once people work on several at one time.

Designing computes, and one process computes on one core: who changes one job kept everybody else
waiting. Each job stays with one of the two, which then has its designs. All that is true stands in
the database, so either may answer anything; the second is never needed, only faster.
"""

from __future__ import annotations

import asyncio
import logging
import marshal
import os
import re
import secrets
import signal
import time
from collections import Counter, OrderedDict, deque
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from threading import Lock, Thread
from typing import Any

from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ready_trail.web.helper import HELPER
from ready_trail.web.memory import collect_seldom
from ready_trail.web.network import MARK
from ready_trail.web.work import WORKS, context_of_processes

_JOB = re.compile(r"(?:/api)?/jobs/(\d{1,18})(?:[/.]|$)")
_WORK = re.compile(r"(?:^/work/|[?&]work=)([^/&]*)")
_SECONDS_MARK = "x"
"""Begins the names of work that runs with the second process; no other name begins so."""

_JOBS_MOST = 200
_MEETINGS, _MEETINGS_S = 3, 60.0
"""So many requests for one job while another's is being answered, in so long, start it. [s]"""

_START_S, _AGAIN_S = 60.0, 30.0
_PLAIN = ("type", "http_version", "method", "path", "raw_path", "query_string", "root_path",
          "scheme", "headers", "client", "server", MARK)  # fmt: skip
_log = logging.getLogger("ready_trail")


class Second:
    """The second process: which requests are its own, and how they get there."""

    def __init__(self, database: Path) -> None:
        self._database = database
        self._lock = Lock()
        self._going: Counter[int] = Counter()
        self._met: deque[float] = deque(maxlen=_MEETINGS)
        self._jobs: OrderedDict[int, bool] = OrderedDict()
        self.port = 0
        self._token = secrets.token_bytes(32)  # tells us from whoever else finds the port
        self._process: BaseProcess | None = None
        self._pipe: Connection | None = None
        self._ready = self._closed = self._starting = False
        self._not_before = 0.0

    @property
    def is_ready(self) -> bool:
        """Whether it can be asked."""
        return self._ready

    async def connect(self) -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
        """Return a way to ask it one thing. Raises OSError where it is gone."""
        reader, writer = await asyncio.open_connection("127.0.0.1", self.port)
        writer.write(self._token)
        return reader, writer

    def takes(self, scope: Scope) -> bool:
        """Whether a request is for it: its work, or one of its jobs."""
        if not self._ready:
            return False
        work = _WORK.search(f"{scope['path']}?{scope['query_string'].decode('latin-1')}")
        if work is not None:
            return work[1].startswith(_SECONDS_MARK)
        job_id = job_of(scope)
        if job_id is None:
            return False
        with self._lock:
            if job_id not in self._jobs:
                self._jobs[job_id] = 2 * sum(self._jobs.values()) < len(self._jobs)
            self._jobs.move_to_end(job_id)
            if len(self._jobs) > _JOBS_MOST:
                self._jobs.popitem(last=False)
            return self._jobs[job_id]

    def begun(self, job_id: int) -> None:
        """A request for a job is being answered here; start the second where jobs meet."""
        with self._lock:
            self._going[job_id] += 1
            if len(self._going) < 2 or self._ready or self._closed:
                return
            now = time.monotonic()
            self._met.append(now)
            often = len(self._met) == _MEETINGS and now - self._met[0] < _MEETINGS_S
            if not often or now < self._not_before:
                return
        Thread(target=self.start, daemon=True).start()

    def ended(self, job_id: int) -> None:
        """A request is answered."""
        with self._lock:
            self._going[job_id] -= 1
            if self._going[job_id] <= 0:
                del self._going[job_id]

    def start(self) -> bool:
        """Start the process and wait until it listens; tell whether it does."""
        with self._lock:
            if self._closed or self._ready or self._starting or not can_start():
                return self._ready
            self._starting = True
        port = 0
        try:
            context = context_of_processes()
            pipe, theirs = context.Pipe()
            process = context.Process(
                target=_serve, args=(str(self._database), self._token, theirs)
            )
            process.start()
            self._process, self._pipe = process, pipe  # now: closing must find it
            theirs.close()
            port = int(pipe.recv()) if not self._closed and pipe.poll(_START_S) else 0
        except Exception:
            if not self._closed:
                _log.exception("the second process did not start")
        with self._lock:
            self._starting = False
            self._jobs.clear()
            self.port, self._ready = port, port > 0 and not self._closed
        if not self._ready:
            self.lost()
        return self._ready

    def lost(self) -> None:
        """It does not answer: go on without, and try again some time later."""
        with self._lock:
            self._ready = False
            self._not_before = time.monotonic() + _AGAIN_S
        # who asks must not wait for its end
        Thread(target=self._end, args=(0.0,), daemon=True).start()

    def close(self) -> None:
        """End it."""
        with self._lock:
            self._closed, self._ready = True, False
        self._end(3.0)

    def _end(self, patience_s: float) -> None:
        with self._lock:
            process, pipe, self._process, self._pipe = self._process, self._pipe, None, None
        if pipe is not None:
            pipe.close()  # it sees that, and ends what it started itself
        if process is not None:
            with suppress(OSError, ValueError, AssertionError):
                process.join(timeout=patience_s)
                process.kill()
                process.join(timeout=2)


def can_start() -> bool:
    """Whether this machine has a core for it."""
    return (os.cpu_count() or 1) > 1


def job_of(scope: Scope) -> int | None:
    """Return the number of the job that a request is about, if any."""
    found = _JOB.match(scope["path"])
    return int(found[1]) if found is not None else None


class ByJob:
    """Have each request answered by the process that has its job.

    ``broken`` makes the answer where the second ended over a change: whether it was stored before
    that is not known.
    """

    def __init__(self, app: ASGIApp, *, broken: Callable[[Request], Response]) -> None:
        self.app, self.broken = app, broken

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer here, or there."""
        second = getattr(scope["app"].state, "second", None) if scope["type"] == "http" else None
        if not isinstance(second, Second):
            await self.app(scope, receive, send)
        elif second.takes(scope):
            if not await self._there(second, scope, receive, send):
                await self._here(second, scope, _once_more(receive), send)
        else:
            await self._here(second, scope, receive, send)

    async def _here(self, second: Second, scope: Scope, receive: Receive, send: Send) -> None:
        job_id = job_of(scope)
        if job_id is None:
            await self.app(scope, receive, send)
            return
        second.begun(job_id)
        try:
            await self.app(scope, receive, send)
        finally:
            second.ended(job_id)

    async def _there(self, second: Second, scope: Scope, receive: Receive, send: Send) -> bool:
        """Have it answered by the second; False where that is gone and it can be answered here."""
        try:
            reader, writer = await second.connect()
        except OSError:
            second.lost()
            return await self._instead(scope, receive, send, sent=False)
        gone = asyncio.Event()
        plain = {name: scope[name] for name in _PLAIN if name in scope}
        passing = asyncio.create_task(_pass_on(plain, receive, writer, gone))
        started = False
        try:
            while True:
                kind, payload = await _frame(reader)
                if kind == b"H":
                    status, headers = marshal.loads(payload)
                    started = True
                    await send({"type": "http.response.start", "status": status,
                                "headers": headers})  # fmt: skip
                else:
                    await send({"type": "http.response.body", "body": payload,
                                "more_body": kind == b"B"})  # fmt: skip
                    if kind == b"L":
                        return True
        except (asyncio.IncompleteReadError, OSError):
            if gone.is_set():
                return True  # nobody waits for it any more
            if started:
                raise RuntimeError("the second process ended over an answer") from None
            return await self._instead(scope, receive, send, sent=True)
        finally:
            passing.cancel()
            writer.close()

    async def _instead(self, scope: Scope, receive: Receive, send: Send, *, sent: bool) -> bool:
        """What is only read is answered here. Of a change that was sent nobody knows."""
        if scope["method"] in ("GET", "HEAD"):
            return False
        if sent:
            await self.broken(Request(scope))(scope, receive, send)
        else:
            await self.app(scope, receive, send)
        return True


def _once_more(receive: Receive) -> Receive:
    """The request without a body that was taken already, then whatever comes."""
    taken = False

    async def next_part() -> Message:
        nonlocal taken
        if taken:
            return await receive()
        taken = True
        return {"type": "http.request", "body": b"", "more_body": False}

    return next_part


async def _pass_on(
    scope: dict[str, Any], receive: Receive, writer: asyncio.StreamWriter, gone: asyncio.Event
) -> None:
    """Send a request on as it comes, and that its sender went away."""
    try:
        await _write(writer, b"S", marshal.dumps(scope))
        while True:
            message = await receive()
            if message["type"] != "http.request":
                break
            kind = b"B" if message.get("more_body", False) else b"L"
            await _write(writer, kind, message.get("body", b""))
    except OSError:
        return  # who reads the answer sees that too
    gone.set()
    writer.close()


async def _frame(reader: asyncio.StreamReader) -> tuple[bytes, bytes]:
    head = await reader.readexactly(5)
    return head[:1], await reader.readexactly(int.from_bytes(head[1:], "big"))


async def _write(writer: asyncio.StreamWriter, kind: bytes, payload: bytes) -> None:
    writer.write(kind + len(payload).to_bytes(4, "big") + payload)
    await writer.drain()


def _serve(database: str, token: bytes, pipe: Connection) -> None:
    """In the process: answer until the first one is gone."""
    from ready_trail.web.app import create_app  # late: the app knows this module

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the first one says when it is over
    WORKS.mark, WORKS.running_most = _SECONDS_MARK, 1
    app = create_app(Path(database))
    HELPER.warm()
    collect_seldom()
    try:
        asyncio.run(_listen(app, token, pipe))
    finally:
        HELPER.close()
        WORKS.close()


async def _listen(app: Any, token: bytes, pipe: Connection) -> None:
    over = asyncio.Event()
    Thread(target=_wait_for_end, args=(pipe, asyncio.get_running_loop(), over), daemon=True).start()

    async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with suppress(OSError, asyncio.IncompleteReadError):
            if secrets.compare_digest(await reader.readexactly(len(token)), token):
                await _answer(app, reader, writer)
        writer.close()

    async with app.router.lifespan_context(app):
        server = await asyncio.start_server(answer, "127.0.0.1", 0)
        pipe.send(server.sockets[0].getsockname()[1])
        await over.wait()
        server.close()


def _wait_for_end(pipe: Connection, loop: asyncio.AbstractEventLoop, over: asyncio.Event) -> None:
    with suppress(EOFError, OSError):
        pipe.recv()  # nothing comes: it ends when the first process closes it, or is gone
    with suppress(RuntimeError):
        loop.call_soon_threadsafe(over.set)


async def _answer(app: ASGIApp, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    _, payload = await _frame(reader)
    scope: Scope = {**marshal.loads(payload), "asgi": {"version": "3.0", "spec_version": "2.3"},
                    "extensions": {}, "state": {}}  # fmt: skip

    async def receive() -> Message:
        try:
            kind, body = await _frame(reader)
        except (asyncio.IncompleteReadError, OSError):
            return {"type": "http.disconnect"}
        return {"type": "http.request", "body": body, "more_body": kind == b"B"}

    async def send(message: Message) -> None:
        with suppress(OSError):  # who asked went away, which is no mistake
            if message["type"] == "http.response.start":
                head = (message["status"], [(bytes(n), bytes(v)) for n, v in message["headers"]])
                await _write(writer, b"H", marshal.dumps(head))
            elif message["type"] == "http.response.body":
                kind = b"B" if message.get("more_body", False) else b"L"
                await _write(writer, kind, bytes(message.get("body", b"")))

    try:
        await app(scope, receive, send)
    except Exception:
        _log.debug("an answer of the second process failed", exc_info=True)  # told where it arose
