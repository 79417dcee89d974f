"""What printed documents of a job share: their words, their styles, their drawing."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from markupsafe import Markup

from ready_trail.core.cautions import AID, cautions_of
from ready_trail.core.design import Design
from ready_trail.core.explain import explain_circuit
from ready_trail.core.house import practices
from ready_trail.drawing.sheet import SheetScene, draw_sheet
from ready_trail.formats.rendering import environment
from ready_trail.web.context import STATIC
from ready_trail.web.kept import Kept, KeptWith, Same
from ready_trail.web.pages.sheet import legend
from ready_trail.web.pages.sheet_pages import cropped, pages_of
from ready_trail.web.pages.shell import Shell
from ready_trail.web.pages.why import governs_words

_sheets: Kept[Same[Design], SheetScene] = Kept(8)


def paper_context(shell: Shell, paper: str, printed: str) -> dict[str, Any]:
    """Return what every printed page of a job needs."""
    return {
        "shell": shell,
        "sheets": [],
        "css": drawing_css(),
        "paper": "letter" if paper.lower() == "letter" else "A4",
        "printed": printed,
        "aid": AID,
        "governs": governs_words,
        "derivations": lambda made: explain_circuit(made, shell.design, shell.catalogue),
        "practices": practices(shell.design.job.rules),
        "legend": lambda sheet: legend(sheet, shell.catalogue),
        "cautions": {c.circuit.id: cautions_of(c) for c in shell.design.circuits},
    }


def sheet_drawn(shell: Shell) -> SheetScene:
    """Return the whole job's sheet; equal jobs share one."""
    return _sheets.get(Same(shell.design), lambda: draw_sheet(shell.design))


_bodies: KeptWith[Markup] = KeptWith(8)


def sheet_body(sheet: SheetScene) -> Markup:
    """Return the sheet's shapes as the page has them; drawn once for every state that is asked."""

    def make() -> Markup:
        macros: Any = environment().get_template("drawing/sheet.html").module
        return Markup(macros.body(sheet))

    return _bodies.get(sheet, make)


def drawing_html(shell: Shell, paper: str, *, whole: bool = False) -> str:
    """Return the whole job's sheet on pages."""
    sheet = sheet_drawn(shell)
    pages = pages_of(sheet, paper, whole=whole)
    return render_paper(
        "print/drawing.html", sheet=sheet, pages=[(p, cropped(sheet, p)) for p in pages],
        css=sheet_css(), name=shell.design.job.name, revision=shell.stored.revision, whole=whole,
        paper="letter" if paper.lower() == "letter" else "a4",
    )  # fmt: skip


@lru_cache(maxsize=1)
def drawing_css() -> str:
    """Return the drawing's own styles, embedded in files that leave."""
    return (STATIC / "css" / "drawing.css").read_text(encoding="utf-8")


@lru_cache(maxsize=1)
def sheet_css() -> str:
    """Return the sheet's own styles with the symbols', embedded in files that leave."""
    return drawing_css() + (STATIC / "css" / "sheet.css").read_text(encoding="utf-8")


def render_paper(template: str, **context: Any) -> str:
    """Return a printed document as HTML."""
    return environment().get_template(template).render(**context)
