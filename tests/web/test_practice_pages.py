"""Practice over HTTP: a learner, a drill, a hunt to its end; nothing of it touches a job."""

from __future__ import annotations

import html
import json
import re
import time
from typing import Any
from uuid import uuid4

from starlette.testclient import TestClient

from ready_trail.core.practice.mistakes import CODES
from support import circuit_named, demo
from web_support import on_one_line

JOB = "2"
LAMP = circuit_named(demo(), "Wide driving lamp")


def learner(client: TestClient) -> str:
    answer = client.post("/practice", data={"name": "Ada"})
    assert answer.status_code == 200
    return str(answer.url.path)


def post(client: TestClient, url: str, **data: str) -> Any:
    return client.post(url, data={"key": str(uuid4()), **data})


def fields(page: str) -> dict[str, str]:
    found = re.findall(r'name="(\w+)"\s+value="([^"]*)"', page)
    return {n: html.unescape(v) for n, v in found if n not in ("answer", "key")}


def test_a_name_twice_and_no_name_are_said(client: TestClient) -> None:
    learner(client)
    again = client.post("/practice", data={"name": "ADA"})
    assert again.status_code == 422
    assert "pick it above" in again.text
    assert 'value="ADA"' in on_one_line(again.text)
    assert client.post("/practice", data={"name": "  "}).status_code == 422
    assert client.get("/practice/99").status_code == 404


def test_a_question_is_answered_once_and_derived(client: TestClient) -> None:
    own = learner(client)
    page = client.get(f"{own}/drill?job={JOB}").text
    asked, key = fields(page), str(uuid4())
    assert post(client, f"{own}/drill", **asked).status_code == 422, "no answer was picked"
    for _ in range(2):
        told = client.post(f"{own}/drill", data={"key": key, **asked, "answer": "0"})
        assert told.status_code == 200
    assert re.search(r"Right: |No: it is ", told.text)
    assert client.get(f"{own}/progress.csv").text.count("answered") == 1
    gone = post(client, f"{own}/drill", **{**asked, "item": "none", "answer": "0"})
    assert gone.status_code == 422
    error = client.get(f"{own}/error?job={JOB}&seed=3")
    assert "One of these rules is broken" in on_one_line(error.text)
    named = post(client, f"{own}/error", **fields(error.text), answer="1")
    assert re.search(r"Right\.|No\.", named.text)
    assert re.search(r'rel="prefetch" href="[^"]*seed=\d+"', named.text)
    code = client.get(f"{own}/progress.csv").text.splitlines()[-1].split(",")[3]
    assert code in CODES
    row = on_one_line(client.get(f"{own}?job={JOB}").text).partition("Mistakes, by what breaks")[2]
    assert f"0 of {len(CODES)}" in row
    assert f">{len(CODES) - 1}<" in row.replace(" ", "")


def begin(client: TestClient, own: str, **more: str) -> Any:
    """Hide a fault; the plan of a circuit is worked out beside the answer the first time."""
    asked = {"job": JOB, "level": "open", "circuit": LAMP, **more}
    end = time.monotonic() + 180
    while True:
        answer = post(client, f"{own}/hunt", **asked)
        if "data-work" not in answer.text or time.monotonic() > end:
            return answer
        time.sleep(0.3)


