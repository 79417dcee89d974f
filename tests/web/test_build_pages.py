"""Build and Shelf over HTTP: pages, files, ticks, moves, kits; odd input refused kindly."""

from __future__ import annotations

import csv
import io
import json
import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import pytest
from httpx2 import Response
from pypdf import PdfReader
from starlette.testclient import TestClient

from ready_trail.store import db, shelf, ticks, vehicles
from support import circuit_named, demo
from web_support import form_of, on_one_line, pdf_text, post_edit

JOB = "/jobs/2"
BAR = circuit_named(demo(), "Roof light bar")


def sent(item: str, *, done: bool = True, **more: object) -> dict[str, object]:
    return {"key": str(uuid4()), "item": item, "done": done, "at": "2026-01-02T10:00:00Z", **more}


def post_ticks(client: TestClient, *each: dict[str, object]) -> dict[str, object]:
    answer = client.post(f"{JOB}/ticks", content=json.dumps(each))
    assert answer.status_code == 200, answer.text
    told: dict[str, object] = answer.json()
    return told


def revision(client: TestClient) -> str:
    return str(client.get(f"/api{JOB}").json()["revision"])


def steps_of(page: str) -> dict[str, tuple[str, str]]:
    """Every step on a page: its state and its digest."""
    found = re.findall(
        r'class="step is-(\w+)[^>]*data-item="step:([^"]+)" data-print="(\w+)"', on_one_line(page)
    )
    return {item: (state, digest) for state, item, digest in found}


def test_steps_are_ticked_taken_back_and_told_to_do_again(client: TestClient) -> None:
    steps = steps_of(client.get(f"{JOB}/build").text)
    assert len(steps) > 60
    told = post_ticks(client, sent("step:off"), sent("step:mount:at:rfc"))
    assert told["done"] == 2
    post_ticks(client, sent("step:off", done=False) | {"at": "2026-01-02T11:00:00Z"})
    states = steps_of(client.get(f"{JOB}/build").text)
    assert (states["off"][0], states["mount:at:rfc"][0]) == ("open", "done")
    post_ticks(client, sent("step:fuse:c15"), sent("cut:C15-W2"))
    edit = {"kind": "hold_choice", "circuit_id": BAR, "what": "size", "value": "8"}
    client.post(f"{JOB}/edit", data={"revision": revision(client), "edit": json.dumps(edit)})
    page = client.get(f"{JOB}/build").text
    assert steps_of(page)["fuse:c15"][0] == "redo", "another wire, another voltage to expect"
    assert "Do again: the design changed" in page
    cuts = on_one_line(client.get(f"{JOB}/build/cut").text)
    assert "again: was 10 AWG" in cuts
    client.post(f"{JOB}/undo", data={"revision": revision(client)})
    assert steps_of(client.get(f"{JOB}/build").text)["fuse:c15"][0] == "done", "ticks outlive undo"


def test_a_form_pressed_twice_counts_once_and_needs_no_script(
    client: TestClient, database: Path
) -> None:
    page = on_one_line(client.get(f"{JOB}/build").text)
    form = page[page.index('data-item="step:off"') :]
    key = re.search(r'name="key" value="([^"]+)"', form)
    assert key is not None
    fields = {
        "item": "step:off",
        "done": "true",
        "print": steps_of(page)["off"][1],
        "key": key.group(1),
        "back": f"{JOB}/build?by=place&show=all",
    }
    for _ in range(3):
        answer = client.post(f"{JOB}/build/tick", data=fields, follow_redirects=False)
        assert answer.headers["location"] == fields["back"]
    conn = db.connect(database)
    assert len(ticks.list_ticks(conn, 2)) == 1
    conn.close()
    answer = client.post(
        f"{JOB}/build/tick", data=fields | {"back": "//elsewhere"}, follow_redirects=False
    )
    assert answer.headers["location"] == f"{JOB}/build"


def test_a_tick_on_a_step_that_is_gone_is_kept_and_told(client: TestClient) -> None:
    told = post_ticks(
        client, sent("step:mount:at:gone", print="0" * 12, asked="Mount the old horn")
    )
    assert told["notes"] == [
        "“Mount the old horn” is no longer part of this build; it is kept below the steps."
    ]
    page = client.get(f"{JOB}/build").text
    assert "Done before, no longer asked" in page
    assert "Mount the old horn" in page


