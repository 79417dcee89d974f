"""Sheets of labels as PDF, true to scale; a page has exactly the size of its sheet."""

from __future__ import annotations

from collections.abc import Sequence

from ready_trail.drawing.label_sheet import LabelPage
from ready_trail.formats.paper import Paper, Section, Sheet, Words
from ready_trail.web.papers.common import Printing, drawn


def labels_paper(printed: Printing, pages: Sequence[LabelPage]) -> Paper:
    """Return the label sheets; one page that says so where there is nothing to print."""
    name = printed.shell.design.job.name
    sections = [
        Section(
            [drawn("labels", _read_aloud(p), p, css="", width_mm=p.width)],
            Sheet(margin_mm=0.0, width_mm=p.width, height_mm=p.height),
        )
        for p in pages
    ]
    if not sections:
        sections = [Section([Words("There are no labels yet: nothing could be designed.")])]
    return Paper(f"{name}, labels", sections, "", printed.sheet)


def _read_aloud(page: LabelPage) -> str:
    codes = [label.lines[0].text for label in page.labels if label.lines]
    return f"Labels, sheet {page.number}: {', '.join(codes)}"
