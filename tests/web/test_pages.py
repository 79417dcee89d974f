"""Pages and writes over HTTP: what is shown, what is refused, and that nothing typed is lost."""

from __future__ import annotations

import html
import json
import re
import sqlite3
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.edits import HoldChoice
from ready_trail.core.kinds.finds import FIND_KINDS
from ready_trail.store import db, jobs
from support import MARMOT_FILE
from web_support import form_of, on_one_line, post_edit

PAGES = [
    "/",
    "/?archived=true",
    "/jobs/new",
    "/jobs/1/brief",
    "/jobs/1/accessories",
    "/jobs/1/accessories?preset=fridge",
    "/jobs/1/accessories/a15",
    "/jobs/1/circuits/c15",
    "/jobs/1/circuits/c16?at=K2",
    "/jobs/1/circuits/c25?at=F5",
    "/jobs/1/circuits/c15/run",
    "/jobs/1/history",
    "/size",
    "/jobs/1/survey",
    "/jobs/1/layout",
    "/jobs/2/survey",
    "/jobs/2/layout",
    "/jobs/2/layout?leg=l8",
    "/jobs/2/layout?point=rfc",
    "/jobs/2/circuits/c15/run",
]


def head(database: Path) -> jobs.StoredJob:
    conn = db.connect(database)
    try:
        return jobs.get_job(conn, 1)
    finally:
        conn.close()


@pytest.mark.parametrize("url", PAGES)
def test_page_is_whole_and_asks_for_nothing_outside(client: TestClient, url: str) -> None:
    page = client.get(url)
    assert page.status_code == 200
    assert page.text.rstrip().endswith("</html>")
    assert not re.search(r'(?:src|href|action)="(?:https?:)?//', page.text)
    assert "style=" not in page.text
    assert "onclick" not in page.text
    assert "script-src 'self'" in page.headers["content-security-policy"]


def test_sheet_shows_sizes_reasons_and_pin_out(client: TestClient) -> None:
    text = client.get("/jobs/1/circuits/c15").text.replace("\u00a0", " ")
    for words in (
        "10 AWG, orange with",
        "decide",
        "Mini relay 40 A",
        "output, made when energised",
        "Roof bar",
        "C15-W2",
    ):
        assert words in text or words == "Mini relay 40 A", words


def test_what_if_redraws_only_the_sheet_and_saves_nothing(
    client: TestClient, database: Path
) -> None:
    answer = client.get(
        "/jobs/1/circuits/c15?load_w=420&run_m=8",
        headers={"HX-Request": "true", "HX-Target": "sheet"},
    )
    assert answer.status_code == 200
    assert 'id="sheet"' in answer.text
    assert "<html" not in answer.text
    assert "Nothing is saved" in answer.text
    assert head(database).revision == 1
    keep = re.search(r'name="edit" value="([^"]*what_if[^"]*)"', answer.text)
    assert keep is not None
    edit = keep.group(1).replace("&#34;", '"')
    client.post(
        "/jobs/1/edit", data={"revision": "1", "edit": edit, "page": "/jobs/1/circuits/c15"}
    )
    kept = head(database).job
    assert kept.accessory("a15").watts == pytest.approx(420)
    assert kept.circuit("c15").run_m == pytest.approx(8.0)


@pytest.mark.parametrize(
    "query", ["load_w=abc", "run_m=-4", "ambient_c=500", "feed_v=1e9", "loaded_conductors=2.5"]
)
def test_what_if_refuses_nonsense_and_still_shows_the_sheet(client: TestClient, query: str) -> None:
    answer = client.get(f"/jobs/1/circuits/c15?{query}")
    assert answer.status_code == 422
    assert 'role="alert"' in answer.text
    assert "Roof light bar" in answer.text


def test_hold_release_undo_redo_restore(client: TestClient, database: Path) -> None:
    edit = HoldChoice(circuit_id="c15", what="size", value="").model_dump_json()
    form = {"edit": edit, "value": "8", "page": "/jobs/1/circuits/c15?at=C15-W2"}
    shown = client.post("/jobs/1/edit", data={**form, "revision": "1"})
    assert "8 AWG is held by hand" in shown.text
    assert head(database).title == "Hold wire size of Roof light bar: 8"
    client.post("/jobs/1/undo", data={"revision": "2", "back": "/jobs/1/circuits/c15"})
    assert head(database).job.circuit("c15").held.size is None
    client.post("/jobs/1/redo", data={"revision": "1", "back": "/jobs/1/circuits/c15"})
    assert head(database).job.circuit("c15").held.size == "8"
    history = client.post("/jobs/1/restore", data={"revision": "2", "number": "1"})
    assert "Restore revision 1: Demo job" in history.text
    assert head(database).revision == 3


