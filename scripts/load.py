"""Measure what many do at once: clients with pauses, kills while writing, thousands of edits.

``CLIENTS`` (20), ``SECONDS`` (60) after ``BEFORE`` (12), ``PAUSE`` (4: pauses of 0 to 4 s),
``KILLS`` (200), ``EDITS`` (5,000). Numbers are printed beside their goals; nothing is asserted
about time.
"""

from __future__ import annotations

import html
import http.client
import json
import os
import random
import re
import signal
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).parent.parent
CLIENTS = int(os.environ.get("CLIENTS", "20"))
SECONDS = float(os.environ.get("SECONDS", "60"))
BEFORE = float(os.environ.get("BEFORE", "12"))
PAUSE = float(os.environ.get("PAUSE", "4"))
KILLS = int(os.environ.get("KILLS", "200"))
EDITS = int(os.environ.get("EDITS", "5000"))


class Server:
    """A real server on a database, in a process of its own."""

    def __init__(self, database: Path) -> None:
        command = [
            sys.executable,
            "-m",
            "ready_trail",
            "demo",
            "--db",
            str(database),
            "--port",
            "0",
        ]
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, text=True, env=env, stderr=subprocess.DEVNULL
        )
        assert self.process.stdout is not None
        found = re.search(r"http://([\d.]+):(\d+)", self.process.stdout.readline())
        assert found is not None
        self.host, self.port = found[1], int(found[2])

    def ask(
        self, method: str, path: str, fields: dict[str, str] | None = None, body: str = ""
    ) -> tuple[int, str, str]:
        conn = http.client.HTTPConnection(self.host, self.port, timeout=120)
        data = body or (urlencode(fields) if fields else None)
        kind = "application/json" if body else "application/x-www-form-urlencoded"
        conn.request(method, path, data, {"Content-Type": kind} if data else {})
        answer = conn.getresponse()
        text = answer.read().decode(errors="replace")
        conn.close()
        return answer.status, answer.headers.get("Location", ""), text

    def revision(self, job_id: int) -> int:
        return int(json.loads(self.ask("GET", f"/jobs/{job_id}/head")[2])["revision"])

    def edit(self, job_id: int, **edit: str) -> int:
        """Change a job on its head; return the status of the answer."""
        path = f"/api/jobs/{job_id}/edits?revision={self.revision(job_id)}"
        return self.ask("POST", path, body=json.dumps(edit))[0]

    def rename(self, job_id: int, name: str) -> int:
        """Rename a job on its head; return the status of the answer."""
        return self.edit(job_id, kind="rename_job", name=name)

    def effects(self, job_id: int, text: str) -> int:
        """Ask for what the ways out of a page would change, as the page does; the last status."""
        found = re.search(r'data-revision="(\d+)"', text)
        edits = list(
            dict.fromkeys(html.unescape(e) for e in re.findall(r'data-effect="([^"]+)"', text))
        )
        status = 200
        for at in range(0, len(edits), 6):
            asked = [
                ("revision", found[1] if found else "0"),
                *(("edit", e) for e in edits[at : at + 6]),
            ]
            status = self.ask("GET", f"/jobs/{job_id}/effects?{urlencode(asked)}")[0]
            if status != 200:
                break
        return status

    def memory_mb(self) -> float:
        return memory_mb(self.process.pid)

    def family_mb(self) -> float:
        """Return what the server and all that it started take; what they share counts once."""
        listed = subprocess.run(
            ["ps", "-eo", "pid=,ppid="], capture_output=True, text=True, check=True
        )
        parents = dict(tuple(map(int, line.split())) for line in listed.stdout.splitlines())
        family = [self.process.pid]
        for pid in family:
            family += [child for child, parent in parents.items() if parent == pid]
        return sum(memory_mb(pid, "smaps_rollup", "Pss") for pid in family)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait()