@pytest.mark.parametrize(
    "body",
    [
        b"",
        b"{}",
        b"[" * 100_000,
        b"\xff\xfe",
        b"[" + b"{}," * 1_500_000 + b"{}]",
        json.dumps([sent(f"step:{n}") for n in range(501)]).encode(),
    ],
)
def test_ticks_that_cannot_be_read_are_refused_whole(
    client: TestClient, database: Path, body: bytes
) -> None:
    answer = client.post(f"{JOB}/ticks", content=body)
    assert answer.status_code == 422
    assert "cannot be read" in answer.json()["words"]
    conn = db.connect(database)
    assert ticks.list_ticks(conn, 2) == ()
    conn.close()


@pytest.mark.parametrize(
    "bad",
    [
        {"item": "elsewhere"},
        {"at": "yesterday"},
        {"at": "0001-01-01T00:00:00Z"},
        {"at": "9999-12-31T23:59:59-14:00"},
        {"key": "a b"},
        {"who": "w" * 41},
        {"done": "perhaps"},
    ],
)
def test_a_bad_tick_is_refused_alone_and_the_rest_is_kept(
    client: TestClient, database: Path, bad: dict[str, object]
) -> None:
    alone = client.post(f"{JOB}/ticks", content=json.dumps([sent("step:off") | bad]))
    assert alone.status_code == 422
    assert len(alone.json()["refused"]) == 1
    long = sent("step:mount:at:rfc", asked="x" * 60_000)
    told = post_ticks(client, sent("step:off"), sent("step:x") | bad, long)
    assert told["done"] == 2, "the answer has what the server has"
    assert len(told["taken"]) == 2  # type: ignore[arg-type]
    assert len(told["refused"]) == 1  # type: ignore[arg-type]
    conn = db.connect(database)
    assert [t.item for t in ticks.list_ticks(conn, 2)] == ["step:off", "step:mount:at:rfc"]
    conn.close()
    not_one = client.post(f"{JOB}/ticks", content=b"[1, [], null]")
    assert not_one.status_code == 422
    assert set(not_one.json()["refused"]) == {"number 1", "number 2", "number 3"}


def test_a_clock_that_is_a_day_behind_is_told_and_set_right(
    client: TestClient, database: Path
) -> None:
    now = datetime.now(UTC)
    post_ticks(client, sent("step:off", done=False) | {"at": now.isoformat()})
    behind = (now - timedelta(days=1)).isoformat()
    answer = client.post(
        f"{JOB}/ticks",
        headers={"x-device-time": behind},
        content=json.dumps([sent("step:off") | {"at": behind}]),
    )
    assert "24 h behind the server's" in answer.json()["notes"][0]
    assert answer.json()["states"]["step:off"] == "done", "the newest press counts"


def test_the_cut_list_leaves_as_csv_and_pdf(client: TestClient) -> None:
    rows = list(csv.DictReader(io.StringIO(client.get(f"{JOB}/build/cut.csv").text)))
    assert len({r["wire"] for r in rows}) == len(rows) > 100
    bar = next(r for r in rows if r["wire"] == "C15-W2")
    assert (bar["cut_m"], bar["start_terminal"]) == ("3.71", "Relay-base socket 6.3 mm, yellow")
    for by in ("spool", "loom"):
        assert "C15-W2" in client.get(f"{JOB}/build/cut?by={by}").text
    assert client.get(f"{JOB}/build/cut.pdf?paper=letter&by=loom").content.startswith(b"%PDF")


def test_labels_fit_the_grid_or_say_why_not(client: TestClient) -> None:
    assert "labels, " in client.get(f"{JOB}/build/labels").text
    own = (
        "grid=own&paper=A4&columns=3&rows=9&width_mm=60&height_mm=30&left_mm=5&top_mm=10"
        "&pitch_x_mm=62&pitch_y_mm=30"
    )
    assert client.get(f"{JOB}/build/labels?{own}").status_code == 200
    wrong_ones = (
        ("rows=9", "rows=40"),
        ("columns=3", "columns=nine"),
        ("width_mm=60", "width_mm=-1"),
        ("pitch_y_mm=30", "pitch_y_mm=5"),
    )
    for change, words in wrong_ones:
        answer = client.get(f"{JOB}/build/labels?{own.replace(change, words)}")
        assert answer.status_code == 422
        assert "help is-danger" in answer.text
        assert words.split("=")[1] in answer.text, "what was typed stays"
        refused = client.get(f"{JOB}/build/labels.pdf?{own.replace(change, words)}")
        assert refused.status_code == 422
    for wrong in ("skip=65", "skip=-1", "skip=x", "address=ftp://a"):
        assert client.get(f"{JOB}/build/labels?{wrong}").status_code == 422
    assert (
        client.get(f"{JOB}/build/labels.pdf?skip=64&address=http://10.0.0.7:8310").content[:4]
        == b"%PDF"
    )


