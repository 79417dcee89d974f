"""Stage Prove over HTTP: readings as facts, wrong input in words, the record, a log, a meter."""

from __future__ import annotations

import asyncio
import csv
import io
import re
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from ready_trail.bench_meter import Session, serve
from ready_trail.core.design import design
from ready_trail.core.edits import RemoveAccessory, apply
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.keeping import digest_of, to_bytes
from ready_trail.core.prove.plan import Plan, plan_of
from ready_trail.core.prove.simulated import SimulatedVehicle
from ready_trail.core.prove.verdict import limits
from ready_trail.store import db, jobs, plans, readings, vehicles
from ready_trail.web import meter
from support import CATALOGUE, demo
from web_support import on_one_line, pdf_text

JOB, CIRCUIT = 1, "c27"
PAGE = f"/jobs/{JOB}/prove/{CIRCUIT}"
MARMOT = design(demo(), CATALOGUE)
FOUND = plan_of(MARMOT, CIRCUIT)
assert FOUND is not None
PLAN: Plan = FOUND


@pytest.fixture
def planned(client: TestClient, database: Path) -> TestClient:
    """A server whose one circuit's plan has been reckoned."""
    bench = bench_of(MARMOT, CIRCUIT)
    assert bench is not None
    conn = db.connect(database)
    with db.transaction(conn):
        plans.put_plan(conn, digest_of(bench), to_bytes(PLAN))
    conn.close()
    return client


def kept(database: Path, vehicle: int | None = None) -> list[Any]:
    conn = db.connect(database)
    own = vehicles.vehicle_of(conn, JOB, vehicle).vehicle_id
    found = list(readings.list_readings(conn, own))
    conn.close()
    return found


def form(key: str, test: str, **fields: str) -> dict[str, str]:
    return {"key": f"a-key-{key}", "test": test, **fields}


def volts_test() -> Any:
    return next(t for t in PLAN.must if t.kind == "load_volts")


def test_a_reading_is_taken_judged_and_its_causes_shown(
    planned: TestClient, database: Path
) -> None:
    test = volts_test()
    before = planned.get(PAGE, params={"test": test.key})
    assert "11.61 to 12.38 V" in before.text
    assert 'class="causes"' not in before.text
    for _ in range(2):  # a double press counts once
        planned.post(f"{PAGE}/read", data=form("one", test.key, value="9,9"))
    (fact,) = kept(database)
    assert (fact.value, fact.verdict, fact.instrument) == (9.9, "fail", "volts")
    assert fact.design
    after = on_one_line(planned.get(PAGE).text)
    assert 'class="causes"' in after
    assert "Read this next" in after
    assert "Read it again before anything is taken apart" in after


@pytest.mark.parametrize(
    ("kind", "fields", "words"),
    [
        ("load_volts", {"value": "120"}, "Was the point forgotten?"),
        ("load_volts", {"value": "twelve"}, "A number in V is expected"),
        ("load_volts", {"value": ""}, "or skip with a reason"),
        ("continuity", {"value": "0.2"}, "Ohms with power on would harm the meter"),
    ],
)
def test_wrong_input_is_said_beside_its_field_and_stays(
    planned: TestClient, database: Path, kind: str, fields: dict[str, str], words: str
) -> None:
    test = next(t for t in PLAN.must if t.kind == kind)
    told = planned.post(f"{PAGE}/read", data=form("bad", test.key, **fields))
    assert told.status_code == 422
    assert words in told.text
    if fields["value"]:
        assert f'value="{fields["value"]}"' in told.text
    assert kept(database) == []


def test_ohms_are_taken_once_the_power_is_said_to_be_away(
    planned: TestClient, database: Path
) -> None:
    test = next(t for t in PLAN.must if t.kind == "continuity")
    planned.post(f"{PAGE}/read", data=form("ohm", test.key, value="0,1", away="on"))
    planned.post(f"{PAGE}/read", data=form("skip", test.key, skipped="no way in"))
    assert [(f.value, f.verdict) for f in kept(database)] == [(0.1, "pass"), (None, "skipped")]


def test_every_kind_of_test_takes_its_reading(planned: TestClient, database: Path) -> None:
    first = {t.kind: t for t in PLAN.tests}
    for kind, test in first.items():
        value = "12" if test.instrument != "eye" else "on"
        fields = form(f"kind-{kind.replace('_', '-')}", test.key, value=value, away="on")
        assert planned.post(f"{PAGE}/read", data=fields).status_code == 200, kind
    assert {f.test.partition(":")[0] for f in kept(database)} == set(first)
    warm = next(f for f in kept(database) if f.instrument == "warmth")
    assert (warm.value, warm.verdict) == (12.0, "pass")


