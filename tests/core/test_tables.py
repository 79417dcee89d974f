"""The shipped tables: guarded by row counts and sums, sorted, sourced."""

from __future__ import annotations

import csv
from importlib.resources import files
from itertools import pairwise

import pytest

from ready_trail.core.catalogue import load_catalogue
from support import CATALOGUE

TABLES = files("ready_trail").joinpath("data", "tables")


@pytest.mark.parametrize(
    ("table", "rows", "column", "total"),
    [
        ("ampacity", 32, "class_125", 5125),
        ("ampacity", 32, "class_80", 3926),
        ("conductors", 32, "outside_diameter_mm", 232.8),
        ("fuse_gates", 26, "multiple", 70.2),
        ("relays", 17, "coil_ohm", 1063),
        ("fuses", 11, "interrupting_a", 26500),
        ("load_presets", 22, "watts", 3144),
        ("fault_kinds", 18, "weight", 51.1),
    ],
)
def test_table_is_the_one_we_copied(table: str, rows: int, column: str, total: float) -> None:
    with TABLES.joinpath(f"{table}.csv").open(encoding="utf-8") as lines:
        read = list(csv.DictReader(lines))
    assert len(read) == rows
    assert sum(float(r[column]) for r in read if r[column]) == pytest.approx(total)
    assert all(r["source"] for r in read)


def test_thicker_wire_has_less_resistance_and_more_ampacity() -> None:
    for sizes in CATALOGUE.conductors.values():
        for thin, thick in pairwise(sizes):
            assert thick.r20_mohm_per_m < thin.r20_mohm_per_m
            for class_c, carries_a in thin.ampacity_by_class_a.items():
                assert thick.ampacity_by_class_a[class_c] >= carries_a


def test_catalogue_is_read_once() -> None:
    assert load_catalogue() is CATALOGUE


def test_fuse_colours_are_the_iso_ones() -> None:
    blade = CATALOGUE.fuse_families["blade"]
    assert (blade.colours[10], blade.colours[30]) == ("red", "light green")
    assert CATALOGUE.fuse_families["large_blade"].colours[40] == "orange"
