"""What web tests share: the forms of a page as a browser would post them, and what is stored."""

from __future__ import annotations

import io
import json
from collections.abc import Mapping
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

from httpx2 import Response
from pypdf import PdfReader
from starlette.testclient import TestClient

from ready_trail.core.job import Job
from ready_trail.store import jobs
from ready_trail.store.db import connect

MARMOT = 1
"""Number of the main demo job in a filled database."""


def on_one_line(page: str) -> str:
    """A page's text however its template's lines break."""
    return " ".join(page.split())


def pdf_text(content: bytes) -> str:
    """The words on all pages of a PDF, on one line."""
    pages = PdfReader(io.BytesIO(content)).pages
    return " ".join(" ".join(page.extract_text() for page in pages).split())


class Forms(HTMLParser):
    """What a browser would post from each form of a page, were it sent as it stands."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[tuple[str, dict[str, str]]] = []
        self._select = ""
        self._text = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        told = {k: v or "" for k, v in attrs}
        if tag == "form":
            self.forms.append((told.get("action", ""), {}))
        name = told.get("name", "")
        if not self.forms or "disabled" in told:
            return
        fields = self.forms[-1][1]
        if tag == "input" and name and told.get("type") not in ("submit", "file"):
            if told.get("type") not in ("checkbox", "radio") or "checked" in told:
                fields[name] = told.get("value", "")
        elif tag == "select":
            self._select = name
        elif tag == "option" and self._select:
            if self._select not in fields or "selected" in told:
                fields[self._select] = told.get("value", "")
        elif tag == "textarea":
            self._text = name
            fields[name] = ""

    def handle_endtag(self, tag: str) -> None:
        if tag == "select":
            self._select = ""
        elif tag == "textarea":
            self._text = ""

    def handle_data(self, data: str) -> None:
        if self._text:
            self.forms[-1][1][self._text] += data


def form_of(client: TestClient, page: str, what: str) -> dict[str, str]:
    """The form of a page that is sent to an address, or that makes a kind of edit."""
    answer = client.get(page)
    assert answer.status_code == 200, page
    read = Forms()
    read.feed(answer.text)
    found = [fields for at, fields in read.forms if what in (at, kind_of(fields))]
    assert found, (page, what, [(at, kind_of(fields)) for at, fields in read.forms])
    return max(found, key=len)


def kind_of(fields: Mapping[str, str]) -> str:
    """The kind of the edit that a form makes."""
    return str(json.loads(fields.get("edit", "{}")).get("kind", ""))


def post_edit(
    client: TestClient,
    edit: Mapping[str, Any],
    page: str = "",
    fields: Mapping[str, str] | None = None,
    *,
    job: int = MARMOT,
    revision: int = 1,
) -> Response:
    """Post a form as its page would: what the page knows of the edit, and what was typed."""
    known = {"revision": str(revision), "page": page, "edit": json.dumps(edit)}
    return client.post(f"/jobs/{job}/edit", data={**known, **(fields or {})})


def stored(database: Path, number: int = MARMOT) -> Job:
    """The job as it stands in the database."""
    conn = connect(database)
    try:
        return jobs.get_job(conn, number).job
    finally:
        conn.close()
