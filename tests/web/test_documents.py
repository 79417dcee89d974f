"""Documents behind plain addresses: waited for, left, stopped, made once."""

from __future__ import annotations

import re
import time

import pytest
from starlette.testclient import TestClient

from ready_trail.web import documents
from ready_trail.web.work import WORKS, WorkFailedError

SHEET = "/jobs/1/circuits/c15/sheet.pdf"


def test_one_that_takes_long_leads_to_its_progress_and_is_kept(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(documents, "PATIENCE_S", 0.0)
    came_from = {"Referer": "http://127.0.0.1/jobs/1/circuits/c15?at=K15"}
    answer = client.get(f"{SHEET}?why=true", headers=came_from, follow_redirects=False)
    assert answer.status_code == 303
    where = answer.headers["location"]
    assert where.endswith("back=%2Fjobs%2F1%2Fcircuits%2Fc15%3Fat%3DK15")
    shown = client.get(where).text
    assert "data-work=" in shown
    assert "data-open=" in shown
    work_id = where.split("/")[2]
    while client.get(f"/work/{work_id}").json()["state"] == "running":
        time.sleep(0.05)
    assert client.get(f"/work/{work_id}/file").content.startswith(b"%PDF")
    again = client.get(f"{SHEET}?why=true", follow_redirects=False)
    assert again.status_code == 200, "it is not made a second time"
    assert again.content.startswith(b"%PDF")
    assert re.fullmatch(r'inline; filename="[\w.-]+\.pdf"', again.headers["content-disposition"])


def test_one_that_is_stopped_says_so_and_can_be_made_again(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(documents, "PATIENCE_S", 0.0)
    path = "/jobs/1/build/labels.pdf?skip=5"
    where = client.get(path, follow_redirects=False).headers["location"]
    work_id = where.split("/")[2]
    client.post(f"/work/{work_id}/stop", data={"back": "/jobs/1/build/labels"})
    assert "It was stopped." in client.get(where).text
    assert client.get(f"/work/{work_id}/file").status_code == 404
    assert client.get(path, follow_redirects=False).headers["location"] != where
    for work in list(WORKS._works.values()):
        WORKS.stop(work.id)


def test_a_way_back_leads_only_into_a_job(client: TestClient) -> None:
    assert client.get("/work/nothing/page").status_code == 404
    made = client.get(SHEET, headers={"Referer": "http://elsewhere.example/x"})
    assert made.status_code == 200
    work = next(w for w in WORKS._works.values() if w.state == "done")
    assert 'href="//evil"' not in client.get(f"/work/{work.id}/page?back=//evil").text


def test_what_comes_too_close_together_waits_its_turn(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(WORKS, "running_most", 1)
    monkeypatch.setattr("ready_trail.web.work._WAITING_MOST", 2)
    monkeypatch.setattr(documents, "PATIENCE_S", 0.0)
    asked = [f"/jobs/1/build/labels.pdf?skip={n}" for n in (6, 7, 8, 9)]
    answers = [client.get(path, follow_redirects=False) for path in asked]
    assert [a.status_code for a in answers] == [303, 303, 303, 429]
    assert "let some of them end, or stop them" in answers[3].text
    first, second, third = (a.headers["location"].split("/page")[0] for a in answers[:3])
    assert client.get(third).json() == {"state": "running", "done": 0, "total": 1, "leads_to": "",
                                        "words": "Waits for its turn"}  # fmt: skip
    client.post(f"{second}/stop", data={})
    assert client.get(asked[3], follow_redirects=False).status_code == 303, "there is room again"
    assert client.get(first).json()["state"] == "running"
    client.post(f"{first}/stop", data={})
    end = time.monotonic() + 90
    while (told := client.get(third).json())["state"] == "running":
        assert time.monotonic() < end
        time.sleep(0.05)
    assert told["state"] == "done", "its turn came without anybody asking"
    assert client.get(second).json()["state"] == "stopped"
    for work in list(WORKS._works.values()):
        WORKS.stop(work.id)


def test_a_mistake_in_the_layout_is_not_told_as_a_missing_library(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(documents, "make_paper", int)  # takes no pages
    with pytest.raises(WorkFailedError, match="It did not work"):
        client.get("/jobs/1/review.pdf?paper=letter")
