"""The process that answers for some of the jobs: as the first would, and never needed."""

from __future__ import annotations

import asyncio
import http.client
import marshal
import os
import signal
import socket
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Thread
from typing import cast

import pytest
from fastapi import FastAPI
from starlette.responses import Response
from starlette.testclient import TestClient
from starlette.types import Receive, Scope, Send

from ready_trail.store import db, devices, jobs
from ready_trail.store.recent import Recent
from ready_trail.web.app import create_app
from ready_trail.web.network import COOKIE, Network, own_addresses
from ready_trail.web.second import Second, _answer, can_start

pytestmark = pytest.mark.skipif(not can_start(), reason="one core has no room for a second process")

FIRSTS, SECONDS = 1, 2
"""Jobs that the first and the second process get, in the order in which they are asked for."""


@pytest.fixture
def second(database: Path) -> Iterator[Second]:
    second = Second(database)
    assert second.start()
    yield second
    second.close()


@pytest.fixture
def app(database: Path, second: Second) -> FastAPI:
    app = create_app(database)
    app.state.second = second
    return app


@pytest.fixture
def both(app: FastAPI, second: Second) -> Iterator[TestClient]:
    with TestClient(app, base_url="http://127.0.0.1") as client:
        for job_id in (FIRSTS, SECONDS):
            assert client.get(f"/jobs/{job_id}/head").status_code == 200
        assert [asked(second, f"/jobs/{n}/head") for n in (FIRSTS, SECONDS)] == [False, True]
        yield client


def asked(second: Second, path: str, query: bytes = b"") -> bool:
    return second.takes({"type": "http", "path": path, "query_string": query})


def pid_of(second: Second) -> int:
    assert second._process is not None
    assert second._process.pid is not None
    return second._process.pid


def wait_until(holds: Callable[[], bool]) -> None:
    end = time.monotonic() + 30
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.02)


