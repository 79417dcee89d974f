"""Send odd requests to every route of a real server; print what broke, what was slow, its memory.

``N`` requests (12,000) to every route, then ``API`` examples (60) an operation that a general
tool makes from the published description of the API. ``SEED`` is printed, so that a run can be
made again. Nothing is asserted about time; a server error makes it end with 1.
"""

from __future__ import annotations

import http.client
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from urllib.parse import quote, quote_from_bytes

from fastapi.routing import APIRoute

ROOT = Path(__file__).parent.parent
ODD_TEXT = [
    "",
    " ",
    "0",
    "-1",
    "1e309",
    "nan",
    "inf",
    "²³",
    "٣",
    "9" * 19,
    "9" * 400,
    "1,5",
    "1.5.5",
    "true",
    "null",
    "[]",
    "{}",
    "\x00",
    "\x1b[0m",
    "\x0b",
    "\u202e\u0000",
    "ＡＢ",
    "a" * 300,
    "a" * 20_000,
    "'; DROP TABLE job; --",
    "<script>alert(1)</script>",
    "{{ 7*7 }}",
    "../../etc",
    "=1+1",
    "+1",
    "@x",
    "c15",
    "a15",
    "p1",
    "10",
    "engine_bay",
    "battery:",
    "relay_87",
    "%s%s%n",
    "\r\nX-Evil: 1",
    "𝟙𝟚",
    "http://[",
    "1e-9",
    "12",
    "chassis",
    "K16",
    "2026-13-45",
]
ODD_NAMES = [
    "a",
    "a.b",
    "a.b.c",
    "a.0",
    "a.1.b",
    ".",
    "..",
    "a.",
    ".a",
    "a..b",
    "0",
    "0.0",
    "²",
    "a.²",
    "[]",
    "a[]",
    "x" * 500,
    "a." * 40 + "b",
    "__class__",
]
ODD_IDS = [
    "1",
    "2",
    "3",
    "0",
    "-1",
    "²",
    "9" * 18,
    "9" * 19,
    "9" * 30,
    "1.0",
    "abc",
    "c15",
    "c16",
    "a15",
    "p1",
    "zz",
    "%00",
    "%ff",
    "..",
    "a" * 300,
    "١",
    "F15",
    "C15-W2",
    "l1",
    "w1",
    "relay_positive",
]
ODD_ORIGINS = [
    "null",
    "http://[",
    "http://",
    "://",
    "http://127.0.0.1:1",
    "\x01",
    "http://a b",
    "http://[::1",
    "x" * 3000,
]


_OURS = r'File "[^"]*/(?:src/ready_trail|starlette|pydantic)/([^"]+)", line (\d+)'


def main() -> None:
    count, seed = int(os.environ.get("N", "12000")), int(os.environ.get("SEED", "0"))
    seed = seed or random.SystemRandom().randrange(1, 10**6)
    with tempfile.TemporaryDirectory() as folder:
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        command = [
            sys.executable,
            "-m",
            "ready_trail",
            "demo",
            "--db",
            f"{folder}/f.db",
            "--port",
            "0",
        ]
        log = Path(folder) / "log"
        with log.open("w") as errors:
            server = subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=errors, text=True, env=env
            )
            try:
                assert server.stdout is not None
                found = re.search(r"http://([\d.]+):(\d+)", server.stdout.readline())
                assert found is not None
                broke = run(found[1], int(found[2]), server.pid, count, seed)
                broke += api(f"http://{found[1]}:{found[2]}", seed, folder)
            finally:
                server.terminate()
                server.wait()
        if broke:
            for text, times in faults(log.read_text()).most_common(40):
                print(f"{times:>4} × {text}")
            sys.exit(1)


def api(url: str, seed: int, folder: str) -> int:
    """Have the API asked what its own description allows, and what it does not; 1 if one broke."""
    examples = os.environ.get("API", "60")
    tool = shutil.which("schemathesis", path=str(Path(sys.executable).parent))
    if examples == "0" or tool is None:
        print("the API by its description: not asked")
        return 0
    done = subprocess.run(
        [
            tool,
            "run",
            f"{url}/api/openapi.json",
            "--checks",
            "not_a_server_error",
            "--no-color",
            "--seed",
            str(seed),
            "--max-examples",
            examples,
        ],
        capture_output=True,
        text=True,
        check=False,
        cwd=folder,
    )
    cases = re.search(r"(\d+) generated, .*", done.stdout)
    print(f"the API by its description: {cases[0] if cases else done.stdout[-2000:]}")
    if done.returncode:
        print(done.stdout[-6000:])
    return int(done.returncode != 0)


