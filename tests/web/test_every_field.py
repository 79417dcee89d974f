"""Whatever the model allows is entered through the page: each field of each edit has its place."""

from __future__ import annotations

import re

import pytest
from pydantic import BaseModel
from starlette.testclient import TestClient

from ready_trail.core.job import Accessory, InputWire, Output, Point, Position, Switch, Use, Vehicle
from ready_trail.core.job.accessory import Mode, Post
from ready_trail.core.job.vehicle import Battery
from ready_trail.core.kinds.points import POINT_KINDS
from ready_trail.store import jobs
from ready_trail.store.db import connect, transaction
from web.test_untouched import full

ELSEWHERE = {
    Accessory: {"id", "use", "kit"},
    Use: {"unit_most_a", "while_by", "channel", "throw"},  # shown with what they belong to
    Output: {"watts", "amps"},  # one figure, in the measure of the whole
    InputWire: {"ends", "at", "backwards"},  # one list of ends; a finding turns a diode round
    Position: set(),
    Switch: {"number", "place"},  # numbered by itself, placed on the layout
    Vehicle: {"battery"},
    Battery: set(),
}
"""Fields that stand in another way than by their own name, and how."""


@pytest.fixture
def page_of(client: TestClient, database: object) -> object:
    """The pages of a job in which everything is stated."""
    conn = connect(database)  # type: ignore[arg-type]
    with transaction(conn):
        job_id = jobs.create_job(conn, full(), kind="import", title="Full")
    conn.close()

    def names(path: str) -> set[str]:
        answer = client.get(f"/jobs/{job_id}{path}")
        assert answer.status_code == 200
        return set(re.findall(r'name="([^"]+)"', answer.text))

    return names


def lacking(model: type[BaseModel], names: set[str], prefix: str = "") -> set[str]:
    fields = set(model.model_fields) - ELSEWHERE.get(model, set())
    return {f for f in fields if not any(n.startswith(f"{prefix}{f}") for n in names)}


def test_the_form_of_an_accessory_has_every_field(page_of) -> None:  # type: ignore[no-untyped-def]
    first = full().accessories[0].id
    names = page_of(f"/accessories/{first}")
    assert lacking(Accessory, names) == set()
    assert lacking(Use, names, "use.") == set()
    assert lacking(InputWire, names, "inputs.0.") == set()
    assert lacking(Output, names, "outputs.0.") == set()
    assert lacking(Mode, names, "modes.0.") == set()
    assert lacking(Post, names, "posts.0.") == set()


def test_the_form_of_the_vehicle_has_every_field(page_of) -> None:  # type: ignore[no-untyped-def]
    names = page_of("/brief")
    assert lacking(Vehicle, names, "vehicle.") == set()
    assert lacking(Battery, names, "vehicle.battery.") == set()


def test_the_forms_of_points_and_switches_have_every_field(page_of) -> None:  # type: ignore[no-untyped-def]
    names = page_of("/supply?point=p93")
    assert lacking(Position, names, "point.positions.0.") == set()
    assert lacking(Switch, page_of("/supply?switch=Main%20off"), "switch.") == set()
    asked = {f.path.split(".")[0] for kind in POINT_KINDS.values() for f in kind.fields}
    own = {"id", "number", "kind", "name", "zone", "positions", "earth_bus", "place", "item"}
    assert set(Point.model_fields) - asked - own == set()
