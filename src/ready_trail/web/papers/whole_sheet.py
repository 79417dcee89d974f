"""The whole job's sheet as one file that leaves, its styles inside."""

from __future__ import annotations

from ready_trail.formats.rendering import environment
from ready_trail.web.pages.sheet_drawn import sheet_drawn
from ready_trail.web.pages.shell import Shell
from ready_trail.web.papers.common import sheet_css


def sheet_file(shell: Shell) -> str:
    """Return the sheet as a self-contained SVG."""
    template = environment().get_template("drawing/sheet_file.svg.html")
    return template.render(sheet=sheet_drawn(shell), css=sheet_css(), shell=shell)
