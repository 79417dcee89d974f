"""The live drawing over HTTP: states, meter, faults, paper; and what cannot be asked."""

from __future__ import annotations

import html
import io
import json
import re
import time
from pathlib import Path
from xml.etree import ElementTree

import pytest
from pypdf import PdfReader
from starlette.testclient import TestClient

from ready_trail.core.design import design
from ready_trail.core.edits import FeedCoilFromCommon, ReleaseChoice, apply
from ready_trail.core.job import Job, Use
from ready_trail.store import db, jobs
from ready_trail.web.pages import faults
from support import CATALOGUE, demo, job_with, small
from web_support import on_one_line


@pytest.fixture
def database(tmp_path: Path) -> Path:
    """Marmot; the same with its stop mended; a job with nothing in it; two lamps with their coil
    bridged from 30; the same mended.
    """
    path = tmp_path / "t.db"
    db.initialise(path)
    conn = db.connect(path)
    mended = apply(demo(), ReleaseChoice(circuit_id="c17", what="all"))
    bridged = small("high_beam_bridged")
    right = apply(bridged, FeedCoilFromCommon(circuit_id="c2"))
    with db.transaction(conn):
        for job in (demo(), mended, Job(name="Bare"), bridged, right):
            jobs.create_job(conn, job, kind="demo", title="Demo job")
    conn.close()
    return path


def state(client: TestClient, query: str, job_id: int = 1) -> dict[str, object]:
    answer = client.get(f"/jobs/{job_id}/drawing/state?{query}")
    assert answer.status_code == 200, answer.text
    found: dict[str, object] = answer.json()
    return found


def test_the_stop_is_seen_by_turning_the_key_and_gone_once_mended(client: TestClient) -> None:
    query = "key=run&lights=off&on=Range+lamps"
    wrong = state(client, query, job_id=4)
    assert wrong["relays"]["K2"] is True  # type: ignore[index]
    assert wrong["wires"]["C2-W3"] > 3  # type: ignore[index]
    assert "Left light" in str(wrong["summary"])
    right = state(client, query, job_id=5)
    assert right["relays"]["K2"] is False  # type: ignore[index]
    assert right["wires"]["C2-W3"] == 0  # type: ignore[index]


def test_the_page_is_whole_before_any_script_runs(client: TestClient) -> None:
    page = client.get("/jobs/1/drawing?key=run&lights=high&on=Driving+lamp").text
    assert page.count('class="sheet-wire"') == len(design(demo(), CATALOGUE).installation.wires)
    assert 'value="Driving lamp" data-ref="S8" checked' in on_one_line(page)
    assert "Wide driving lamp" in page
    assert "Nothing to draw yet" in client.get("/jobs/3/drawing").text
    painted = json.loads(html.unescape(page.split('data-state="')[1].split('"')[0]))
    assert painted["relays"]["K16"] is True


def test_a_short_names_its_fuse_and_its_story(client: TestClient) -> None:
    query = "key=run&engine=on&on=Roof+bar&fault=body%3AC15-W2"
    broken = state(client, query)
    assert broken["first"] == "F15"
    assert "F15 carries" in str(broken["first_words"])
    heat = html.unescape(client.get(f"/jobs/1/drawing/heat?{query}&wire=C15-W2").text)
    assert "Without a fuse its insulation gives up after" in heat
    assert "F15 opens after" in heat
    assert "heat-bare" in heat
    opened = state(client, query + "&blown=F15")
    assert opened["first"] == ""
    joined = state(client, "key=run&on=Roof+bar&fault=touch%3Ak15_87%3Al16_pos")
    assert joined["wires"]["C16-W3"] > 1, "what touches feeds the other's lamp"  # type: ignore[index]
    two = state(client, query + "&fault=body%3AC16-W2")
    assert len(two["faults"]) == 2  # type: ignore[arg-type]


