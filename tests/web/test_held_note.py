"""What is held may say why, and the words go with the last thing that is held."""

from __future__ import annotations

import json
from pathlib import Path

from starlette.testclient import TestClient

from web_support import MARMOT, stored


def test_a_note_of_a_hold_is_typed_shown_and_gone_with_it(
    client: TestClient, database: Path
) -> None:
    sheet = client.get(f"/jobs/{MARMOT}/circuits/c17?at=F17").text
    assert "Held: 30 A because the 15 A once blew." in sheet
    hold = {"kind": "hold_choice", "circuit_id": "c15", "what": "size", "value": ""}
    form = {"revision": "1", "edit": json.dumps(hold), "value": "8", "note": "what the shelf had"}
    assert client.post(f"/jobs/{MARMOT}/edit", data=form).status_code == 200
    assert stored(database).circuit("c15").held.note == "what the shelf had"
    for revision, what in (("2", "size"), ("3", "all")):
        release = {
            "kind": "release_choice",
            "circuit_id": "c15" if what == "size" else "c17",
            "what": what,
        }
        client.post(
            f"/jobs/{MARMOT}/edit", data={"revision": revision, "edit": json.dumps(release)}
        )
    assert stored(database).circuit("c15").held.note == ""
    assert stored(database).circuit("c17").held.note == ""