def test_parts_are_put_on_the_shelf_priced_taken_and_ordered(
    client: TestClient, database: Path
) -> None:
    assert "Put the parts on the shelf" in client.get(f"{JOB}/build/parts").text
    client.post(f"{JOB}/build/shelve")
    part = {
        "key": "relay-mini-no",
        "label": "Mini relay 40 A",
        "group": "Relays and sockets",
        "unit": "pc",
        "price": "3,40",
        "order_ref": "=RL-40",
        "least": "2",
    }
    client.post("/shelf/part", data=part)
    move = {"key": "relay-mini-no", "move_key": str(uuid4()), "kind": "bought", "quantity": "6"}
    for _ in range(2):
        client.post("/shelf/move", data=move)
    rows = {
        r["part"]: r for r in csv.DictReader(io.StringIO(client.get(f"{JOB}/build/parts.csv").text))
    }
    relay = rows["relay-mini-no"]
    assert (relay["on_shelf"], relay["to_buy"], relay["cost"]) == ("6", "3", "10.20")
    assert relay["order_ref"] == "'=RL-40", "a spreadsheet must not take it for a formula"
    page = client.get(f"{JOB}/build/parts").text
    key = re.search(r'name="key" value="([^"]+)"', page)
    assert key is not None
    for _ in range(2):
        client.post(f"{JOB}/build/take", data={"key": key.group(1)})
    conn = db.connect(database)
    assert shelf.get_part(conn, "relay-mini-no").part.stock == 0
    assert shelf.list_moves(conn, "relay-mini-no")[0].job_id == 2

    def line() -> tuple[str, ...]:
        text = client.get(f"{JOB}/build/parts.csv?every=true").text
        row = next(r for r in csv.DictReader(io.StringIO(text)) if r["part"] == "relay-mini-no")
        return row["taken"], row["on_shelf"], row["to_buy"]

    assert line() == ("6", "0", "3"), "what was taken is not to buy again"
    client.post("/shelf/move", data={**move, "move_key": str(uuid4()), "quantity": "8"})
    for _ in range(2):  # two pages, two keys: the second takes nothing more
        client.post(f"{JOB}/build/take", data={"key": str(uuid4())})
    assert line() == ("9", "0", "0")
    assert shelf.get_part(conn, "relay-mini-no").part.stock == 5
    client.post(f"{JOB}/build/return", data={"key": str(uuid4())})
    assert line() == ("0", "9", "0")
    assert shelf.get_part(conn, "relay-mini-no").part.stock == 14
    half = client.post("/shelf/move", data={**move, "move_key": str(uuid4()), "quantity": "1.5"})
    assert half.status_code == 422
    assert "A whole number: it is counted in pieces." in half.text
    conn.close()


@pytest.mark.parametrize(
    ("path", "fields", "field"),
    [
        ("part", {"key": "new-part", "label": "X", "new": "true", "price": "three"}, "price"),
        ("part", {"key": "new-part", "label": "X", "new": "true", "price": "-1"}, "price"),
        ("part", {"key": "a/../b\x00", "label": "X", "new": "true"}, "key"),
        ("part", {"key": "", "label": "", "new": "true"}, "label"),
        ("part", {"key": "fuse", "label": "again", "new": "true"}, "key"),
        ("move", {"key": "fuse", "kind": "taken", "quantity": "1"}, "quantity"),
        ("move", {"key": "fuse", "kind": "bought", "quantity": "-2"}, "quantity"),
        ("move", {"key": "fuse", "kind": "bought", "quantity": "many"}, "quantity"),
        ("move", {"key": "fuse", "kind": "bought", "quantity": "nan"}, "quantity"),
        ("move", {"key": "fuse", "kind": "bought", "quantity": "0"}, "quantity"),
    ],
)
def test_wrong_shelf_entries_are_refused_beside_their_field(
    client: TestClient, path: str, fields: dict[str, str], field: str
) -> None:
    client.post("/shelf/part", data={"key": "fuse", "label": "Fuse", "new": "true"})
    answer = client.post(f"/shelf/{path}", data={"move_key": str(uuid4()), **fields})
    assert answer.status_code == 422
    assert f'id="f-{field}-error"' in answer.text
    typed = fields.get(field, "")
    assert not typed or "\x00" in typed or f'value="{typed}"' in answer.text
    assert shelf_stock(client) == "0"


