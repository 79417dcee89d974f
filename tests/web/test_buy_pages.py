"""Buying over HTTP: a plan kept and undone, packs that come, a quotation, templates in mm."""

from __future__ import annotations

import csv
import io
import json
import re
import time
from uuid import uuid4

import ezdxf
import pytest
from pypdf import PdfReader
from pypdf.generic import ContentStream
from starlette.testclient import TestClient

from ready_trail.core.build.cutouts import templates_of, usual_cutouts
from ready_trail.core.design import design
from support import CATALOGUE, demo
from web_support import on_one_line, pdf_text

JOB = "/jobs/2"


def revision(client: TestClient) -> str:
    return str(client.get(f"/api{JOB}").json()["revision"])


def plans(page: str) -> list[str]:
    return list(dict.fromkeys(re.findall(r'href="\?plan=([a-z0-9-]+)"', page)))


def keep(client: TestClient, plan: str) -> tuple[int, str]:
    data = {"revision": revision(client), "plan": plan}
    answer = client.post(f"{JOB}/build/spools/keep", data=data)
    return answer.status_code, answer.text


def table(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def test_a_plan_is_kept_in_one_step_and_undone_in_one(client: TestClient) -> None:
    page = client.get(f"{JOB}/build/spools").text
    before, was = client.get(f"/api{JOB}").json(), revision(client)
    found = plans(page)
    assert len(found) > 20
    few = min((k for k in found if k.startswith("two-")), key=lambda k: int(k.rsplit("-")[-1]))
    looked = on_one_line(client.get(f"{JOB}/build/spools?plan={few}").text)
    assert "No finding comes or goes." in looked
    assert "by circuit → <strong>two colours and sleeves</strong>" in looked
    status, _ = keep(client, few)
    assert status == 200
    assert int(revision(client)) == int(was) + 1
    cuts = table(client.get(f"{JOB}/build/cut.csv").text)
    assert {row["colour"] for row in cuts} == {"RD", "BK"}
    assert any("/" in row["mark"] for row in cuts), "the tracer is a sleeve now"
    assert len({row["spool"] for row in cuts}) == int(few.rsplit("-")[-1])
    now = client.get(f"{JOB}/build/spools?plan={few}").text
    assert "This is the job as it stands." in now
    client.post(f"{JOB}/undo", data={"revision": revision(client)})
    assert client.get(f"/api{JOB}").json()["job"] == before["job"]


def test_a_large_job_is_solved_beside_the_answer(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    at_once = plans(client.get(f"{JOB}/build/spools").text)
    monkeypatch.setattr("ready_trail.web.routes.buy.WAITS_MOST", 2)
    page = client.get(f"{JOB}/build/spools?plan={at_once[-1]}")
    end = time.monotonic() + 180
    while "data-work" in page.text:
        assert time.monotonic() < end
        time.sleep(0.2)
        page = client.get(str(page.url))
    assert plans(page.text) == at_once
    assert "No finding comes or goes." in page.text
    status, _ = keep(client, at_once[-1])
    assert status == 200


def test_what_cannot_be_kept_is_said_and_nothing_is_stored(client: TestClient) -> None:
    was = revision(client)
    status, text = keep(client, "two-0-999")
    assert (status, revision(client)) == (422, was)
    assert "not offered any more" in text
    assert client.get(f"{JOB}/build/spools?plan=nonsense").status_code == 404
    plan = plans(client.get(f"{JOB}/build/spools").text)[-1]
    edit = {"kind": "rename_job", "name": "Another"}
    client.post(f"{JOB}/edit", data={"revision": was, "edit": json.dumps(edit)})
    stale = client.post(f"{JOB}/build/spools/keep", data={"revision": was, "plan": plan})
    assert stale.status_code == 409
    client.post("/jobs", data={"name": "Empty", "vehicle.kind": "pickup"})
    for part in ("spools", "order", "templates", "quote"):
        empty = client.get(f"/jobs/3/build/{part}")
        assert empty.status_code == 200
        assert 'class="empty"' in empty.text


def form(page: str, action: str) -> dict[str, str]:
    inside = re.search(rf'<form[^>]*action="[^"]*{action}"(.*?)</form>', page, re.S)
    assert inside is not None
    return dict(re.findall(r'name="(\w+)"\s+value="([^"]*)"', inside[1]))


def test_packs_that_are_here_are_bought_taken_and_what_is_over_stays(client: TestClient) -> None:
    client.post(
        "/shelf/part",
        data={
            "new": "true",
            "key": "clip",
            "label": "Clip",
            "group": "Fixings",
            "unit": "pc",
            "supplier": "North store",
            "packs": "20 at 3.10, 50 at 6",
        },
    )
    page = client.get(f"{JOB}/build/order").text
    rows = table(client.get(f"{JOB}/build/order.csv").text)
    clips = [r for r in rows if r["part"] == "clip"]
    assert {r["supplier"] for r in clips} == {"North store"}
    bought = sum(float(r["pack"]) * int(r["packs"]) for r in clips)
    assert bought - float(clips[0]["needed"]) == pytest.approx(float(clips[0]["left_over"]))
    sent = form(page, "/order/bought")
    for _ in range(2):  # a double press counts once
        answer = client.post(f"{JOB}/build/order/bought", data=sent)
        assert answer.status_code == 200
    assert "Nothing is missing" in answer.text
    shelf = {r["part"]: r for r in table(client.get("/shelf/parts.csv").text)}
    for row in rows:
        over = float(row["left_over"] or 0)
        if row["left_over"]:
            assert float(shelf[row["part"]]["stock"]) == pytest.approx(over, abs=0.006), row["part"]
    stale = sent | {"key": str(uuid4())}
    again = client.post(f"{JOB}/build/order/bought", data=stale)
    assert again.status_code == 422
    assert "another one by now" in again.text


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [
        ("packs", "0 at 5", "a pack holds something"),
        ("packs", "5 at 0", "leave the price out"),
        ("packs", "a roll", "is no pack"),
        ("price", "0", "more than 0"),
    ],
)
def test_odd_packs_and_prices_are_told_beside_their_field(
    client: TestClient, field: str, typed: str, words: str
) -> None:
    data = {"new": "true", "key": "x", "label": "X", "unit": "m", "group": "Wire", field: typed}
    answer = client.post("/shelf/part", data=data)
    assert answer.status_code == 422
    text = on_one_line(answer.text)
    assert words in text
    assert f'value="{typed}"' in text
    assert client.get("/shelf?part=x").text.count("X</a>") == 0


def test_pieces_come_in_packs_of_whole_pieces(client: TestClient) -> None:
    data = {"new": "true", "key": "x", "label": "X", "unit": "pc", "group": "Fuses"}
    refused = client.post("/shelf/part", data=data | {"packs": "2.5 at 5"})
    assert refused.status_code == 422
    assert "A pack of 2.5 is no whole number of pieces." in on_one_line(refused.text)
    assert 'value="2.5 at 5"' in on_one_line(refused.text)
    assert client.post("/shelf/part", data=data | {"packs": "5 at 2.50"}).is_success
    listed = client.get("/shelf/parts.csv").content.replace(b"5 at 2.50", b"0.5 at 1")
    taken = client.post("/shelf/file", files={"file": ("s.csv", listed, "text/csv")})
    assert "The file was not taken: line 2, packs: a pack of 0.5 is no whole number" in taken.text


def test_a_quotation_sums_parts_and_hours(client: TestClient) -> None:
    client.post(f"{JOB}/build/shelve", data={})
    parts = table(client.get("/shelf/parts.csv").text)
    wire = next(p for p in parts if p["part"].startswith("wire-"))
    client.post(
        "/shelf/part",
        data={"key": wire["part"], "label": "W", "unit": "m", "group": "Wire", "price": "2"},
    )
    terms = {"rate_per_h": "60", "margin": "50", "tax": "20", "note": "Stands for thirty days"}
    assert client.post(f"{JOB}/build/quote", data=terms).status_code == 200
    rows = table(client.get(f"{JOB}/build/quote.csv").text)
    of = {name: [r for r in rows if r["what"] == name] for name in ("parts", "work", "total")}
    sum_parts = sum(float(r["price"]) for r in of["parts"])
    hours = float(of["work"][0]["for"].removesuffix(" h"))
    assert sum_parts > 0
    assert float(of["work"][0]["price"]) == pytest.approx(hours * 60, abs=0.4)
    net = sum_parts + float(of["work"][0]["price"])
    assert float(of["total"][0]["price"]) == pytest.approx(net * 1.2, abs=0.02)
    text = pdf_text(client.get(f"{JOB}/build/quote.pdf").content)
    assert f"To pay {of['total'][0]['price']}" in text
    assert "Stands for thirty days" in text
    bad = client.post(f"{JOB}/build/quote", data=terms | {"margin": "-3"})
    assert bad.status_code == 422
    assert 'value="60"' in on_one_line(bad.text)
    house = on_one_line(client.get(f"{JOB}/rules?try=colours&value=two").text)
    assert re.search(r"<span>Parts</span> <span[^>]*>\d+\.\d\d → \d+\.\d\d</span>", house)


def drawn_mm(pdf: bytes) -> set[tuple[float, ...]]:
    """Every closed path of a document as its width and height. [mm]"""
    reader = PdfReader(io.BytesIO(pdf))
    found: set[tuple[float, ...]] = set()
    for page in reader.pages:
        scale, stack, spots = 1.0, [], []
        for operands, operator in ContentStream(page.get_contents(), reader).operations:
            numbers = [float(x) for x in operands if isinstance(x, (int, float))]
            if operator == b"q":
                stack.append(scale)
            elif operator == b"Q":
                scale = stack.pop()
            elif operator == b"cm":
                scale *= numbers[0]
            elif operator in (b"m", b"l", b"c"):
                spots.append((numbers[-2], numbers[-1]))
            elif operator in (b"S", b"n", b"f", b"W"):
                if len(spots) > 4:
                    size = [max(a) - min(a) for a in zip(*spots, strict=True)]
                    found.add(tuple(round(s * scale * 25.4 / 72, 2) for s in size))
                spots = []
    return found


def test_templates_have_their_measures_in_print_and_in_the_file(client: TestClient) -> None:
    measures = {"cutout": "rocker", "width_mm": "22,2", "height_mm": "37", "pitch_mm": "27.5"}
    answer = client.post(f"{JOB}/build/templates/measures", data=measures)
    assert answer.status_code == 200
    assert 'value="22.2"' in on_one_line(answer.text)
    printed = drawn_mm(client.get(f"{JOB}/build/templates.pdf?only=p5").content)
    assert any(abs(w - 22.2) < 0.2 and abs(h - 37.0) < 0.2 for w, h in printed), printed
    blocks = drawn_mm(client.get(f"{JOB}/build/templates.pdf").content)
    assert any(abs(w - 5.0) < 0.2 and abs(h - 5.0) < 0.2 for w, h in blocks)
    file = ezdxf.read(io.StringIO(client.get(f"{JOB}/build/templates.dxf?only=p5").text))
    openings = list(file.modelspace().query("LWPOLYLINE[layer=='CUT']"))
    assert len(openings) == 8
    lefts = []
    for opening in openings:
        xs, ys = zip(*((x, y) for x, y, *_ in opening.get_points()), strict=True)
        assert max(xs) - min(xs) == pytest.approx(22.2, abs=1e-9)
        assert max(ys) - min(ys) == pytest.approx(37.0, abs=1e-9)
        lefts.append(min(xs))
    assert lefts[1] - lefts[0] == pytest.approx(27.5, abs=1e-9)
    bores = ezdxf.read(io.StringIO(client.get(f"{JOB}/build/templates.dxf").text))
    made = templates_of(design(demo(), CATALOGUE), usual_cutouts(), CATALOGUE)
    want = sorted(b.diameter / 2 for t in made for b in t.bores)
    assert sorted(c.dxf.radius for c in bores.modelspace().query("CIRCLE")) == want
    for wrong, words in (
        ({"width_mm": "wide"}, "Millimetres"),
        ({"width_mm": "0"}, "Millimetres"),
        ({"pitch_mm": "20"}, "run into each other"),
    ):
        refused = client.post(f"{JOB}/build/templates/measures", data=measures | wrong)
        assert refused.status_code == 422
        assert words in refused.text
