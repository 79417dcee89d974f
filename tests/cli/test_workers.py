"""Several processes that answer: one truth, and none is missed."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest

from ready_trail.store import db, pairing
from ready_trail.web.door import own_addresses

SRC = Path(__file__).parents[2] / "src"


class Server:
    """The demo, answered by two processes."""

    def __init__(self, database: Path, *more: str) -> None:
        command = [
            sys.executable,
            "-m",
            "ready_trail",
            "demo",
            "--db",
            str(database),
            "--port",
            "0",
            "--workers",
            "2",
            *more,
        ]
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": str(SRC)}
        )
        assert self.process.stdout is not None
        found = re.search(r"http://[\d.:]+", self.process.stdout.readline())
        assert found is not None
        self.url = found[0]

    def ask(self, path: str, data: bytes | None = None, kind: str = "application/json") -> bytes:
        request = urllib.request.Request(f"{self.url}{path}", data, {"Content-Type": kind})
        with urllib.request.urlopen(request, timeout=180) as answer:
            return bytes(answer.read())

    def workers(self) -> list[int]:
        """The processes that answer: they alone have the application's port."""
        asked = ["ps", "-ww", "-o", "pid=", "-o", "args=", "--ppid", str(self.process.pid)]
        listed = subprocess.run(asked, capture_output=True, text=True, check=True)
        return [int(line.split()[0]) for line in listed.stdout.splitlines() if "spawn_main" in line]


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    server = Server(tmp_path / "w.db")
    yield server
    server.process.terminate()
    assert server.process.wait(30) == 0
    assert server.process.stdout is not None
    server.process.stdout.close()


def test_one_that_is_killed_while_it_saves_loses_nothing(server: Server, tmp_path: Path) -> None:
    server.ask("/")
    kept, killed = [], 0
    for number in range(60):
        if number in (15, 35):
            os.kill(server.workers()[0], signal.SIGKILL)
            killed += 1
        try:
            head = json.loads(server.ask("/jobs/1/head"))["revision"]
            edit = json.dumps({"kind": "rename_job", "name": f"Name {number}"}).encode()
            server.ask(f"/api/jobs/1/edits?revision={head}", edit)
        except (OSError, urllib.error.URLError):
            continue  # whoever asked a dying process is told by a broken connection
        kept.append(f"Name {number}")
    assert killed == 2
    assert len(kept) > 40
    with closing(db.connect(tmp_path / "w.db")) as conn:
        titles = " ".join(row[0] for row in conn.execute("SELECT title FROM revision"))
    assert [name for name in kept if name not in titles] == []
    end = time.monotonic() + 180
    while len(server.workers()) < 2:
        assert time.monotonic() < end, "another one takes the place of one that died"
        time.sleep(0.1)


@pytest.mark.skipif(not own_addresses(), reason="this machine has no address on a network")
def test_the_door_is_opened_and_shut_by_all_of_them(server: Server, tmp_path: Path) -> None:
    form = "application/x-www-form-urlencoded"
    server.ask("/settings/network", b"open=true", form)
    door = f"http://{own_addresses()[0]}:{server.url.rpartition(':')[2]}"
    with closing(db.connect(tmp_path / "w.db")) as conn:
        code, _ = pairing.code(conn)

    def pages() -> list[int]:
        found = []
        for _ in range(12):
            try:
                with urllib.request.urlopen(f"{door}/pair?code={code}", timeout=180) as answer:
                    found.append(answer.status)
            except OSError:
                found.append(0)
        return found

    end = time.monotonic() + 180
    while pages() != [200] * 12:
        assert time.monotonic() < end
    server.ask("/settings/network", b"open=false", form)
    while pages() != [0] * 12:
        assert time.monotonic() < end
