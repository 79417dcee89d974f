"""Form fields: dotted names become a nested document, refusals become plain messages.

The core's own model checks the values, so a range is stated once. A field is named by its path
in the document: ``use.switch``, ``run.0.length_m``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from ready_trail.core.forms import types_of
from ready_trail.core.job.plain import plain_errors
from ready_trail.core.measures import as_figure

M = TypeVar("M", bound=BaseModel)
_DEEPEST = 8
_NAME = re.compile(r"[A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z0-9_]+)*", re.ASCII)
_NAME_MOST, _VALUE_MOST = 120, 200_000
_CLASH = "These fields do not fit together; reload the page."


class FieldsRefusedError(Exception):
    """Posted fields do not make a document; ``errors`` has a message for each field's path."""

    def __init__(self, errors: dict[str, str]) -> None:
        self.errors = errors
        super().__init__("; ".join(f"{k}: {v}" for k, v in errors.items()))


def taken(posted: Iterable[tuple[str, object]]) -> dict[str, str]:
    """Return posted fields as text; of fields with one name the last counts.

    Raises FieldsRefusedError for names that no page of ours has, and for fields that cannot
    stand beside each other: a text where others have a group.
    """
    fields: dict[str, str] = {}
    for name, value in posted:
        if not isinstance(value, str):
            continue
        if len(name) > _NAME_MOST or not _NAME.fullmatch(name):
            raise FieldsRefusedError({"form": _CLASH})
        if len(value) > _VALUE_MOST:
            raise FieldsRefusedError({name: "This is too long to be kept."})
        fields[name] = value
    for name in fields:
        at = name.find(".")
        while at >= 0:
            if name[:at] in fields:
                raise FieldsRefusedError({"form": _CLASH})
            at = name.find(".", at + 1)
    return fields


def texts(typed: Mapping[str, object]) -> dict[str, str]:
    """Return those of what was typed that are plain texts, for a form to show again."""
    return {name: value for name, value in typed.items() if isinstance(value, str)}


def nested(fields: Mapping[str, str], *, prefix: str = "") -> dict[str, Any]:
    """Return the document that dotted field names describe; numbered parts become lists.

    Figures are in their field's own unit then, whatever unit was typed.
    """
    root: dict[str, Any] = {}
    for name, value in fields.items():
        if not name.startswith(prefix):
            continue
        parts = name.removeprefix(prefix).split(".")
        if len(parts) > _DEEPEST:
            raise FieldsRefusedError({"form": _CLASH})
        place = root
        for part in parts[:-1]:
            place = place.setdefault(part, {})
            if not isinstance(place, dict):
                raise FieldsRefusedError({"form": _CLASH})
        if isinstance(place.get(parts[-1]), dict):
            raise FieldsRefusedError({"form": _CLASH})
        place[parts[-1]] = as_figure(parts[-1], value)
    listed = _lists(root)
    return listed if isinstance(listed, dict) else {}


def whole_number(text: object) -> int | None:
    """Return a plain whole number of at most 18 digits, or None."""
    text = str(text)
    return int(text) if text.isascii() and text.isdigit() and len(text) < 19 else None


def build(model: type[M], document: Mapping[str, Any]) -> M:
    """Return the validated model; a blank field that may be left out is left out.

    Raises FieldsRefusedError with plain messages.
    """
    try:
        return model.model_validate(_without_blanks(model, document))
    except ValidationError as error:
        raise FieldsRefusedError(plain_errors(error)) from error


def _without_blanks(model: type[BaseModel], document: Mapping[str, Any]) -> dict[str, Any]:
    """The document with None for blank texts where its model takes it, in its groups and rows."""
    found = dict(document)
    for name in model.model_fields:
        value, types = found.get(name), types_of(model, name)
        inner = next((a for a in types if _is_model(a)), None)
        if value == "" and type(None) in types:
            found[name] = None
        elif inner is not None and isinstance(value, Mapping):
            found[name] = _without_blanks(inner, value)
        elif inner is not None and isinstance(value, list | tuple):
            found[name] = [
                _without_blanks(inner, row) if isinstance(row, Mapping) else row for row in value
            ]
    return found


def _is_model(kind: object) -> bool:
    return isinstance(kind, type) and issubclass(kind, BaseModel)


def _lists(value: Any) -> Any:
    if not isinstance(value, dict):
        return value
    if value and all(whole_number(key) is not None for key in value):
        return [_lists(value[key]) for key in sorted(value, key=int)]
    return {key: _lists(inner) for key, inner in value.items()}


def press_key(form: Mapping[str, str]) -> str:
    """Return the key that a form was made with: two presses of it count once."""
    key = form.get("key", "")
    if not 8 <= len(key) <= 36 or not key.replace("-", "").isalnum() or not key.isascii():
        raise FieldsRefusedError({"form": "This form lacks its key; reload it."})
    return key
