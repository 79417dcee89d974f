"""The whole job's sheet as it is drawn: once for a design, for screen, file and paper alike."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from markupsafe import Markup

from ready_trail.core.design import Design
from ready_trail.drawing.sheet import TIGHT, HeadName, SheetScene, draw_sheet, level_names
from ready_trail.formats.rendering import environment
from ready_trail.web.pages.shell import Shell

_LEAST_WIDTH = 330.0
"""A row that is narrower is not drawn larger."""
_LETTERS = 0.91
"""Pixels of a phone for one of the sheet: its letters of 11 are 10 high then."""


def sheet_drawn(shell: Shell) -> SheetScene:
    """Return the whole job's sheet; equal jobs share one."""
    return _drawn(shell.design)


def sheet_body(shell: Shell) -> Markup:
    """Return the sheet's shapes as the page has them; drawn once for every state that is asked."""
    return _body(shell.design)


@dataclass(frozen=True, slots=True, kw_only=True)
class RowCard:
    """One row alone, as a phone shows it; ``width_px`` keeps its letters readable."""

    owner: str
    name: str
    state: str
    feed: str
    scene: SheetScene
    heads: tuple[HeadName, ...]
    width: float
    width_px: float

    @property
    def top(self) -> float:
        """Where the picture begins: names may stand above the scene."""
        return min([0.0, *(name.y - 14.0 for name in self.heads)])


def row_cards(shell: Shell) -> tuple[RowCard, ...]:
    """Return each row of the sheet by itself."""
    return _cards(shell.design)


def circuit_cards(shell: Shell, circuit_id: str) -> tuple[RowCard, ...]:
    """Return one circuit by itself, then what feeds it and what it shares, as far as that is."""
    return _circuit_cards(shell.design, circuit_id)


@lru_cache(maxsize=8)
def _cards(made: Design) -> tuple[RowCard, ...]:
    return tuple(_card(made, block.owner, frozenset(block.owners)) for block in _drawn(made).blocks)


@lru_cache(maxsize=32)
def _circuit_cards(made: Design, circuit_id: str) -> tuple[RowCard, ...]:
    installation = made.circuit(circuit_id).installation
    assert installation is not None
    owners = {wire.owner for wire in installation.wires.values()}
    owners |= {device.owner for device in installation.devices.values()}
    before = owners & {c.circuit.id for c in made.circuits} - {circuit_id}
    own = _card(made, circuit_id, frozenset(owners - before | {circuit_id}))
    return (own, *(_card(made, feeder, frozenset({feeder})) for feeder in sorted(before)))


def _card(made: Design, owner: str, owners: frozenset[str]) -> RowCard:
    """The rows of ``owners`` as one card, under the name of that of ``owner``."""
    scene = draw_sheet(made, owners, TIGHT)
    block = next(b for b in scene.blocks if owner == b.owner or owner in b.owners)
    width = max(scene.width, _LEAST_WIDTH)
    return RowCard(
        owner=block.owner,
        name=block.name,
        state=block.state,
        feed=block.feed,
        scene=scene,
        heads=level_names(scene, width),
        width=width,
        width_px=width * _LETTERS,
    )


@lru_cache(maxsize=8)
def _drawn(made: Design) -> SheetScene:
    return draw_sheet(made)


@lru_cache(maxsize=8)
def _body(made: Design) -> Markup:
    macros: Any = environment().get_template("drawing/sheet.html").module
    return Markup(macros.body(_drawn(made)))
