"""What a form asks for a fact: its words, unit and choices, said once, beside the fact; and how
what was typed is laid over what stands.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, ClassVar, get_args

from pydantic import BaseModel

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


def rows(value: Any) -> list[dict[str, Any]]:
    """Return the rows of a table as posted; anything that is no row is left out."""
    return [row for row in value if isinstance(row, dict)] if isinstance(value, list) else []


def mapping(value: Any) -> dict[str, Any]:
    """Return a group of fields as posted; anything else is an empty group."""
    return dict(value) if isinstance(value, dict) else {}


def merged(before: Mapping[str, Any], typed: Mapping[str, Any]) -> dict[str, Any]:
    """Return a document with what was typed in it; a group keeps what its form does not ask."""
    document = dict(before)
    for name, value in typed.items():
        known = before.get(name)
        if isinstance(known, Mapping) and isinstance(value, Mapping):
            value = merged(known, value)
        document[name] = value
    return document


def without_blanks(document: Mapping[str, Any], *names: str) -> dict[str, Any]:
    """Return the document with these optional fields left out where they are blank."""
    return {k: v for k, v in document.items() if not (k in names and v in ("", None))}


@lru_cache(maxsize=1024)
def types_of(model: type[BaseModel], name: str) -> tuple[Any, ...]:
    """Return every type that a field's annotation names."""
    return tuple(_inside(model.model_fields[name].annotation))


def _inside(annotation: Any) -> Iterator[Any]:
    yield annotation
    for part in get_args(annotation):
        yield from _inside(part)


def figures_of(model: type[BaseModel]) -> frozenset[str]:
    """Return the fields that take a figure alone: blank, they are not stated."""
    return frozenset(
        name
        for name in model.model_fields
        if {int, float} & set(types_of(model, name)) and str not in types_of(model, name)
    )
