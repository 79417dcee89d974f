"""Scenarios, house rules, review and comparison over HTTP: seen, kept, refused, nothing lost."""

from __future__ import annotations

import html
import json
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.edits import SetVehicle
from ready_trail.core.job import HouseRules, Job
from ready_trail.formats.demo import demo_jobs
from ready_trail.store import db, jobs, rule_sets
from support import CATALOGUE, demo
from web_support import form_of, on_one_line, pdf_text, post_edit

MATRIX = "/jobs/1/scenarios"


@pytest.fixture
def database(tmp_path: Path) -> Path:
    """The demo jobs as they come, Marmot first."""
    path = tmp_path / "t.db"
    db.initialise(path)
    conn = db.connect(path)
    with db.transaction(conn):
        for job in demo_jobs(CATALOGUE):
            jobs.create_job(conn, job, kind="demo", title="Demo job")
    conn.close()
    return path


def stored(database: Path, job_id: int = 1) -> jobs.StoredJob:
    conn = db.connect(database)
    try:
        return jobs.get_job(conn, job_id)
    finally:
        conn.close()


def change(
    client: TestClient, database: Path, kind: str, page: str, **fields: str
) -> tuple[int, str]:
    seen = stored(database).revision
    answer = post_edit(client, {"kind": kind}, page, fields, revision=seen)
    return answer.status_code, on_one_line(html.unescape(answer.text))


def send(client: TestClient, database: Path, path: str, **fields: str) -> tuple[int, str]:
    data = {"revision": str(stored(database).revision), **fields}
    answer = client.post(f"/jobs/1{path}", data=data)
    return answer.status_code, on_one_line(html.unescape(answer.text))


def job_of(database: Path) -> Job:
    return stored(database).job


def test_a_cell_of_the_matrix_is_pressed_and_an_impossible_one_says_why(
    client: TestClient, database: Path
) -> None:
    cell = {"scenario_id": "s2", "accessory": "a15", "on": "true"}
    status, page = change(client, database, "set_running", MATRIX, **cell)
    assert status == 200
    assert re.search(r'id="cell-s2-a15-" aria-pressed="true"', page)
    status, page = change(client, database, "set_running", MATRIX, **{**cell, "scenario_id": "s4"})
    assert status == 422
    assert "Roof light bar needs the ignition" in page
    assert job_of(database).scenarios[1].share_of("a15") == 1.0


def test_scenario_changes_follow_to_the_feeder_and_its_words(
    client: TestClient, database: Path
) -> None:
    before = client.get("/jobs/1/supply").text
    assert "Night ascent" in before
    for accessory in ("a17", "a18"):
        change(client, database, "set_running", MATRIX, scenario_id="s1", accessory=accessory)
    alone = client.get("/jobs/1/supply?scenario=s4").text
    assert alone.count(">off<") > 5
    assert "58.9 A" in client.get("/jobs/1/circuits/c2/why").text


def test_a_day_is_put_together_and_a_wrong_one_keeps_what_was_typed(
    client: TestClient, database: Path
) -> None:
    status, page = change(
        client,
        database,
        "set_day",
        MATRIX,
        **{
            "parts.0.scenario": "s4",
            "parts.0.minutes": "",
            "parts.1.scenario": "s5",
            "parts.1.minutes": "30",
        },
    )
    assert status == 200
    assert [p.minutes for p in job_of(database).day] == [600, 30]
    status, page = change(
        client, database, "set_day", MATRIX, **{"parts.0.scenario": "s4", "parts.0.minutes": "long"}
    )
    assert status == 422
    assert "Type a number" in page
    assert 'value="long"' in page


def test_the_sliders_show_another_battery_and_save_nothing(
    client: TestClient, database: Path
) -> None:
    page = client.get("/jobs/1/scenarios?show=s4&capacity_ah=200").text
    assert "Nothing is saved" in page
    assert "lowest 68%" not in page
    assert job_of(database).vehicle.battery.capacity_ah == 95
    assert client.get("/jobs/1/scenarios?capacity_ah=big").status_code == 422


def test_a_rule_shows_what_it_changes_before_it_is_kept(client: TestClient, database: Path) -> None:
    page = client.get("/jobs/1/rules?try=drop&value=three").text
    assert "Rear work lights" in page
    assert re.search(r"wire</td>.*?12 AWG.*?10 AWG", page, re.S)
    assert job_of(database).rules.drop == "by_kind"
    form = form_of(client, "/jobs/1/rules?try=drop&value=three", "set_house_rules")
    assert client.post("/jobs/1/edit", data=form).status_code == 200
    assert job_of(database).rules.drop == "three"
    assert client.get("/jobs/1/rules?try=nonsense&value=1").status_code == 422
    assert client.get("/jobs/1/rules?try=k_cont&value=2").status_code == 422


def test_a_set_of_the_shop_is_saved_used_for_new_jobs_and_taken_away(
    client: TestClient, database: Path
) -> None:
    form = form_of(client, "/jobs/1/rules?try=k_cont&value=0.7", "set_house_rules")
    client.post("/jobs/1/edit", data=form)
    send(client, database, "/rules/sets", part="save", name="Our shop", shops="true")
    client.post("/jobs", data={"name": "Wren", "vehicle.kind": "van"})
    conn = db.connect(database)
    try:
        newest = max(row.job_id for row in jobs.list_jobs(conn, archived=False))
        assert jobs.get_job(conn, newest).job.rules.k_cont == 0.7
    finally:
        conn.close()
    status, page = send(client, database, "/rules/sets", part="save", name="  ")
    assert status == 422
    assert "Fill this in" in page
    send(client, database, "/rules/sets", part="remove", name="Our shop")
    conn = db.connect(database)
    try:
        assert rule_sets.shops_rules(conn) == HouseRules()
    finally:
        conn.close()
    assert send(client, database, "/rules/sets", part="shops", name="Ours")[0] == 404