def test_the_meter_reads_beside_what_is_expected(client: TestClient) -> None:
    base = "/jobs/1/drawing/meter?key=run&engine=on&on=Roof+bar"
    sound = client.get(f"{base}&red=l15_pos&black=l15_neg").json()
    assert sound["reading"] == sound["expects"]
    cut = client.get(f"{base}&red=l15_pos&black=l15_neg&fault=open%3AC15-W2").json()
    assert cut["reading"] != cut["expects"]
    clamp = client.get(f"{base}&clamp=C15-W2").json()
    assert clamp["reading"].endswith(" A")
    assert float(clamp["reading"].split()[0]) > 10
    ohms = client.get(f"{base}&mode=ohms&red=k15_86&black=k15_85").json()
    assert "battery away" in ohms["warning"]
    assert 80 < float(ohms["reading"].split()[0]) < 110
    broken = client.get(f"{base}&mode=ohms&red=k15_86&black=k15_85&fault=coil.k15_coil%3AK15")
    assert broken.json()["reading"] == "open"


@pytest.mark.parametrize(
    ("path", "status", "words"),
    [
        ("state?key=sideways", 422, "no such key"),
        ("state?on=Nobody", 422, "no switch Nobody"),
        ("state?signal=smoke", 422, "no such signal"),
        ("state?key=off&engine=on", 422, "only with the ignition on"),
        ("state?fault=open%3AC99-W1", 422, "that fault is gone"),
        ("state?fault=touch%3Ak15_87%3Ak15_87", 422, "that fault is gone"),
        ("state?blown=F99", 422, "that fuse is gone"),
        ("state?fault=open%3AC15-W2&fault=bad%3AC15-W2&fault=dead.k15_30_87%3AK15", 200, ""),
        ("state?fault=dead.k15_30_87%3AK15&fault=welded.k15_30_87%3AK15", 422, "Not possible"),
        ("state?blown=B1", 422, "that fuse is gone"),
        ("state?blown=K15", 422, "that fuse is gone"),
        ("state?revision=0", 409, "has changed"),
        ("meter?red=nowhere&black=0", 422, "no such terminal"),
        ("meter?clamp=C99-W9", 422, "no such wire"),
        ("truth?circuit=c99", 422, "no truth table"),
        ("pick?ref=Z9", 200, "nothing of this name"),
    ],
)
def test_what_cannot_be_is_said_plainly(
    client: TestClient, path: str, status: int, words: str
) -> None:
    answer = client.get(f"/jobs/1/drawing/{path}")
    assert answer.status_code == status
    assert words in html.unescape(answer.text)
    assert client.get("/jobs/1/drawing?on=Nobody").status_code == 422


def test_what_cannot_be_drawn_says_what_is_missing(client: TestClient, database: Path) -> None:
    winch = job_with(model="winch", amps=230, at_v=12, use=Use(key="run"))
    conn = db.connect(database)
    with db.transaction(conn):
        made = jobs.create_job(conn, winch, kind="demo", title="Demo job")
    conn.close()
    page = html.unescape(client.get(f"/jobs/{made}/drawing").text)
    assert "Light bar cannot be drawn: there is no switch to work the contactor" in page


def test_nothing_of_it_touches_the_job(client: TestClient, database: Path) -> None:
    state(client, "key=run&fault=open%3AC15-W2&on=Roof+bar")
    conn = db.connect(database)
    stored = jobs.get_job(conn, 1)
    conn.close()
    assert stored.revision == 1
    assert stored.job == demo()


