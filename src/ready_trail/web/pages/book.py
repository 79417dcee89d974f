"""The build book: one document for people who build from paper, made section by section."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from ready_trail.core.build.labels import labels_of
from ready_trail.core.build.progress import Tick, progress_of
from ready_trail.core.build.steps import STAGES
from ready_trail.core.build.stock import Part, shopping
from ready_trail.core.datasheet import Figure
from ready_trail.core.design import CircuitDesign
from ready_trail.core.job import Job
from ready_trail.core.looms import looms
from ready_trail.drawing.plan import View, draw_plan
from ready_trail.formats.pdf import sections_to_pdf
from ready_trail.store.jobs import StoredJob
from ready_trail.web.context import STATIC
from ready_trail.web.pages.build import built, minutes_words
from ready_trail.web.pages.paper import drawing_html, paper_context, render_paper
from ready_trail.web.pages.sheet import sheet_of
from ready_trail.web.pages.shell import Shell, shell_of


@dataclass(frozen=True, slots=True, kw_only=True)
class BookOrder:
    """What a book is made from: plain values, which go to another process."""

    job_id: int
    revision: int
    title: str
    document: str
    figures: tuple[Figure, ...]
    ticks: tuple[Tick, ...]
    parts: tuple[Part, ...]
    paper: str
    printed: str


VIEWS: tuple[View, ...] = ("plan", "side")
_SHEETS_AT_ONCE = 4
"""A document of its own costs as much as a third of a sheet, and progress should be seen."""

_CIRCUITS_AT_ONCE = 5
"""So that the circuits of a large job are laid out side by side."""

_WEIGHTS = {"Cover": 0.3, "Where things sit": 1.0, "Drawing": 3.5, "Cut list": 5.0, "Parts": 3.0,
            "Labels": 2.0, "Steps": 3.0, "Tests": 0.5}  # fmt: skip
"""How long sections take beside each other, measured: the longest are begun first."""

SECTIONS = ("Cover", "Where things sit", "Drawing", "Circuits", "Cut list", "Parts", "Labels",
            "Steps", "Tests")  # fmt: skip


def make_book(order: BookOrder, *, report: Callable[[int, int, str], None]) -> bytes:
    """Return the book as PDF, telling section by section how far it is."""
    report(0, len(SECTIONS) + 1, "Working the design out")
    shell = _shell(order)
    return sections_to_pdf(
        tuple((n, html, _WEIGHTS.get(n, 4.0)) for n, html in _sections(shell, order)),
        STATIC,
        report,
    )


def make_sheets(order: BookOrder, why: bool, *, report: Callable[[int, int, str], None]) -> bytes:
    """Return every circuit's sheet as one PDF, telling circuit by circuit how far it is."""
    shell = _shell(order)
    common = paper_context(shell, order.paper, order.printed)

    def some(made: tuple[CircuitDesign, ...]) -> Callable[[], str]:
        return lambda: render_paper("print/document.html", why=why, **{
            **common, "sheets": [sheet_of(c, shell.design, shell.catalogue) for c in made],
        })  # fmt: skip

    every = shell.design.circuits
    groups = [every[at : at + _SHEETS_AT_ONCE] for at in range(0, len(every), _SHEETS_AT_ONCE)]
    sections = tuple((g[-1].circuit.name, some(g), float(len(g))) for g in groups)
    return sections_to_pdf(sections, STATIC, report)


def _shell(order: BookOrder) -> Shell:
    stored = StoredJob(
        job_id=order.job_id, revision=order.revision, kind="", title=order.title, made_at="",
        archived=False, can_undo=False, can_redo=False, figures=order.figures,
        job=Job.model_validate_json(order.document),
    )  # fmt: skip
    return shell_of(stored, "build")


def _sections(shell: Shell, order: BookOrder) -> Iterator[tuple[str, Callable[[], str]]]:
    build = built(shell)
    made = shell.design
    progress = progress_of(build.steps, build.cuts.cuts, order.ticks)
    common = paper_context(shell, order.paper, order.printed) | {
        "build": build, "progress": progress, "stages": STAGES, "by": "spool",
        "minutes_words": minutes_words,
    }  # fmt: skip

    def part(template: str, **more: Any) -> Callable[[], str]:
        return lambda: render_paper(f"print/{template}.html", **{**common, **more})

    def circuits(some: tuple[CircuitDesign, ...]) -> Callable[[], str]:
        return lambda: render_paper("print/book_circuits.html", **{
            **common, "sheets": [sheet_of(c, made, shell.catalogue) for c in some]})  # fmt: skip

    yield "Cover", part("book_cover", sections=SECTIONS)
    if made.job.layout is not None:
        views = tuple(
            draw_plan(made, looms(made, shell.catalogue), shell.catalogue, view) for view in VIEWS
        )
        yield "Where things sit", part("book_plan", views=[v for v in views if v is not None])
    if made.circuits:
        yield "Drawing", lambda: drawing_html(shell, order.paper)
        for at in range(0, len(made.circuits), _CIRCUITS_AT_ONCE):
            some = made.circuits[at : at + _CIRCUITS_AT_ONCE]
            yield f"Circuits from {some[0].circuit.name}", circuits(some)
        yield "Cut list", part("cut_list")
    shelf = {part_.key: part_ for part_ in order.parts}
    yield "Parts", part("book_parts", shopping=shopping(build.parts, shelf, build.cuts))
    yield "Labels", part("book_labels", labels=labels_of(made, build.cuts))
    yield "Steps", part("book_steps")
    yield "Tests", part("book_tests", tests=[s for s in build.steps if s.stage == "first_power"])
