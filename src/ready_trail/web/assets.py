"""What a page shows with: one style file and one script, each put together once from its parts.

A page that draws or lays out has one script more, of its own. Each is asked for by a digest
of its content and kept by the browser for good.
"""

from __future__ import annotations

import hashlib
from functools import lru_cache
from importlib.resources import files
from pathlib import Path

from fastapi import APIRouter, Request
from starlette.responses import Response

STATIC = Path(str(files("ready_trail.web").joinpath("static")))
FOR_GOOD = "max-age=31536000, immutable"
ASKED_EACH_TIME = "no-cache"

_BUNDLES = {
    "page.css": (
        "vendor/bulma.min.css",
        "css/drawing.css",
        "css/sheet.css",
        "css/app.css",
        "css/live.css",
        "css/build.css",
        "css/prove.css",
    ),
    "page.js": (
        "js/once.js",
        "js/app.js",
        "js/hand.js",
        "js/build.js",
        "js/prove.js",
        "js/photos.js",
        "js/regroup.js",
        "js/effects.js",
        "js/live.js",
        "js/rows.js",
        "vendor/htmx.min.js",
    ),
    "alpine.js": ("vendor/hx-alpine-compat.min.js", "vendor/alpine-csp.min.js"),
}
"""The libraries stand last: they start when everything that they call is there. Alpine is loaded
by pages that have a component of its; it takes as long to start as all the rest.
"""
_SCRIPTS = {
    "drawing.js": tuple(
        f"js/drawing/{part}.js"
        for part in (
            "live",
            "view",
            "asked",
            "paint",
            "pick",
            "meter",
            "states",
            "cards",
            "keys",
            "hands",
        )
    ),
}
"""Scripts in parts that share what they name, with each other alone."""
_WHOLE = {**_BUNDLES, **_SCRIPTS}
_TYPES = {".css": "text/css", ".js": "text/javascript"}

router = APIRouter(include_in_schema=False)


def asset(name: str) -> str:
    """Return the address of a static file, with its content's digest for the cache."""
    return f"/static/{name}?v={_digest(name)}"


def show_whole(request: Request) -> Response:
    """Answer with what was put together from parts."""
    name = request.url.path.rpartition("/")[2]
    keep = FOR_GOOD if "v" in request.query_params else ASKED_EACH_TIME
    kind = _TYPES[f".{name.rpartition('.')[2]}"]
    return Response(_content(name), media_type=kind, headers={"cache-control": keep})


for _name in _WHOLE:
    router.add_api_route(f"/static/{_name}", show_whole)


@lru_cache(maxsize=256)
def _digest(name: str) -> str:
    return hashlib.sha256(_content(name)).hexdigest()[:12]


@lru_cache(maxsize=8)
def _content(name: str) -> bytes:
    """A file's bytes, or those of its parts one after the other."""
    if name not in _WHOLE:
        return (STATIC / name).read_bytes()
    parts = [(STATIC / part).read_text(encoding="utf-8") for part in _WHOLE[name]]
    text = "\n".join(part.replace('url("../', 'url("/static/') for part in parts)
    if name in _SCRIPTS:
        text = f'"use strict";\n(() => {{\n{text}}})();\n'
    return text.encode()
