"""Refusals of the document in plain words: what is wrong with a field, and what is allowed."""

from __future__ import annotations

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from ready_trail.core.measures import measure_of


def plain_message(details: ErrorDetails) -> str:
    """Say in plain words what is wrong with one field and what is allowed."""
    context = details.get("ctx", {})
    measure = next(
        (
            m
            for part in reversed(details["loc"])
            if isinstance(part, str) and (m := measure_of(part)) is not None
        ),
        None,
    )
    number = f"Type a number, such as {measure.example if measure is not None else '2.4'}."
    messages = {
        "missing": "Fill this in.",
        "string_too_short": "Fill this in.",
        "string_too_long": f"At most {context.get('max_length')} characters.",
        "float_parsing": number,
        "float_type": number,
        "int_parsing": "Type a whole number.",
        "int_from_float": "Type a whole number.",
        "finite_number": "Type an ordinary number.",
        "greater_than": f"Must be more than {context.get('gt')}.",
        "greater_than_equal": f"Must be {context.get('ge')} or more.",
        "less_than": f"Must be under {context.get('lt')}.",
        "less_than_equal": f"Must be {context.get('le')} or less.",
        "literal_error": f"Choose one of {context.get('expected')}.",
        "string_pattern_mismatch": "This is not written as it must be.",
        "too_short": "Give at least one.",
        "too_long": f"At most {context.get('max_length')}.",
    }
    own = details["msg"].removeprefix("Value error, ")
    return messages.get(details["type"], own)


def plain_errors(error: ValidationError) -> dict[str, str]:
    """Return the messages of a validation by field path; the first one of each field."""
    errors: dict[str, str] = {}
    for details in error.errors():
        path = ".".join(str(part) for part in details["loc"]) or "form"
        within = details["type"] == "too_short" and any(p.startswith(f"{path}.") for p in errors)
        if not within:  # a list is not too short because its rows are wrong
            errors.setdefault(path, plain_message(details))
    return errors
