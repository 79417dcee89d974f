"""What once broke the application: each is answered plainly, and nothing else is harmed."""

from __future__ import annotations

import json
import tracemalloc
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from ready_trail.core.edits import AccessoryDraft, AddAccessory, AddSwitch, apply
from ready_trail.core.job import Job, Switch
from ready_trail.store import db, jobs
from support import MARMOT_FILE
from web_support import post_edit

HUGE = "1" * 23


def head(database: Path, job_id: int = 1) -> jobs.StoredJob:
    conn = db.connect(database)
    try:
        return jobs.get_job(conn, job_id)
    finally:
        conn.close()


def still_open(client: TestClient) -> None:
    for url in ("/", "/jobs/1/history", "/jobs/1/accessories", "/jobs/1/supply", "/jobs/1/brief"):
        assert client.get(url).status_code == 200, url


@pytest.mark.parametrize(
    ("url", "form", "status"),
    [
        ("/jobs/1/restore", {"revision": "1", "number": "two"}, 422),
        ("/jobs/1/restore", {"revision": "1", "number": HUGE}, 422),
        ("/jobs/1/undo", {"revision": HUGE}, 422),
        ("add_accessory", {"use": "x", "use.key": "run"}, 422),
        ("add_accessory", {"use.key": "run", "use.key.deep": "x"}, 422),
        ("add_accessory", {"name": "\ud800", "watts": "5"}, 422),
        ("move_point", {"point_id": "x", "x_m": "1"}, 422),
        ("place_many", {"things.13.key.x": "1,5", "things.13.place": "nowhere"}, 422),
        ("change_point", {"point.id": "p99", "point.name": "X"}, 422),
        ("change_point", {"point": "p1"}, 422),
        ("remove_supply", {"point_id": "p1"}, 422),
        ("start_at", {"circuit_id": "c2", "start": "p3:A"}, 422),
        ("start_at", {"circuit_id": "c15", "start": "p1:99"}, 422),
        ("start_at", {"circuit_id": "c15", "start.point": "p1", "start.deep.point": "p"}, 422),
        ("add_supply", {"point.kind": "nonsense"}, 422),
        ("add_switch", {"switch.name": "Beacon", "switch.rating_a": "20"}, 422),
        ("save_scenario", {"name": "", "running": "x"}, 422),
        ("set_kit", {"circuit_id": "c15", "kit": "x", "kit.leads.0": "y"}, 422),
        ("set_circuit_use", {"circuit_id": "c99", "use.switch": "A", "use.throw": "I"}, 422),
        ("read_probe", {"probe_id": "w99", "state": "run", "value": "1e999"}, 422),
        ("edit_of_nothing", {"name": "X"}, 422),
        ("/size/keep", {"watts": "60", "run_m": "-1", "name": "X", "job_id": ""}, 422),
        ("/size/keep", {"watts": "60", "run_m": "500", "name": "X", "job_id": ""}, 422),
    ],
)
def test_forms_that_once_raised(
    client: TestClient, database: Path, url: str, form: dict[str, str], status: int
) -> None:
    if "/" not in url:
        known = {"revision": "1", "page": "/jobs/1/supply", "edit": json.dumps({"kind": url})}
        url, form = "/jobs/1/edit", {**known, **form}
    data = "&".join(f"{k}={v}" for k, v in form.items()).encode("utf-8", "surrogatepass")
    kind = {"content-type": "application/x-www-form-urlencoded"}
    answer = client.post(url, content=data, headers=kind, follow_redirects=False)
    assert answer.status_code == status, answer.text[-400:]
    assert answer.text.rstrip().endswith("</html>")
    assert head(database).revision == 1
    still_open(client)


@pytest.mark.parametrize(
    "url", [f"/jobs/{HUGE}", f"/jobs/{HUGE}/history", "/jobs/0", "/jobs/-1", "/jobs/1e3/brief"]
)
def test_job_numbers_that_nobody_has(client: TestClient, url: str) -> None:
    answer = client.get(url)
    assert answer.status_code == 404
    assert "There is no such page" in answer.text


@pytest.mark.parametrize(
    "data",
    [
        b"name,watts\n" + b"x" * 131_073 + b",5\n",
        b"name,watts\rLamp,5\r\x00,6",
        b'name,watts\n"Lamp,5\n',
        b"name,watts\nLamp," + b"9" * 5000 + b"\n",
    ],
    ids=["long cell", "lone CR and NUL", "open quote", "long number"],
)
def test_lists_that_once_raised(client: TestClient, database: Path, data: bytes) -> None:
    files = {"file": ("list.csv", data, "text/csv")}
    answer = client.post("/jobs/1/accessories/import", data={"revision": "1"}, files=files)
    assert answer.status_code == 422, answer.text[-300:]
    assert head(database).revision == 1


@pytest.mark.parametrize(
    "data",
    [
        b'{"name": "J", "last_number": ' + b"9" * 5000 + b"}",
        b'{"name": ' + b"[" * 200_000,
        b'{"name": "\\ud800"}',
        b'{"name": "J", "layout": {"length_m": 1e400}}',
    ],
    ids=["long integer", "deep", "lone surrogate", "infinite"],
)
def test_job_files_that_once_raised(client: TestClient, data: bytes) -> None:
    files = {"file": ("job.json", data, "application/json")}
    answer = client.post("/jobs/import", files=files)
    while answer.request.url.path.startswith("/work/") and "data-work" in answer.text:
        answer = client.get(answer.request.url.path)  # a large one is looked at elsewhere
    assert "The job file was not taken" in answer.text
    assert client.post("/api/jobs", content=data).status_code == 422
    still_open(client)


def loaded(document: dict[str, Any], client: TestClient) -> int:
    made = client.post("/api/jobs", json=document)
    assert made.status_code == 201, made.text
    return int(made.json()["job_id"])


