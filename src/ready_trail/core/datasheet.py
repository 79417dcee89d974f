"""Figures of a part's own datasheet, which win over the catalogue's typical ones.

A figure names the catalogue's row ("relay:mini_no", "fuse:blade", "wire:awg:10") and a field of
it; the catalogue with such figures is another catalogue, and designs follow from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from types import MappingProxyType
from typing import Any, TypeVar

from ready_trail.core.catalogue import Catalogue, load_catalogue
from ready_trail.core.conductors import Conductor
from ready_trail.core.errors import EditRefusedError

MARK = "datasheet"
K = TypeVar("K")


@dataclass(frozen=True, slots=True, kw_only=True)
class FigureField:
    """A figure that may be taken from a datasheet, with its unit and the range of sense."""

    name: str
    label: str
    unit: str
    least: float
    most: float


FIELDS: Mapping[str, tuple[FigureField, ...]] = {
    "relay": (
        FigureField(name="contact_a_23c", label="Contact at 23 °C", unit="A", least=1, most=1000),
        FigureField(name="contact_a_85c", label="Contact at 85 °C", unit="A", least=1, most=1000),
        FigureField(name="contact_mohm", label="Contact, closed", unit="mΩ", least=0.05, most=50),
        FigureField(name="coil_ohm", label="Coil (12 V type)", unit="Ω", least=2, most=1000),
        FigureField(name="pull_in_v", label="Pulls in at (12 V type)", unit="V", least=3, most=11),
    ),
    "fuse": (
        FigureField(
            name="drop_at_rating_v", label="Drop at its rating", unit="V", least=0.02, most=0.5
        ),
        FigureField(name="holder_a", label="Holder", unit="A", least=5, most=1000),
        FigureField(
            name="socket_max_mm2", label="Holder takes up to", unit="mm²", least=1, most=150
        ),
        FigureField(name="interrupting_a", label="Interrupts", unit="A", least=100, most=20000),
        FigureField(name="max_v", label="Up to", unit="V", least=16, most=100),
    ),
    "wire": (
        FigureField(
            name="r20_mohm_per_m", label="Resistance at 20 °C", unit="mΩ/m", least=0.05, most=100
        ),
        FigureField(
            name="outside_diameter_mm", label="Outside diameter", unit="mm", least=0.8, most=40
        ),
    ),
}
"""By the kind of row."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """One figure of a datasheet, with what it was read from."""

    row: str
    field: str
    value: float
    source: str


def fields_of(row: str) -> tuple[FigureField, ...]:
    """Return the figures that a row of the catalogue may take; empty where it takes none."""
    return FIELDS.get(row.partition(":")[0], ())


def typical(row: str, field: str, catalogue: Catalogue) -> float | None:
    """Return the catalogue's own figure, or None where it has no such row."""
    found = _row(row, catalogue)
    value = getattr(found, field, None) if found is not None else None
    return float(value) if value is not None else None


def checked_figure(figure: Figure, catalogue: Catalogue, beside: tuple[Figure, ...] = ()) -> Figure:
    """Return the figure. Raises EditRefusedError where the row, the field or the value is wrong.

    ``beside`` are the other figures that hold already: a hot contact never carries more.
    """
    known = {f.name: f for f in fields_of(figure.row)}
    if figure.field not in known or _row(figure.row, catalogue) is None:
        raise EditRefusedError(figure.field, "the catalogue has no such figure")
    field = known[figure.field]
    if not field.least <= figure.value <= field.most:
        raise EditRefusedError(
            figure.field, f"must be {field.least:g} to {field.most:g} {field.unit}"
        )
    if not figure.source.strip():
        raise EditRefusedError("source", "say which datasheet: its number or date")
    after = with_figures(catalogue, (*beside, figure))
    row = _row(figure.row, after)
    hot_a, cold_a = getattr(row, "contact_a_85c", None), getattr(row, "contact_a_23c", None)
    if hot_a is not None and cold_a is not None and hot_a > cold_a:
        raise EditRefusedError(
            figure.field, f"hot it would carry {hot_a:g} A, cold {cold_a:g} A: give both figures"
        )
    return figure


_WIRE = "wire:"


def with_figures(catalogue: Catalogue, figures: tuple[Figure, ...]) -> Catalogue:
    """Return the catalogue with figures of datasheets in it; rows that it lacks are left out."""
    by_row: dict[str, list[Figure]] = {}
    for figure in figures:
        by_row.setdefault(figure.row, []).append(figure)
    tables: dict[str, dict[str, Any]] = {
        "relay": dict(catalogue.relays),
        "fuse": dict(catalogue.fuse_families),
    }
    wires: dict[tuple[str, str], dict[str, float]] = {}
    for row, own in by_row.items():
        kind, _, key = row.partition(":")
        known = {field.name for field in fields_of(row)}
        changes: dict[str, Any] = {f.field: f.value for f in own if f.field in known}
        source = f"{MARK}: {'; '.join(dict.fromkeys(f.source for f in own))}"
        table = tables.get(kind, {})
        if key in table:
            table[key] = replace(
                table[key], label=f"{table[key].label}, {MARK}", source=source, **changes
            )
        elif row.startswith(_WIRE):
            system, _, size = key.partition(":")
            wires[system, _bare(size)] = changes
    return replace(
        catalogue,
        relays=MappingProxyType(tables["relay"]),
        fuse_families=MappingProxyType(tables["fuse"]),
        conductors=_changed(catalogue.conductors, wires),
        wires_by_kind=_changed(catalogue.wires_by_kind, wires),
        cables_by_kind=_changed(catalogue.cables_by_kind, wires),
    )


@lru_cache(maxsize=8)
def catalogue_with(figures: tuple[Figure, ...]) -> Catalogue:
    """Return the shipped catalogue with figures of datasheets; equal figures share one."""
    return with_figures(load_catalogue(), figures) if figures else load_catalogue()


def _changed(
    tables: Mapping[K, tuple[Conductor, ...]], wires: Mapping[tuple[str, str], Mapping[str, float]]
) -> Mapping[K, tuple[Conductor, ...]]:
    return MappingProxyType(
        {key: tuple(_wire(c, wires) for c in sizes) for key, sizes in tables.items()}
    )


def _wire(conductor: Conductor, wires: Mapping[tuple[str, str], Mapping[str, float]]) -> Conductor:
    """A plain copper wire with its datasheet's figures; pairs and other kinds stay as they are."""
    changes: Mapping[str, Any] | None = wires.get((conductor.system, _bare(conductor.size)))
    if not changes or not conductor.is_plain:
        return conductor
    return replace(conductor, source=f"{conductor.source}; {MARK}", **changes)


def _row(row: str, catalogue: Catalogue) -> object | None:
    kind, _, key = row.partition(":")
    tables = {"relay": catalogue.relays, "fuse": catalogue.fuse_families}
    if kind in tables:
        return tables[kind].get(key)
    system, _, size = key.partition(":")
    sizes = catalogue.conductors.get(system, ()) if row.startswith(_WIRE) else ()
    return next((c for c in sizes if _bare(c.size) == _bare(size)), None)


def _bare(size: str) -> str:
    """A wire's size without its unit, as the tables have it."""
    return size.removesuffix(" AWG").removesuffix(" mm²")
