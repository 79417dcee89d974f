"""The network's door, slow and endless senders, forms pressed twice, headers of every answer."""

from __future__ import annotations

import http.client
import re
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
import uvicorn
from starlette.testclient import TestClient

from ready_trail.store import db, devices, jobs, pairing
from ready_trail.store.pairing import CODE_S, TRIES_MOST
from ready_trail.web import patience
from ready_trail.web.app import create_app
from ready_trail.web.door import Network, own_addresses
from ready_trail.web.patience import PatientProtocol
from ready_trail.web.security import BodyLimit, _is_ours
from web_support import on_one_line

NETWORK_IP = (own_addresses() or ("127.0.0.1",))[0]
HTML = {"Accept": "text/html"}


@pytest.fixture
def network(database: Path) -> Iterator[Network]:
    """The door of a running application, open on this machine's own network address."""
    app = create_app(database)
    door: Network = app.state.network
    door.open(0, ips=(NETWORK_IP,))
    end = time.monotonic() + 180
    while not all(server.started for server in door._servers):
        assert time.monotonic() < end
        time.sleep(0.01)
    yield door
    door.close()
    assert not door.is_open


def code_of(database: Path) -> str:
    """The code that the settings page shows."""
    with closing(db.connect(database)) as conn:
        return pairing.code(conn)[0]


class Phone:
    """Something on the network, with its cookie."""

    def __init__(self, network: Network) -> None:
        self.host = network.addresses[0].removeprefix("http://")
        self.cookie = ""

    def ask(
        self, method: str, path: str, body: str = "", **headers: str
    ) -> tuple[int, http.client.HTTPMessage, str]:
        conn = http.client.HTTPConnection(self.host, timeout=180)
        sent = {
            "Cookie": self.cookie,
            **HTML,
            **{k.replace("_", "-"): v for k, v in headers.items()},
        }
        if body:
            sent["Content-Type"] = "application/x-www-form-urlencoded"
        conn.request(method, path, body or None, sent)
        answer = conn.getresponse()
        text = answer.read().decode()
        conn.close()
        return answer.status, answer.headers, text

    def pair(self, code: str) -> int:
        status, headers, _ = self.ask("POST", "/pair", f"code={code}&name=Ina")
        self.cookie = (headers.get("Set-Cookie") or "").partition(";")[0]
        return status


def test_an_unpaired_device_gets_nothing_but_the_pairing_page(network: Network) -> None:
    phone = Phone(network)
    for path in ("/", "/jobs/1", "/jobs/1/circuits", "/settings", "/api/jobs", "/work/x", "/sw.js"):
        status, headers, text = phone.ask("GET", path)
        assert (status, headers["Location"]) == (303, "/pair"), path
        assert "Marmot" not in text
        status, _, text = phone.ask("GET", path, Accept="application/json")
        assert (status, text) == (403, "pair this device first")
    for path in ("/jobs", "/jobs/1/ticks", "/jobs/1/undo", "/settings/network"):
        assert phone.ask("POST", path, "revision=1")[0] == 403
    status, _, text = phone.ask("GET", "/pair?code=123456")
    assert status == 200
    assert 'value="123456"' in text
    assert "plain HTTP" in text
    assert phone.ask("GET", "/pair", Host="evil.example")[0] == 400, "an address that is not ours"
    assert phone.ask("POST", "/pair", "code=1", Origin="http://evil.example")[0] == 403


