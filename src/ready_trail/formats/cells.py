"""Cells of a CSV file: a text that a spreadsheet would take for a formula is guarded."""

from __future__ import annotations

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "＝", "＋", "－", "＠")
"""Full-width ones too: some programs read them as their plain twins."""


def guarded(value: object) -> str:
    """Return a cell's text, with an apostrophe before what looks like a formula.

    Plain numbers keep their sign.
    """
    text = "" if value is None else str(value)
    if not text.lstrip("'").startswith(_FORMULA_STARTS) or _is_number(text):
        return text
    return f"'{text}"


def plain(text: str) -> str:
    """Return the text of a guarded cell."""
    is_guarded = text.startswith("'") and text.lstrip("'").startswith(_FORMULA_STARTS)
    return text[1:] if is_guarded else text


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
