"""The cut list on paper, with a box for each piece."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ready_trail.core.build import Build
from ready_trail.core.build.cuts import Cut
from ready_trail.core.cautions import AID
from ready_trail.core.units import feet_of_m
from ready_trail.drawing import words
from ready_trail.formats.paper import Block, Paper, Section, Table, Text, Words
from ready_trail.formats.rendering import plain_number as plain
from ready_trail.web.pages.build import built
from ready_trail.web.papers.common import Printing, paper_of


def cuts_paper(printed: Printing, by: str) -> Paper:
    """Return the cut list by spool or by loom."""
    name = printed.shell.design.job.name
    blocks: list[Block] = [
        printed.head("Cut list", f"{name}; strip lengths in millimetres"),
        cuts_table(built(printed.shell), by),
        Words(AID, "aid"),
    ]
    return paper_of(printed, "cut list", [Section(blocks)])


def cuts_table(build: Build, by: str) -> Table:
    """Return every piece of wire under its spool or its loom."""
    rows: list[Sequence[Text] | str] = []
    if by == "loom":
        for loom in build.cuts.by_loom:
            title = loom.name
            if loom.length_m:
                sleeve = loom.sleeve or "no sleeve"
                title += f": {words.metres(loom.length_m)}, {sleeve}, {loom.clips} clips"
            rows += [title, *_rows(loom.cuts, with_size=True)]
        return Table(rows, ("19mm", "27mm", "22mm", "1fr", "1fr", "32mm"), boxes=True)
    for spool in build.cuts.spools:
        rows.append(
            f"{spool.size} {spool.colour_words} ({spool.colour}), {spool.insulation_c} °C: "
            f"{spool.total_m:.2f} m, buy {spool.buy_m:.1f} m"
        )
        rows += _rows(spool.cuts, with_size=False)
    kits = [c for c in build.cuts.cuts if c.source in ("kit", "supplied")]
    if kits:
        rows += ["From kits, and as supplied", *_rows(kits, with_size=False)]
    return Table(rows, ("19mm", "27mm", "1fr", "1fr", "34mm"), boxes=True)


def _rows(cuts: Iterable[Cut], *, with_size: bool) -> list[tuple[str, ...]]:
    return [_row(cut, with_size) for cut in cuts]


def _row(cut: Cut, with_size: bool) -> tuple[str, ...]:
    length = f"{cut.cut_m:.2f} m"
    if cut.conductor.count > 1:
        length += f" ×{cut.conductor.count}"
    if cut.conductor.system == "awg":
        length += f" ({feet_of_m(cut.cut_m):.1f}{words.NBSP}ft)"
    if not cut.taped:
        length += " estimated"
    size = (f"{cut.conductor.label} {cut.colour}",) if with_size else ()
    start = (
        f"{cut.from_words}, {words.lower_first(cut.from_site.name)}: {cut.start.label}, "
        f"strip {plain(cut.start.strip_mm)}"
    )
    end = (
        f"{cut.to_words}, {words.lower_first(cut.to_site.name)}: {cut.end.label}, "
        f"strip {plain(cut.end.strip_mm)}"
    )
    if cut.lead:
        end += f", meets {cut.lead}"
    owner = cut.circuit
    owner += f", marked {cut.mark}" if cut.mark else ""
    owner += f", {cut.sleeve}" if cut.sleeve else ""
    if cut.kit_words:
        owner += ", as supplied" if cut.source == "supplied" else ", from the kit"
    return cut.label, length, *size, start, end, owner