def test_stale_tab_is_told_keeps_what_was_typed_and_can_apply_it(
    client: TestClient, database: Path
) -> None:
    first = {"name": "Marmot II", "place": "", "note": ""}
    post_edit(client, {"kind": "rename_job"}, fields=first)
    mine = {"name": "Marmot of the ridge", "place": "Hut", "note": ""}
    stale = post_edit(client, {"kind": "rename_job"}, "/jobs/1/brief", mine)
    assert stale.status_code == 409
    assert "Marmot of the ridge" in stale.text
    assert "Name the job Marmot II" in stale.text
    assert head(database).job.name == "Marmot II"
    hidden = re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', stale.text)
    again = client.post("/jobs/1/edit", data={n: html.unescape(v) for n, v in hidden})
    assert again.status_code == 200
    assert head(database).job.name == "Marmot of the ridge"
    assert head(database).job.place == "Hut"


CAMP = {"kind": "save_scenario", "name": "Camp", "key": "off", "minutes": "5"}
LAMP = {"kind": "add_accessory", "id": "new", "name": "Lamp"}
LEG = {"kind": "change_leg", "leg_id": "l8"}
MOVE = {"kind": "move_point", "point_id": "bed"}


@pytest.mark.parametrize(
    ("url", "form", "field", "typed"),
    [
        ("/jobs", {"name": "", "vehicle.charging_a": "lots"}, "f-name-error", "lots"),
        ("/jobs", {"name": "J", "vehicle.battery.capacity_ah": "-3"}, "capacity_ah-error", "-3"),
    ],
)
def test_bad_input_is_refused_beside_its_field_and_stays(
    client: TestClient, database: Path, url: str, form: dict[str, str], field: str, typed: str
) -> None:
    answer = client.post(url, data={"revision": "1", **form})
    assert answer.status_code == 422
    assert re.search(rf'id="[\w-]*{field}"', answer.text), answer.text[:200]
    assert f'value="{typed}"' in answer.text
    assert head(database).revision == 1


RUN = {"run.0.zone": "cabin", "back.kind": "chassis", "fuse_at_m": "0", "control_m": "3"}


@pytest.mark.parametrize(
    ("page", "edit", "form", "field", "typed"),
    [
        ("scenarios?edit=new", CAMP, {"engine": "off", "minutes": "-5"}, "f-minutes-error", "-5"),
        ("scenarios?edit=new", CAMP, {"engine": "cruise"}, "f-engine-error", "Camp"),
        (
            "scenarios?edit=s1",
            CAMP | {"scenario_id": "s1"},
            {
                "running.0.accessory": "a15",
                "running.0.output": "",
                "running.0.on": "true",
                "running.0.percent": "140",
            },
            "share-0-error",
            "140",
        ),
        (
            "brief",
            {"kind": "set_vehicle"},
            {"vehicle.charging_a": "1e999"},
            "charging_a-error",
            "1e999",
        ),
        (
            "supply?point=p1",
            {"kind": "change_point", "point": {"id": "p1"}},
            {"point.name": "Bay block", "point.total_a": "lots", "point.positions.0.name": "1"},
            "total_a-error",
            "lots",
        ),
        (
            "supply?switch=Beacon",
            {"kind": "change_switch", "was": "Beacon"},
            {"switch.name": "Beacon", "switch.rating_a": "-4"},
            "rating_a-error",
            "-4",
        ),
        ("accessories", LAMP, {"watts": "280 V"}, "f-watts-error", "280 V"),
        ("accessories", LAMP, {"name": "Lamp", "watts": "", "amps": ""}, "f-watts-error", "Lamp"),
        ("accessories", LAMP, {"watts": "5", "quantity": "1.5"}, "f-quantity-error", "1.5"),
        (
            "circuits/c15/run",
            {"kind": "set_run", "circuit_id": "c15"},
            RUN | {"run.0.length_m": "-2", "switching_at_m": "0.3"},
            "run-0-error",
            "-2",
        ),
        (
            "circuits/c15/run",
            {"kind": "set_run", "circuit_id": "c15"},
            RUN | {"run.0.length_m": "2", "switching_at_m": "7"},
            "f-switching_at_m-error",
            "7",
        ),
        ("survey", {"kind": "add_probe"}, {"name": "", "place": "dash"}, "f-name-error", "dash"),
        ("layout?leg=l8", LEG, {"taped_m": "far", "zone": "cabin"}, "f-taped_m-error", "far"),
        ("layout?point=bed", MOVE, {"x_m": "1", "y_m": "1", "z_m": "up"}, "f-z_m-error", "up"),
    ],
)
def test_a_refused_edit_stands_on_its_page_with_what_was_typed(
    client: TestClient,
    database: Path,
    page: str,
    edit: dict[str, str],
    form: dict[str, str],
    field: str,
    typed: str,
) -> None:
    job = 2 if page.startswith("layout") else 1
    answer = post_edit(client, edit, f"/jobs/{job}/{page}", form, job=job)
    assert answer.status_code == 422
    assert re.search(rf'id="[\w-]*{field}"', answer.text), answer.text[:200]
    assert f'value="{typed}"' in answer.text
    assert head(database).revision == 1


