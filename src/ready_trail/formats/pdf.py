"""HTML to PDF by WeasyPrint; only the application's own files are read."""

from __future__ import annotations

import base64
import gc
import io
import multiprocessing
import os
import re
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit


class PdfUnavailableError(Exception):
    """The text layout library that PDFs need is not on this machine."""


def to_pdf(html: str, static: Path, *, tagged: bool = True) -> bytes:
    """Return the pages as PDF, with tags for screen readers unless they would tell nothing.

    Raises PdfUnavailableError where Pango is missing.
    """
    return bytes(_document(html, static).write_pdf(pdf_tags=tagged))


Section = tuple[str, Callable[[], str], float]
"""A part of a long document: its name, what makes its HTML, how long it may take beside others."""

_PROCESSES_MOST = 4
_SVG = re.compile(r"<svg\b([^>]*)>(.*?)</svg>", re.DOTALL)
_CLASS = re.compile(r'\bclass="([^"]*)"')
_TITLE = re.compile(r"<title>([^<]*)</title>")
_STYLE = re.compile(r"<style>(.*?)</style>", re.DOTALL)
_NOTE = re.compile(r"/\*.*?\*/", re.DOTALL)
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_NEEDED = re.compile(r"\.([\w-]+)")
_sections: Sequence[Section] = ()
_static = Path()


def sections_to_pdf(
    sections: Sequence[Section], static: Path, report: Callable[[int, int, str], None]
) -> bytes:
    """Return several documents as one PDF, telling after each how far it is.

    Layout is slow and knows nothing of the other sections, so they are made side by side, the
    longest first, in copies of this process; where processes cannot be copied, one by one. Page
    numbers count within a section. Long documents carry no tags for screen readers: those double
    the time, and the same pages stand on screen.
    """
    global _sections, _static
    _sections, _static = sections, static
    made: dict[int, bytes] = {}
    total = len(sections) + 1
    order = sorted(range(len(sections)), key=lambda at: -sections[at][2])
    if _can_copy() and len(sections) > 1:
        context = multiprocessing.get_context("fork")
        count = min(_PROCESSES_MOST, os.cpu_count() or 1, len(sections))
        with context.Pool(count, gc.disable) as pool:  # short-lived: nothing to collect
            for at, pdf in pool.imap_unordered(_section, order):
                made[at] = pdf
                report(len(made), total, f"{sections[at][0]} is done")
    else:
        for at in order:
            made[at] = _section(at)[1]
            report(len(made), total, f"{sections[at][0]} is done")
    return _bound(made[at] for at in range(len(sections)))


def _with_pictures(html: str) -> str:
    """Return the page with its drawings as pictures: inside the page they would go through the
    page's own, slower, parser and styles.
    """

    def picture(found: re.Match[str]) -> str:
        attributes, inside = found.groups()
        named = _CLASS.search(attributes)
        if "xmlns=" not in attributes:
            attributes += ' xmlns="http://www.w3.org/2000/svg"'
        title = _TITLE.search(inside)
        used = {n for names in _CLASS.findall(found.group()) for n in names.split()}
        inside = _STYLE.sub(
            lambda style: f"<style>{_rules_of(style.group(1), used)}</style>", inside
        )
        data = base64.b64encode(f"<svg{attributes}>{inside}</svg>".encode()).decode()
        words = title.group(1) if title is not None else ""
        return (f'<img class="{named.group(1) if named is not None else ""}" alt="{words}" '
                f'src="data:image/svg+xml;base64,{data}">')  # fmt: skip

    return _SVG.sub(picture, html)


def _rules_of(css: str, used: set[str]) -> str:
    """Return the rules that can meet these classes: a picture's rules are parsed for it alone, and
    of a hundred it needs ten.
    """
    kept = ((",".join(one for one in selectors.split(",") if used.issuperset(_NEEDED.findall(one))),
             body) for selectors, body in _RULE.findall(_NOTE.sub("", css)))  # fmt: skip
    return "".join(f"{selectors}{{{body}}}" for selectors, body in kept if selectors)


def _section(at: int) -> tuple[int, bytes]:
    return at, bytes(_document(_sections[at][1](), _static).write_pdf())


def _can_copy() -> bool:
    return "fork" in multiprocessing.get_all_start_methods() and (os.cpu_count() or 1) > 1


def _bound(parts: Iterable[bytes]) -> bytes:
    import pikepdf  # late: only long documents need it

    bound, out = pikepdf.Pdf.new(), io.BytesIO()
    for part in parts:
        bound.pages.extend(pikepdf.Pdf.open(io.BytesIO(part)).pages)
    bound.save(out, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    return out.getvalue()


def _document(html: str, static: Path) -> Any:
    try:
        from weasyprint import HTML  # late: it takes a second, and Pango may be missing
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise PdfUnavailableError(
            "this machine lacks Pango, which makes PDFs; print the sheet from the browser instead"
        ) from error

    class OwnFilesOnly(URLFetcher):
        def fetch(self, url: str, headers: Any = None) -> Any:
            parts = urlsplit(url)
            own = parts.scheme == "file" and Path(unquote(parts.path)).resolve().is_relative_to(
                static
            )
            if parts.scheme != "data" and not own:
                raise ValueError(f"not allowed: {url}")
            return super().fetch(url, headers)

    fetcher = OwnFilesOnly(allow_redirects=False)
    return HTML(string=_with_pictures(html), base_url=f"{static.as_uri()}/", url_fetcher=fetcher)