def test_a_code_lets_one_device_in_which_may_be_held_back_and_put_out(
    network: Network, database: Path
) -> None:
    phone, other = Phone(network), Phone(network)
    code = code_of(database)
    assert phone.pair(code) == 303
    assert other.pair(code) == 403, "a code is used once"
    _, headers, _ = Phone(network).ask("POST", "/pair", f"code={code_of(database)}&name=B")
    cookie = headers["Set-Cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert "Marmot" in phone.ask("GET", "/")[2]
    tick = '[{"key": "abcdefgh1", "item": "step:off", "done": true, "at": "2026-01-01T00:00:00Z"}]'
    assert phone.ask("POST", "/jobs/1/ticks", tick)[0] == 200
    assert phone.ask("GET", "/settings")[0] == 403, "settings stay on the machine"
    conn = db.connect(database)
    ina = next(d for d in devices.list_devices(conn) if d.name == "Ina")
    with db.transaction(conn):
        devices.set_read_only(conn, ina.device_id, read_only=True)
    assert phone.ask("GET", "/jobs/1/build")[0] == 200
    assert phone.ask("POST", "/jobs/1/ticks", tick)[0] == 403
    with db.transaction(conn):
        devices.put_out(conn, ina.device_id)
    assert phone.ask("GET", "/")[0] == 303
    stored = conn.execute("SELECT token FROM device").fetchall()
    assert all(phone.cookie.partition("=")[2] != row["token"] for row in stored), "only its hash"
    conn.close()


def test_codes_cannot_be_guessed_by_trying(network: Network, database: Path) -> None:
    phone = Phone(network)
    code_of(database)
    answers = [phone.pair("000000") for _ in range(TRIES_MOST + 2)]
    assert answers[:TRIES_MOST] == [403] * TRIES_MOST
    assert answers[TRIES_MOST:] == [429, 429]
    assert phone.pair(code_of(database)) == 429, "not even the right one, for a while"
    with closing(db.connect(database)) as conn:
        assert pairing.wrong(conn) == ((NETWORK_IP, TRIES_MOST, True),)
        code, left_s = pairing.code(conn)
        assert CODE_S - 60 < left_s <= CODE_S
        assert pairing.take(conn, code, "10.1.2.3"), "others are heard"
        assert not pairing.take(conn, code, "10.1.2.3"), "once"
        pairing.clear(conn)
    assert phone.pair(code_of(database)) == 303


def test_codes_run_out_and_tries_are_forgotten(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with closing(db.connect(database)) as conn:
        code, _ = pairing.code(conn)
        assert pairing.code(conn)[0] == code, "the same for every process"
        for _ in range(3):
            assert not pairing.take(conn, "0" * 6 if code != "0" * 6 else "1" * 6, "10.9.8.7")
        assert not pairing.take(conn, code, "10.1.2.3"), "nobody works through one code"
        code, _ = pairing.code(conn)
        now = pairing.now_s()
        monkeypatch.setattr(pairing, "now_s", lambda: now + CODE_S + 1)
        assert not pairing.take(conn, code, "10.1.2.3")
        assert pairing.wrong(conn) == (("10.1.2.3", 1, False),)


def test_wrong_codes_are_told_on_the_settings_page(client: TestClient, database: Path) -> None:
    door = client.app.state.network  # type: ignore[attr-defined]
    door.open(0, ips=(NETWORK_IP,))
    with closing(db.connect(database)) as conn:
        for _ in range(TRIES_MOST):
            pairing.take(conn, "000000", "10.9.8.7")
        page = on_one_line(client.get("/settings").text)
        assert '8 from <span class="figure">10.9.8.7</span>, which is not heard' in page
        client.post("/settings/codes")
        assert "10.9.8.7" not in client.get("/settings").text
        pairing.take(conn, "000000", "10.9.8.7")
        client.post("/settings/network", data={"open": "false"})
        door.open(0, ips=(NETWORK_IP,))
        client.post("/settings/network", data={"open": "true"})
        assert pairing.wrong(conn) == (), "opening anew hears everybody"
    door.close()


def test_phones_read_while_the_database_is_written(network: Network, database: Path) -> None:
    phone = Phone(network)
    assert phone.pair(code_of(database)) == 303
    conn = db.connect(database)
    conn.execute("UPDATE device SET seen_at = '2020-01-01T00:00:00.000000Z'")
    conn.execute("BEGIN IMMEDIATE")  # a long write: nobody else may write
    assert phone.ask("GET", "/jobs/1/build")[0] == 200
    assert phone.ask("GET", "/")[0] == 200
    conn.execute("ROLLBACK")
    assert phone.ask("GET", "/")[0] == 200
    assert devices.list_devices(conn)[0].seen_at > "2026", "noted when it can be"
    conn.close()


@pytest.mark.parametrize(
    ("scheme", "port", "host", "ours"),
    [
        ("http", 80, "10.0.0.5", True),
        ("http", 80, "10.0.0.5:80", True),
        ("https", 443, "10.0.0.5", True),
        ("http", 443, "10.0.0.5", False),
        ("http", 8300, "10.0.0.5", False),
        ("http", 8300, "10.0.0.5:8300", True),
        ("http", 80, "evil.example", False),
    ],
)
def test_the_usual_port_need_not_be_named(scheme: str, port: int, host: str, ours: bool) -> None:
    assert _is_ours(host, {"scheme": scheme, "server": ("10.0.0.5", port)}) is ours


def test_the_door_is_shut_by_default_and_opened_on_the_settings_page(client: TestClient) -> None:
    assert "Shut: only this machine" in client.get("/settings").text
    door = client.app.state.network  # type: ignore[attr-defined]
    assert not door.is_open
    door.open(0, ips=(NETWORK_IP,))
    page = client.get("/settings").text
    assert door.addresses[0] in page
    assert "Pairing code" in page
    client.post("/settings/network", data={"open": "false"})
    assert not door.is_open


@pytest.fixture
def slow_server(database: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    monkeypatch.setattr(patience, "HEAD_MOST_S", 0.6)
    monkeypatch.setattr(BodyLimit, "PART_MOST_S", 0.6)
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.bind(("127.0.0.1", 0))
    config = uvicorn.Config(
        create_app(database),
        log_level="critical",
        http=PatientProtocol,
        timeout_graceful_shutdown=1,
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield listening.getsockname()[1]
    server.should_exit = True
    thread.join(10)
    listening.close()


def said(port: int, *parts: bytes, wait_s: float = 5.0) -> bytes:
    """What the server answers until it hangs up."""
    with socket.create_connection(("127.0.0.1", port), timeout=wait_s) as conn:
        for part in parts:
            conn.sendall(part)
            time.sleep(0.05)
        found = b""
        while part := conn.recv(65536):
            found += part
        return found


def test_half_a_head_and_half_a_body_are_dropped(slow_server: int) -> None:
    assert said(slow_server) == b"", "a connection that says nothing"
    assert said(slow_server, b"GET / HT") == b""
    assert said(slow_server, b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-") == b""
    head = b"POST /jobs HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n"
    form = b"Content-Type: application/x-www-form-urlencoded\r\nContent-Length: 500\r\n\r\n"
    answer = said(slow_server, head + form, b"name=a")
    assert answer.startswith(b"HTTP/1.1 408")
    assert b"came too slowly" in answer
    whole = said(
        slow_server, b"GET /size HTTP/1.1\r\nHost: 127.0.0.1\r\n", b"Connection: close\r\n\r\n"
    )
    assert whole.startswith(b"HTTP/1.1 200"), "in two parts, but in time"


def test_a_body_is_counted_as_it_comes(client: TestClient) -> None:
    def endless() -> Iterator[bytes]:
        for _ in range(60):
            yield b"a" * 200_000

    answer = client.post(
        "/jobs", content=endless(), headers={"Content-Type": "application/x-www-form-urlencoded"}
    )
    assert answer.status_code == 413
    assert "Nothing was stored" in answer.text


def test_three_presses_make_one(client: TestClient, database: Path) -> None:
    def count() -> int:
        conn = db.connect(database)
        try:
            return len(jobs.list_jobs(conn))
        finally:
            conn.close()

    before = count()
    fields = {"name": "Once", "vehicle.kind": "pickup", "form_key": "f" * 32}
    places = {
        client.post("/jobs", data=fields, follow_redirects=False).headers["location"]
        for _ in range(3)
    }
    assert len(places) == 1
    assert count() == before + 1
    for _ in range(3):
        client.post("/jobs/demo", data={"form_key": "d" * 32})
    assert count() == before + 4
    for _ in range(3):
        client.post("/jobs/1/duplicate", data={"form_key": "c" * 32})
    keep = {
        "watts": "60",
        "at_v": "13.5",
        "model": "constant_power",
        "run_m": "3",
        "name": "Kept",
        "form_key": "k" * 32,
    }
    kept = {
        client.post("/size/keep", data=keep, follow_redirects=False).headers["location"]
        for _ in range(3)
    }
    assert len(kept) == 1
    assert count() == before + 6


def test_a_stale_file_is_kept_for_apply_mine_on_top(client: TestClient) -> None:
    csv = b"name,watts\nNew lamp,40\n"
    stale = client.post(
        "/jobs/1/accessories/import", data={"revision": "1"}, files={"file": ("a.csv", csv)}
    )
    assert stale.status_code == 200, "not stale yet"
    stale = client.post(
        "/jobs/1/accessories/import",
        data={"revision": "1"},
        files={"file": ("a.csv", csv.replace(b"New", b"Second"))},
    )
    assert stale.status_code == 409
    fields = dict(re.findall(r'name="(revision|held)" value="([^"]+)"', stale.text))
    assert set(fields) == {"revision", "held"}
    answer = client.post("/jobs/1/accessories/import", data=fields)
    assert answer.status_code == 200
    assert "Second lamp" in answer.text


def test_every_answer_has_its_headers(client: TestClient) -> None:
    for path in ("/", "/nowhere", "/jobs/1/build", "/api/jobs", "/static/css/app.css"):
        headers = client.get(path).headers
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "same-origin"
        assert "camera=()" in headers["permissions-policy"]
    assert client.get("/").headers["cache-control"] == "private, no-cache"
    refused = client.post("/jobs", headers={"Origin": "http://["})
    assert refused.status_code == 403


def test_a_mistake_of_ours_has_a_page_and_a_reference(
    database: Path, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    app = create_app(database)
    monkeypatch.setattr(jobs, "list_jobs", lambda *args, **more: 1 / 0)
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        answer = client.get("/", headers={"Referer": "http://127.0.0.1/size?x=1"})
    assert answer.status_code == 500
    assert "mistake of the program" in answer.text
    assert 'href="/size?x=1"' in answer.text, "a way back"
    reference = answer.text.split("the reference ")[1][:8]
    assert any(reference in record.getMessage() for record in caplog.records)
    assert "ZeroDivisionError" not in answer.text
    with TestClient(app, base_url="http://127.0.0.1") as client, pytest.raises(ZeroDivisionError):
        client.get("/")
