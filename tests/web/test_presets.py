"""Each usual accessory is taken as it is offered: the form's own values, posted back."""

from __future__ import annotations

import html
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.core.design import design
from ready_trail.store import db, jobs
from support import CATALOGUE, codes


def offered(page: str) -> dict[str, str]:
    """What a browser would post: the values of the accessory form as they stand."""
    form = next(f for f in re.findall(r"<form.*?</form>", page, re.DOTALL) if 'name="watts"' in f)
    fields: dict[str, str] = {}
    for tag in re.findall(r"<input[^>]*>", form):
        found = dict(re.findall(r'([\w-]+)="([^"]*)"', tag))
        if found.get("type") in ("checkbox", "radio") and " checked" not in tag:
            continue
        if "name" in found:
            fields[found["name"]] = html.unescape(found.get("value", ""))
    for name, body in re.findall(
        r'<select[^>]*name="([^"]+)"[^>]*>(.*?)</select>', form, re.DOTALL
    ):
        picked = re.search(r'<option value="([^"]*)" selected', body)
        first = re.search(r'<option value="([^"]*)"', body)
        chosen = picked or first
        fields[name] = html.unescape(chosen.group(1)) if chosen else ""
    return fields


@pytest.mark.parametrize("key", [k for k, p in CATALOGUE.presets.items() if p.at_v < 17])
def test_a_preset_is_taken_as_offered_and_designed(
    client: TestClient, database: Path, key: str
) -> None:
    preset = CATALOGUE.presets[key]
    fields = offered(client.get(f"/jobs/1/accessories?preset={key}").text)
    assert fields["watts"] or fields["amps"], "its figures stand in the form"
    answer = client.post("/jobs/1/edit", data=fields)
    assert answer.status_code == 200, re.findall(r'error"[^>]*>([^<]*)', answer.text)[:3]
    conn = db.connect(database)
    job = jobs.get_job(conn, 1).job
    conn.close()
    accessory = job.accessories[-1]
    assert (accessory.watts, accessory.amps) == (preset.watts, preset.amps)
    assert accessory.at_v == preset.at_v
    assert (accessory.inrush_x, accessory.min_v) == (preset.inrush_x, preset.min_v)
    circuit = job.circuit_of(accessory.id)
    assert circuit is not None
    made = design(job, CATALOGUE).circuit(circuit.id)
    assert made.planned.parts is not None
    assert "unsized" not in codes(made, "stop")
    assert made.scheme.for_winch == (preset.model == "winch")