def is_gone(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return True
    return False


def test_it_answers_as_the_first_does(
    both: TestClient, client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Pages, files, refusals and headers of a job are the same by either process."""
    # words of ways out that another test had reckoned stand in a review at once
    monkeypatch.setattr("ready_trail.web.pages.effects._TOLD", Recent(1))
    for path in ("/jobs/2/circuits/c15", "/jobs/2/review", "/jobs/2/job.json", "/api/jobs/2",
                 "/jobs/2/circuits/none", "/jobs/2/wires.csv"):  # fmt: skip
        by_both, alone = both.get(path), client.get(path)
        assert by_both.status_code == alone.status_code
        assert by_both.text == alone.text
        ours = {k: v for k, v in alone.headers.items() if k != "date"}
        assert {k: v for k, v in by_both.headers.items() if k != "date"} == ours
    assert both.get("/jobs/2/head", headers={"Host": "evil.example"}).status_code == 400
    refused = both.post("/jobs/2/brief/vehicle", data={"revision": "1"},
                        headers={"Origin": "http://evil.example"})  # fmt: skip
    assert refused.status_code == 403


def test_changes_by_either_are_one_truth(both: TestClient, second: Second, database: Path) -> None:
    edit = {"kind": "hold_choice", "circuit_id": "c15", "what": "size", "value": "8"}
    for job_id in (FIRSTS, SECONDS):
        answer = both.post(f"/api/jobs/{job_id}/edits?revision=1", json=edit)
        assert answer.status_code == 200
        stale = both.post(f"/api/jobs/{job_id}/edits?revision=1", json=edit)
        assert stale.status_code == 409
    large = both.post("/api/jobs/2/edits?revision=2", content=b"[" * 3_000_000)
    assert large.status_code == 422, "a body that comes in parts is read whole"
    conn = db.connect(database)
    held = {jobs.get_job(conn, n).job.circuit("c15").held.size for n in (FIRSTS, SECONDS)}
    conn.close()
    assert held == {"8"}
    os.kill(pid_of(second), signal.SIGKILL)
    for _ in range(2):
        assert "8 AWG" in both.get("/jobs/2/circuits/c15").text, "the first answers for it then"
    assert not second.is_ready
    assert both.post("/api/jobs/2/edits?revision=2", json=edit | {"value": "6"}).status_code == 200


def test_of_a_change_over_which_it_ended_nobody_claims_to_know(
    both: TestClient, second: Second, monkeypatch: pytest.MonkeyPatch
) -> None:
    pid, connect, under_way = pid_of(second), second.connect, []

    async def counted() -> tuple[asyncio.StreamReader, asyncio.StreamWriter]:
        under_way.append(await connect())
        return under_way[-1]

    monkeypatch.setattr(second, "connect", counted)
    os.kill(pid, signal.SIGSTOP)
    answers = []
    change = Thread(
        target=lambda: answers.append(both.post("/jobs/2/undo", data={"revision": "1"}))
    )
    reading = Thread(target=lambda: answers.append(both.get("/jobs/2/review")))
    change.start()
    reading.start()
    wait_until(lambda: len(under_way) == 2)
    os.kill(pid, signal.SIGKILL)
    change.join(60)
    reading.join(60)
    found = {answer.request.method: answer for answer in answers}
    assert found["GET"].status_code == 200, "what is only read is answered all the same"
    assert found["POST"].status_code == 503
    assert "history" in found["POST"].text
    assert found["POST"].headers["content-security-policy"]


def test_a_device_of_the_network_meets_the_same_door(
    app: FastAPI, both: TestClient, database: Path
) -> None:
    """A job that the second has is as shut to strangers, and to those who may only look."""
    door: Network = app.state.network
    door.open(0, ips=(own_addresses() or ("127.0.0.1",))[:1])
    wait_until(lambda: all(server.started for server in door._servers))
    conn = db.connect(database)
    with db.transaction(conn):
        token = devices.add_device(conn, "Ina")
        devices.set_read_only(conn, devices.list_devices(conn)[0].device_id, read_only=True)
    conn.close()

    def ask(method: str, path: str, cookie: str) -> int:
        connection = http.client.HTTPConnection(door.addresses[0].removeprefix("http://"))
        connection.request(method, path, headers={"Cookie": cookie})
        status = connection.getresponse().status
        connection.close()
        return status

    paired = f"{COOKIE}={token}"
    assert [ask("GET", "/jobs/2/build", c) for c in ("", paired)] == [403, 200]
    assert [ask("POST", "/jobs/2/undo", c) for c in ("", paired)] == [403, 403]
    door.close()


def test_its_long_work_is_asked_of_it(both: TestClient, second: Second) -> None:
    started = both.post("/jobs/2/build/book", data={"what": "sheets"}, follow_redirects=False)
    name = started.headers["location"].partition("work=")[2].partition("&")[0]
    assert name.startswith("x")
    assert asked(second, f"/work/{name}")
    assert asked(second, "/jobs/1/build/book", f"work={name}".encode())
    assert both.get(f"/work/{name}").status_code == 200
    assert both.post(f"/work/{name}/stop", data={"back": "/"}).status_code == 200
    assert both.get("/work/other").status_code == 404


def test_one_who_goes_away_is_no_mistake_of_an_answer() -> None:
    """A browser leaves a page while something of it is still being made."""
    heard: list[str] = []

    async def app(scope: Scope, receive: Receive, send: Send) -> None:
        heard.append((await receive())["type"])
        await Response("made for nobody")(scope, receive, send)
        heard.append("answered")

    class Gone:
        def write(self, data: bytes) -> None:
            raise ConnectionResetError

    async def ask() -> None:
        reader = asyncio.StreamReader()
        asked = marshal.dumps({"type": "http", "headers": [], "method": "GET"})
        reader.feed_data(b"S" + len(asked).to_bytes(4, "big") + asked)
        reader.feed_eof()
        await _answer(app, reader, cast("asyncio.StreamWriter", Gone()))

    alone = Thread(target=lambda: asyncio.run(ask()))  # browser tests keep a loop in this one
    alone.start()
    alone.join()
    assert heard == ["http.disconnect", "answered"]


def test_it_starts_only_where_jobs_meet(database: Path) -> None:
    second = Second(database)
    for _ in range(9):  # one job, however much is asked of it
        second.begun(1)
    assert not second._starting
    for _ in range(2):
        second.begun(2)
    assert not second._starting
    second.begun(2)
    wait_until(lambda: second.is_ready)
    for job_id in [1] * 9 + [2] * 3:
        second.ended(job_id)
    assert not second._going
    pid = pid_of(second)
    second.close()
    assert is_gone(pid)
    assert not second.start(), "what was closed stays closed"


def test_nobody_else_is_answered_and_it_ends_with_its_owner(second: Second) -> None:
    with socket.create_connection(("127.0.0.1", second.port), timeout=20) as stranger:
        stranger.sendall(bytes(32) + b"S\0\0\0\1N")
        assert stranger.recv(10) == b""
    pid = pid_of(second)
    assert second._pipe is not None
    second._pipe.close()  # as when its owner is killed
    wait_until(lambda: second._process is None or not second._process.is_alive())
    assert is_gone(pid)