def sent(key: str, test: str, value: str, **more: Any) -> dict[str, Any]:
    made = {"key": f"a-key-{key}", "circuit": CIRCUIT, "test": test, "value": value}
    return made | {"at": "2026-11-29T10:00:00Z"} | more


def test_a_queue_is_taken_what_cannot_be_is_refused_by_its_key(
    planned: TestClient, database: Path
) -> None:
    test = volts_test()
    batch = [
        sent("one", test.key, "12.0"),
        sent("two", test.key, "120"),
        sent("three", "point:volts:GONE~BAT -@x", "11.0", asked="Volts at what is gone"),
        sent("four", test.key, "12.0", surplus=1),
    ]
    told = planned.post(f"/jobs/{JOB}/readings", json=batch).json()
    assert told["taken"] == ["a-key-one", "a-key-three"]
    assert set(told["refused"]) == {"a-key-two", "a-key-four"}
    assert "Was the point forgotten?" in told["refused"]["a-key-two"]
    assert "no longer part of this plan" in told["notes"][0]
    again = planned.post(f"/jobs/{JOB}/readings", json=batch[:1]).json()
    assert again["taken"] == ["a-key-one"]
    assert len(kept(database)) == 2
    assert planned.post(f"/jobs/{JOB}/readings", content=b"[").status_code == 422


def test_what_no_page_sends_is_refused_and_stores_nothing(
    planned: TestClient, database: Path
) -> None:
    test = volts_test()
    late = [sent("late", test.key, "12.0", at="9999-12-31T23:59:59Z")]
    told = planned.post(
        f"/jobs/{JOB}/readings", json=late, headers={"x-device-time": "2020-01-01T00:00:00Z"}
    ).json()
    assert "date cannot be right" in told["refused"]["a-key-late"]
    cause = {"cause": "rusty.g27_body:G27", "key": "x"}
    assert planned.post(f"{PAGE}/mend", data=cause).status_code == 422
    row = {"key": "a-key-row", "row.2": f"{CIRCUIT}\n{test.key}\n2026-11-29\n400"}
    assert planned.post(f"/jobs/{JOB}/prove/log/take", data=row).status_code == 422
    row["row.2"] = f"{CIRCUIT}\n{test.key}\nyesterday\n12"
    assert planned.post(f"/jobs/{JOB}/prove/log/take", data=row).status_code == 422
    odd = form("odd", test.key, value="120", vehicle="²")
    assert planned.post(f"{PAGE}/read", data=odd).status_code == 422
    assert kept(database) == []


def test_a_circuit_on_charge_says_that_the_engine_idles(planned: TestClient) -> None:
    test = next(t for t in PLAN.tests if t.kind == "charging")
    assert test.setting.words.endswith("engine at idle")
    assert "engine at idle" in planned.get(PAGE, params={"test": test.key}).text


def test_two_phones_on_one_test_lose_nothing_and_the_later_one_counts(
    planned: TestClient, database: Path
) -> None:
    test = volts_test()
    for key, value, who in (("mine", "9.9", "Ada"), ("hers", "12.0", "Bo"), ("mine", "9.9", "Ada")):
        planned.post(f"/jobs/{JOB}/readings", json=[sent(key, test.key, value, who=who)])
    assert [(f.value, f.who) for f in kept(database)] == [(9.9, "Ada"), (12.0, "Bo")]
    page = planned.get(PAGE, params={"test": test.key}).text
    assert "verdict-pass" in page
    assert 'class="causes"' not in page


def test_a_reading_of_a_circuit_that_was_removed_is_kept_and_said(
    planned: TestClient, database: Path
) -> None:
    conn = db.connect(database)
    with db.transaction(conn):
        stored = jobs.get_job(conn, JOB)
        own = stored.job.circuit(CIRCUIT).accessory_ids[0]
        gone = apply(stored.job, RemoveAccessory(accessory_id=own))
        jobs.append_revision(conn, JOB, stored.revision, gone, kind="x", title="Gone")
    conn.close()
    told = planned.post(f"/jobs/{JOB}/readings", json=[sent("late", volts_test().key, "12.0")])
    assert told.json()["taken"] == ["a-key-late"]
    assert "no longer part" in told.json()["notes"][0]
    assert planned.get(PAGE).status_code == 404
    record = pdf_text(planned.get(f"/jobs/{JOB}/prove/record.pdf").content)
    assert "c27, no longer in the design" in record
    assert "not worked out yet" in record


