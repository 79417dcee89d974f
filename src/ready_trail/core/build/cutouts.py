"""What is cut and drilled: openings and holes of panels, switches, blocks and brackets, in mm.

The measures are those of usual parts until somebody states those of the part in hand.
"""

from __future__ import annotations

import csv
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.build.bill import holes_of
from ready_trail.core.build.sites import Sites
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.outcome import Design

EDGE_MM = 12.0
"""What stands around the outermost cut."""
_IN_A_ROW = 6
"""Openings side by side; more go on in a second row."""
_ROW_GAP_MM = 12.0
MEASURES = {
    "width_mm": "Opening, wide",
    "height_mm": "Opening, high",
    "radius_mm": "Its corners' radius",
    "hole_mm": "Hole",
    "across_mm": "Holes apart, across",
    "along_mm": "Holes apart, upright",
    "pitch_mm": "From one to the next",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Cutout:
    """The measures of one kind of part; 0 for what it does not have. [mm]"""

    key: str
    label: str
    width_mm: float
    height_mm: float
    radius_mm: float
    hole_mm: float
    across_mm: float
    along_mm: float
    pitch_mm: float
    source: str

    @property
    def fields(self) -> tuple[str, ...]:
        """The measures that it has."""
        return tuple(name for name in MEASURES if getattr(self, name) > 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """A rectangle with round corners, by its upper left corner. [mm]"""

    x: float
    y: float
    width: float
    height: float
    radius: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Bore:
    """A round hole by its middle. [mm]"""

    x: float
    y: float
    diameter: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Template:
    """What to cut for one thing, seen from the front, from the upper left. [mm]"""

    key: str
    cutout: str
    name: str
    place: str
    width: float
    height: float
    openings: tuple[Opening, ...] = ()
    bores: tuple[Bore, ...] = ()

    @property
    def words(self) -> str:
        """What is cut, in words."""
        parts = []
        if self.openings:
            o = self.openings[0]
            n = len(self.openings)
            parts.append(f"{n} opening{'s' if n > 1 else ''} {o.width:g} × {o.height:g} mm")
        for diameter in dict.fromkeys(b.diameter for b in self.bores):
            n = sum(b.diameter == diameter for b in self.bores)
            parts.append(f"{n} hole{'s' if n > 1 else ''} {diameter:g} mm")
        across, upright = (
            max(values) - min(values) if values else 0.0
            for values in ([b.x for b in self.bores], [b.y for b in self.bores])
        )
        apart = [f"{mm:g} mm {way}" for mm, way in ((across, "across"), (upright, "upright")) if mm]
        if apart:
            parts.append(f"apart {' and '.join(apart)}")
        return ", ".join(parts)


@lru_cache(maxsize=1)
def usual_cutouts() -> Mapping[str, Cutout]:
    """Return the table of usual measures."""
    path = files("ready_trail").joinpath("data", "tables", "cutouts.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            row["key"]: Cutout(
                key=row["key"],
                label=row["label"],
                source=row["source"],
                **{name: float(row[name]) for name in MEASURES},
            )
            for row in csv.DictReader(lines)
        }


def templates_of(
    made: Design, cutouts: Mapping[str, Cutout], catalogue: Catalogue
) -> tuple[Template, ...]:
    """Return a template for everything that a job cuts or drills."""
    return tuple(_templates(made, cutouts, Sites(made, catalogue)))


def _templates(made: Design, cutouts: Mapping[str, Cutout], sites: Sites) -> Iterator[Template]:
    refs, job = made.plan.refs, made.job
    for point in job.points:
        kind = point.is_a
        if kind.cutout and refs[point.id] in made.installation.devices:
            count = len(point.positions) if kind.has_switches else 1
            place = sites.of(refs[point.id]).name
            yield _template(point.id, point.name, place, cutouts[kind.cutout], max(1, count))
    for switch in job.switches:
        ref = refs.get(f"switch {switch.name}", "")
        if not switch.panel and ref in made.installation.devices:
            place = sites.of(ref).name
            yield _template(f"s{switch.number}", switch.name, place, cutouts["rocker"], 1)
    relays: dict[str, list[str]] = {}
    for device in made.installation.devices.values():
        planned = made.plan.circuits.get(device.owner)
        start = planned.circuit.start.point if planned is not None else ""
        in_block = any(p.id == start and p.is_a.holds_relays for p in job.points)
        if device.spec.is_relay and not in_block:
            relays.setdefault(sites.of(device.ref).name, []).append(device.ref)
    for place, found in relays.items():
        name = f"Relay{'s' if len(found) > 1 else ''} {', '.join(found)}"
        key = f"k-{found[0].lower().replace('.', '-')}"
        yield _template(key, name, place, cutouts["relay"], len(found))
    if job.layout is not None:
        diameters = {leg.id: leg.hole.diameter_mm for leg in job.layout.legs if leg.hole}
        for hole in holes_of(made):
            if hole.leg_id in diameters:
                bore = Cutout(
                    key="hole",
                    label=hole.label,
                    source="",
                    **dict.fromkeys(MEASURES, 0.0) | {"hole_mm": diameters[hole.leg_id]},
                )
                yield _template(f"h-{hole.leg_id}", f"Hole: {hole.panel}", "", bore, 1)


def _template(key: str, name: str, place: str, cutout: Cutout, count: int) -> Template:
    openings: list[Opening] = []
    bores: list[Bore] = []
    for at in range(count):
        row, column = divmod(at, _IN_A_ROW)
        x = EDGE_MM + column * cutout.pitch_mm
        if cutout.width_mm and cutout.height_mm:
            y = EDGE_MM + row * (cutout.height_mm + _ROW_GAP_MM)
            radius = min(cutout.radius_mm, cutout.width_mm / 2, cutout.height_mm / 2)
            openings.append(
                Opening(x=x, y=y, width=cutout.width_mm, height=cutout.height_mm, radius=radius)
            )
            continue
        half = cutout.hole_mm / 2
        y = EDGE_MM + half + row * (cutout.hole_mm + cutout.along_mm + _ROW_GAP_MM)
        for dx in dict.fromkeys((0.0, cutout.across_mm)):
            for dy in dict.fromkeys((0.0, cutout.along_mm)):
                bores.append(Bore(x=x + half + dx, y=y + dy, diameter=cutout.hole_mm))
    right = [o.x + o.width for o in openings] + [b.x + b.diameter / 2 for b in bores]
    low = [o.y + o.height for o in openings] + [b.y + b.diameter / 2 for b in bores]
    return Template(
        key=key,
        cutout=cutout.key,
        name=name,
        place=place,
        width=max(right, default=0.0) + EDGE_MM,
        height=max(low, default=0.0) + EDGE_MM,
        openings=tuple(openings),
        bores=tuple(bores),
    )
