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
        (b"[" * 100_000, "nested more than"),
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
        (("circuits", 3, "accessory_ids"), ["a99"], "a99, which this job does not have"),
        (("circuits", 0, "run", 0, "zone"), "boot", "circuits.0.run.0.zone: no zone 'boot'"),
        (("circuits", 0, "run", 0, "length_m"), -1, "circuits.0.run.0.length_m"),
        (("circuits", 0, "held"), {"relay": "big"}, "held.relay: no relay 'big'"),
        (("circuits", 0, "held"), {"size": "11"}, "held.size: no awg size '11'"),
        (("circuits", 0, "held"), {"colour": "ZZ"}, "no wire colour 'ZZ'"),
        (("circuits", 1, "id"), "c2", "circuits: c2 stands twice"),
        (("circuits", 3, "accessory_ids"), ["a16"], "a16 stands twice"),
        (("circuits", 0, "accessory_ids"), ["a15"], "a circuit feeds accessories, or one point"),
        (("circuits", 3, "start", "point"), "p99", "starts at p99, which is no point of this job"),
        (("circuits", 3, "start", "position"), "99", "Bay block has no position 99"),
        (("circuits", 4, "start", "position"), "1", "Bay block position 1 is used twice"),
        (("circuits", 1, "start"), {"point": "p3"}, "a point cannot feed itself"),
        (("circuits", 0, "start"), {"point": "p3"}, "the feeders run in a loop"),
        (("accessories", 0, "use", "switch"), "Nobody", "is not among this job's switches"),
        (("switches", 1, "name"), "ROOF BAR", "switches: roof bar stands twice"),
        (("points", 0, "place"), "moon", "is placed at moon, which is not a point"),
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