def run(host: str, port: int, pid: int, count: int, seed: int) -> int:
    """Send the requests; return how many ended in a server error."""
    rng = random.Random(seed)
    routes = all_routes()
    names = vocabulary(host, port)
    print(f"{count} odd requests, seed {seed}: {len(routes)} routes, {len(names)} field names")
    status: Counter[int] = Counter()
    broke: list[str] = []
    slow: list[tuple[float, str]] = []
    most_mb = 0.0
    for number in range(count):
        method, path, headers, body = odd_request(rng, routes, names)
        begin = time.perf_counter()
        try:
            conn = http.client.HTTPConnection(host, port, timeout=60)
            conn.putrequest(method, path, skip_host="Host" in headers)
            for name, value in headers.items():
                conn.putheader(name, value.encode("latin-1", "replace"))
            if isinstance(body, list):
                conn.putheader("Transfer-Encoding", "chunked")
                conn.endheaders()
                for part in body:
                    conn.send(f"{len(part):x}\r\n".encode() + part + b"\r\n")
                conn.send(b"0\r\n\r\n")
            else:
                conn.putheader("Content-Length", str(len(body)))
                conn.endheaders()
                conn.send(body)
            answer = conn.getresponse()
            answer.read()
            code = answer.status
            conn.close()
        except (http.client.HTTPException, OSError, ValueError) as error:
            code = 0
            if isinstance(error, TimeoutError):
                broke.append(f"no answer: {method} {path}")
        spent = time.perf_counter() - begin
        status[code] += 1
        what = (
            f"{method} {path[:120]} {bytes(body)[:160] if isinstance(body, bytes) else 'chunked'!r}"
        )
        if code >= 500 and code not in (501, 503):
            broke.append(f"{code} {what}")
        slow.append((spent, what))
        if number % 200 == 0:
            slow = sorted(slow, reverse=True)[:5]
            most_mb = max(most_mb, memory_mb(pid))
    most_mb = max(most_mb, memory_mb(pid))
    print("answers:", ", ".join(f"{code}: {n}" for code, n in sorted(status.items())))
    print(f"server errors: {len(broke)} (goal 0)")
    for line in broke[:20]:
        print("  ", line)
    print(f"slowest: {max(slow)[0]:.2f} s (goal 2 s)")
    for spent, what in sorted(slow, reverse=True)[:3]:
        print(f"   {spent:.2f} s {what[:200]}")
    print(f"memory of the server: {most_mb:.0f} MB (goal 300 MB)")
    return len(broke)


def faults(log: str) -> Counter[str]:
    """The distinct faults of a server's log: where in our own code, and what."""
    found: Counter[str] = Counter()
    for trace in log.split("Traceback (most recent call last):")[1:]:
        ours = re.findall(
            r'File "[^"]*/(?:src/ready_trail|starlette|pydantic)/([^"]+)", line (\d+)', trace
        )
        last = re.findall(r"^([\w.]+(?:Error|Exception|Warning|Stop)[^\n]*)", trace, re.MULTILINE)
        found[f"{':'.join(ours[-1]) if ours else '?'}  {last[-1][:160] if last else '?'}"] += 1
    return found


def all_routes() -> list[tuple[str, str]]:
    """Every method and path of the application."""
    sys.path.insert(0, str(ROOT / "src"))
    from ready_trail.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "r.db")
    found: list[tuple[str, str]] = []
    for route in flattened(app.routes):
        for method in sorted(route.methods or ()):
            found.append((method, route.path))
    return found


def flattened(routes: list[object]) -> list[APIRoute]:
    found: list[APIRoute] = []
    for route in routes:
        inner = getattr(getattr(route, "original_router", None), "routes", None)
        if isinstance(route, APIRoute):
            found.append(route)
        elif inner:
            prefix = getattr(getattr(route, "include_context", None), "prefix", "")
            found += [r for r in flattened(inner) if r.path.startswith(prefix)]
    return found


def vocabulary(host: str, port: int) -> list[str]:
    """The names of the fields that pages post."""
    names: set[str] = set()
    for path in (
        "/jobs/new",
        "/size",
        "/shelf?add=true",
        "/jobs/3/accessories/a18",
        "/jobs/3/circuits/c17",
        "/jobs/3/supply?point=p1",
        "/jobs/3/scenarios",
        "/jobs/3/layout",
        "/jobs/3/survey",
        "/jobs/3/brief",
        "/jobs/3/rules",
        "/jobs/3/build/labels",
        "/jobs/3/build/found?circuit=c15",
        "/jobs/3/build/found?circuit=c15&what=found",
    ):
        conn = http.client.HTTPConnection(host, port, timeout=60)
        conn.request("GET", path)
        names |= set(re.findall(r'name="([^"]+)"', conn.getresponse().read().decode()))
        conn.close()
    return sorted(names)


