"""How a revision's document is kept: whole and compressed, or as what changed since another.

An edit changes a few characters of a document of tens of kilobytes. A change is what stands
between the longest common beginning and end; a whole copy comes in between now and then, so that
no document is far from one.
"""

from __future__ import annotations

import struct
import zlib
from typing import Literal

Form = Literal["plain", "whole", "change"]

DEPTH_MOST = 32
"""Changes in a row after which a whole copy is kept."""

_HEAD = struct.Struct(">II")


def pack(document: bytes, base: bytes | None) -> tuple[Form, bytes]:
    """Return the form and body of a document, against another one where that is given."""
    if base is None:
        return "whole", zlib.compress(document, 6)
    start = _common(document, base)
    most = min(len(document), len(base)) - start
    end = min(_common(document[::-1], base[::-1]), most)
    middle = document[start : len(document) - end]
    return "change", _HEAD.pack(start, end) + zlib.compress(middle, 6)


def unpack(form: str, body: bytes, base: bytes | None) -> bytes:
    """Return the document again. Raises ValueError where body and base do not fit."""
    if form == "plain":
        return body
    try:
        if form == "whole":
            return zlib.decompress(body)
        if base is None:
            raise ValueError("a change without what it changes")
        start, end = _HEAD.unpack_from(body)
        middle = zlib.decompress(body[_HEAD.size :])
    except (zlib.error, struct.error) as error:
        raise ValueError(f"this revision's document is damaged: {error}") from error
    if start + end > len(base):
        raise ValueError("a change of another document")
    return base[:start] + middle + base[len(base) - end :]


def _common(a: bytes, b: bytes) -> int:
    """Return how many bytes two texts share at their beginning, by halving."""
    low, high = 0, min(len(a), len(b))
    if a[:high] == b[:high]:
        return high
    while high - low > 1:
        middle = (low + high) // 2
        if a[low:middle] == b[low:middle]:
            low = middle
        else:
            high = middle
    return low