def shelf_stock(client: TestClient) -> str:
    rows = csv.DictReader(io.StringIO(client.get("/shelf/parts.csv").text))
    return next(r["stock"] for r in rows if r["part"] == "fuse")


def test_datasheet_figures_drive_every_job_and_are_marked(client: TestClient) -> None:
    client.post(f"{JOB}/build/shelve")
    hoist = circuit_named(demo(), "Instrument hoist")
    before = client.get(f"/api{JOB}/circuits/{hoist}").json()
    fields = {"key": "relay-mini-no", "figure.contact_a_85c": "15", "source": "RL sheet 3"}
    assert client.post("/shelf/figure", data=fields).status_code == 200
    after = client.get(f"/api{JOB}/circuits/{hoist}").json()
    assert json.dumps(before) != json.dumps(after)
    assert "datasheet" in client.get("/shelf").text
    for wrong in (
        {"figure.contact_a_85c": "90"},
        {"figure.contact_a_85c": "hot"},
        {"figure.coil_ohm": "inf"},
        {"source": ""},
    ):
        answer = client.post("/shelf/figure", data=fields | wrong)
        assert answer.status_code == 422
        assert "help is-danger" in answer.text
    client.post("/shelf/figure", data={"key": "relay-mini-no", "source": ""})
    assert client.get(f"/api{JOB}/circuits/{hoist}").json() == before, "empty is typical again"


def test_the_shelf_goes_out_and_comes_back_as_csv(client: TestClient) -> None:
    client.post(f"{JOB}/build/shelve")
    text = client.get("/shelf/parts.csv").text
    rows = list(csv.DictReader(io.StringIO(text)))
    for row in rows:
        row["stock"], row["price"] = "4", "1.25"
    out = io.StringIO()
    writer = csv.DictWriter(out, rows[0].keys())
    writer.writeheader()
    writer.writerows(rows)

    def take(data: str) -> int:
        files = {"file": ("shelf.csv", data.encode(), "text/csv")}
        return client.post("/shelf/file", files=files).status_code

    assert take(out.getvalue()) == 200
    again = list(csv.DictReader(io.StringIO(client.get("/shelf/parts.csv").text)))
    assert {(r["stock"], r["price"]) for r in again} == {("4", "1.25")}
    for wrong in (
        "",
        "part\nx\n",
        "part,description\nx,\n",
        "part,description,price\nx,X,dear\n",
        "part,description,stock\nx,X,-3\n",
        "part,description\nx,X\nx,X\n",
        "part,description\n\x00,X\n",
        "part,description,unit\nx,X,kg\n",
    ):
        assert take(wrong) == 422
    assert len(list(csv.DictReader(io.StringIO(client.get("/shelf/parts.csv").text)))) == len(again)


def test_a_kit_and_a_circuit_as_found_are_stated_and_refused(client: TestClient) -> None:
    kit = {
        "kit.relay": "mini_no",
        "kit.leads.0.name": "red",
        "kit.leads.0.start": "fuse",
        "kit.leads.0.end": "relay_30",
        "kit.leads.0.wire": "awg 10",
        "kit.leads.0.length_m": "9 ft 10 in",
        "kit.leads.0.fuse_a": "25",
        "kit.leads.0.insulation_c": "125",
        "kit.leads.1.name": "",
        "kit.leads.1.start": "plus",
    }

    def keep(kind: str, fields: dict[str, str] | None = None, seen: int = 0) -> Response:
        edit = {"kind": kind, "circuit_id": BAR}
        page = f"{JOB}/build/found?circuit={BAR}&what={'kit' if kind == 'set_kit' else 'found'}"
        seen = seen or int(revision(client))
        return post_edit(client, edit, page, fields, job=2, revision=seen)

    answer = keep("set_kit", kit)
    assert "Cut to 1.57 m" in answer.text
    for field, value in (
        ("kit.leads.0.length_m", "long"),
        ("kit.leads.0.length_m", "-3"),
        ("kit.leads.0.wire", "awg 11"),
        ("kit.leads.0.wire", "awg 22"),  # clad aluminium is not sold so thin
        ("kit.leads.0.end", "moon"),
        ("kit.leads.0.fuse_a", "0"),
    ):
        answer = keep("set_kit", kit | {"kit.leads.0.wire_kind": "cca", field: value})
        assert answer.status_code == 422, field
        assert f'id="f-{field.replace(".", "-")}-error"' in answer.text
    found = {"found.size": "14", "found.fuse_a": "40"}
    assert keep("record_found", found).status_code == 422, "it has a kit"
    keep("set_kit")
    page = keep("record_found", found).text
    assert "What to redo first" in page
    assert page.index("finding-stop") > page.index("What to redo first")
    assert keep("record_found", found, seen=1).status_code == 409


