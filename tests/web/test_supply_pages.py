"""The supply stage over HTTP: every usual point in two presses, moved, fed, removed, refused."""

from __future__ import annotations

import html
import json
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.job import Job
from ready_trail.store import db, jobs
from support import CATALOGUE
from web_support import form_of, on_one_line, pdf_text, post_edit

FOR_12_V = [p for p in CATALOGUE.point_presets.values() if p.for_v in (None, 12)]


def head(database: Path) -> jobs.StoredJob:
    conn = db.connect(database)
    try:
        return jobs.get_job(conn, 1)
    finally:
        conn.close()


def job_of(database: Path) -> Job:
    return head(database).job


def post(client: TestClient, database: Path, kind: str, page: str = "", **fields: str) -> str:
    typed = {k.replace("__", "."): v for k, v in fields.items()}
    seen = head(database).revision
    page = f"/jobs/1/supply{page}"
    return post_edit(client, {"kind": kind}, page, typed, revision=seen).text


@pytest.mark.parametrize("preset", FOR_12_V, ids=lambda p: p.key)
def test_every_usual_point_comes_with_its_feeder_and_goes_again(
    client: TestClient, database: Path, preset: object
) -> None:
    key = str(getattr(preset, "key", ""))
    listed = on_one_line(client.get("/jobs/1/supply?add=point").text)
    label = html.escape(str(getattr(preset, "label", "")), quote=False)
    press = re.search(rf'name="edit" value="([^"]*)"> <button[^>]*>{re.escape(label)}<', listed)
    assert press is not None, key
    before = job_of(database)
    post_edit(client, json.loads(html.unescape(press[1])))
    job = job_of(database)
    point = job.points[-1]
    assert len(job.points) == len(before.points) + 1
    assert (job.feeder_of(point.id) is None) == point.fed_by_vehicle
    shown = client.get(f"/jobs/1/supply?point={point.id}").text
    assert point.name in shown
    feeder = job.feeder_of(point.id)
    if feeder is not None:
        sheet = client.get(f"/jobs/1/circuits/{feeder.id}")
        assert sheet.status_code == 200
        assert point.name in sheet.text
    post(client, database, "remove_supply", point_id=point.id)
    assert [p.id for p in job_of(database).points] == [p.id for p in before.points]


def test_a_circuit_moves_between_positions_and_two_change_places(
    client: TestClient, database: Path
) -> None:
    post(client, database, "start_at", circuit_id="c27", start="p1:7")
    assert job_of(database).circuit("c27").start.position == "7"
    post(client, database, "start_at", circuit_id="c27", start="p1:1")
    job = job_of(database)
    assert (job.circuit("c27").start.position, job.circuit("c15").start.position) == ("1", "7")
    refused = post(client, database, "start_at", circuit_id="c2", start="p3:A")
    assert "position A feeds Charging shelf already" in refused
    assert job_of(database) == job


def test_a_point_that_still_feeds_asks_where_its_circuits_start_instead(
    client: TestClient, database: Path
) -> None:
    refused = post(client, database, "remove_supply", point_id="p3")
    assert "still feeds" in refused
    assert len(job_of(database).points) == 4
    post(client, database, "remove_supply", point_id="p3", move_to="battery")
    job = job_of(database)
    assert "p3" not in {p.id for p in job.points}
    assert job.circuit("c29").start.point == "battery"
    assert head(database).revision == 2
    client.post("/jobs/1/undo", data={"revision": "2", "back": "/jobs/1/supply"})
    assert len(job_of(database).points) == 4


def test_limits_and_legends_of_a_point_are_stated_and_refused_beside_their_field(
    client: TestClient, database: Path
) -> None:
    fields = {"point.name": "Bay block", "point.zone": "engine_bay", "point.total_a": "60"}
    for n in range(8):
        fields |= {
            f"point.positions.{n}.name": str(n + 1),
            f"point.positions.{n}.legend": f"Row {n + 1}",
            f"point.positions.{n}.rating_a": "30",
        }
    known, page = {"kind": "change_point", "point": {"id": "p1"}}, "/jobs/1/supply?point=p1#point"
    post_edit(client, known, page, fields)
    point = job_of(database).point("p1")
    assert (point.total_a, point.positions[3].legend) == (60.0, "Row 4")
    many = {**fields, "point.positions.2.rating_a": "many"}
    wrong = post_edit(client, known, page, many, revision=2).text
    assert 'value="many"' in wrong
    assert "Type a number" in wrong
    double = {**fields, "point.positions.2.name": "2"}
    twice = post_edit(client, known, page, double, revision=2).text
    assert "stands twice" in twice
    assert job_of(database).point("p1") == point


def test_a_renamed_switch_has_its_new_name_on_every_page(
    client: TestClient, database: Path
) -> None:
    form = form_of(client, "/jobs/1/supply?switch=Roof%20bar", "change_switch")
    client.post("/jobs/1/edit", data={**form, "switch.name": "Ridge light"})
    assert job_of(database).switch("Roof bar") is None
    for url in (
        "/jobs/1/supply",
        "/jobs/1/circuits/c15",
        "/jobs/1/accessories",
        "/jobs/1/circuits/c15/sheet.pdf",
        "/jobs/1/wires.csv",
    ):
        answer = client.get(url)
        text = answer.text.split('id="work"')[-1]
        if url.endswith(".pdf"):
            text = pdf_text(answer.content)
        assert "Ridge light" in text, url
        assert not re.search(r"\bRoof bar\b(?! \d)", text), url


def test_waking_a_block_with_the_key_is_one_press(client: TestClient, database: Path) -> None:
    shown = client.get("/jobs/1/supply?point=p1").text
    assert "Wake it with the ignition" in shown
    post(client, database, "wake_point", point_id="p1", key="run")
    feeder = job_of(database).feeder_of("p1")
    assert feeder is not None
    assert feeder.use is not None
    assert feeder.use.key == "run"
    cooler = client.get("/jobs/1/circuits/c22").text
    assert "the point where it starts sleeps with the key" in cooler


def test_the_effect_of_a_way_out_is_told_when_the_page_asks_and_kept(
    client: TestClient, database: Path
) -> None:
    post(
        client, database, "set_together", point_id="p1", together_a="31.7"
    )  # asked by no other test
    text = client.get("/jobs/1/circuits/c17").text.replace("\u00a0", " ")
    assert "Choose the fuse automatically" in text
    edits = asked_effects(text)
    answer = client.get("/jobs/1/effects", params={"revision": 2, "edit": [*edits, "{}"]})
    assert answer.status_code == 200
    told = answer.json()["effects"]
    assert any("1 finding gone" in words for words in told)
    assert all(told[:-1])
    assert told[-1] == "", "what is no edit has no effect"
    again = client.get("/jobs/1/circuits/c17").text
    assert asked_effects(again) == []
    assert "1 finding gone" in again
    post(client, database, "set_together", point_id="p1", together_a="30")
    stale = client.get("/jobs/1/effects", params={"revision": 2, "edit": edits})
    assert stale.status_code == 409


def asked_effects(text: str) -> list[str]:
    """The edits whose effect a page asks for."""
    return [html.unescape(e) for e in re.findall(r'data-effect="([^"]+)"', text)]
