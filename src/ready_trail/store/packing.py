"""How a revision's document is kept: whole, compressed.

Older programs kept some as plain text, or as what changed since another: what stands between the
longest common beginning and end. Those are read here, to be made whole.
"""

from __future__ import annotations

import struct
import zlib

_HEAD = struct.Struct(">II")


def pack(document: bytes) -> bytes:
    """Return a document compressed."""
    return zlib.compress(document, 6)


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
