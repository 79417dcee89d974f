"""A switch that several circuits share: naming it elsewhere leaves it as it is."""

from __future__ import annotations

from pathlib import Path

from starlette.testclient import TestClient

from ready_trail.core.job import Switch
from web_support import MARMOT, form_of, stored

BASE = f"/jobs/{MARMOT}"


def switch_of(database: Path, name: str) -> Switch:
    found = stored(database).switch(name)
    assert found is not None
    return found


def test_naming_a_switch_that_is_there_changes_nothing_of_it(
    client: TestClient, database: Path
) -> None:
    for switch in stored(database).switches:
        form = form_of(client, f"{BASE}/accessories?add=true", "add_accessory")
        side = "I" if switch.throws == 2 else ""
        posted = {
            **form,
            "name": f"Lamp at {switch.name}",
            "watts": "12",
            "at_v": "13.5",
            "use.switch": switch.name,
            "use.throw": side,
            "switch.rating_a": "3",
        }
        assert client.post(f"{BASE}/edit", data=posted).status_code == 200
        assert switch_of(database, switch.name) == switch
    existing = stored(database).accessories[0]
    page = f"{BASE}/accessories/{existing.id}"
    form = form_of(client, page, "change_accessory")
    other = next(
        s for s in stored(database).switches if s.name != existing.use.switch and s.throws == 1
    )
    posted = {**form, "use.switch": other.name, "use.throw": "", "switch.rating_a": "3"}
    client.post(f"{BASE}/edit", data=posted)
    assert stored(database).accessory(existing.id).use.switch == other.name
    assert switch_of(database, other.name) == other


def test_its_own_switch_is_changed_where_it_is_shown(client: TestClient, database: Path) -> None:
    job = stored(database)
    shared = next(a for a in job.accessories if a.use.switch and not a.outputs)
    before = switch_of(database, shared.use.switch)
    form = form_of(client, f"{BASE}/accessories/{shared.id}", "change_accessory")
    client.post(f"{BASE}/edit", data={**form, "switch.rating_a": "7,5"})
    after = switch_of(database, shared.use.switch)
    assert after == before.model_copy(update={"rating_a": 7.5})


def test_a_side_that_was_not_told_is_asked_for_beside_its_field(
    client: TestClient, database: Path
) -> None:
    two = next(s for s in stored(database).switches if s.throws == 2)
    form = form_of(client, f"{BASE}/accessories?add=true", "add_accessory")
    answer = client.post(
        f"{BASE}/edit",
        data={**form, "name": "Lamp", "watts": "12", "at_v": "13.5", "use.switch": two.name},
    )
    assert answer.status_code == 422
    assert "has two sides: say which, I or II" in answer.text
    assert 'id="f-use-throw-error"' in answer.text
    assert 'value="Lamp"' in answer.text
