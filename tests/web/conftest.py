"""An application on its own database, spoken to over HTTP without a browser."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from ready_trail.web.app import create_app
from support import filled_database


@pytest.fixture
def database(tmp_path: Path) -> Path:
    return filled_database(tmp_path)


@pytest.fixture
def client(database: Path) -> Iterator[TestClient]:
    with TestClient(create_app(database), base_url="http://127.0.0.1") as client:
        yield client
