"""Documents on paper: what stands on them as plain blocks, set as PDF by Typst in one template.

A document is told in blocks, without a word about looks; ``templates/paper/paper.typ`` sets them.
Words reach the typesetter as data and are never read as its markup.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any, Literal

import typst

from ready_trail.formats.saying import Saying

_SET = Path(str(files("ready_trail").joinpath("templates/paper/paper.typ")))
_FONTS = Path(str(files("ready_trail").joinpath("web/static/vendor")))


@dataclass(frozen=True, slots=True)
class Strong:
    """Words inside a text that stand out."""

    words: str


Text = str | Sequence[str | Strong]
"""Words, or a sequence of plain and strong ones."""


@dataclass(frozen=True, slots=True)
class Head:
    """The head of a page over a rule: its title, what it is of, and which state it shows."""

    title: str
    under: str = ""
    right: str = ""


@dataclass(frozen=True, slots=True)
class Title:
    """A title inside a page."""

    words: str


@dataclass(frozen=True, slots=True)
class Words:
    """A paragraph."""

    text: Text
    look: Literal["plain", "small", "lead", "accepted", "aid", "cover"] = "plain"


@dataclass(frozen=True, slots=True)
class Points:
    """A list; cautions stand in a frame, in two columns."""

    items: Sequence[Text]
    look: Literal["plain", "cautions", "cover"] = "plain"


@dataclass(frozen=True, slots=True)
class Frame:
    """Paragraphs in a frame: what nobody may miss."""

    texts: Sequence[Text]


@dataclass(frozen=True, slots=True)
class Table:
    """A table; a row that is a single word is the title of those under it.

    ``widths`` are Typst's: ``auto``, ``1fr``, ``19mm``. ``boxes`` puts a box to tick before each
    row, ``strong`` are the columns that name a row. ``together`` keeps it on one page.
    """

    rows: Sequence[Sequence[Text] | str]
    widths: Sequence[str]
    caption: str = ""
    head: Sequence[str] = ()
    boxes: bool = False
    strong: Sequence[int] = (0,)
    together: bool = False


@dataclass(frozen=True, slots=True)
class Picture:
    """A drawing as SVG; as wide as there is room for unless a width is told. [mm]"""

    svg: str
    alt: str
    width_mm: float | None = None


@dataclass(frozen=True, slots=True)
class Beside:
    """Drawings beside each other."""

    pictures: Sequence[Picture]


@dataclass(frozen=True, slots=True)
class Step:
    """One step of work with its box, and what is done, line by line."""

    title: Text
    lines: Sequence[str]
    done: bool


Block = Head | Title | Words | Points | Frame | Table | Picture | Beside | Step


@dataclass(frozen=True, slots=True)
class Sheet:
    """One size of page: its sides, or a named paper upright or across. [mm]"""

    paper: str = "A4"
    across: bool = False
    margin_mm: float = 12.0
    width_mm: float | None = None
    height_mm: float | None = None


@dataclass(frozen=True, slots=True)
class Section:
    """Blocks that begin on a page of their own."""

    blocks: Sequence[Block]
    sheet: Sheet | None = None


@dataclass(frozen=True, slots=True)
class Paper:
    """A document: its title, what stands at the foot of each page, its sections."""

    title: str
    sections: Sequence[Section]
    foot: str = ""
    sheet: Sheet = field(default_factory=Sheet)


def to_pdf(paper: Paper, saying: Saying, typeset: Callable[[str], bytes] | None = None) -> bytes:
    """Return a document as PDF, tagged for screen readers (PDF/UA-1), in the house's words.

    ``typeset`` may do the setting elsewhere; it is given what ``set_type`` takes.
    """
    data = {
        "title": saying.words(paper.title),
        "foot": saying.words(paper.foot),
        "sections": [_section(s, paper.sheet, saying) for s in paper.sections],
    }
    return (typeset or set_type)(json.dumps(data, ensure_ascii=False))


def set_type(data: str) -> bytes:
    """Return what is told as JSON, set as PDF."""
    pdf = typst.compile(
        _SET,
        root=_SET.parent,
        font_paths=_fonts(),
        sys_inputs={"data": data},
        pdf_standards="ua-1",
    )
    return bytes(pdf)


@lru_cache(maxsize=1)
def _fonts() -> typst.Fonts:
    """Our own fonts first; the machine's show names in scripts that ours lack."""
    return typst.Fonts(include_embedded_fonts=False, font_paths=[_FONTS])


def _section(section: Section, usual: Sheet, saying: Saying) -> dict[str, Any]:
    sheet = section.sheet or usual
    return {
        "page": {
            "paper": "us-letter" if sheet.paper == "letter" else "a4",
            "across": sheet.across,
            "margin": sheet.margin_mm,
            "width": sheet.width_mm,
            "height": sheet.height_mm,
        },
        "blocks": [_block(b, saying) for b in section.blocks],
    }


def _block(block: Block, saying: Saying) -> dict[str, Any]:
    told: dict[str, Any] = {"kind": type(block).__name__.lower()}
    match block:
        case Head():
            told |= {n: saying.words(getattr(block, n)) for n in ("title", "under", "right")}
        case Title(words):
            told["words"] = saying.words(words)
        case Words(text, look):
            told |= {"text": _text(text, saying), "look": look}
        case Points(items, look):
            told |= {"items": _texts(items, saying), "look": look}
        case Frame(texts):
            told["texts"] = _texts(texts, saying)
        case Table():
            told |= {
                "caption": saying.words(block.caption),
                "widths": list(block.widths),
                "head": [saying.words(h) for h in block.head],
                "boxes": block.boxes,
                "strong": list(block.strong),
                "together": block.together,
                "rows": [
                    saying.words(r) if isinstance(r, str) else _texts(r, saying) for r in block.rows
                ],
            }
        case Picture():
            told |= _picture(block, saying)
        case Beside(pictures):
            told["pictures"] = [_picture(p, saying) for p in pictures]
        case Step(title, lines, done):
            told |= {
                "title": _text(title, saying),
                "lines": [saying.words(x) for x in lines],
                "done": done,
            }
    return told


def _picture(picture: Picture, saying: Saying) -> dict[str, Any]:
    return {
        "svg": saying.html(picture.svg),
        "alt": saying.words(picture.alt),
        "width": picture.width_mm,
    }


def _texts(texts: Iterable[Text], saying: Saying) -> list[list[list[str]]]:
    return [_text(text, saying) for text in texts]


def _text(text: Text, saying: Saying) -> list[list[str]]:
    """Runs of words, each with how it stands."""
    runs = [text] if isinstance(text, str) else text
    return [
        ["strong", saying.words(run.words)] if isinstance(run, Strong) else ["", saying.words(run)]
        for run in runs
        if run
    ]
