"""What the documents of a job share: paper, foot, styles of drawings, the answer."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from starlette.responses import Response

from ready_trail.formats.paper import Head, Paper, Picture, Section, Sheet, to_pdf
from ready_trail.formats.rendering import environment
from ready_trail.formats.saying import saying_of
from ready_trail.web.assets import STATIC
from ready_trail.web.documents import download
from ready_trail.web.pages.shell import Shell
from ready_trail.web.work import typeset


@dataclass(frozen=True, slots=True, kw_only=True)
class Printing:
    """One job on one size of paper on one day."""

    shell: Shell
    sheet: Sheet
    day: str

    @property
    def stamp(self) -> str:
        """Which state of the job is on paper."""
        return f"revision {self.shell.stored.revision}, {self.day}"

    def foot(self, of: str = "") -> str:
        """What stands at the foot of each page."""
        name = self.shell.design.job.name
        return f"{name}, {of}, {self.stamp}" if of else f"{name}, {self.stamp}"

    def head(self, title: str, under: str = "") -> Head:
        """The head of a page."""
        return Head(title, under, self.stamp)

    @property
    def job_words(self) -> str:
        """The job, its place and its vehicle."""
        job = self.shell.design.job
        return f"{job.name}{f', {job.place}' if job.place else ''}; {self.shell.vehicle_words}"


def printing(shell: Shell, asked: str = "") -> Printing:
    """Return how a job is printed: on the paper asked for, or the house's own."""
    known = {"a4": "A4", "letter": "letter"}
    paper = known.get(asked.lower(), shell.design.job.rules.paper)
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    return Printing(shell=shell, sheet=Sheet(paper), day=day)


def answer(shell: Shell, name: str, paper: Paper) -> Response:
    """Return a document as the answer of its ``.pdf`` address."""
    name = f"{shell.design.job.name}-{name}.pdf"
    return download(pdf_of(shell, paper), "application/pdf", name, inline=True)


def pdf_of(shell: Shell, paper: Paper) -> bytes:
    """Return a document of a job, set as its house says things."""
    job = shell.design.job
    return to_pdf(paper, saying_of(job.rules, job), typeset)


def paper_of(printed: Printing, title: str, sections: list[Section]) -> Paper:
    """Return a document of a job; its title stands at the foot of each page."""
    name = printed.shell.design.job.name
    return Paper(f"{name}, {title}", sections, printed.foot(title), printed.sheet)


def drawn(macro: str, alt: str, *args: Any, css: str, width_mm: float | None = None) -> Picture:
    """Return a drawing by its macro in ``drawing/on_paper.html``."""
    macros: Any = environment().get_template("drawing/on_paper.html").module
    return Picture(str(getattr(macros, macro)(*args, css)).strip(), alt, width_mm)


@lru_cache(maxsize=1)
def drawing_css() -> str:
    """Return the drawing's own styles, embedded in files that leave."""
    return (STATIC / "css" / "drawing.css").read_text(encoding="utf-8")


@lru_cache(maxsize=1)
def sheet_css() -> str:
    """Return the sheet's own styles with the symbols', embedded in files that leave."""
    return drawing_css() + (STATIC / "css" / "sheet.css").read_text(encoding="utf-8")
