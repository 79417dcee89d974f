"""Quick size: what is shown is what is kept, in a new job and in one that is there."""

from __future__ import annotations

import html
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.design import design
from support import CATALOGUE
from web_support import MARMOT, on_one_line, stored

BASE = {"watts": "280", "at_v": "13.5", "model": "constant_power", "run_m": "5.2", "name": "Bar"}


@pytest.mark.parametrize("job_id", ["", str(MARMOT)])
@pytest.mark.parametrize(
    "changes",
    [
        {},
        {"insulation_c": "80"},
        {"insulation_c": "80", "ambient_c": "25", "return_kind": "wire", "model": "motor"},
        {"relay": "none", "watts": "60"},
        {"relay": "none", "insulation_c": "125", "run_m": "9", "loaded_conductors": "6"},
        {"system": "metric", "drop_class": "critical", "duty": "intermittent"},
        {"nominal_v": "24", "at_v": "27", "ambient_c": "85"},
        {"current_a": "31", "watts": "", "nominal_v": "24"},
        {"engine_only": "false", "model": "filament", "run_m": "40"},
    ],
)
def test_what_is_shown_is_kept(
    client: TestClient, database: Path, changes: dict[str, str], job_id: str
) -> None:
    typed = {**BASE, **changes, "job_id": job_id}
    shown = client.get("/size", params=typed)
    if job_id and changes.get("nominal_v"):
        assert "Marmot is a 12 V job." in shown.text
        assert client.post("/size/keep", data=typed).status_code == 422
        return
    big = re.findall(r'<span class="answer-big[^"]*">([^<]+)</span>', on_one_line(shown.text))
    kept = client.post("/size/keep", data=typed, follow_redirects=False)
    number = int(kept.headers["location"].split("/")[2])
    made = design(stored(database, number), CATALOGUE).circuits[-1]
    sizing = made.sizing
    assert sizing.fuse is not None
    assert sizing.chosen is not None
    relay = sizing.relay.label if sizing.relay else "no relay"
    told = [f"{sizing.fuse.rating_a:g} A", sizing.chosen.conductor.label, relay]
    assert [b.replace("\u00a0", " ").strip() for b in big] == told
    assert (sizing.relay is None) == (changes.get("relay") == "none")
    assert made.use.switch, "it has a switch, and is not always live"
    if "insulation_c" in changes:
        assert sizing.request.wire.insulation_c == int(changes["insulation_c"])


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"nominal_v": "24"}, "at_v", "No label of a 24 V system"),
        ({"watts": ""}, "watts", "Type the watts of the label"),
        ({"watts": "many"}, "watts", "Type a number"),
        ({"run_m": "0"}, "run_m", "Must be more than 0"),
        ({"job_id": "9999"}, "job_id", "This job is gone"),
    ],
)
def test_a_refusal_stands_beside_its_field(
    client: TestClient, changes: dict[str, str], field: str, words: str
) -> None:
    answer = client.post("/size/keep", data={**BASE, **changes})
    assert answer.status_code == 422
    found = re.search(rf'id="f-{field}-error">([^<]*)', answer.text)
    assert found is not None
    assert words in found.group(1)
    assert 'value="Bar"' in answer.text


def test_presses_at_once_make_one_job(client: TestClient, database: Path) -> None:
    typed = {**BASE, "form_key": "q" * 32}

    def press(_: int) -> str:
        answer = client.post("/size/keep", data=typed, follow_redirects=False)
        return answer.headers["location"]

    with ThreadPoolExecutor(4) as pool:
        assert len(set(pool.map(press, range(6)))) == 1
    for name, job_id in (("again", "h" * 32), ("again", "h" * 32)):
        client.post(
            "/size/keep", data={**BASE, "name": name, "job_id": str(MARMOT), "form_key": job_id}
        )
    assert [c.name for c in stored(database).circuits].count("again") == 1


def test_while_a_field_is_wrong_the_last_answer_stays_grey(client: TestClient) -> None:
    good = client.get("/size", params={"watts": "280", "run_m": "5"}).text
    last = re.search(r'name="last" value="([^"]*)"', good)
    assert last is not None
    asked = {"watts": "280", "run_m": "abc", "last": html.unescape(last[1])}
    wrong = client.get("/size", params=asked)
    assert wrong.status_code == 422
    assert "Type a number" in wrong.text
    assert 'class="answer-trail is-old"' in wrong.text
    big = r'class="answer-big figure">([^<]*)<'
    assert re.findall(big, wrong.text) == re.findall(big, good)
    odd = client.get("/size", params={"run_m": "abc", "last": "%%%&watts=x"})
    assert odd.status_code == 422
    assert "is-old" not in odd.text