@pytest.mark.parametrize(
    "change",
    [
        {"amps": 1000.0, "watts": None, "quantity": 2},
        {"watts": 0.1},
        {"model": "winch", "amps": 400.0, "watts": None, "fuse_max_a": 5.0},
        {"at_v": 60.0, "watts": 10_000.0},
        {"quantity": 50, "watts": 9000.0},
    ],
    ids=["1000 A twice", "0.1 W", "winch behind 5 A", "60 V", "450 kW"],
)
def test_what_cannot_be_designed_is_a_stop_and_bricks_nothing(
    client: TestClient, change: dict[str, Any]
) -> None:
    document = json.loads(MARMOT_FILE.read_text(encoding="utf-8"))
    bar = next(a for a in document["accessories"] if a["name"] == "Roof light bar")
    bar.update(change)
    job_id = loaded(document, client)
    design = client.get(f"/api/jobs/{job_id}/design").json()
    assert design["circuits_total"] == 19
    if change != {"watts": 0.1}:
        assert design["stops"] >= 2
    for stage in (
        "brief",
        "accessories",
        "survey",
        "layout",
        "supply",
        "history",
        "circuits/c15",
        "circuits/c2",
        "circuits/c15/sheet.pdf",
        "wires.csv",
    ):
        assert client.get(f"/jobs/{job_id}/{stage}").status_code == 200, stage
    still_open(client)


def test_a_zone_that_no_table_has_is_refused_with_its_path(client: TestClient) -> None:
    document = json.loads(MARMOT_FILE.read_text(encoding="utf-8"))
    document["layout"]["legs"][0]["zone"] = "boot_room"
    refused = client.post("/api/jobs", json=document)
    assert refused.status_code == 422
    assert "layout.legs.0.zone" in refused.text


def test_a_block_without_a_main_stops_what_hangs_on_it(client: TestClient) -> None:
    """No family holds 900 A: the block is unfed, and nothing behind it says ready."""
    document = json.loads(MARMOT_FILE.read_text(encoding="utf-8"))
    block = next(p for p in document["points"] if p["name"] == "Bay block")
    block["together_a"] = 900.0
    for circuit in document["circuits"]:
        if circuit.get("feeds") == block["id"]:
            circuit.pop("held", None)
    job_id = loaded(document, client)
    design = client.get(f"/api/jobs/{job_id}/design").json()
    behind = {c["id"] for c in document["circuits"] if c.get("start", {}).get("point") == "p1"}
    stopped = {
        c["id"] for c in design["circuits"] if any(f["severity"] == "stop" for f in c["findings"])
    }
    assert behind <= stopped
    for circuit_id in (*sorted(behind), "c2"):
        assert client.get(f"/jobs/{job_id}/circuits/{circuit_id}").status_code == 200
        sheet = client.get(f"/jobs/{job_id}/circuits/{circuit_id}/sheet.pdf")
        assert sheet.status_code == 200, circuit_id


def test_numbers_go_on_past_999() -> None:
    job = Job(name="J", last_number=998)
    for name in ("A", "B", "C"):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=name, watts=20)))
    assert [c.id for c in job.circuits] == ["c999", "c1000", "c1001"]
    job = apply(job, AddSwitch(switch=Switch(name="S")))
    assert job.switches[0].number == 1002


def test_sixty_segments_can_be_posted(client: TestClient, database: Path) -> None:
    form = {
        "revision": "1",
        "back.kind": "chassis",
        "back.stub_m": "0.5",
        "fuse_at_m": "0.1",
        "switching_at_m": "0.2",
        "control_m": "2",
    }
    for n in range(60):
        form |= {
            f"run.{n}.zone": "cabin",
            f"run.{n}.length_m": "0.1",
            f"run.{n}.taped": "true",
            f"run.{n}.loaded_conductors": "1",
            f"run.{n}.ambient_c": "",
            f"run.{n}.passes.name": "",
        }
    assert (
        post_edit(client, {"kind": "set_run", "circuit_id": "c29"}, fields=form).status_code == 200
    )
    assert len(head(database).job.circuit("c29").run) == 60


def test_lengths_in_feet_and_inches(client: TestClient, database: Path) -> None:
    form = {
        "revision": "1",
        "run.0.zone": "cabin",
        "run.0.length_m": "7 ft 10 in",
        "run.1.zone": "cabin",
        "run.1.length_m": "18 in",
        "back.kind": "chassis",
        "back.stub_m": "1'",
        "fuse_at_m": "6 in",
        "switching_at_m": "1 ft",
        "control_m": "3",
    }
    assert (
        post_edit(client, {"kind": "set_run", "circuit_id": "c29"}, fields=form).status_code == 200
    )
    circuit = head(database).job.circuit("c29")
    assert [s.length_m for s in circuit.run] == [2.3876, 0.4572]
    assert (circuit.back.stub_m, circuit.fuse_at_m) == (0.3048, 0.1524)


@pytest.mark.parametrize(
    "address", ["/api/jobs/1/edits?revision=1", "/api/jobs", "/api/size", "/jobs/1/ticks"]
)
def test_a_body_of_a_million_parts_costs_nothing(client: TestClient, address: str) -> None:
    """Refused by its signs: no object is made of it, and no list of a million mistakes."""
    body = b'{"kind": "add_accessories", "accessories": [' + b"{}," * 1_500_000 + b"{}]}"
    tracemalloc.start()
    answer = client.post(address, content=body, headers={"content-type": "application/json"})
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert answer.status_code == 422
    assert "parts" in answer.text
    assert peak < 60e6
    few = {"kind": "add_accessories", "accessories": [{}] * 900}
    assert client.post("/api/jobs/1/edits?revision=1", json=few).status_code == 422