def test_a_refused_edit_whose_page_is_gone_keeps_what_was_typed(client: TestClient) -> None:
    edit = {"kind": "set_run", "circuit_id": "c99"}
    answer = post_edit(client, edit, "/jobs/1/circuits/c99/run", {"fuse_at_m": "0.37"})
    assert answer.status_code == 404
    assert "0.37" in answer.text
    sent_on = post_edit(client, edit, "/jobs/1/accessories/a99", {"fuse_at_m": "0.37"})
    assert sent_on.status_code == 422, "the page of the list stands for an accessory that is gone"
    assert "Switching at m: Fill this in." in sent_on.text
    for elsewhere in ("", "//evil.test", "/jobs/2/brief", "/jobs/1\\evil"):
        kept = post_edit(client, edit, elsewhere, {"fuse_at_m": "0.37"})
        assert (kept.status_code, "0.37" in kept.text) == (422, True), elsewhere


def test_decimal_comma_is_understood(client: TestClient, database: Path) -> None:
    post_edit(client, LAMP, fields={"watts": "27,5", "at_v": "13,5"})
    assert head(database).job.accessories[-1].watts == 27.5


def test_new_job_to_first_circuit(client: TestClient) -> None:
    new = client.post("/jobs", data={"name": "Wren", "vehicle.nominal_v": "12"})
    assert "What is to be powered?" in new.text
    form = form_of(client, "/jobs/3/accessories?add=true", "add_accessory")
    run = client.post("/jobs/3/edit", data=form | {"name": "Lamp", "watts": "60"})
    assert "Run of Lamp" in run.text
    assert "Test <b>" not in run.text


def test_duplicate_archive_import(client: TestClient) -> None:
    assert "Marmot (copy)" in client.post("/jobs/1/duplicate").text
    assert "Marmot</span>" not in client.post("/jobs/1/archive", data={"archived": "yes"}).text
    assert "Marmot</span>" in client.get("/?archived=true").text
    files = {"file": ("m.json", MARMOT_FILE.read_bytes(), "application/json")}
    assert "Roof light bar" in client.post("/jobs/import", files=files).text
    for data in (b"", b"{", b'{"schema_version": 9}'):
        refused = client.post("/jobs/import", files={"file": ("m.json", data)})
        assert refused.status_code == 422
        assert "was not taken" in refused.text
    large = client.post("/jobs/import", files={"file": ("m.json", b" " * 50_000_000)})
    assert large.status_code == 413
    assert "4 MB at most" in large.text


def test_quick_size_answers_and_becomes_a_circuit(client: TestClient) -> None:
    text = client.get("/size?watts=280&run_m=5.2&loaded_conductors=3").text
    text = text.replace("\u00a0", " ")
    assert "10 AWG" in text
    assert "30 A" in text
    refused = client.get("/size?watts=abc&run_m=-1")
    assert refused.status_code == 422
    assert 'value="abc"' in refused.text
    kept = client.post(
        "/size/keep", data={"watts": "280", "run_m": "5.2", "name": "Bar", "job_id": ""}
    )
    assert "Bar" in kept.text
    assert "10 AWG" in kept.text


