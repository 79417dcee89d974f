"""A set of house rules as a file."""

from __future__ import annotations

import json

from pydantic import ValidationError

from ready_trail.core.job import HouseRules
from ready_trail.core.job.plain import plain_message
from ready_trail.formats.errors import FileRefusedError

RULES_VERSION = 1
_MOST_BYTES = 100_000


def write_rules(rules: HouseRules, name: str) -> str:
    """Return a set of rules as a file's text."""
    document = {"house_rules": RULES_VERSION, "name": name, "rules": rules.model_dump(mode="json")}
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


def read_rules(data: bytes) -> HouseRules:
    """Return the rules in a file. Raises FileRefusedError with what is wrong."""
    if len(data) > _MOST_BYTES:
        raise FileRefusedError("", "a file of house rules has 0.1 MB at most")
    try:
        document = json.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise FileRefusedError("", "the file is not JSON text") from error
    version = document.get("house_rules") if isinstance(document, dict) else None
    if not isinstance(version, int) or isinstance(version, bool):
        raise FileRefusedError("", "this is no file of house rules")
    if version > RULES_VERSION:
        raise FileRefusedError(
            "house_rules",
            f"this file is version {version}; this program reads up to {RULES_VERSION}. "
            "Use a newer Ready Trail",
        )
    try:
        return HouseRules.model_validate(document.get("rules"))
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join(str(part) for part in ("rules", *first["loc"]))
        raise FileRefusedError(path, plain_message(first)) from error
