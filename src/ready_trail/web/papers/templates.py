"""Templates on paper, true to scale: one picture a thing, as wide in print as it is told here."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from ready_trail.core.build.cutouts import Template
from ready_trail.formats.paper import Block, Paper, Picture, Section, Sheet, Words
from ready_trail.web.papers.common import Printing, drawn, paper_of

_ROOM_MM = {"A4": (186.0, 235.0), "letter": (191.0, 217.0)}
"""What a page has between its margins, under a head and over its foot: wide, high."""
_HEAD_MM, _BAR_MM, _BAR_WIDE_MM = 8.0, 10.0, 72.0
"""The words over each template, the bar under it, and what that takes of the width."""
_SIGN_MM = 2.4
"""What a sign of its name takes at most."""


def fit_of(template: Template, sheet: Sheet) -> str:
    """Return how a template goes on a sheet: ``upright``, ``across``, or not at all."""
    wide, high = _size(template)
    room = _ROOM_MM.get(sheet.paper, _ROOM_MM["A4"])
    if wide <= room[0] and high <= room[1]:
        return "upright"
    return "across" if wide <= room[1] and high <= room[0] - 30.0 else ""


def template_picture(template: Template) -> Picture:
    """Return one template as a picture of exactly its width."""
    wide, high = _size(template)
    said = f"{template.name}: {template.words}"
    shapes = (template, _name(template), _HEAD_MM, template.height + _BAR_MM / 2, wide, high)
    return drawn("template", said, *shapes, css="", width_mm=float(wide))


def templates_paper(printed: Printing, templates: Sequence[Template]) -> Paper:
    """Return the templates, upright ones first, then those that need the sheet across."""
    upright = [t for t in templates if fit_of(t, printed.sheet) == "upright"]
    across = [t for t in templates if fit_of(t, printed.sheet) == "across"]
    large = [t for t in templates if not fit_of(t, printed.sheet)]
    sections = [Section([printed.head("Templates at true size", printed.job_words), *_checks()])]
    if upright:
        sections[0] = Section([*sections[0].blocks, *_drawn(upright)])
    sections += [
        Section(list(_drawn([t])), Sheet(printed.sheet.paper, across=True)) for t in across
    ]
    if large:
        names = ", ".join(t.name for t in large)
        sections.append(Section([Words(f"Larger than this paper, so only as DXF: {names}.")]))
    if not templates:
        sections = [Section([Words("Nothing is cut or drilled yet.")])]
    return paper_of(printed, "templates", sections)


def _checks() -> Iterator[Block]:
    yield Words(
        "Print at 100 %, not fitted to the page. Measure the bar under each template before you "
        "cut: 50 mm. Measures are of usual parts unless stated; hold the part in hand against "
        "them, and look behind the panel before you drill."
    )


def _drawn(templates: Sequence[Template]) -> Iterator[Block]:
    yield from (template_picture(template) for template in templates)


def _name(template: Template) -> str:
    return f"{template.name}, {template.place}" if template.place else template.name


def _size(template: Template) -> tuple[int, int]:
    """What its picture takes: whole millimetres, with the bar under it."""
    letters = max(len(_name(template)), len(template.words))
    wide = max(template.width, _BAR_WIDE_MM, min(letters * _SIGN_MM, 180.0))
    return math.ceil(wide), math.ceil(_HEAD_MM + template.height + _BAR_MM)
