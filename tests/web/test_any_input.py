"""Any posted nonsense: never a server error, never half a change, always a page that is whole."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from ready_trail.store import db, jobs

FORMS = [
    "/jobs",
    "/jobs/import",
    "/jobs/1/brief/name",
    "/jobs/1/brief/vehicle",
    "/jobs/1/rules/keep",
    "/jobs/1/rules/sets",
    "/jobs/1/rules/file",
    "/jobs/1/scenarios/save",
    "/jobs/1/scenarios/day",
    "/jobs/1/scenarios/running",
    "/jobs/1/scenarios/propose",
    "/jobs/1/scenarios/remove",
    "/jobs/1/brief/nonsense",
    "/jobs/1/supply/add",
    "/jobs/1/supply/points/p1",
    "/jobs/1/supply/switches",
    "/jobs/1/supply/together",
    "/jobs/1/supply/feed",
    "/jobs/1/supply/remove",
    "/jobs/1/supply/move",
    "/jobs/1/circuits/c15/start",
    "/jobs/1/circuits/c2/use",
    "/jobs/2/layout/thing",
    "/jobs/1/accessories",
    "/jobs/1/accessories/import",
    "/jobs/1/accessories/regroup",
    "/jobs/1/accessories/zz/remove",
    "/jobs/1/circuits/c15/run",
    "/jobs/1/circuits/zz/run",
    "/jobs/1/edit",
    "/jobs/1/undo",
    "/jobs/1/redo",
    "/jobs/1/restore",
    "/jobs/2/layout/offer",
    "/jobs/2/layout/move",
    "/jobs/2/layout/leg",
    "/jobs/2/layout/place",
    "/jobs/2/layout/via",
    "/jobs/2/layout/apart",
    "/jobs/2/layout/add",
    "/jobs/2/layout/join",
    "/jobs/2/survey/probes",
    "/jobs/2/survey/items",
    "/jobs/2/survey/probes/w1/meter",
    "/size/keep",
]
NAMES = [
    "revision",
    "name",
    "watts",
    "amps",
    "at_v",
    "quantity",
    "use.key",
    "use.switch",
    "use.while_on",
    "run.0.zone",
    "run.0.length_m",
    "run.1.passes.name",
    "back.kind",
    "fuse_at_m",
    "edit",
    "value",
    "reason",
    "number",
    "vehicle.nominal_v",
    "vehicle.battery.capacity_ah",
    "try",
    "part",
    "set",
    "scenario_id",
    "accessory",
    "minutes",
    "engine",
    "parts.0.scenario",
    "parts.0.minutes",
    "running.0.accessory",
    "running.0.percent",
    "preset",
    "point.name",
    "positions.0.name",
    "positions.0.rating_a",
    "together_a",
    "start",
    "use",
    "was",
    "rating_a",
    "move_to",
    "total_a",
    "output_v",
    "what",
    "place",
    "leg_id",
    "leg",
    "point",
    "point_id",
    "x_m",
    "y_m",
    "z_m",
    "zone",
    "circuit_id",
    "other_id",
    "place.load",
    "place.via",
    "via",
    "state",
    "volts",
    "kind",
    "fuse_a",
    "hole.panel",
    "hole.diameter_mm",
    "taped_m",
    "inputs.0.name",
    "outputs.0.value",
    "run_m",
    "a",
    "b",
]
QUERIES = ["run_m", "load_w", "at", "leg", "point", "feed_v", "key", "watts", "system"]
DRAWN = ["key", "lights", "engine", "on", "signal", "fault", "blown", "red", "black", "clamp",
         "mode", "wire", "ref", "circuit", "paper", "pick"]  # fmt: skip
DRAWN_VALUES = ["run", "high", "on", "brake", "touch:", "touch:0:bat_pos", "body:C15-W2", "ohms",
                "K15", "F15", "l15_pos", "C15-W2", "touch:k15_30:k15_87"]  # fmt: skip
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


@given(
    st.sampled_from(FORMS),
    st.dictionaries(st.sampled_from(NAMES), st.sampled_from(VALUES), max_size=12),
)
@settings(
    max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_form_is_answered_kindly(client: TestClient, url: str, fields: dict[str, str]) -> None:
    answer = client.post(url, data={"revision": "1", **fields}, follow_redirects=False)
    assert answer.status_code in (200, 303, 404, 409, 422), (url, fields, answer.text[-300:])
    if answer.status_code != 303:
        assert answer.text.rstrip().endswith("</html>")
        assert "<script>" not in answer.text.replace('<script defer src="', "")


@given(
    st.sampled_from(["/size", "/jobs/2/circuits/c15", "/jobs/2/layout", "/jobs/1/netlist.cir"]),
    st.dictionaries(
        st.sampled_from(QUERIES), st.sampled_from(VALUES), max_size=5,
    ),
)  # fmt: skip
@settings(
    max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_query_is_answered_kindly(client: TestClient, url: str, query: dict[str, str]) -> None:
    assert client.get(url, params=query).status_code in (200, 422), (url, query)


@given(
    st.sampled_from(["", "/state", "/meter", "/pick", "/heat", "/truth"]),
    st.dictionaries(
        st.sampled_from(DRAWN), st.sampled_from([*VALUES, *DRAWN_VALUES]), max_size=6,
    ),
)  # fmt: skip
@settings(
    max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_state_of_the_drawing_is_answered_kindly(
    client: TestClient, part: str, query: dict[str, str]
) -> None:
    answer = client.get(f"/jobs/2/drawing{part}", params=query)
    assert answer.status_code in {200, 422}, (part, query)
    assert "Traceback" not in answer.text


def test_nonsense_left_the_jobs_readable(client: TestClient, database: Path) -> None:
    conn = db.connect(database)
    assert [row.name for row in jobs.list_jobs(conn)] == ["Marmot routed", "Marmot"]
    conn.close()
    assert client.get("/").status_code == 200


@pytest.mark.parametrize("circuit_id", ["c15", "c16", "c25", "c22"])
def test_printed_sheet_holds_what_a_builder_needs(
    client: TestClient, tmp_path: Path, circuit_id: str
) -> None:
    path = tmp_path / "sheet.pdf"
    path.write_bytes(client.get(f"/jobs/2/circuits/{circuit_id}/sheet.pdf").content)
    run = subprocess.run(
        ["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True,
        timeout=60,
    )  # fmt: skip
    text = run.stdout.replace("\u00a0", " ")
    number = circuit_id[1:]
    for words in (f"F{number}", f"C{number}-W1", "revision 1", "page 1 of", "Never bridge a fuse",
                  "Figures are a design aid", "Battery", "AWG"):  # fmt: skip
        assert words in text, words
    assert len(re.findall(r"\d\.\d+ m \(\d+\.\d ft\)", text)) >= 2
    if circuit_id == "c16":
        assert "STOP" in text
        assert "The relay pulls in with the lights at off" in text


def test_a_read_only_database_is_said_plainly(
    client: TestClient, database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    plain = db.connect

    def read_only(path: Path, *, timeout_s: float = 1.0) -> object:
        conn = plain(path, timeout_s=timeout_s)
        conn.execute("PRAGMA query_only=ON")
        return conn

    monkeypatch.setattr("ready_trail.web.context.db.connect", read_only)
    answer = client.post("/jobs/1/brief/name", data={"revision": "1", "name": "X"})
    assert answer.status_code == 503
    assert "Nothing was stored" in answer.text
    assert client.get("/jobs/1/circuits/c15").status_code == 200
