"""The list of jobs shows what was kept of each: it designs nothing that nobody changed."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.design import design
from ready_trail.store import jobs
from ready_trail.store.db import connect, transaction
from ready_trail.web.pages import summary
from support import CATALOGUE, demo
from web_support import MARMOT, stored


def shown(client: TestClient) -> dict[str, str]:
    """What the list says of each job, by its name."""
    page = client.get("/").text
    cards = re.findall(
        r'job-card-name">([^<]+)<.*?job-card-state">(.*?)<span class="job-card-when', page, re.S
    )
    return {name: " ".join(re.sub(r"<[^>]*>", " ", state).split()) for name, state in cards}


def told(job_number: int, database: Path) -> str:
    made = design(stored(database, job_number), CATALOGUE)
    words = [f"{made.ready_count} of {len(made.circuits)} ready"]
    for what in ("stop", "caution"):
        n = made.count(what)
        words += [f"{n} {what}{'' if n == 1 else 's'}"] if n else []
    return " ".join(words)


def no_designing(monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: object) -> None:
        raise AssertionError("the list designs a job")

    monkeypatch.setattr(summary, "designed_or_bare", refuse)


def test_counts_are_kept_and_follow_every_change(
    client: TestClient, database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    client.get("/")  # what was stored before there were lines is counted once
    assert shown(client)["Marmot"] == told(MARMOT, database)
    hold = {"kind": "hold_choice", "circuit_id": "c15", "what": "fuse_a", "value": 60.0}
    with monkeypatch.context() as patched:
        no_designing(patched)
        before = shown(client)
        client.post(f"/jobs/{MARMOT}/edit", data={"revision": "1", "edit": json.dumps(hold)})
        after = shown(client)
        assert after["Marmot"] == told(MARMOT, database) != before["Marmot"]
    client.post(f"/jobs/{MARMOT}/undo", data={"revision": "2"})
    assert shown(client) == before


def test_a_datasheet_figure_has_the_jobs_counted_anew(client: TestClient, database: Path) -> None:
    client.get("/")
    part = {"key": "relay-mini-no", "label": "Relay", "new": "true", "row": "relay:mini_no"}
    client.post("/shelf/part", data=part)
    client.post(
        "/shelf/figure",
        data={
            "key": "relay-mini-no",
            "figure.contact_a_85c": "5",
            "figure.contact_a_23c": "6",
            "source": "7",
        },
    )
    conn = connect(database)
    rows = {r.name: r for r in jobs.list_jobs(conn)}
    conn.close()
    old = rows["Marmot"].counted
    assert old is not None
    client.get("/")  # counts what the figure made old
    assert shown(client)["Marmot"] != "being counted"
    conn = connect(database)
    new = next(r for r in jobs.list_jobs(conn) if r.name == "Marmot").counted
    conn.close()
    assert new is not None
    assert new.reckoned_by != old.reckoned_by


def test_a_long_list_says_what_is_being_counted(
    client: TestClient, database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    conn = connect(database)
    with transaction(conn):
        for number in range(12):
            job = demo("Kestrel").model_copy(update={"name": f"Bike {number}"})
            jobs.create_job(conn, job, kind="demo", title="Demo")
    conn.close()
    from ready_trail.web.routes import jobs as routes

    monkeypatch.setattr(routes, "AT_ONCE_S", -1.0)
    first = client.get("/").text
    assert "14 jobs are being counted anew" in first
    assert "being counted" not in client.get("/").text, "done after the answer"
