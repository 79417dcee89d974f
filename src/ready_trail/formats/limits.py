"""What of a JSON document is looked at at all: refused before any of it is checked."""

from __future__ import annotations

from typing import Any

from ready_trail.formats.errors import FileRefusedError

PARTS_MOST, DEPTH_MOST, LIST_MOST = 150_000, 40, 1_000
"""A job of 400 circuits has some 60,000 parts, 9 deep, no list over 800 entries."""


def require_modest(document: Any) -> None:
    """Raise FileRefusedError where a document has more parts, or is deeper, than any of ours."""
    parts, level = 0, [document]
    for depth in range(DEPTH_MOST + 1):
        inner: list[Any] = []
        for value in level:
            if isinstance(value, dict):
                inner.extend(value.values())
            elif isinstance(value, list):
                if len(value) > LIST_MOST:
                    raise FileRefusedError(
                        "", f"it holds a list of {len(value):,} entries; {LIST_MOST:,} are the most"
                    )
                inner.extend(value)
        parts += len(level)
        if parts + len(inner) > PARTS_MOST:
            raise FileRefusedError("", f"it has more than {PARTS_MOST:,} parts")
        if not inner:
            return
        if depth == DEPTH_MOST:
            break
        level = inner
    raise FileRefusedError("", f"it is nested more than {DEPTH_MOST} deep")
