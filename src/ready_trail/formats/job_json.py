"""The job file: one JSON document, read strictly and written the same way each time."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job import SCHEMA_VERSION, Job, lifted
from ready_trail.core.references import unknown_references
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.limits import require_modest_text

FILE_MOST_BYTES = 4_000_000
"""A job of 400 circuits is under 1 MB; a larger file is a slip."""


def read_job(data: bytes, catalogue: Catalogue) -> Job:
    """Return the job in a file. Raises FileRefusedError with the path to the first fault."""
    if len(data) > FILE_MOST_BYTES:
        raise FileRefusedError(
            "",
            f"the file has {len(data) / 1e6:.1f} MB; a job file has {FILE_MOST_BYTES / 1e6:.0f} "
            "MB at most",
        )
    require_modest_text(data)
    try:
        document = json.loads(data.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise FileRefusedError("", "the file is not UTF-8 text") from error
    except RecursionError as error:
        raise FileRefusedError("", "the file is nested too deeply") from error
    except ValueError as error:  # also a whole number of thousands of digits
        raise FileRefusedError("", f"the file is not JSON: {error}") from error
    if not isinstance(document, dict):
        raise FileRefusedError("", "a job file holds one JSON object")
    version = document.get("schema_version")
    if isinstance(version, int) and version > SCHEMA_VERSION:
        raise FileRefusedError(
            "schema_version",
            f"this file has schema {version}; this program reads up to {SCHEMA_VERSION}. "
            "Use a newer Ready Trail",
        )
    try:
        job = Job.model_validate_json(json.dumps(lifted(document)))
    except (AttributeError, TypeError) as error:  # a version 1 that is not shaped like one
        raise FileRefusedError(
            "", "the file is damaged: its parts are not what they should be"
        ) from error
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join(str(part) for part in first["loc"])
        raise FileRefusedError(path, first["msg"].removeprefix("Value error, ")) from error
    for path, message in unknown_references(job, catalogue):
        raise FileRefusedError(path, message)
    return job


def write_job(job: Job) -> str:
    """Return the job as a file's text: what was stated, defaults included."""
    return json.dumps(job.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def job_schema() -> dict[str, Any]:
    """Return the published JSON Schema of a job file."""
    schema = Job.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
