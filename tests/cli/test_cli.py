"""The command line as a person or a script uses it."""

from __future__ import annotations

import io
import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any

import pytest

from ready_trail.cli import main
from ready_trail.core.design import design
from ready_trail.formats.size_json import SizeInputs
from support import CATALOGUE, MARMOT_FILE, demo

ROOT = Path(__file__).parents[2]
ENV = {**os.environ, "PYTHONPATH": str(ROOT / "src")}


def run(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
    """Run a command in this process: starting another one costs seconds, and adds nothing."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            code: Any = main([str(a) for a in arguments])
        except SystemExit as ended:
            code = ended.code or 0
    return subprocess.CompletedProcess(arguments, int(code), out.getvalue(), err.getvalue())


def test_it_starts_as_a_program_of_its_own(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "ready_trail", "size", str(tmp_path / "none.json")]
    done = subprocess.run(
        command, capture_output=True, text=True, env=ENV, timeout=180, check=False
    )
    assert done.returncode == 1
    assert done.stderr.startswith("ready-trail: cannot read")


def printed(*arguments: str | Path) -> Any:
    done = run(*arguments)
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def test_size_takes_one_object_or_a_list(tmp_path: Path) -> None:
    cases = json.loads((ROOT / "tests/data/worked_examples.json").read_text())
    many = tmp_path / "many.json"
    many.write_text(json.dumps([case["inputs"] for case in cases]))
    answers = printed("size", many)
    assert [a["ok"] for a in answers] == [case["expected"]["ok"] for case in cases]
    one = tmp_path / "one.json"
    one.write_text(json.dumps(cases[0]["inputs"]))
    assert printed("size", one) == answers[:1]


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("nope", "is not JSON"),
        ('{"current_a": 5}', "run_m: Field required"),
        ('[{"current_a": 5, "run_m": 2}, {"current_a": -5, "run_m": 2}]', "1.current_a"),
        ('{"current_a": 5, "run_m": 2, "wire": 3}', "wire: Extra inputs"),
        ('{"current_a": 5, "run_m": 2, "relay": "huge"}', "no relay 'huge'"),
        ('{"current_a": 5, "run_m": 2, "families": ["twig"]}', "twig"),
    ],
)
def test_size_refuses_with_a_plain_message(tmp_path: Path, text: str, message: str) -> None:
    path = tmp_path / "in.json"
    path.write_text(text)
    done = run("size", path)
    assert done.returncode == 1
    assert message in done.stderr
    assert "Traceback" not in done.stderr


def test_design_prints_the_job() -> None:
    made = printed("design", MARMOT_FILE)
    assert (made["ready"], made["circuits_total"]) == (18, 19)
    assert made["circuits"][0]["wires"][0]["label"] == "C2-W1"


def test_solve_and_netlist_name_the_same_nodes(tmp_path: Path) -> None:
    state = ("--key", "run", "--lights", "high", "--on", "Roof light bar", "--on", "c16")
    solved = printed("solve", MARMOT_FILE, *state)
    assert solved["relays"]["k15_coil"] == "energised"
    assert solved["relays"]["k17_coil"] == "released"
    deck = tmp_path / "deck.cir"
    deck.write_text(run("netlist", MARMOT_FILE, *state).stdout)
    out = subprocess.run(
        ["ngspice", "-b", str(deck)], capture_output=True, text=True, timeout=180, check=False
    ).stdout
    for node, volts in solved["node_v"].items():
        found = re.search(rf"^\s*{node}\s+(-?\d[\d.]*(?:e[+-]\d+)?)\s*$", out, re.MULTILINE)
        assert found, node
        assert float(found.group(1)) == pytest.approx(volts, abs=0.005)


def test_a_lamp_signal_is_solved_and_branches_are_told() -> None:
    kestrel = MARMOT_FILE.with_name("3-kestrel.json")
    solved = printed("solve", kestrel, "--signal", "brake")
    assert solved["signals"] == ["brake"]
    told = printed("design", MARMOT_FILE)
    lights = next(c for c in told["circuits"] if c["name"] == "Rear work lights")
    ends = [b for b in lights["branches"] if b["units"]]
    assert [b["units"] for b in ends] == [{"a17": 1}] * 4
    assert all(b["load_v"] > 11 and b["conductor_drop_v"] <= b["drop_limit_v"] for b in ends)


def test_all_on_closes_every_switch() -> None:
    solved = printed("solve", MARMOT_FILE, "--key", "run", "--all-on")
    switches = {s.name for s in demo().switches if s.throws == 1}
    assert switches <= set(solved["on"])
    assert "Amber beacon Pattern" in solved["on"]  # the outputs of a controller count too


@pytest.mark.parametrize(
    ("arguments", "code", "message"),
    [
        (("solve", MARMOT_FILE, "--on", "Fog horn"), 1, "no circuit or switch 'Fog horn'"),
        (("design", "/nowhere/job.json"), 1, "cannot read /nowhere/job.json"),
        (("solve", MARMOT_FILE, "--key", "sideways"), 2, "invalid choice"),
        (("backup", "/tmp/x.db", "--db", "/nowhere/a.db"), 1, "no database"),
        (("serve", "--host", "0.0.0.0"), 1, "not this machine's loopback address"),
        (("serve", "--port", "99999"), 1, "port 99999 is outside"),
        (("serve", "--db", "/proc/nope/a.db"), 1, "cannot use /proc/nope/a.db"),
        ((), 2, "required"),
    ],
)
def test_wrong_use(
    arguments: tuple[str | Path, ...], code: int, message: str, tmp_path: Path
) -> None:
    if arguments and arguments[0] == "serve" and "--db" not in arguments:
        arguments = (*arguments, "--db", tmp_path / "x.db")
    done = run(*arguments)
    assert (done.returncode, "Traceback" in done.stderr) == (code, False)
    assert message in done.stderr


def test_port_in_use_is_said(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        done = run("serve", "--db", tmp_path / "a.db", "--port", port)
    assert done.returncode == 1
    assert f"port {port} is in use" in done.stderr


def test_killed_server_keeps_what_it_acknowledged(tmp_path: Path) -> None:
    """Serve, change the job over the API, kill -9, serve again: the change is there."""
    path = tmp_path / "a.db"
    for round_number in range(2):
        command = [sys.executable, "-m", "ready_trail", "demo", "--db", str(path), "--port", "0"]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=ENV)
        assert server.stdout is not None
        found = re.search(r"http://[\d.:]+/", server.stdout.readline())
        assert found is not None
        url = found.group(0)
        try:
            name = f"Round {round_number}"
            listed = _get(f"{url}api/jobs")
            job = next(j for j in listed if j["name"] in ("Marmot", "Round 0"))
            edit = json.dumps({"kind": "rename_job", "name": name}).encode()
            request = urllib.request.Request(
                f"{url}api/jobs/{job['job_id']}/edits?revision={job['revision']}",
                edit,
                {"content-type": "application/json"},
            )
            with urllib.request.urlopen(request, timeout=180) as answer:
                assert answer.status == 200
        finally:
            server.send_signal(signal.SIGKILL)
            server.wait()
            server.stdout.close()
    done = printed_names(path)
    assert "Round 1" in done


def test_a_server_asked_to_end_takes_its_processes_with_it(tmp_path: Path) -> None:
    command = [
        sys.executable,
        "-m",
        "ready_trail",
        "demo",
        "--db",
        str(tmp_path / "a.db"),
        "--port",
        "0",
    ]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=ENV) as server:
        try:
            assert server.stdout is not None
            found = re.search(r"http://[\d.:]+/", server.stdout.readline())
            assert found is not None
            urllib.request.urlopen(f"{found.group(0)}jobs/1/drawing/faults", timeout=180).close()
            family = _descendants(server.pid)
            assert family, "the process that reckons the faults"
            server.send_signal(signal.SIGTERM)
            assert server.wait(20) == 0
        finally:
            server.kill()
    end = time.monotonic() + 180
    while any(_runs(pid) for pid in family):
        assert time.monotonic() < end, "a process is left over"
        time.sleep(0.05)


def _descendants(pid: int) -> list[int]:
    """The processes that one started, and those that they started."""
    listed = subprocess.run(["ps", "-eo", "pid=,ppid="], capture_output=True, text=True, check=True)
    pairs = [tuple(int(n) for n in line.split()) for line in listed.stdout.splitlines()]
    own = [child for child, parent in pairs if parent == pid]
    return own + [further for child in own for further in _descendants(child)]


def _runs(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except OSError:
        return False


def _get(url: str) -> Any:
    end = time.monotonic() + 180
    while True:
        try:
            with urllib.request.urlopen(url, timeout=180) as answer:
                return json.load(answer)
        except OSError:
            if time.monotonic() > end:
                raise


def printed_names(path: Path) -> list[str]:
    from ready_trail.store import db, jobs

    conn = db.connect(path)
    try:
        return [row.name for row in jobs.list_jobs(conn)]
    finally:
        conn.close()


def test_the_readme_tells_what_is_there() -> None:
    """Every input of ``size`` with its default, and the counts the readme tells of Marmot."""
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    told = next(line for line in readme.splitlines() if line.startswith("`size` takes"))
    assert [name for name in SizeInputs.model_fields if f"`{name}`" not in told] == []
    for name, default in (("return_m", 0.5), ("ambient_c", 70), ("insulation_c", 125)):
        assert f"`{name}` {default:g}" in told
    marmot = demo()
    made = design(marmot, CATALOGUE)
    names = {14: "fourteen", 15: "fifteen", 13: "thirteen"}
    assert f"{names[len(marmot.accessories)]} accessories" in readme
    assert sum(c.count("stop") > 0 for c in made.circuits) == 1, "one circuit has a stop"
    assert sum(c.count("caution") > 0 for c in made.circuits) == 2, "two have a caution"
    assert next(c for c in made.circuits if c.count("stop")).circuit.name == "Rear work lights"