@pytest.mark.parametrize(
    ("url", "kind", "start"),
    [
        ("/jobs/1/circuits/c15/sheet.pdf", "application/pdf", b"%PDF-"),
        ("/jobs/1/circuits/c15/sheet.pdf?paper=letter", "application/pdf", b"%PDF-"),
        ("/jobs/1/circuits/c15/trail.svg", "image/svg+xml", b"<?xml"),
        ("/jobs/1/wires.csv", "text/csv", b"circuit,wire"),
        ("/jobs/1/job.json", "application/json", b"{"),
        ("/jobs/1/netlist.cir?lights=high", "text/plain", b"* Ready Trail"),
        ("/api/job-schema", "application/json", b"{"),
        ("/api/openapi.json", "application/json", b"{"),
    ],
)
def test_exports(client: TestClient, url: str, kind: str, start: bytes) -> None:
    answer = client.get(url)
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith(kind)
    assert answer.content.startswith(start)


@pytest.mark.parametrize(
    "url",
    ["/nope", "/jobs/99", "/jobs/99/circuits", "/jobs/1/circuits/c99", "/jobs/1/circuits/c99/run"],
)
def test_missing_pages_say_so(client: TestClient, url: str) -> None:
    answer = client.get(url)
    assert answer.status_code == 404
    assert "There is no such page" in answer.text


def test_other_hosts_and_sites_are_refused(client: TestClient, database: Path) -> None:
    assert client.get("/", headers={"host": "evil.test"}).status_code == 400
    form = {"name": "X", "revision": "1"}
    for headers in ({"origin": "http://evil.test"}, {"sec-fetch-site": "cross-site"}):
        assert client.post("/jobs/1/edit", data=form, headers=headers).status_code == 403
    assert head(database).revision == 1
    away = client.post(
        "/jobs/1/undo", data={"revision": "1", "back": "//evil.test"}, follow_redirects=False
    )
    assert away.headers["location"] == "/jobs/1"


