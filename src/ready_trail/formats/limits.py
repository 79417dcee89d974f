"""What of a JSON document is looked at at all: refused before any of it is checked."""

from __future__ import annotations

import re

from ready_trail.formats.errors import FileRefusedError

PARTS_MOST, DEPTH_MOST, LIST_MOST = 150_000, 40, 1_000
"""A job of 400 circuits has some 60,000 parts, 9 deep, no list over 800 entries."""


_STRING = re.compile(rb'"[^"\\]*+(?:\\.[^"\\]*+)*+"', re.DOTALL)
"""Possessive: nothing is remembered for each character of a long text."""

_SIGN = re.compile(rb"[\[\]{},]")


def require_modest_text(data: bytes) -> None:
    """Raise FileRefusedError for JSON with more parts than any of ours, before it is parsed.

    Only its signs are counted, outside of strings: a few megabytes of ``{},`` cost gigabytes once
    they are objects and every one of them is refused by itself.
    """
    bare = _STRING.sub(b"", data)
    if bare.count(b",") + bare.count(b"{") + bare.count(b"[") > PARTS_MOST:
        raise FileRefusedError("", f"it has more than {PARTS_MOST:,} parts")
    commas: list[int] = []
    lists: list[bool] = []
    for found in _SIGN.finditer(bare):
        sign = found[0]
        if sign in b"[{":
            commas.append(0)
            lists.append(sign == b"[")
            if len(commas) > DEPTH_MOST:
                raise FileRefusedError("", f"it is nested more than {DEPTH_MOST} deep")
        elif sign in b"]}":
            if commas:
                commas.pop()
                lists.pop()
        elif commas:
            commas[-1] += 1
            if lists[-1] and commas[-1] >= LIST_MOST:
                raise FileRefusedError("", f"it holds a list of over {LIST_MOST:,} entries")