def test_each_vehicle_has_its_own_readings(planned: TestClient, database: Path) -> None:
    refused = planned.post(f"/jobs/{JOB}/prove/vehicles", data={"name": " "})
    assert refused.status_code == 422
    made = planned.post(f"/jobs/{JOB}/prove/vehicles", data={"name": "Number two"})
    second = int(re.search(r"vehicle=(\d+)", str(made.url))[1])  # type: ignore[index]
    test = volts_test()
    planned.post(f"{PAGE}/read", data=form("2nd", test.key, value="12", vehicle=str(second)))
    assert (len(kept(database)), len(kept(database, second))) == (0, 1)
    assert "Number two" in planned.get(f"/jobs/{JOB}/prove?vehicle={second}").text
    assert planned.get(f"/jobs/{JOB}/prove?vehicle=99").status_code == 404


def test_the_record_goes_out_whole_and_a_log_comes_in_by_preview(
    planned: TestClient, database: Path
) -> None:
    test = volts_test()
    planned.post(f"{PAGE}/read", data=form("rec", test.key, value="12.0", who="Ada"))
    rows = list(csv.DictReader(io.StringIO(planned.get(f"/jobs/{JOB}/prove/record.csv").text)))
    assert [(r["value"], r["unit"], r["verdict"]) for r in rows] == [("12", "V", "pass")]
    told = planned.get(f"/jobs/{JOB}/prove/record.json").json()["readings"]
    assert told[0]["test"] == test.key
    assert planned.get(f"/jobs/{JOB}/prove/record.pdf").content.startswith(b"%PDF-")
    log = (
        "time,point,quantity,value,unit\n"
        f"2026-11-29T10:00:00,{test.where},voltage,11.9,V\n"
        f"2026-11-29T10:01:00,{test.where},voltage,400,V\n"
        "2026-11-29T10:02:00,Somewhere else,voltage,12,V\n"
        f"yesterday,{test.where},voltage,12,V\n"
    )
    file = {"file": ("log.csv", log.encode(), "text/csv")}
    shown = planned.post(f"/jobs/{JOB}/prove/log", files=file)
    assert "1 of 4 rows name a point" in shown.text
    for words in ("Was the point forgotten?", "no such point", "time cannot be read"):
        assert words in shown.text
    assert len(kept(database)) == 1
    fields = dict(re.findall(r'name="(row\.\d+|key)"\s+value="([^"]*)"', shown.text))
    for _ in range(2):
        planned.post(f"/jobs/{JOB}/prove/log/take", data=fields)
    assert [(f.value, f.source) for f in kept(database)] == [(12.0, "typed"), (11.9, "file")]
    other = {"file": ("log.csv", b"time,point,value\n2026-11-29,Mast,1\n", "text/csv")}
    refused = planned.post(f"/jobs/{JOB}/prove/log", files=other)
    assert (refused.status_code, "another vehicle" in refused.text) == (422, True)


def test_one_cause_is_named_mended_and_what_failed_is_read_again(
    planned: TestClient, database: Path
) -> None:
    vehicle = SimulatedVehicle(design=MARMOT, hidden=("rusty.g27_body:G27@0.3",))
    text = ""
    for number in range(14):
        text = planned.get(PAGE).text
        if "It is mended" in text:
            break
        test = PLAN.test(re.search(r'name="test" value="([^"]*)"', text)[1])  # type: ignore[index]
        assert test is not None
        value = vehicle.read(CIRCUIT, test.key)
        typed = f"{value:.4g}"
        if test.instrument == "eye":
            typed = min((abs(at - value), w) for w, at in (("on", 1), ("weak", 0.6), ("off", 0)))[1]
        fields = form(f"hunt-{number}", test.key, value=typed, away="on")
        assert planned.post(f"{PAGE}/read", data=fields).status_code == 200
    assert "G27 is rusty" in text
    cause = re.search(r'name="cause" value="([^"]*)"', text)[1]  # type: ignore[index]
    assert planned.post(f"{PAGE}/mend", data={"cause": "bad:C99"}).status_code == 422
    after = planned.post(f"{PAGE}/mend", data={"cause": cause, "key": "a-key-mend"}).text
    assert "read again" in after
    assert 'class="causes"' not in after


@pytest.fixture
def address() -> Iterator[str]:
    """A simulated meter on the demo's wrongly built vehicle."""
    vehicle = SimulatedVehicle(design=MARMOT, hidden=("rusty.g27_body:G27@0.3",))
    ports: list[int] = []
    loop = asyncio.new_event_loop()

    def run() -> None:
        asyncio.set_event_loop(loop)
        own = serve(lambda job: vehicle if job == "Marmot" else None, 0, ports.append)
        try:
            loop.run_until_complete(own)
        except asyncio.CancelledError:
            loop.close()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    end = time.monotonic() + 180
    while not ports and time.monotonic() < end:
        time.sleep(0.01)
    yield f"TCPIP::127.0.0.1::{ports[0]}::SOCKET"
    loop.call_soon_threadsafe(lambda: [t.cancel() for t in asyncio.all_tasks(loop)])
    thread.join(5)


