"""Any posted nonsense: never a server error, never half a change, always a page that is whole."""

from __future__ import annotations

import re
import subprocess
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from ready_trail.core.datasheet import catalogue_with
from ready_trail.core.design import design
from ready_trail.core.job import Job
from ready_trail.store import db, jobs
from ready_trail.web.designs import designed
from support import facts
from web_support import Forms, kind_of, post_edit

PAGES = [
    "/",
    "/jobs/new",
    "/size",
    "/shelf?add=true",
    "/settings",
    *(
        f"/jobs/{job}/{page}"
        for job in (1, 2)
        for page in (
            "brief",
            "accessories?add=true",
            "accessories/a15",
            "accessories/a18",
            "accessories/a31",
            "supply?point=p5",
            "supply?switch=Beacon",
            "survey",
            "layout?leg=l8",
            "layout?point=bed",
            "rules",
            "scenarios",
            "circuits/c15",
            "circuits/c15/run",
            "circuits/c17/branches",
            "circuits/c2",
            "review",
            "build",
            "build/parts",
            "build/found?circuit=c15",
            "history",
        )
    ),
]
HIDDEN = {"revision", "form_key", "key", "move_key", "back", "page", "then", "id", "held"}
QUERIES = [
    "run_m",
    "load_w",
    "at",
    "leg",
    "point",
    "feed_v",
    "key",
    "watts",
    "system",
    "change",
    "item.kind",
    "item.kind.x",
    "item.fuse_a",
]
DRAWN = [
    "key",
    "lights",
    "engine",
    "on",
    "signal",
    "fault",
    "blown",
    "red",
    "black",
    "clamp",
    "mode",
    "wire",
    "ref",
    "circuit",
    "paper",
    "pick",
]
DRAWN_VALUES = [
    "run",
    "high",
    "on",
    "brake",
    "touch:",
    "touch:0:bat_pos",
    "body:C15-W2",
    "ohms",
    "K15",
    "F15",
    "l15_pos",
    "C15-W2",
    "touch:k15_30:k15_87",
]
VALUES = [
    "",
    " ",
    "0",
    "-1",
    "1",
    "1e999",
    "nan",
    "inf",
    "12,5",
    "c15",
    "p1",
    "p1:2",
    "block_8",
    "bank_6",
    "Beacon",
    "7 ft 10 in",
    "rfc",
    "w1",
    "off",
    "cabin",
    "wire",
    "x" * 500,
    "<script>",
    "null",
    "{}",
    '{"kind":"hold_choice","circuit_id":"c15","what":"size"}',
    '{"kind":"set_vehicle","vehicle":{"nominal_v":13}}',
    "\x00",
    "日本",
    "../..",
    "[]",
    "true",
]


def forms_of(client: TestClient) -> list[tuple[str, dict[str, str]]]:
    """Every form of the application as a browser would post it, each kind once a job."""
    found: dict[tuple[str, ...], tuple[str, dict[str, str]]] = {}
    for page in PAGES:
        answer = client.get(page)
        assert answer.status_code == 200, page
        read = Forms()
        read.feed(answer.text)
        for action, fields in read.forms:
            if action and action != "/size" and "build/book" not in action:
                what = (action, kind_of(fields), *sorted(fields))
                found.setdefault(what, (action, fields))
    return list(found.values())


def revision_of(client: TestClient, action: str) -> str:
    job = re.match(r"/jobs/(\d+)", action)
    return str(client.get(f"/api/jobs/{job[1]}").json()["revision"]) if job else "1"


def words_of(page: str) -> list[str]:
    """What a page says is wrong."""
    told = re.findall(r'(?:help is-danger"|role="alert"|class="refusal)[^>]*>(.*?)</', page, re.S)
    return [words for t in told if (words := re.sub("<[^>]*>", "", t).strip())]


