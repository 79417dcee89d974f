"""The whole job's sheet on paper, cut between its rows or on one large page; where things sit."""

from __future__ import annotations

from ready_trail.core.letters import device_letters
from ready_trail.core.looms import looms
from ready_trail.drawing import words
from ready_trail.drawing.plan import View, draw_plan
from ready_trail.formats.paper import Block, Head, Paper, Section, Sheet, Table, Words
from ready_trail.formats.rendering import plain_number as plain
from ready_trail.formats.rendering import wire_colours
from ready_trail.web.pages.build import built
from ready_trail.web.pages.sheet_drawn import sheet_drawn
from ready_trail.web.papers.common import Printing, drawing_css, drawn, paper_of, sheet_css
from ready_trail.web.papers.sheet_pages import pages_of

VIEWS: tuple[View, ...] = ("plan", "side")
_MARGIN_MM = 8.0
_HEAD_MM = 14.0


def _legend() -> str:
    letters = ", ".join(f"{letter} {words}" for letter, words in device_letters())
    colours = ", ".join(f"{code} {name}" for code, name in wire_colours())
    return f"{letters}; {colours}; OG/VT orange with a violet tracer."


def drawing_paper(printed: Printing, *, whole: bool) -> Paper:
    """Return the sheet; with ``whole`` on one page as large as it needs."""
    return paper_of(printed, "drawing", drawing_sections(printed, whole=whole))


def drawing_sections(printed: Printing, *, whole: bool = False) -> list[Section]:
    """Return the sheet's pages."""
    shell = printed.shell
    sheet, css = sheet_drawn(shell), sheet_css()
    pages = pages_of(shell.design, sheet, printed.sheet.paper, whole=whole)
    sections = []
    for page in pages:
        paper = Sheet(printed.sheet.paper, across=True, margin_mm=_MARGIN_MM)
        if whole:
            paper = Sheet(
                margin_mm=_MARGIN_MM,
                width_mm=page.width_mm + 2 * _MARGIN_MM,
                height_mm=page.height_mm + 2 * _MARGIN_MM + _HEAD_MM,
            )
        count = f", page {page.number} of {len(pages)}" if len(pages) > 1 else ""
        blocks: list[Block] = [
            Head(f"{shell.design.job.name}, the whole job{count}", "", printed.stamp),
            drawn("sheet_page", f"{sheet.title}{count}", page, css=css, width_mm=page.width_mm),
            Words(_legend(), "small"),
        ]
        sections.append(Section(blocks, paper))
    return sections


def plan_section(printed: Printing) -> Section:
    """Return the vehicle from above and from the left, with its looms."""
    shell = printed.shell
    made = shell.design
    blocks: list[Block] = [
        printed.head("Where things sit", "From above and from the left; front to the left")
    ]
    every = looms(made, shell.catalogue)
    for name in VIEWS:
        view = draw_plan(made, every, shell.catalogue, name)
        if view is not None:
            blocks.append(drawn("plan", f"The vehicle, {name} view", view, css=drawing_css()))
    cuts = built(shell).cuts
    rows = []
    for loom in cuts.looms:
        hole, sleeve = loom.leg.hole, loom.sleeve
        rows.append(
            (
                cuts.loom_names[loom.leg.id],
                words.metres(loom.length_m) + (" estimated" if loom.leg.taped_m is None else ""),
                str(len(loom.wires)),
                f"{sleeve.kind} {plain(sleeve.size_mm)} mm" if sleeve else "tied",
                str(loom.clips),
                f"{hole.panel}, {plain(hole.diameter_mm)} mm, {hole.protection}" if hole else "",
            )
        )
    head = ("From, to", "Length", "Wires", "Sleeve", "Clips", "Passes")
    blocks.append(Table(rows, ("1fr", "22mm", "14mm", "34mm", "12mm", "44mm"), "Looms", head))
    return Section(blocks)