def clients(pause_s: float, *, many_jobs: bool) -> None:
    """People who read pages and change things, on one job or each on one of several.

    Half of the changes are a new name, half another wire. What a page asks for after it is there
    counts apart: nobody waits for it with empty hands. The first seconds are not counted:
    each job is designed anew there once.
    """
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "c.db")
        if many_jobs:
            for _ in range(5):
                server.ask("POST", "/jobs/3/duplicate", {})
        for page in ("circuits/c15", "supply", "build", "review", "accessories"):
            server.ask("GET", f"/jobs/3/{page}")  # a server that has just started is not measured
        time.sleep(5)
        spent: list[float] = []
        pages_only: list[float] = []
        later: list[float] = []
        odd: list[int] = []
        stored: list[str] = []
        lock = threading.Lock()
        counted = time.monotonic() + BEFORE
        end = counted + SECONDS

        def person(number: int) -> None:
            rng = random.Random(number)
            job = 4 + number % 5 if many_jobs else 3
            pages = [
                f"/jobs/{job}/circuits/c15",
                f"/jobs/{job}/supply",
                f"/jobs/{job}/build",
                f"/jobs/{job}/review",
                f"/jobs/{job}/accessories",
            ]
            time.sleep(rng.random() * pause_s)  # people do not all begin in the same moment
            while time.monotonic() < end:
                begin = time.perf_counter()
                name = ""
                text = ""
                if rng.random() < 0.125:
                    name = f"Name {number} {rng.random():.6f}"
                    status = server.rename(job, name)
                elif rng.random() < 1 / 7:
                    status = server.edit(
                        job,
                        kind="hold_choice",
                        what="size",
                        circuit_id=rng.choice(["c15", "c17", "c18", "c22"]),
                        value=rng.choice(["10", "8", "6"]),
                    )
                else:
                    status, _, text = server.ask("GET", rng.choice(pages))
                took_s = time.perf_counter() - begin
                with lock:
                    if time.monotonic() - took_s > counted:
                        spent.append(took_s)
                        pages_only.extend([took_s] if text else [])
                begin, begin_s = time.perf_counter(), time.monotonic()
                if "data-effect=" in text:
                    more = server.effects(job, text)
                    with lock:
                        if begin_s > counted:
                            later.append(time.perf_counter() - begin)
                        odd.extend([more] if more >= 500 else [])
                with lock:
                    if status >= 500:
                        odd.append(status)
                    if name and status == 200:
                        stored.append(name)
                time.sleep(rng.random() * pause_s)

        threads = [threading.Thread(target=person, args=(n,)) for n in range(CLIENTS)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        whole_mb = server.family_mb()
        server.stop()
        conn = sqlite3.connect(Path(folder) / "c.db")
        titles = {row[0] for row in conn.execute("SELECT title FROM revision")}
        conn.close()
        lost = sum(not any(name in title for title in titles) for name in stored)
        where = "several jobs" if many_jobs else "one job"
        print(
            f"{CLIENTS} clients on {where}, pauses 0 to {pause_s:g} s, {SECONDS:g} s: "
            f"{len(spent)} requests, median {statistics.median(spent) * 1e3:.0f} ms, "
            f"p95 {p95_ms(spent):.0f} ms (goal {250 if pause_s >= 2 else 1000} ms), of pages "
            f"alone {p95_ms(pages_only):.0f} ms, of what ways out change "
            f"{p95_ms(later):.0f} ms after the page, "
            f"{len(odd)} server errors, {lost} of {len(stored)} changes lost; all "
            f"processes take {whole_mb:.0f} MB"
        )


def memory_mb(pid: int, name: str = "status", what: str = "VmRSS") -> float:
    found = re.search(rf"{what}:\s+(\d+)", Path(f"/proc/{pid}/{name}").read_text())
    return int(found[1]) / 1024 if found else 0.0


def p95_ms(seconds: list[float]) -> float:
    return sorted(seconds)[int(len(seconds) * 0.95)] * 1e3 if seconds else 0.0


def kills() -> None:
    """Kill the server while it writes; whatever it acknowledged must be there afterwards."""
    acknowledged, broken = 0, 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "k.db"
        names: list[str] = []
        for number in range(KILLS):
            server = Server(path)
            rng = random.Random(number)
            done = threading.Event()

            def write(
                server: Server = server, done: threading.Event = done, number: int = number
            ) -> None:
                count = 0
                while not done.is_set():
                    name = f"K{number}-{count}"
                    try:
                        if server.rename(3, name) == 200:
                            names.append(name)
                    except (OSError, http.client.HTTPException, ValueError):
                        return
                    count += 1

            thread = threading.Thread(target=write)
            thread.start()
            begun = len(names)
            while len(names) == begun and thread.is_alive():
                time.sleep(0.005)
            time.sleep(rng.random() * 0.3)
            os.kill(server.process.pid, signal.SIGKILL)
            server.process.wait()
            done.set()
            thread.join()
            conn = sqlite3.connect(path)
            if conn.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                broken += 1
            conn.close()
        conn = sqlite3.connect(path)
        titles = {row[0] for row in conn.execute("SELECT title FROM revision")}
        conn.close()
        acknowledged = len(names)
        lost = sum(not any(title.endswith(name) for title in titles) for name in names)
    print(
        f"{KILLS} kills -9 while writing: {acknowledged} changes acknowledged, {lost} lost "
        f"(goal 0), {broken} times not whole (goal 0)"
    )


def edits() -> None:
    """Thousands of edits of the demo job: what the server and its file grow by."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "e.db"
        server = Server(path)
        conn = http.client.HTTPConnection(server.host, server.port, timeout=60)
        head = server.revision(3)
        sizes = ["10", "8", "6", "12"]
        warm_mb, warm_bytes = 0.0, 0
        for number in range(EDITS + 200):
            edit = {
                "kind": "hold_choice",
                "circuit_id": "c15",
                "what": "size",
                "value": sizes[number % len(sizes)],
            }
            conn.request(
                "POST",
                f"/api/jobs/3/edits?revision={head}",
                json.dumps(edit),
                {"Content-Type": "application/json"},
            )
            answer = conn.getresponse()
            told = json.loads(answer.read())
            head = int(told.get("revision", head))
            if number == 199:
                warm_mb, warm_bytes = server.memory_mb(), size_of(path)
        grown_mb = server.memory_mb() - warm_mb
        server.stop()
        per = (size_of(path) - warm_bytes) / max(1, EDITS)
    print(
        f"{EDITS} edits of the demo job: the server grew by {grown_mb:.1f} MB (goal 20 MB), "
        f"the file by {per:.0f} bytes a revision (each whole, packed)"
    )


def size_of(path: Path) -> int:
    files = [path, path.with_name(path.name + "-wal")]
    return sum(p.stat().st_size for p in files if p.exists())


if __name__ == "__main__":
    if EDITS:
        edits()
    if KILLS:
        kills()
    if CLIENTS:
        for pause_s in (PAUSE, 0.3):
            clients(pause_s, many_jobs=False)
            clients(pause_s, many_jobs=True)
