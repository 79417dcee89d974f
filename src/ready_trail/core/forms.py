"""What a form asks for a fact: its words, unit and choices, said once, beside the fact."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

YES_NO = (("true", "yes"), ("false", "no"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """One field of a form.

    Parameters
    ----------
    path : str
        Where its value stands in the document: ``output_a``, ``battery.capacity_ah``.
    title, unit, hint : str
        What stands beside it; a unit is told in the house's own system.
    blank : str
        What it means to leave it blank.
    choices : tuple of pairs
        Values and their words, where it is one of several.
    usual : object
        What stands there where nothing was stated.
    """

    is_tick: ClassVar[bool] = False

    path: str
    title: str
    unit: str = ""
    hint: str = ""
    blank: str = ""
    choices: tuple[tuple[object, str], ...] = ()
    usual: object = None

    def value_in(self, document: Mapping[str, Any]) -> object:
        """Return what a document, or what was typed, has there; yes and no as a form posts them."""
        found: object = document
        for part in self.path.split("."):
            found = found.get(part) if isinstance(found, Mapping) else None
        found = self.usual if found is None else found
        return str(found).lower() if isinstance(found, bool) else found


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick(Asked):
    """A field that is ticked or not."""

    is_tick: ClassVar[bool] = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """Rows of fields under one path, with an empty row at the end; ``more`` adds another."""

    path: str
    columns: tuple[Asked, ...]
    more: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Fields that stand together, ``is_wide`` those with long words; then what is ticked."""

    asks: tuple[Asked, ...] = ()
    ticks: tuple[Tick, ...] = ()
    title: str = ""
    is_wide: bool = False
