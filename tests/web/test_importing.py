"""Large job files: read beside the server, told how far, kept whoever still looks."""

from __future__ import annotations

import json
import time
from contextlib import closing
from pathlib import Path
from typing import Any

from starlette.testclient import TestClient

from ready_trail.formats.job_json import write_job
from ready_trail.store import db
from ready_trail.web import importing
from support import large_job


def post(client: TestClient, data: bytes, key: str) -> str:
    answer = client.post(
        "/jobs/import",
        files={"file": ("m.json", data)},
        data={"form_key": key},
        follow_redirects=False,
    )
    assert answer.status_code == 303
    return answer.headers["location"].removesuffix("/page")


def ended(client: TestClient, where: str) -> dict[str, Any]:
    while (told := client.get(where).json())["state"] == "running":
        time.sleep(0.02)
    return dict(told)


def test_a_large_file_becomes_a_job_once_though_nobody_looks(client: TestClient) -> None:
    job = large_job(90)
    data = write_job(job).encode()
    assert len(data) > importing.LARGE_BYTES
    where = post(client, data, "one form")
    assert post(client, data, "one form") == where, "pressed twice"
    told = ended(client, where)
    assert told["state"] == "done"
    taken = client.get(f"/api{told['leads_to']}").json()["job"]
    assert [c["name"] for c in taken["circuits"]] == [c.name for c in job.circuits]
    assert told["leads_to"] in client.get(f"{where}/page").text
    assert ended(client, post(client, data, "one form"))["leads_to"] == told["leads_to"]
    assert ended(client, post(client, data, "another"))["leads_to"] != told["leads_to"]


def test_a_large_file_that_will_not_do_says_what_is_wrong(client: TestClient) -> None:
    document = json.loads(write_job(large_job(90)))
    document["circuits"][70]["accessory_ids"] = ["a999"]
    where = post(client, json.dumps(document, indent=1).encode(), "bad")
    assert ended(client, where)["state"] == "failed"
    shown = client.get(f"{where}/page").text
    assert "circuit c71 names accessory a999" in shown
    assert "It did not work" not in shown


def test_one_that_is_stopped_makes_no_job(client: TestClient) -> None:
    before = len(client.get("/api/jobs").json())
    where = post(client, write_job(large_job(200)).encode(), "stopped")
    client.post(f"{where}/stop", data={})
    assert ended(client, where)["state"] == "stopped"
    assert "It was stopped." in client.get(f"{where}/page").text
    assert len(client.get("/api/jobs").json()) == before


def test_a_large_document_by_the_api_is_read_there_too(client: TestClient, database: Path) -> None:
    document = json.loads(write_job(large_job(90)))
    taken = client.post("/api/jobs", json=document)
    assert taken.status_code == 201
    stored = client.get(f"/api/jobs/{taken.json()['job_id']}").json()
    assert stored["revision"] == taken.json()["revision"] == 1
    assert len(stored["job"]["circuits"]) == 90
    document["circuits"][70]["accessory_ids"] = ["a999"]
    refused = client.post("/api/jobs", json=document)
    assert refused.status_code == 422
    assert "circuit c71 names accessory a999" in refused.json()["detail"]
    with closing(db.connect(database)) as conn:
        told = [row["state"] for row in conn.execute("SELECT state FROM work ORDER BY made_at")]
    assert told == ["done", "failed"], "both beside the server"