def test_a_job_without_circuits_teaches_the_next_step(client: TestClient) -> None:
    client.post("/jobs", data={"name": "Empty", "vehicle.kind": "pickup"})
    for part in ("build", "build/cut", "build/parts", "build/labels", "build/book", "build/found"):
        page = client.get(f"/jobs/3/{part}")
        assert page.status_code == 200
    assert "State the accessories" in client.get("/jobs/3/build").text
    assert client.get("/jobs/3/build/labels.pdf").content.startswith(b"%PDF")


def test_the_book_holds_all_that_a_builder_needs(client: TestClient) -> None:
    pdf = client.get("/jobs/2/build/book.pdf?paper=letter")
    assert re.fullmatch(r'inline; filename="[\w.-]+\.pdf"', pdf.headers["content-disposition"])
    wanted = {
        "Build book",
        "Where things sit",
        "Cut list",
        "C15-W2",
        "Expect",
        "Battery negative on, last of all leads",
        "Figures are a design aid",
    }
    reader = PdfReader(io.BytesIO(pdf.content))
    pages = list(reader.pages)
    assert reader.trailer["/Root"]["/MarkInfo"]["/Marked"], "tagged for screen readers"
    assert float(pages[0].mediabox[2]) == pytest.approx(612)
    assert len(pages) > 40
    for page in (pages[0], *reversed(pages)):  # reading is slow, and the last sections tell most
        text = page.extract_text() if wanted else ""
        wanted = {words for words in wanted if words not in text}
    assert not wanted


def test_every_circuit_sheet_in_one(client: TestClient) -> None:
    for why, least in (("false", 19), ("true", 38)):
        pdf = client.get(f"/jobs/2/build/sheets.pdf?why={why}").content
        assert len(PdfReader(io.BytesIO(pdf)).pages) >= least


def test_what_people_typed_is_words_on_paper(client: TestClient) -> None:
    """The typesetter's own markup, and XML's, in every name that a person may give."""
    odd = '#eval("1+1") <b>&amp; $x$ *a* _b_ @c `d` \\'
    made = client.post("/jobs", data={"name": odd, "place": odd}, follow_redirects=False)
    job = made.headers["location"].removesuffix("/accessories")
    edit, typed = {"kind": "add_accessory"}, {"name": odd, "watts": "60"}
    number = int(job.rsplit("/", 1)[1])
    assert post_edit(client, edit, fields=typed, job=number).status_code == 200
    for paper in ("circuits/c1/sheet.pdf?why=true", "review.pdf", "build/book.pdf", "drawing.pdf"):
        pdf = client.get(f"{job}/{paper}").content
        assert '#eval("1+1") <b>&amp; $x$' in pdf_text(pdf), paper


def test_each_vehicle_of_a_job_is_ticked_by_itself(client: TestClient, database: Path) -> None:
    conn = db.connect(database)
    second = vehicles.add_vehicle(conn, 2, "Number two")
    page = f"{JOB}/build?vehicle={second}"
    assert f'data-build="{JOB}/ticks?vehicle={second}"' in client.get(page).text
    client.post(f"{JOB}/build/tick", data=form_of(client, page, f"{JOB}/build/tick"))
    assert [len(ticks.list_ticks(conn, 2, v)) for v in (None, second)] == [0, 1]
    told = client.get(f"{JOB}/ticks?vehicle={second}").json()
    assert (told["done"], client.get(f"{JOB}/ticks").json()["done"]) == (1, 0)
    assert client.get(f"{JOB}/build?vehicle=99").status_code == 404
    conn.close()
