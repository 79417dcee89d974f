"""Cells of a CSV file: a text that a spreadsheet would take for a formula is guarded."""

from __future__ import annotations

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def guarded(value: object) -> str:
    """Return a cell's text, with an apostrophe before what looks like a formula.

    Plain numbers keep their sign.
    """
    text = "" if value is None else str(value)
    if not text.startswith(_FORMULA_STARTS) or _is_number(text):
        return text
    return f"'{text}"


def plain(text: str) -> str:
    """Return the text of a guarded cell."""
    inner = text[1:]
    return inner if text.startswith("'") and inner.startswith(_FORMULA_STARTS) else text


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
