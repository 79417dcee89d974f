"""Files that leave: their names and how browsers take them."""

from __future__ import annotations

import re

from starlette.responses import Response


def download(content: str | bytes, media_type: str, name: str, *, inline: bool = False) -> Response:
    """A file with a plain name; browsers get no markup in the header."""
    kind = "inline" if inline else "attachment"
    headers = {"Content-Disposition": f'{kind}; filename="{safe_name(name)}"'}
    return Response(content, media_type=media_type, headers=headers)


def safe_name(name: str) -> str:
    """Return a file name of plain characters."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "ready-trail"
