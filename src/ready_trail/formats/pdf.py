"""HTML to PDF by WeasyPrint; only the application's own files are read."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit


class PdfUnavailableError(Exception):
    """The text layout library that PDFs need is not on this machine."""


def to_pdf(html: str, static: Path) -> bytes:
    """Return the pages as PDF. Raises PdfUnavailableError where Pango is missing."""
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
    document = HTML(string=html, base_url=f"{static.as_uri()}/", url_fetcher=fetcher)
    return bytes(document.write_pdf(pdf_tags=True))
