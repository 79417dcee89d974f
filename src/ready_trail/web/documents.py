"""A PDF behind a plain address: made in a process of its own, at once where it is small.

Who asks waits a moment; a document that takes longer sends the browser on to a page with its
progress, where it can be left and stopped. The result is kept by what it was made from, so the
same document is not made twice.
"""

from __future__ import annotations

import asyncio
import hashlib
import re
from collections.abc import Callable, Sequence
from urllib.parse import urlencode, urlsplit

from starlette.requests import Request
from starlette.responses import FileResponse, RedirectResponse, Response
from starlette.types import Receive, Scope, Send

from ready_trail.formats.pdf import PdfUnavailableError, sections_to_pdf, to_pdf
from ready_trail.web.context import STATIC
from ready_trail.web.work import WORKS, Report, Work, WorkFailedError

PATIENCE_S = 1.2
"""So long a browser may wait for the file itself."""

_LOOK_S = 0.03


def pdf_answer(name: str, pages: Sequence[tuple[str, str]], *, tagged: bool = True) -> Response:
    """Return a document's answer; ``pages`` are its sections, each its name and its HTML.

    One section alone carries tags for screen readers, unless there is nothing to read aloud.
    Raises TooMuchWorkError.
    """
    key = hashlib.sha256(repr((name, tagged, pages)).encode()).hexdigest()
    work = WORKS.start(key, safe_name(name), "application/pdf", make_paper, tuple(pages), tagged)
    return _Made(work)


def make_paper(pages: tuple[tuple[str, str], ...], tagged: bool, *, report: Report) -> bytes:
    """Lay a document out: in the process, section by section where it has several."""
    if len(pages) == 1:
        report(0, 1, "Laying out the pages")
        return to_pdf(pages[0][1], STATIC, tagged=tagged)
    sections = [(title, _giving(html), 1.0) for title, html in pages]
    return sections_to_pdf(sections, STATIC, report)


def _giving(html: str) -> Callable[[], str]:
    return lambda: html


def file_of(work: Work) -> Response:
    """Return the result of work that is done."""
    headers = {"Content-Disposition": f'inline; filename="{work.name}"'}
    return FileResponse(work.path, media_type=work.media_type, headers=headers)


class _Made(Response):
    """Waits for work without a thread; then it is the file, or the way to its progress."""

    def __init__(self, work: Work) -> None:
        super().__init__()
        self.work = work

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        waited_s = 0.0
        while self.work.state == "running" and waited_s < PATIENCE_S:
            await asyncio.sleep(_LOOK_S)
            waited_s += _LOOK_S
        if self.work.state == "failed":
            raise (PdfUnavailableError if self.work.unavailable else WorkFailedError)(
                self.work.words
            )
        came_from = urlsplit(Request(scope).headers.get("referer", ""))
        back = came_from.path + (f"?{came_from.query}" if came_from.query else "")
        asked = urlencode({"back": back if back.startswith("/jobs/") else "/"})
        answer: Response = RedirectResponse(f"/work/{self.work.id}/page?{asked}", 303)
        if self.work.state == "done":
            answer = file_of(self.work)
        await answer(scope, receive, send)


def download(content: str | bytes, media_type: str, name: str, *, inline: bool = False) -> Response:
    """A file with a plain name; browsers get no markup in the header."""
    kind = "inline" if inline else "attachment"
    headers = {"Content-Disposition": f'{kind}; filename="{safe_name(name)}"'}
    return Response(content, media_type=media_type, headers=headers)


def safe_name(name: str) -> str:
    """Return a file name of plain characters."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "ready-trail"