def test_a_hunt_is_played_to_its_end_and_waits_in_between(client: TestClient) -> None:
    own, before = learner(client), client.get(f"/api/jobs/{JOB}").json()
    wrong = begin(client, own, level="nonsense")
    assert wrong.status_code == 422
    assert "Pick a level" in wrong.text
    page = begin(client, own)
    hunt = str(page.url.path)
    assert "/hunt/" in hunt
    assert "Wide driving lamp" in page.text
    names = [
        html.unescape(v) for v in re.findall(r'<option value="([^"]+)" data-subject', page.text)
    ]
    tests = [html.unescape(v) for v in re.findall(r'<option value="([^"]+@[^"]+)"', page.text)]
    tests = [t for t in tests if t.count(":")]
    settings = re.findall(r'<option value="([^"]*\|[^"]*)"', page.text.partition('id="f-red"')[0])
    at = {"set": html.unescape(settings[0]), "red": "f16_2", "black": "0", "piece": "F16"}
    for what, missing, words in (
        ("read", {"read": ""}, "Pick a reading first"),
        ("name", {"name": "x"}, "Pick what you think"),
        ("fly", {"fly": "bridge"}, "no such act"),
        ("volts", {"red": "0"}, "two different points"),
        ("volts", {"red": "nowhere"}, "two different points"),
        ("lamp", {"set": "flying"}, "how the vehicle is set"),
        ("pull", {"piece": "C16-W1"}, "Pick a fuse"),
        ("clamp", {"piece": "F16"}, "Pick a wire"),
        ("look", {"piece": "F16"}, "Pick an accessory"),
    ):
        refused = post(client, hunt, what=what, **{**at, **missing})
        assert refused.status_code == 422
        assert words in refused.text
        assert 'value="f16_2" selected' in refused.text or "red" in missing, "it stays"
    for what, piece in (
        ("volts", ""),
        ("lamp", ""),
        ("ohms", ""),
        ("pull", "F16"),
        ("look", "L16"),
    ):
        read = post(client, hunt, what=what, **{**at, "piece": piece})
        assert read.status_code == 200
        assert 'value="f16_2" selected' in read.text, "the probes stay where they are"
    for test in tests[:2]:
        assert post(client, hunt, what="read", read=test).status_code == 200
    danger = re.search(r'name="key" value="([^"]+)">\s*<input[^>]*value="danger"', read.text)
    assert danger
    client.post(hunt, data={"key": danger[1], "what": "danger", "danger": "bridge"})
    waits = client.get(own + f"?job={JOB}").text
    assert "7 readings, 1 dangerous" in on_one_line(waits)
    assert "waits" in waits
    ended = None
    for name in names:
        ended = post(client, hunt, what="name", name=name)
        if "the best strategy takes" in on_one_line(ended.text):
            break
    assert ended is not None
    assert "Found: " in ended.text
    assert "Bridge the fuse with a wire" in ended.text
    after = post(client, hunt, what="read", read=tests[3])
    assert on_one_line(after.text).count('<th scope="row">') == 7, "it has ended"
    assert client.get(f"/api/jobs/{JOB}").json() == before, "nothing of it touched the job"
    edit = json.dumps({"kind": "hold_choice", "circuit_id": LAMP, "what": "size", "value": "8"})
    client.post(f"/jobs/{JOB}/edit", data={"revision": str(before["revision"]), "edit": edit})
    assert "The job changed since" in client.get(hunt).text


def test_two_faults_are_named_one_after_the_other(client: TestClient) -> None:
    """What is right is mended, and the other is complained of; names that are over are wrong."""
    own = learner(client)
    page = begin(client, own, level="two")
    hunt = str(page.url.path)
    names = [
        html.unescape(v) for v in re.findall(r'<option value="([^"]+)" data-subject', page.text)
    ]
    text, right = "", 0
    for name in names:
        text = on_one_line(post(client, hunt, what="name", name=name).text)
        if "Something is wrong still" in text:
            right += 1
            again = on_one_line(post(client, hunt, what="name", name=name).text)
            assert "Not it: " in again
            break
    for name in names:
        text = on_one_line(post(client, hunt, what="name", name=name).text)
        if "the best strategy takes" in text:
            break
    assert right == 1
    assert re.search(r"Found: .+; and ", text)
    assert "Then, that mended" in text
    assert re.search(r"</span>\s*found</a>", client.get(f"{own}?job={JOB}").text)
    given = begin(client, own, level="two")
    end = post(client, str(given.url.path), what="give_up")
    assert "Given up: " in end.text
    assert "Nothing was read" in end.text


def test_an_empty_job_and_one_with_stops_are_said(client: TestClient) -> None:
    own = learner(client)
    client.post("/jobs", data={"name": "Empty", "vehicle.kind": "pickup"})
    told = post(client, f"{own}/hunt", job="3", level="open", circuit="")
    assert told.status_code == 422
    assert "No circuit of this job" in told.text
    stopped = circuit_named(demo(), "Rear work lights")
    assert "No circuit" in post(client, f"{own}/hunt", job=JOB, level="open", circuit=stopped).text
    assert client.get(f"{own}/drill?job=3").status_code == 200
    assert client.get(f"{own}/error?job=3").status_code == 422
