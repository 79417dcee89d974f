"""The job file: strict on the way in, the same text on the way out, a published schema."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import job_schema, read_job, write_job
from support import CATALOGUE, DEMO_DIR, MARMOT_FILE, demo

SCHEMA_FILE = Path(__file__).parents[2] / "docs" / "job.schema.json"


def marmot() -> dict[str, Any]:
    return dict(json.loads(MARMOT_FILE.read_text(encoding="utf-8")))


def read(document: Any) -> None:
    read_job(json.dumps(document).encode(), CATALOGUE)


def test_round_trip() -> None:
    job = demo()
    assert read_job(write_job(job).encode(), CATALOGUE) == job


def test_published_schema_is_current_and_takes_the_demo_jobs() -> None:
    schema = json.loads(SCHEMA_FILE.read_text(encoding="utf-8"))
    assert schema == json.loads(json.dumps(job_schema())), "run `make schema`"
    for path in DEMO_DIR.glob("*.json"):
        jsonschema.validate(json.loads(path.read_text(encoding="utf-8")), schema)


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "not JSON"),
        (b"{", "not JSON"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"[1, 2]", "one JSON object"),
        (b"[" * 100_000, "not JSON"),
        (b'{"name": "J", "schema_version": 99}', "schema 99.*newer Ready Trail"),
        (b'{"name": "J", "colour": "red"}', "colour: Extra inputs"),
        (b'{"name": ""}', "name: "),
        (b'{"name": "J", "vehicle": {"battery": {"capacity_ah": NaN}}}', "capacity_ah"),
        (b" " * 50_000_000, "50.0 MB"),
    ],
)
def test_files_that_are_refused(data: bytes, message: str) -> None:
    with pytest.raises(FileRefusedError, match=message):
        read_job(data, CATALOGUE)


@pytest.mark.parametrize(
    ("path", "value", "message"),
    [
        (("circuits", 0, "accessory_ids"), ["a99"], "a99, which this job does not have"),
        (("circuits", 0, "run", 0, "zone"), "boot", "circuits.0.run.0.zone: no zone 'boot'"),
        (("circuits", 0, "run", 0, "length_m"), -1, "circuits.0.run.0.length_m"),
        (("circuits", 0, "held"), {"relay": "big"}, "held.relay: no relay 'big'"),
        (("circuits", 0, "held"), {"size": "11"}, "held.size: no awg size '11'"),
        (("circuits", 0, "held"), {"colour": "ZZ"}, "no wire colour 'ZZ'"),
        (("circuits", 1, "id"), "c1", "circuits: c1 stands twice"),
        (("circuits", 1, "accessory_ids"), ["a1"], "a1 stands twice"),
        (("block",), None, "fed from a block, but there is none"),
        (("block", "main_family"), "wet string", "block.main_family"),
    ],
)
def test_faults_are_named_by_their_path(path: tuple[Any, ...], value: Any, message: str) -> None:
    document = marmot()
    place: Any = document
    for part in path[:-1]:
        place = place[part]
    place[path[-1]] = value
    with pytest.raises(FileRefusedError) as refused:
        read(document)
    assert message in str(refused.value)