def test_a_truth_table_is_stepped_with_the_states_that_were_solved(client: TestClient) -> None:
    found = client.get("/jobs/5/drawing/truth?circuit=c2").json()
    assert {s["is_on"] for s in found["steps"]} == {True, False}
    for step in found["steps"][:: max(1, len(found["steps"]) // 8)]:
        fields = [("key", step["key"]), ("lights", step["lights"])]
        fields += [("on", n) for n in step["on"]] + [("signal", s) for s in step["signal"]]
        if step["engine"]:
            fields.append(("engine", "on"))
        query = "&".join(f"{k}={v.replace(' ', '+')}" for k, v in fields)
        lamps = [x for x in state(client, query, 5)["loads"] if x["ref"] == "L2.1"]  # type: ignore[attr-defined]
        assert lamps[0]["on"] is step["is_on"], step


def test_the_sheet_leaves_as_svg_and_on_paper(client: TestClient) -> None:
    root = ElementTree.fromstring(client.get("/jobs/1/drawing.svg").text)
    assert root.tag.endswith("svg")
    for query in ("", "?paper=letter", "?whole=true"):
        assert client.get(f"/jobs/1/drawing.pdf{query}").content.startswith(b"%PDF")


def test_what_is_picked_leads_to_the_same_thing_elsewhere(client: TestClient) -> None:
    page = html.unescape(client.get("/jobs/1/drawing/pick?ref=K15").text)
    assert "/jobs/1/circuits/c15?at=K15" in page
    assert "has a broken coil" in page
    assert "/layout?point=" in page
    assert "Seen on the pins" in page
    stop = html.unescape(client.get("/jobs/4/drawing/pick?ref=K2").text)
    assert "The relay pulls in with the lights off" in stop
    assert "The 30 A fuse lets more through" in html.unescape(
        client.get("/jobs/1/drawing/pick?ref=F17").text
    )
    assert client.get("/jobs/1/drawing").text.count('class="mark-stop-shape"') == 1
    assert client.get("/jobs/2/drawing").text.count('class="mark-stop-shape"') == 0
    panel = html.unescape(client.get("/jobs/1/drawing/pick?ref=P5").text)
    assert panel.count('data-work="S') == 8
    block = html.unescape(client.get("/jobs/1/drawing/pick?ref=B1").text)
    assert "/supply?point=p1" in block
    sheet = client.get("/jobs/1/circuits/c15?at=K15").text
    assert "/jobs/1/drawing?pick=K15" in sheet
    for link in ("/jobs/1/circuits/c15?at=K15", "/jobs/1/supply?point=p1"):
        assert client.get(link).status_code == 200


def test_every_fault_is_told_by_what_is_noticed_and_leads_to_the_drawing(
    client: TestClient,
) -> None:
    here = "/jobs/5/drawing/faults"
    work = re.search(r'data-work="(/work/\w+)"', client.get(here).text)
    while work is not None and client.get(work[1]).json()["state"] == "running":
        time.sleep(0.1)
    shown = on_one_line(client.get(here).text)
    assert "faults, one at a time with everything else sound" in shown
    counts = dict(re.findall(r'\?circuit=c2&amp;seen=(\w+)" aria-label="[^"]*">(\d+)<', shown))
    assert int(counts["dead"]) > 8
    picked = on_one_line(client.get(f"{here}?circuit=c2&seen=on").text)
    rows = re.findall(
        r'<a href="([^"]*)" title="[^"]*"\s+aria-label="([^"]*?)\. [^"]*: see it on the drawing">',
        picked,
    )
    assert len(rows) == int(counts["on"])
    address, words = next(r for r in rows if r[1].strip().startswith("C2-W10"))
    assert "touches the body" in words
    assert "<strong>Left light runs though it should not</strong>" in picked
    state = client.get(html.unescape(address).replace("/drawing?", "/drawing/state?")).json()
    lamp = next(x for x in state["loads"] if x["name"] == "Left light")
    assert lamp["on"], "the drawing shows the same"
    burning = client.get(f"{here}?seen=burns").text
    assert "C2-W1 gets too hot, and no fuse opens in time" in burning
    paper = client.get(f"{here}.pdf")
    assert paper.headers["content-type"] == "application/pdf"
    told = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(paper.content)).pages)
    told = " ".join(told.split())
    assert "If it does not work" in told
    assert "Left light runs though it should not" in told
    assert client.get(f"{here}?circuit=c99&seen=odd").text.count("<tbody>") == 1, "nothing picked"
    assert "There is nothing yet" in client.get("/jobs/3/drawing/faults").text


def test_faults_that_cannot_be_reckoned_say_so_and_are_not_tried_for_ever(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(faults, "make_faults", int)  # takes no job
    where = client.get("/jobs/1/drawing/faults?seen=dead", follow_redirects=False)
    address = where.headers["location"]
    assert "seen=dead" in address
    work = address.split("work=")[1]
    while client.get(f"/work/{work}").json()["state"] == "running":
        time.sleep(0.05)
    for _ in range(2):
        shown = client.get(address, follow_redirects=False)
        assert shown.status_code == 200
        assert "It did not work" in shown.text
        assert "data-work" not in shown.text
    elsewhere = client.get(f"/jobs/2/drawing/faults?work={work}", follow_redirects=False)
    assert work not in elsewhere.headers.get("location", ""), "the work of another job"