def odd_request(
    rng: random.Random, routes: list[tuple[str, str]], names: list[str]
) -> tuple[str, str, dict[str, str], bytes | list[bytes]]:
    method, template = rng.choice(routes)
    if rng.random() < 0.02:
        method = rng.choice(["PUT", "DELETE", "PATCH", "OPTIONS", "HEAD", "BREW"])
    path = re.sub(r"\{(\w+)\}", lambda found: odd_id(rng, found[1]), template)
    if rng.random() < 0.4:
        query = "&".join(
            f"{odd_name(rng, names)}={odd_value(rng)}" for _ in range(rng.randint(1, 4))
        )
        path += f"?{query}"
    headers: dict[str, str] = {}
    if rng.random() < 0.05:
        headers["Origin"] = rng.choice(ODD_ORIGINS)
    if rng.random() < 0.02:
        headers["Host"] = rng.choice(["evil.example", "[", "127.0.0.1:x", ""])
    if rng.random() < 0.03:
        headers[rng.choice(["HX-Request", "Accept", "Cookie", "If-Match"])] = "ÿ\x01"
    if method in ("GET", "HEAD", "OPTIONS"):
        return method, path, headers, b""
    if path.startswith("/api") or "ticks" in path or rng.random() < 0.05:
        headers["Content-Type"] = rng.choice(["application/json", "text/plain", ""])
        return method, path, headers, odd_json(rng)
    if "import" in path or "file" in path or rng.random() < 0.05:
        return (
            method,
            path,
            headers | {"Content-Type": "multipart/form-data; boundary=b"},
            upload(rng),
        )
    fields = [
        f"{odd_name(rng, names)}={odd_value(rng)}" for _ in range(rng.choice([0, 1, 3, 9, 30]))
    ]
    if rng.random() < 0.7:
        fields.append(f"revision={rng.choice(['1', '2', '3', odd_value(rng)])}")
    if rng.random() < 0.01:
        fields += [f"f{n}=1" for n in range(3000)]
    body = "&".join(fields).encode()
    headers["Content-Type"] = "application/x-www-form-urlencoded"
    if rng.random() < 0.05:
        return method, path, headers, [body[at : at + 7] for at in range(0, min(len(body), 700), 7)]
    return method, path, headers, body


def odd_id(rng: random.Random, name: str) -> str:
    if rng.random() < 0.6:
        circuit = rng.choice(["c15", "c16", "c2"])
        return {
            "job_id": rng.choice(["1", "2", "3"]),
            "circuit_id": circuit,
            "accessory_id": "a15",
            "point_id": "p1",
        }.get(name, "c15")
    value = rng.choice(ODD_IDS)
    return value if "%" in value else quote(value, safe="")


def odd_name(rng: random.Random, names: list[str]) -> str:
    name = rng.choice(names) if rng.random() < 0.8 else rng.choice(ODD_NAMES)
    if rng.random() < 0.1:
        name += rng.choice([".x", ".0", ".0.0", "."])
    return quote(name, safe=".")


def odd_value(rng: random.Random) -> str:
    if rng.random() < 0.03:
        return quote_from_bytes(bytes([rng.randrange(256) for _ in range(6)]))
    return quote(rng.choice(ODD_TEXT), safe="")


def odd_json(rng: random.Random) -> bytes:
    def value(depth: int) -> object:
        if depth > 4 or rng.random() < 0.5:
            return rng.choice([None, True, 0, -1, 1e308, 10**40, "", "x", "\x00", "c15", [], {}])
        if rng.random() < 0.5:
            return [value(depth + 1) for _ in range(rng.randint(0, 4))]
        keys = [
            "name",
            "kind",
            "circuits",
            "vehicle",
            "run",
            "circuit_id",
            "what",
            "value",
            "accessories",
            "schema_version",
            "key",
            "item",
            "done",
            "at",
            "points",
        ]
        return {rng.choice(keys): value(depth + 1) for _ in range(rng.randint(0, 5))}

    odd = rng.random()
    if odd < 0.05:
        return b"[" * 50_000
    if odd < 0.08:
        return json.dumps({"name": "x", "circuits": [1] * 20_000}).encode()
    if odd < 0.12:
        return bytes([rng.randrange(256) for _ in range(40)])
    return json.dumps(value(0)).encode()


def upload(rng: random.Random) -> bytes:
    inside = rng.choice(
        [
            b"",
            b"\x00\xff" * 30,
            b"name,watts\nA,60\n=B,x\n",
            odd_json(rng),
            b"part,description\nx,Y\n",
            b'{"schema_version": 2, "name": "x", "circuits": [' + b"{}," * 3000 + b"{}]}",
            b"name,watts\n" + b"A,60\n" * 3000,
            b'"',
            b"a\n" * 50_000,
        ]
    )
    head = b'--b\r\nContent-Disposition: form-data; name="file"; filename="f"\r\n\r\n'
    more = b'\r\n--b\r\nContent-Disposition: form-data; name="revision"\r\n\r\n1'
    return (
        head + inside + (more if rng.random() < 0.5 else b"") + rng.choice([b"\r\n--b--\r\n", b""])
    )


def memory_mb(pid: int) -> float:
    """Resident memory of one process."""
    try:
        text = Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return 0.0
    found = re.search(r"VmRSS:\s+(\d+)", text)
    return int(found[1]) / 1024 if found else 0.0


if __name__ == "__main__":
    main()
