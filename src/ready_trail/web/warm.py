"""Lay one small page out, so that processes copied from this one have fonts and styles read.

Imported for that alone, by the clean process from which long work is started.
"""

from __future__ import annotations

from contextlib import suppress

from ready_trail.formats.pdf import PdfUnavailableError, to_pdf
from ready_trail.web.context import STATIC

_SHEETS = ("paper.css", "drawing.css", "labels.css")
_LINKS = "".join(f'<link rel="stylesheet" href="css/{name}">' for name in _SHEETS)

with suppress(PdfUnavailableError):
    to_pdf(
        f"<html><head>{_LINKS}</head><body><h1>Warm</h1><p>Fonts <strong>are</strong> read. "
        "<code>12.6 V</code> → ▲</p><svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 9'>"
        "<text>a</text></svg></body></html>",
        STATIC,
    )