def test_rules_go_out_as_a_file_and_come_in_from_one(client: TestClient, database: Path) -> None:
    text = client.get("/jobs/1/rules.json").text
    document = json.loads(text)
    document["rules"]["k_cont"] = 0.75

    def take(data: str) -> tuple[int, str]:
        files = {"file": ("rules.json", data, "application/json")}
        answer = client.post("/jobs/1/rules/file", files=files, data={"revision": "1"})
        return answer.status_code, on_one_line(html.unescape(answer.text))

    status, page = take(json.dumps(document))
    assert status == 200
    assert "80 % → <strong>75 %</strong>" in page
    assert job_of(database).rules.k_cont == 0.8
    document["house_rules"] = 99
    assert "Use a newer Ready Trail" in take(json.dumps(document))[1]
    document |= {"house_rules": 1, "rules": {"k_cont": 3}}
    assert "Must be 1" in take(json.dumps(document))[1]
    for odd in ("{", "[]", '{"rules": {}}', ""):
        assert take(odd)[0] == 422


def test_review_lists_every_open_finding_with_its_rule(client: TestClient, database: Path) -> None:
    page = on_one_line(html.unescape(client.get("/jobs/1/review").text))
    assert "Not ready: 1 stop" in page
    assert "Choose the fuse automatically" in page
    rule = html.unescape(client.get("/jobs/1/findings/fuse_over_wire").text)
    assert "Rear work lights" in rule
    assert client.get("/jobs/1/findings/nonsense").status_code == 404
    only = client.get("/jobs/1/review?area=charging").text
    assert "Rear work lights, F17" not in only


def test_a_battery_finding_is_accepted_only_with_a_reason_and_printed(
    client: TestClient, database: Path
) -> None:
    small = job_of(database).vehicle
    battery = small.battery.model_copy(update={"capacity_ah": 55.0})
    edit = SetVehicle(vehicle=small.model_copy(update={"battery": battery}))
    send(client, database, "/edit", edit=edit.model_dump_json())
    page = html.unescape(client.get("/jobs/1/review?area=charging").text)
    assert "Hut stay: Battery is half empty" in page
    found = re.search(
        r'name="edit" value="([^"]*battery_half[^"]*accept_budget[^"]*)"',
        on_one_line(client.get("/jobs/1/review").text),
    )
    assert found is not None
    accept = html.unescape(found.group(1))
    assert send(client, database, "/edit", edit=accept, **{"accepted.reason": ""})[0] == 422
    assert "battery_half" not in {a.code for a in job_of(database).accepted}
    given = {"accepted.reason": "A charger runs at the hut"}
    send(client, database, "/edit", edit=accept, **given)
    moved = client.get("/jobs/1/review/print", follow_redirects=False)
    assert moved.headers["location"] == "/jobs/1/review.pdf", "where it was printed before"
    assert "A charger runs at the hut" in pdf_text(client.get("/jobs/1/review.pdf").content)


@pytest.mark.parametrize(
    ("query", "status", "words"),
    [
        ("a=1&b=now", 200, "Nothing differs"),
        ("a=rules:&b=now", 200, "Nothing differs"),
        ("a=77&b=now", 422, "no revision"),
        ("a=abc&b=now", 422, "by its number"),
        ("a=job:2&b=now", 422, "in common"),
        ("a=now&b=rules:Nobody", 422, "no set of rules"),
        ("edit={", 422, "not an edit"),
    ],
)
def test_comparisons_that_make_no_sense_are_refused_kindly(
    client: TestClient, query: str, status: int, words: str
) -> None:
    answer = client.get(f"/jobs/1/compare?{query}")
    assert answer.status_code == status
    assert words in html.unescape(answer.text)


def test_two_revisions_side_by_side_and_a_change_that_is_only_tried(
    client: TestClient, database: Path
) -> None:
    way_out = {"kind": "release_choice", "circuit_id": "c17", "what": "fuse_a"}
    tried = html.unescape(client.get("/jobs/1/compare", params={"edit": json.dumps(way_out)}).text)
    assert "ends: The 30 A fuse lets more through" in tried
    assert job_of(database) == demo()
    send(client, database, "/edit", edit=json.dumps(way_out))
    page = on_one_line(html.unescape(client.get("/jobs/1/compare?a=1&b=2").text))
    assert "18 of 19 → 19 of 19" in page
    assert "Rear work lights" in page


def test_every_circuit_and_scenario_explains_itself(client: TestClient, database: Path) -> None:
    for job_id in (1, 2, 3):
        job = stored(database, job_id).job
        for circuit in job.circuits:
            page = client.get(f"/jobs/{job_id}/circuits/{circuit.id}/why")
            assert page.status_code == 200
            for title in ("Design current", "Fuse", "Drop in copper", "Short circuit"):
                assert title in page.text
        for scenario in job.scenarios:
            assert client.get(f"/jobs/{job_id}/scenarios/{scenario.id}/why").status_code == 200
    assert client.get("/jobs/1/scenarios/s99/why").status_code == 404
