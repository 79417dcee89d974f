"""An application on its own database, spoken to over HTTP without a browser."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.store import db, jobs
from ready_trail.web.app import create_app
from support import demo, typed_demo


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "t.db"
    db.initialise(path)
    conn = db.connect(path)
    with db.transaction(conn):
        jobs.create_job(conn, typed_demo(), kind="demo", title="Demo job")
        routed = demo().model_copy(update={"name": "Marmot routed"})
        jobs.create_job(conn, routed, kind="demo", title="Demo job")
    conn.close()
    return path


@pytest.fixture
def client(database: Path) -> Iterator[TestClient]:
    with TestClient(create_app(database), base_url="http://127.0.0.1") as client:
        yield client