def test_real_forms_with_one_thing_wrong_are_answered_kindly(
    client: TestClient, database: Path
) -> None:
    """What a page offers is posted with one field changed: taken, or refused in words.

    Afterwards the jobs are opened again from the database that all of it went into; each is
    designed from what stands there as from the very beginning.
    """
    forms = forms_of(client)
    assert len(forms) > 120
    answered: Counter[int] = Counter()

    @given(st.sampled_from(forms), st.data())
    @settings(max_examples=300, deadline=None, database=None)
    def one(form: tuple[str, dict[str, str]], data: st.DataObject) -> None:
        action, fields = form
        posted = {**fields, "revision": revision_of(client, action)}
        names = [name for name in fields if name not in HIDDEN]
        if names:
            name = data.draw(st.sampled_from(names))
            posted[name] = data.draw(st.sampled_from(VALUES))
        answer = client.post(action, data=posted, follow_redirects=False)
        assert answer.status_code in {200, 303, 404, 405, 409, 422}, (action, posted)
        answered[answer.status_code] += 1
        if answer.status_code == 422:
            assert words_of(answer.text), (action, posted)
        if answer.status_code not in (303, 405):
            assert answer.text.rstrip().endswith("</html>")
            assert "<script>" not in answer.text.replace('<script defer src="', "")

    one()
    assert answered[422] > 60, "nonsense is refused"
    assert answered[303] > 60, "and what makes sense is taken"
    conn = db.connect(database)
    for row in jobs.list_jobs(conn):
        stored = jobs.get_job(conn, row.job_id)
        assert Job.model_validate_json(stored.job.model_dump_json()) == stored.job
        catalogue = catalogue_with(stored.figures)
        made = designed(stored.job, stored.figures)
        assert facts(made) == facts(design(stored.job, catalogue)), row.name
    conn.close()
    assert client.get("/").status_code == 200


@given(
    st.sampled_from(
        [
            "/size",
            "/jobs/2/circuits/c15",
            "/jobs/2/layout",
            "/jobs/2/survey",
            "/jobs/1/netlist.cir",
        ]
    ),
    st.dictionaries(
        st.sampled_from(QUERIES),
        st.sampled_from(VALUES),
        max_size=5,
    ),
)
@settings(
    max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_query_is_answered_kindly(client: TestClient, url: str, query: dict[str, str]) -> None:
    answer = client.get(url, params=query)
    if answer.status_code != 200:
        assert answer.status_code == 422, (url, query)
        assert words_of(answer.text), (url, query)


@given(
    st.sampled_from(["", "/state", "/meter", "/pick", "/heat", "/truth"]),
    st.dictionaries(
        st.sampled_from(DRAWN),
        st.sampled_from([*VALUES, *DRAWN_VALUES]),
        max_size=6,
    ),
)
@settings(
    max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_state_of_the_drawing_is_answered_kindly(
    client: TestClient, part: str, query: dict[str, str]
) -> None:
    answer = client.get(f"/jobs/2/drawing{part}", params=query)
    assert answer.status_code in {200, 422}, (part, query)
    assert "Traceback" not in answer.text


@pytest.mark.parametrize("circuit_id", ["c15", "c17", "c25", "c22"])
def test_printed_sheet_holds_what_a_builder_needs(
    client: TestClient, tmp_path: Path, circuit_id: str
) -> None:
    path = tmp_path / "sheet.pdf"
    path.write_bytes(client.get(f"/jobs/2/circuits/{circuit_id}/sheet.pdf").content)
    run = subprocess.run(
        ["pdftotext", "-layout", str(path), "-"],
        capture_output=True,
        text=True,
        check=True,
        timeout=180,
    )
    text = run.stdout.replace("\u00a0", " ")
    number = circuit_id[1:]
    for words in (
        f"F{number}",
        f"C{number}-W1",
        "revision 1",
        "page 1 of",
        "Never bridge a fuse",
        "Figures are a design aid",
        "Battery",
        "AWG",
    ):
        assert words in text, words
    assert len(re.findall(r"\d\.\d+ m \(\d+\.\d ft\)", text)) >= 2
    if circuit_id == "c17":
        assert "STOP" in text
        assert "The 30 A fuse lets more through" in text


def test_a_read_only_database_is_said_plainly(
    client: TestClient, database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    plain = db.connect

    def read_only(path: Path, *, timeout_s: float = 1.0) -> object:
        conn = plain(path, timeout_s=timeout_s)
        conn.execute("PRAGMA query_only=ON")
        return conn

    monkeypatch.setattr("ready_trail.web.context.db.connect", read_only)
    answer = post_edit(client, {"kind": "rename_job", "name": "X"})
    assert answer.status_code == 503
    assert "Nothing was stored" in answer.text
    assert client.get("/jobs/1/circuits/c15").status_code == 200