def test_a_locked_database_is_said_plainly_and_nothing_is_harmed(
    client: TestClient, database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(db.connect, "__kwdefaults__", {"timeout_s": 0.1})
    holder = sqlite3.connect(database, isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    answer = post_edit(client, {"kind": "rename_job", "name": "X"})
    holder.execute("ROLLBACK")
    holder.close()
    assert answer.status_code == 503
    assert "Nothing was stored" in answer.text
    assert head(database).job.name == "Marmot"


def test_api(client: TestClient) -> None:
    job = client.get("/api/jobs/1").json()
    assert job["revision"] == 1
    made = client.post("/api/jobs", json=job["job"])
    assert made.status_code == 201
    edit = json.loads(HoldChoice(circuit_id="c15", what="size", value="8").model_dump_json())
    url = f"/api/jobs/{made.json()['job_id']}/edits?revision=1"
    assert client.post(url, json=edit).json() == {"revision": 2}
    assert client.post(url, json=edit).status_code == 409
    assert client.post(url, json={"kind": "nope"}).status_code == 422
    design = client.get("/api/jobs/1/design").json()
    assert (design["stops"], design["circuits_total"]) == (1, 19)
    circuit = client.get("/api/jobs/1/circuits/c15").json()
    assert circuit["sizing"]["size"] == "10"
    assert client.get("/api/jobs/1/circuits/c99").status_code == 404
    sized = client.post("/api/size", json={"current_a": 21.9, "run_m": 5.2}).json()
    assert sized["ok"]
    assert client.post("/api/size", json={"current_a": -1, "run_m": 5.2}).status_code == 422


def test_a_routed_run_is_changed_on_the_layout(client: TestClient) -> None:
    answer = client.get("/jobs/2/circuits/c15?run_m=9")
    assert "gives this run" in answer.text
    assert ">Keep</button>" not in answer.text
    assert ">Keep</button>" in client.get("/jobs/2/circuits/c15?load_w=300").text
    assert "The layout gives this run" in client.get("/jobs/2/circuits/c15/run").text


def test_things_are_placed_one_by_one_or_all_at_once(client: TestClient, database: Path) -> None:
    def put(key: str, at: str, revision: int) -> str:
        return post_edit(
            client,
            {"kind": "place_many"},
            "/jobs/2/layout",
            {"key": key, "place": at},
            job=2,
            revision=revision,
        ).text

    assert "adrift, which is not a point" in put("switch:Roof bar", "adrift", 1)
    before = client.get("/jobs/2/wires.csv").text
    assert "Take Roof bar off" not in put("switch:Roof bar", "con", 1)
    after = client.get("/jobs/2/wires.csv").text
    changed = {row.split(",")[1] for row in set(after.splitlines()) ^ set(before.splitlines())}
    assert "C15-W4" in changed
    assert not [label for label in changed if label.startswith("C28")], "the radio has no coil"
    many = {
        "rows.0.circuit_id": "c15",
        "rows.0.load": "rfl",
        "rows.1.circuit_id": "c29",
        "rows.1.load": "dash",
        "things.0.key": "switch:Roof bar",
        "things.0.place": "dash",
    }
    post_edit(client, {"kind": "place_many"}, "/jobs/2/layout", many, job=2, revision=2)
    conn = db.connect(database)
    stored = jobs.get_job(conn, 2)
    conn.close()
    place = stored.job.circuit("c15").place
    assert place is not None
    assert place.load == "rfl"
    switch = stored.job.switch("Roof bar")
    assert switch is not None
    assert switch.place == "dash"


def test_layout_is_offered_changed_and_refused_kindly(client: TestClient) -> None:
    def post(kind: str, revision: int, picked: str = "", **fields: str) -> str:
        page = f"/jobs/1/layout{picked}"
        return on_one_line(post_edit(client, {"kind": kind}, page, fields, revision=revision).text)

    assert "No vehicle has these sizes" in post("set_layout", 1, length_m="0.4")
    assert "Type a number" in post("set_layout", 1, length_m="long")
    offered = post("set_layout", 1, length_m="5.6")
    assert "5.6 m long" in offered
    placed = post("place_many", 2, key="circuit:c15", place="rfc")
    assert "Roof earth point" in placed
    taped = post(
        "change_leg", 3, "?leg=l8", leg_id="l8", taped_m="1.9", zone="cabin", rule="allowed"
    )
    assert 'value="1.9"' in taped
    refused = post("move_point", 4, "?point=rfc", point_id="rfc", x_m="99", y_m="0", z_m="1")
    assert 'value="99"' in refused
    assert "20" in refused
    assert "outside the vehicle" in post("move_point", 4, point_id="rfc", x_m="7", y_m="0", z_m="1")
    assert post_edit(client, {"kind": "fly"}, revision=4).status_code == 422
    via = post("place_circuit", 4, "?point=kick", circuit_id="c15", past="kick")
    assert "Roof light bar: no longer" in via
    assert "Place this circuit first" in post("place_circuit", 5, circuit_id="c16", past="kick")
    apart = post("keep_apart", 5, circuit_id="c15", other_id="c17")
    assert "Roof light bar never with Rear work lights" in apart
    assert "two different circuits" in post("keep_apart", 6, circuit_id="c15", other_id="c15")
    svg = client.get("/jobs/1/layout.svg")
    assert svg.headers["content-type"].startswith("image/svg+xml")


def test_probe_sheet_over_http(client: TestClient, database: Path) -> None:
    add = {"kind": "add_probe", "name": "Wire", "colour": "blue", "place": "dash"}
    assert "Wire" in post_edit(client, add, "/jobs/1/survey").text
    again = post_edit(client, add, "/jobs/1/survey", revision=2)
    assert again.status_code == 422
    probe_id = head(database).job.survey.probes[-1].id
    read = {"kind": "read_probe", "probe_id": probe_id, "state": "run"}
    bad = post_edit(client, read, "/jobs/1/survey", {"value": "lots"}, revision=2)
    assert bad.status_code == 422
    assert 'value="lots"' in bad.text
    good = post_edit(client, read, "/jobs/1/survey", {"value": "12,4"}, revision=2)
    assert "12.4 V" in good.text
    left = post_edit(client, {**read, "state": "lamp_left", "value": 1.5}, revision=3)
    assert left.status_code == 200
    assert head(database).job.survey.probes[-1].lamp_left_v == 1.5


def test_accessory_list_in_and_out_and_regrouping(client: TestClient, database: Path) -> None:
    listed = client.get("/jobs/1/accessories/list.csv")
    assert listed.text.startswith("name,model,watts")
    count = len(head(database).job.accessories)
    files = {"file": ("list.csv", b"name,watts,switch\nA,60,S20\nB,60,S20\n", "text/csv")}
    page = client.post("/jobs/1/accessories/import", data={"revision": "1"}, files=files)
    assert "Put B on the circuit of A" in page.text
    assert len(head(database).job.accessories) == count + 2
    bad = {"file": ("list.csv", b"name,watts\nA,many\n", "text/csv")}
    refused = client.post("/jobs/1/accessories/import", data={"revision": "2"}, files=bad)
    assert refused.status_code == 422
    assert "row 2, watts" in refused.text
    assert head(database).revision == 2
    last = head(database).job.accessories[-1].id
    onto = {"kind": "put_on_circuit", "accessory_id": last, "circuit_id": "c15"}
    asked = post_edit(client, onto, "/jobs/1/accessories", revision=2)
    assert "differ in" in asked.text
    assert head(database).revision == 2
    edit = re.search(r'name="edit" value="([^"]*put_on_circuit[^"]*)"', asked.text)
    assert edit is not None
    follow = edit.group(1).replace("&#34;", '"')
    client.post("/jobs/1/edit", data={"revision": "2", "edit": follow})
    assert head(database).job.circuit("c15").accessory_ids == ("a15", last)


def test_survey_items_over_http(client: TestClient, database: Path) -> None:
    page, note = "/jobs/1/survey", {"kind": "note_item"}
    form = {
        "item.id": "new",
        "item.kind": "tapped_circuit",
        "item.name": "Radio feed",
        "item.fuse_a": "20",
        "item.carries_a": "",
        "item.note": "constant",
    }
    before = client.get(page).text.count("Start circuits here")
    noted = post_edit(client, note, page, form).text
    assert "80% of 20 A is 16.0 A, less what it carries already" in " ".join(noted.split())
    assert noted.count("Start circuits here") == before  # not before its load is known
    item = head(database).job.survey.items[-1]
    known = {**form, "item.id": item.id, "item.carries_a": "7.5"}
    said = post_edit(client, note, page, known, revision=2).text
    assert "Room for 8.5 A more" in said
    assert said.count("Start circuits here") == before + 1
    bad = post_edit(client, note, page, {**known, "item.fuse_a": "big"}, revision=3)
    assert bad.status_code == 422
    assert 'value="big"' in bad.text
    assert 'id="f-item-fuse_a-error"' in bad.text
    assert "autofocus" in bad.text, "the page opens at what is wrong"
    assert head(database).revision == 3
    assert client.get(page, params={"item.kind.x": "1"}).status_code == 200


def test_a_find_is_asked_for_the_facts_of_its_kind_and_saved_untouched_stores_nothing(
    client: TestClient, database: Path
) -> None:
    page, revision = "/jobs/1/survey", 1
    for key, kind in FIND_KINDS.items():
        values = {"flat": "True", "dry": "False", "reachable": "True", "upright": "", "key": "run"}
        facts = {f"item.{f.path}": values.get(f.path, "4.5") for f in kind.asks}
        chosen = client.get(page, params={"item.kind": key, "item.name": "Mine"}).text
        asked = set(re.findall(r'name="(item\.\w+)"', chosen))
        assert asked == {"item.id", "item.kind", "item.name", "item.place", "item.note", *facts}
        assert 'value="Mine"' in chosen
        form = {"item.id": "new", "item.kind": key, "item.name": key, **facts}
        post_edit(client, {"kind": "note_item"}, page, form, revision=revision)
        revision += 1
        item = head(database).job.survey.items[-1]
        assert head(database).revision == revision
        assert {f.path: getattr(item, f.path) for f in kind.asks} == {
            f.path: {"4.5": 4.5, "True": True, "False": False, "": None}.get(v, v)
            for f in kind.asks
            for v in [facts[f"item.{f.path}"]]
        }
        again = form_of(client, f"{page}?change={item.id}", "note_item")
        client.post("/jobs/1/edit", data=again)
        assert head(database).revision == revision, key


def test_a_dual_output_light_becomes_two_circuits(client: TestClient, database: Path) -> None:
    form = {
        "name": "Pod",
        "outputs.0.name": "white",
        "outputs.0.value": "40",
        "outputs.1.name": "amber",
        "outputs.1.value": "18",
        "use.switch": "Pod",
    }
    post_edit(client, LAMP, fields=form)
    job = head(database).job
    pod = job.accessories[-1]
    assert (pod.name, pod.watts) == ("Pod", 58)  # the label's total was left blank
    assert [(c.output, job.use_of(c).switch) for c in job.circuits_of(pod.id)] == [
        ("white", "Pod"),
        ("amber", "Pod amber"),
    ]
    page = client.get(f"/jobs/1/accessories/{pod.id}")
    assert "I saw this lead light up" in page.text
    for wrong, words in (("x", "number"), ("20", "outputs")):
        typed = {**form, "watts": "58", "outputs.1.value": wrong}
        answer = post_edit(client, LAMP, "/jobs/1/accessories", typed, revision=2)
        assert answer.status_code == 422
        assert words in answer.text
        assert f'value="{wrong}"' in answer.text
    assert head(database).revision == 2
