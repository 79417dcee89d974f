"""No page shows a word of the program: keys of tables, names of fields, kinds of edits."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.job import Job
from ready_trail.store import jobs
from ready_trail.store.db import connect, transaction
from support import demo

PAGES = (
    "brief",
    "accessories",
    "supply",
    "survey",
    "layout",
    "rules",
    "scenarios",
    "review?notes=1",
    "drawing",
    "drawing/faults",
    "build",
    "build/cut",
    "build/parts",
    "build/labels",
    "build/found",
    "history",
)
OF_CIRCUIT = ("", "/run", "/why", "/branches")
_MARKUP = re.compile(r"(?s)<(script|style|textarea)\b.*?</\1>|<(?:\"[^\"]*\"|'[^']*'|[^'\">])*>")
_PROGRAM = re.compile(r"\b[a-z]+(?:_[a-z0-9]+)+\b")
_ALLOWED = {"rules_json"}


def held() -> Job:
    """The demo job with choices held that make the review name families and relays."""
    job = demo()
    own = [c.id for c in job.circuits if not c.is_feeder]
    for circuit_id, what, value in (
        (own[0], "family", "breaker_auto"),
        (own[1], "relay", "mini_no"),
        (own[2], "fuse_a", 60.0),
        (own[3], "size", "20"),
        (own[4], "insulation_c", "80"),
        (own[0], "fuse_a", 15.0),
        (own[5], "relay", "micro_no"),
        (own[5], "fuse_a", 40.0),
    ):
        job = apply(job, HoldChoice(circuit_id=circuit_id, what=what, value=value))  # type: ignore[arg-type]
    return job


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel", "held"])
def test_every_page_speaks_the_trades_words(client: TestClient, database: Path, name: str) -> None:
    job = held() if name == "held" else demo(name)
    conn = connect(database)
    with transaction(conn):
        number = jobs.create_job(conn, job, kind="demo", title="Demo")
    conn.close()
    base = f"/jobs/{number}"
    shown = [f"{base}/{p}" for p in PAGES]
    circuits = job.circuits if name == "held" else job.circuits[:3]
    shown += [f"{base}/circuits/{c.id}{p}" for c in circuits for p in OF_CIRCUIT]
    shown += ["/", "/jobs/new", "/shelf", "/schemes", "/size", "/settings"]
    found = {}
    for address in shown:
        answer = client.get(address)
        assert answer.status_code == 200, address
        words = set(_PROGRAM.findall(_MARKUP.sub("\n", answer.text))) - _ALLOWED
        if words:
            found[address] = words
    assert found == {}


def test_titles_of_edits_and_ways_out_name_parts_as_the_tables_do(
    client: TestClient, database: Path
) -> None:
    edit = {"kind": "hold_choice", "circuit_id": "c15", "what": "family", "value": "strip_m5"}
    client.post("/jobs/1/edit", data={"revision": "1", "edit": json.dumps(edit)})
    history = client.get("/jobs/1/history").text
    assert "Hold fuse family of Roof light bar: Bolt-down strip M5" in history
    assert "strip_m5" not in _MARKUP.sub("", history)


def test_a_rule_that_recolours_says_which_wires(client: TestClient) -> None:
    answer = client.get("/jobs/1/rules?try=colours&value=function").text
    assert re.search(r"colours.{0,200}→", _MARKUP.sub(" ", answer), re.DOTALL)
    assert "Roof light bar" in answer


def test_a_new_job_says_which_rules_it_starts_from(client: TestClient) -> None:
    assert "the usual ones" in client.get("/jobs/new").text
    client.post(
        "/jobs/1/rules/sets",
        data={"part": "save", "name": "Our shop", "shops": "true", "revision": "1"},
    )
    assert "the shop's set <strong>Our shop</strong>" in client.get("/jobs/new").text
