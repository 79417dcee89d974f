"""The catalogue: every reference table as frozen records, read once from CSV with its sources."""

from __future__ import annotations

import csv
import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from itertools import pairwise
from types import MappingProxyType
from typing import TypeVar, cast

from ready_trail.core.conductors import (
    PAIR_LEAST_MM2,
    Conductor,
    WireKind,
    awg_area_mm2,
    copper_r20_mohm_per_m,
    of_kind,
    paired,
)
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import FuseFamily, Gate
from ready_trail.core.loads import DropClass, Duty, LoadModel
from ready_trail.core.relays import Relay

INSULATION_CLASSES_C = (80, 90, 105, 125)

T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone:
    """A part of the vehicle with its default ambient and its mechanical minimum."""

    zone: str
    label: str
    ambient_c: float
    minimum_mm2: float
    minimum_awg: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingRule:
    """What a finding stands for: its area of the review, the rule in a sentence, its source."""

    code: str
    area: str
    severity: str
    rule: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadPreset:
    """A typical accessory to start from; the label of the real one wins.

    ``site`` is where such a thing usually sits; a vehicle type knows its likely run.
    """

    key: str
    label: str
    group: str
    site: str
    model: LoadModel
    watts: float | None
    amps: float | None
    idle_a: float | None
    at_v: float
    duty: Duty
    drop_class: DropClass
    inrush_x: float
    inrush_s: float
    min_v: float | None
    note: str
    hazard: bool
    source: str
    outputs: tuple[PresetOutput, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PresetOutput:
    """One of several outputs of a typical accessory, the colour of its lead and what it is on
    with: a signal of the vehicle, or its lights.
    """

    name: str
    watts: float
    lead: str
    on_with: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PointPreset:
    """A typical distribution point to start from; the real one's figures win.

    ``name`` is the short name that a new one gets, the label where it is blank; ``states`` what
    its kind asks besides, by field. ``ratings_a`` has one figure for all positions, or one for
    each. ``for_v`` is the vehicle voltage that it is made for.
    """

    key: str
    label: str
    name: str
    group: str
    kind: str
    positions: int
    ratings_a: tuple[float, ...]
    total_a: float | None
    continuous_a: float | None
    fuse_a: float | None
    zone: str
    wake: str
    earth_bus: bool
    output_v: float | None
    output_a: float | None
    for_v: float | None
    switch_a: float | None
    lamp: str
    states: Mapping[str, str]
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WireColour:
    """An insulation colour with its IEC letters."""

    colour: str
    name: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Catalogue:
    """All tables. Sizes are ordered thin to thick within a system.

    One is the same as itself alone, so that what was made from it can be kept under it.
    """

    conductors: Mapping[str, tuple[Conductor, ...]]
    wires_by_kind: Mapping[tuple[str, str], tuple[Conductor, ...]]
    cables_by_kind: Mapping[tuple[str, str], tuple[Conductor, ...]]
    fuse_families: Mapping[str, FuseFamily]
    relays: Mapping[str, Relay]
    zones: Mapping[str, Zone]
    presets: Mapping[str, LoadPreset]
    point_presets: Mapping[str, PointPreset]
    wire_colours: Mapping[str, WireColour]
    finding_rules: Mapping[str, FindingRule]

    def wires(self, system: str, kind: WireKind = "copper") -> tuple[Conductor, ...]:
        """Return the sizes of a system, thin to thick, in one kind of wire."""
        return self.wires_by_kind[(system, kind)]

    def cables(self, system: str, kind: WireKind = "copper") -> tuple[Conductor, ...]:
        """Return the same sizes followed by pairs in parallel, for where no single one does."""
        return self.cables_by_kind[(system, kind)]

    def control_fuses(self, nominal_v: float) -> FuseFamily:
        """Return the family of control fuses on a system of that voltage. [V]"""
        return self.fuse_family("blade" if nominal_v <= 24.0 else "blade_58v")

    def fuse_family(self, name: str) -> FuseFamily:
        """Return one fuse family; TableError when the catalogue has none of that name."""
        if name not in self.fuse_families:
            raise TableError(f"no fuse family {name!r} in the catalogue")
        return self.fuse_families[name]


@lru_cache(maxsize=1)
def load_catalogue() -> Catalogue:
    """Read and check the shipped tables. Raises TableError on a malformed one."""
    conductors = _conductors()
    kinds: tuple[WireKind, ...] = ("copper", "sae", "cca")
    singles: dict[tuple[str, str], tuple[Conductor, ...]] = {
        (s, kind): of_kind(sizes, kind) for s, sizes in conductors.items() for kind in kinds
    }
    return Catalogue(
        conductors=conductors,
        wires_by_kind=MappingProxyType(singles),
        cables_by_kind=MappingProxyType(
            {
                key: (*sizes, *(paired(c) for c in sizes if c.area_mm2 >= PAIR_LEAST_MM2))
                for key, sizes in singles.items()
            }
        ),
        fuse_families=_fuse_families(),
        relays=_keyed("relays", _relay, "key"),
        zones=_keyed("zones", _zone, "zone"),
        presets=_keyed("load_presets", _preset, "key"),
        point_presets=_keyed("point_presets", _point_preset, "key"),
        wire_colours=_keyed("wire_colours", lambda r: WireColour(**r), "colour"),
        finding_rules=_keyed("findings", lambda r: FindingRule(**r), "code"),
    )


def _rows(table: str) -> Iterator[dict[str, str]]:
    path = files("ready_trail").joinpath("data", "tables", f"{table}.csv")
    with path.open(encoding="utf-8") as lines:
        for number, row in enumerate(csv.DictReader(lines), start=2):
            if None in row or None in row.values():
                raise TableError(f"{table}.csv line {number}: wrong number of columns")
            if not row.get("source"):
                raise TableError(f"{table}.csv line {number}: no source")
            yield row


def _keyed(table: str, make: Callable[[dict[str, str]], T], key: str) -> Mapping[str, T]:
    records: dict[str, T] = {}
    for row in _rows(table):
        if row[key] in records:
            raise TableError(f"{table}.csv: {row[key]} stands twice")
        try:
            records[row[key]] = make(row)
        except (KeyError, ValueError) as error:
            raise TableError(f"{table}.csv: {row[key]}: {error}") from error
    return MappingProxyType(records)


def _conductors() -> Mapping[str, tuple[Conductor, ...]]:
    ampacities = {(r["system"], r["size"]): r for r in _rows("ampacity")}
    by_system: dict[str, list[Conductor]] = {}
    for row in _rows("conductors"):
        key = (row["system"], row["size"])
        if key not in ampacities:
            raise TableError(f"ampacity.csv has no row for {key}")
        area_mm2 = float(row["area_mm2"]) if row["area_mm2"] else awg_area_mm2(row["size"])
        r20 = row["r20_mohm_per_m"]
        by_system.setdefault(row["system"], []).append(
            Conductor(
                system=row["system"],
                size=row["size"],
                area_mm2=area_mm2,
                r20_mohm_per_m=float(r20) if r20 else copper_r20_mohm_per_m(area_mm2),
                outside_diameter_mm=float(row["outside_diameter_mm"]),
                ampacity_by_class_a=MappingProxyType(
                    {c: float(ampacities[key][f"class_{c}"]) for c in INSULATION_CLASSES_C}
                ),
                source=row["source"],
                ampacity_source=ampacities[key]["source"],
            )
        )
    for system, sizes in by_system.items():
        if any(a.area_mm2 >= b.area_mm2 for a, b in pairwise(sizes)):
            raise TableError(f"conductors.csv: {system} sizes are out of order")
    return MappingProxyType({system: tuple(sizes) for system, sizes in by_system.items()})


def _fuse_families() -> Mapping[str, FuseFamily]:
    gates: dict[str, list[Gate]] = {}
    for row in _rows("fuse_gates"):
        gates.setdefault(row["gates"], []).append(
            Gate(
                multiple=float(row["multiple"]),
                fastest_s=float(row["fastest_s"]),
                slowest_s=math.inf if row["slowest_s"] == "inf" else float(row["slowest_s"]),
            )
        )
    colours: dict[str, dict[float, str]] = {}
    for row in _rows("fuse_colours"):
        for family in row["family"].split("+"):
            colours.setdefault(family, {})[float(row["rating_a"])] = row["colour"]

    def make(row: dict[str, str]) -> FuseFamily:
        return FuseFamily(
            family=row["family"],
            label=row["label"],
            ratings_a=tuple(sorted(float(r) for r in row["ratings_a"].split())),
            holder_a=float(row["holder_a"]),
            max_v=float(row["max_v"]),
            interrupting_a=float(row["interrupting_a"]),
            drop_at_rating_v=float(row["drop_at_rating_v"]),
            gates_name=row["gates"],
            gates=tuple(gates[row["gates"]]),
            socket_max_mm2=float(row["socket_max_mm2"]),
            clearing_x=float(row["clearing_x"]),
            mount=row["mount"],
            colours=MappingProxyType(colours.get(row["family"], {})),
            closes_again=row["auto_reset"] == "yes",
            stud=row["stud"],
            holder_end=row["holder_end"],
            source=row["source"],
        )

    return _keyed("fuses", make, "family")


def _relay(row: dict[str, str]) -> Relay:
    return Relay(
        key=row["key"],
        label=row["label"],
        form=row["form"],
        contact_a_23c=float(row["contact_a_23c"]),
        contact_a_85c=float(row["contact_a_85c"]),
        nc_a_23c=float(row["nc_a_23c"]) if row["nc_a_23c"] else None,
        nc_a_85c=float(row["nc_a_85c"]) if row["nc_a_85c"] else None,
        max_v=float(row["max_v"]),
        coil_ohm=float(row["coil_ohm"]),
        pull_in_v=float(row["pull_in_v"]),
        release_v=float(row["release_v"]),
        contact_mohm=float(row["contact_mohm"]),
        suppression=row["suppression"],
        terminals=row["terminals"],
        stud=row["stud"],
        socket=row["socket"],
        source=row["source"],
    )


def _point_preset(row: dict[str, str]) -> PointPreset:
    return PointPreset(
        key=row["key"],
        label=row["label"],
        name=row["name"] or row["label"],
        group=row["group"],
        kind=row["kind"],
        positions=int(row["positions"]),
        ratings_a=tuple(float(r) for r in row["ratings_a"].split()),
        total_a=_optional(row["total_a"]),
        continuous_a=_optional(row["continuous_a"]),
        fuse_a=_optional(row["fuse_a"]),
        zone=row["zone"],
        wake=row["wake"],
        earth_bus=row["earth_bus"] == "yes",
        output_v=_optional(row["output_v"]),
        output_a=_optional(row["output_a"]),
        for_v=_optional(row["for_v"]),
        switch_a=_optional(row["switch_a"]),
        lamp=row["lamp"],
        states=dict(s.split("=") for s in row["states"].split(";") if s),
        source=row["source"],
    )


def _optional(text: str) -> float | None:
    return float(text) if text else None


def _zone(row: dict[str, str]) -> Zone:
    return Zone(
        zone=row["zone"],
        label=row["label"],
        ambient_c=float(row["ambient_c"]),
        minimum_mm2=float(row["minimum_mm2"]),
        minimum_awg=row["minimum_awg"],
        source=row["source"],
    )


def _preset_output(text: str) -> PresetOutput:
    *name, watts, lead, on_with = text.split()
    return PresetOutput(name=" ".join(name), watts=float(watts), lead=lead, on_with=on_with)


def _preset(row: dict[str, str]) -> LoadPreset:
    return LoadPreset(
        key=row["key"],
        label=row["label"],
        group=row["group"],
        site=row["site"],
        model=cast(LoadModel, row["model"]),
        watts=_optional(row["watts"]),
        amps=_optional(row["amps"]),
        idle_a=_optional(row["idle_a"]),
        at_v=float(row["at_v"]),
        duty=cast(Duty, row["duty"]),
        drop_class=cast(DropClass, row["drop_class"]),
        inrush_x=float(row["inrush_x"]),
        inrush_s=float(row["inrush_s"]),
        min_v=_optional(row["min_v"]),
        note=row["note"],
        hazard=row["hazard"] == "yes",
        source=row["source"],
        outputs=tuple(_preset_output(o) for o in row["outputs"].split(";") if o),
    )
