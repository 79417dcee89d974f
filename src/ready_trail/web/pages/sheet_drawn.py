"""The whole job's sheet as it is drawn: once for a design, for screen, file and paper alike."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from markupsafe import Markup

from ready_trail.core.design import Design
from ready_trail.drawing.sheet import SheetScene, draw_sheet
from ready_trail.formats.rendering import environment
from ready_trail.web.pages.shell import Shell


def sheet_drawn(shell: Shell) -> SheetScene:
    """Return the whole job's sheet; equal jobs share one."""
    return _drawn(shell.design)


def sheet_body(shell: Shell) -> Markup:
    """Return the sheet's shapes as the page has them; drawn once for every state that is asked."""
    return _body(shell.design)


@lru_cache(maxsize=8)
def _drawn(made: Design) -> SheetScene:
    return draw_sheet(made)


@lru_cache(maxsize=8)
def _body(made: Design) -> Markup:
    macros: Any = environment().get_template("drawing/sheet.html").module
    return Markup(macros.body(_drawn(made)))