def test_a_meter_is_read_by_its_address(address: str) -> None:
    test = volts_test()
    assert meter.read(address, "Marmot", CIRCUIT, test) == pytest.approx(9.9, abs=0.4)
    assert limits(test).pass_from > 11
    assert meter.is_simulated(address)
    with pytest.raises(meter.MeterError, match="over its range"):
        meter.read(address, "Nobody", CIRCUIT, test)
    assert meter.mend(address, "Marmot", "rusty.g27_body:G27")
    assert meter.read(address, "Marmot", CIRCUIT, test) == pytest.approx(12.0, abs=0.5)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("TCPIP::8.8.8.8::5025::SOCKET", "its own network"),
        ("TCPIP::meter.example::5025::SOCKET", "own number"),
        ("http://192.168.1.2/", "A VISA address is expected"),
        ("TCPIP::0.0.0.0::5025::SOCKET", "its own network"),
    ],
)
def test_no_other_address_is_spoken_to(text: str, words: str) -> None:
    with pytest.raises(meter.MeterError, match=words):
        meter.require_address(text)


@pytest.mark.parametrize(
    ("answers", "words"),
    [
        ([b"ACME,1,2,3\n", b"burp\n"], "no reading"),
        ([b"ACME,1,2,3\n", b"NaN\n"], "no reading"),
        ([b"ACME,1,2,3\n", b"9.9E37\n"], "over its range"),
        ([b"ACME,1,2,3\n"], "gone silent"),
    ],
)
def test_a_meter_that_answers_nonsense_or_nothing_is_said(
    answers: list[bytes], words: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    import socketserver

    monkeypatch.setattr(meter, "PATIENCE_MS", 400)

    class Talk(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            for answer in answers:
                self.rfile.readline()
                self.wfile.write(answer)
            self.rfile.readline()
            self.rfile.readline()

    server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Talk)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        at = f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET"
        with pytest.raises(meter.MeterError, match=words):
            meter.read(at, "Marmot", CIRCUIT, volts_test())
    finally:
        server.shutdown()
        server.server_close()


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"plus": "G27 1", "minus": "G27 1"}, "two different points"),
        ({"plus": "Nowhere", "minus": "Battery -"}, "two different points"),
        ({"plus": "G27 1", "minus": "Battery -", "by": "ohms"}, "would harm the meter"),
        ({"plus": "G27 1", "minus": "Battery -", "by": "volts", "set": ""}, "in which state"),
    ],
)
def test_a_free_reading_that_cannot_be_is_said(
    planned: TestClient, fields: dict[str, str], words: str
) -> None:
    working = volts_test().setting.key
    told = planned.get(f"{PAGE}/free", params={"by": "volts", "set": working} | fields)
    assert (told.status_code, words in told.text) == (422, True)


def test_a_free_reading_is_put_together_opened_and_taken(
    planned: TestClient, database: Path
) -> None:
    asked = {"plus": "G27 1", "minus": "Battery -", "by": "volts"}
    shown = planned.get(f"{PAGE}/free", params=asked | {"set": volts_test().setting.key})
    assert "G27 1 to Battery -" in shown.text
    test = re.search(r'name="test" value="([^"]*)"', shown.text)[1]  # type: ignore[index]
    planned.post(f"{PAGE}/read", data=form("free", test, value="2.2"))
    assert [(f.verdict, f.middle is not None) for f in kept(database)] == [("fail", True)]
    assert "G27 is rusty" in planned.get(PAGE).text


def test_a_meter_is_named_at_the_machine_alone(planned: TestClient) -> None:
    at = {"address": "TCPIP::192.168.1.20::5025::SOCKET"}
    far = planned.post(f"/jobs/{JOB}/prove/meter", data=at)  # a test's client is nowhere
    assert far.status_code == 422
    assert "at the machine itself" in far.text
    told = planned.get(f"{PAGE}/meter", params={"test": volts_test().key})
    assert (told.status_code, told.json()["words"]) == (404, "No meter is named.")


def test_a_stand_in_speaks_as_meters_do() -> None:
    session = Session(lambda _: None)
    assert "SIMULATED METER" in str(session.answer("*idn?"))
    assert session.answer("MEASure:VOLTage:DC?") == f"{9.9e37:E}"
    assert "Settings conflict" in str(session.answer("SYSTem:ERRor?"))
    assert session.answer("FROBnicate 3") is None
    assert "-113" in str(session.answer("SYST:ERR?"))
    assert session.answer("SYST:ERR?") == '0,"No error"'


def test_the_list_of_circuits_waits_for_no_plan(client: TestClient, database: Path) -> None:
    began = time.monotonic()
    text = client.get(f"/jobs/{JOB}/prove").text
    assert "its plan is being worked out" in text
    assert time.monotonic() - began < 30
    assert kept(database) == []
