"""Review of wires: drop, heat, sturdiness, return, holes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import chain

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    Edit,
    FitGrommet,
    HoldChoice,
    ProtectHole,
    ReleaseChoice,
    SetHouseRules,
    SetReturn,
    SleeveAgainstHeat,
)
from ready_trail.core.job import BATTERY
from ready_trail.core.job.zones import zone_ambient_c
from ready_trail.core.outcome import Action, CircuitDesign, Finding, OutletDesign
from ready_trail.core.review.base import Check, Context, at_battery, main_wire, releases
from ready_trail.core.sizing import size
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO, Rung, Sizing
from ready_trail.core.wording import lower_first

AREA = "wire"
_HOT_ZONE_C = 100.0


def check_conductor_drop(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Drop in copper against the limit of the drop class."""
    rung, request = design.sizing.chosen, design.sizing.request
    if rung is None or "drop" not in rung.rejects or design.circuit.branches:
        return
    release = ReleaseChoice(circuit_id=design.circuit.id, what="size")
    yield Finding(
        code="conductor_drop",
        area=AREA,
        place=main_wire(design),
        severity="caution",
        text=f"{rung.conductor.label} loses too much voltage over this length.",
        why="The accessory works below what its maker expects.",
        found=f"{rung.conductor_drop_v:.2f} V",
        allowed=f"{request.drop_limit_v:.2f} V",
        actions=(
            Action(label="Choose the wire size automatically", edit=release, alters=("fuse",)),
        )
        if design.circuit.held.size
        else (),
    )


def check_path_drop(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Drop of the whole path, and the accessory's own minimum voltage."""
    for end in design.outlets:
        yield from _path_findings(design, end, context.catalogue)


def _path_findings(
    design: CircuitDesign, end: OutletDesign, catalogue: Catalogue
) -> Iterator[Finding]:
    profile = end.profile
    if profile is None or profile.steepest is None:
        return
    limit_v = end.limit_v + PATH_EXTRA_RATIO * design.sizing.request.supply.nominal_v
    largest, largest_v = profile.steepest
    if profile.path_drop_v > limit_v:
        less_v = profile.path_drop_v - limit_v
        yield Finding(
            code="path_drop",
            area=AREA,
            place=largest,
            severity="caution",
            text=f"The path loses too much between source and accessory; most of it in "
            f"{largest} ({largest_v:.2f} V).",
            why="Fuses, contacts and joints add to what the wire loses.",
            found=f"{profile.path_drop_v:.2f} V",
            allowed=f"{limit_v:.2f} V",
            actions=releases(design)
            + _thicker(design, less_v, catalogue)
            + _own_return(design)
            + _own_feed(design, less_v),
        )
    minima = [a.min_v for a in end.outlet.accessories if a.min_v is not None]
    if minima and profile.load_v < max(minima):
        yield Finding(
            code="load_voltage",
            area=AREA,
            place=end.outlet.ref,
            severity="caution",
            text=f"The accessory gets less than its maker's minimum; {largest} loses most.",
            why="It may cut out or restart under load.",
            found=f"{profile.load_v:.2f} V",
            allowed=f"at least {max(minima):.1f} V",
            actions=releases(design)
            + _thicker(design, max(minima) - profile.load_v, catalogue)
            + _own_return(design)
            + _own_feed(design, 0.0),
        )


def _own_feed(design: CircuitDesign, less_v: float) -> tuple[Action, ...]:
    """The way ahead, with what others draw, is no loss on the battery's post; if it loses that."""
    ahead = design.sizing.request.upstream
    if ahead is None or ahead.path_drop_v < less_v:
        return ()
    start = next((p for p in design.job.points if p.id == design.circuit.start.point), None)
    if start is None or not start.is_one_stud:
        return ()
    if design.job.feeder_of(start.id) is None and not start.is_a.parts_battery:
        return ()
    return (at_battery(design, "Start it at the battery"),)


def _own_return(design: CircuitDesign) -> tuple[Action, ...]:
    """Body and joints lose more than a wire of its own would, where they are in the way."""
    if not design.circuit.back.on_body:
        return ()
    edit = SetReturn.turned(design.job, design.circuit.id, "wire")
    return (Action(label="Run a return wire", edit=edit),)


def _thicker(design: CircuitDesign, less_v: float, catalogue: Catalogue) -> tuple[Action, ...]:
    """The first size that loses so much less in the copper; two cables where no single one does."""
    sizing = design.sizing
    if sizing.chosen is None:
        return ()
    most_v = sizing.chosen.conductor_drop_v - less_v
    better = next(
        (r for r in chain(sizing.ladder, _doubled(sizing, catalogue)) if _loses(r, most_v)), None
    )
    if better is None:
        return ()
    edit = HoldChoice(circuit_id=design.circuit.id, what="size", value=better.conductor.size)
    return (Action(label=f"Take {better.conductor.label}", edit=edit),)


def _loses(rung: Rung, most_v: float) -> bool:
    return not rung.rejects and rung.conductor_drop_v <= most_v


def _doubled(sizing: Sizing, catalogue: Catalogue) -> Iterator[Rung]:
    """Return what pairs of cables would do, one after the other; a run with branches has none."""
    request = sizing.request
    if request.path.branches:
        return
    for cable in catalogue.cables(request.wire.system, request.wire.kind):
        if cable.count > 1:
            held = replace(request.held, size=cable.size)
            made = size(replace(request, held=held), catalogue)
            if made.ok and made.chosen is not None:
                yield made.chosen


def _too_hot(design: CircuitDesign, zone: str, label: str, ambient_c: float) -> Finding:
    """The air is as hot as the insulation may get. [°C]"""
    class_c = design.sizing.request.wire.insulation_c
    hold = HoldChoice(circuit_id=design.circuit.id, what="insulation_c", value="125")
    words = "Replace its wire by one of 125 °C" if design.circuit.kept else "Use 125 °C insulation"
    hotter = (Action(label=words, edit=hold),)
    return Finding(
        code="insulation",
        area=AREA,
        place=zone,
        severity="stop",
        text=f"{class_c} °C insulation may not be used in {label}.",
        why="The air alone is as hot as the insulation may get.",
        found=f"{ambient_c:.0f} °C",
        allowed=f"under {class_c} °C",
        actions=() if class_c >= 125 or ambient_c >= 125 else hotter,
    )


def _bare_in_heat(design: CircuitDesign, zone: str, label: str, ambient_c: float) -> Finding:
    """A hot zone is passed without a sleeve. [°C]"""
    sleeve = SleeveAgainstHeat(circuit_id=design.circuit.id, zone=zone)
    return Finding(
        code="hot_zone",
        area=AREA,
        place=zone,
        severity="caution",
        text=f"The run passes {label}.",
        why="Route it elsewhere if you can; else sleeve it against radiant heat.",
        found=f"{ambient_c:.0f} °C",
        allowed=f"under {_HOT_ZONE_C:.0f} °C bare",
        actions=(Action(label="Sleeve it there against heat", edit=sleeve),),
    )


def check_insulation(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Insulation class against the zones on the way."""
    class_c = design.sizing.request.wire.insulation_c
    catalogue = context.catalogue
    hottest: dict[str, float] = {}
    bare: set[str] = set()
    for segment in design.circuit.segments:
        ambient_c = zone_ambient_c(segment, catalogue)
        if not segment.heat_sleeve and ambient_c >= _HOT_ZONE_C:
            bare.add(segment.zone)
        hottest[segment.zone] = max(ambient_c, hottest.get(segment.zone, -273.0))
    for zone, ambient_c in hottest.items():
        label = lower_first(catalogue.zones[zone].label)
        if ambient_c >= class_c:
            yield _too_hot(design, zone, label, ambient_c)
        elif zone in bare:
            yield _bare_in_heat(design, zone, label, ambient_c)
    rules_c = design.job.rules.insulation_c
    if class_c > rules_c and design.circuit.held.insulation_c is None:
        yield Finding(
            code="hotter_class",
            area=AREA,
            place=main_wire(design),
            severity="note",
            text=f"{class_c} °C insulation is taken here instead of {rules_c} °C.",
            why=f"A zone on the way leaves {rules_c} °C insulation under 20 K.",
        )


def check_sturdy(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Mechanical minimum and what the fuse holder takes."""
    rung, fuse = design.sizing.chosen, design.sizing.fuse
    if rung is None or fuse is None:
        return
    release = Action(
        label="Choose the wire size automatically",
        alters=("fuse",),
        edit=ReleaseChoice(circuit_id=design.circuit.id, what="size"),
    )
    if "minimum" in rung.rejects:
        yield Finding(
            code="too_thin",
            area=AREA,
            place=main_wire(design),
            severity="caution",
            text=f"{rung.conductor.label} is thinner than wires should be there.",
            why="Thin strands break where it shakes and chafes.",
            found=f"{rung.conductor.area_mm2:.2f} mm²",
            allowed=f"at least {design.sizing.request.wire.minimum_mm2:g} mm²",
            actions=(release,),
        )
    if "fit" in rung.rejects:
        yield Finding(
            code="does_not_fit",
            area=AREA,
            place=f"F{design.circuit.number}",
            severity="stop",
            text=f"{rung.conductor.label} does not fit the holder, and no pigtail carries "
            "the fuse.",
            why="Trimmed strands in a terminal make heat.",
            found=f"{rung.conductor.area_mm2:.1f} mm²",
            allowed=f"{fuse.family.socket_max_mm2:g} mm²",
            actions=(release,),
        )
    if rung.pigtail is not None:
        yield Finding(
            code="pigtail",
            area=AREA,
            place=f"F{design.circuit.number}",
            severity="note",
            text=f"Fit a pigtail of {rung.pigtail.label}, at most 150 mm, at the holder.",
            why=f"{rung.conductor.label} is thicker than the holder takes; step down with a "
            "crimped splice.",
        )


def check_pair(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Two cables in parallel must be twins."""
    rung = design.sizing.chosen
    if rung is not None and rung.conductor.count > 1:
        yield Finding(
            code="pair",
            area=AREA,
            place=main_wire(design),
            severity="note",
            text=f"Run {rung.conductor.label} in parallel.",
            why="Same size, same length, same lugs, side by side: each must carry 60 %.",
        )


def check_wire_kind(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Copper-clad aluminium is selectable, never assumed, and discouraged."""
    rules = design.job.rules
    if rules.wire_kind == "cca":
        edit = SetHouseRules(rules=rules.model_copy(update={"wire_kind": "copper"}))
        yield Finding(
            code="clad_aluminium",
            area=AREA,
            place=main_wire(design),
            severity="caution",
            text="This wire is copper-clad aluminium.",
            why="It breaks and corrodes at crimps; sizes here allow for its resistance only.",
            actions=(Action(label="Take copper", edit=edit),),
        )


def check_return(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A composite body carries no current."""
    circuit = design.circuit
    if design.wire_on("return") is None and design.planned.parts is not None:
        return
    if design.job.vehicle.body == "composite" and circuit.back.on_body:
        by_bus = circuit.start.point != BATTERY and any(
            p.id == circuit.start.point and p.earth_bus for p in design.job.points
        )
        edit = SetReturn.turned(design.job, circuit.id, "bus" if by_bus else "wire")
        yield Finding(
            code="no_return",
            area=AREA,
            place=f"G{circuit.number}",
            severity="stop",
            text="A composite body is no way back for the current.",
            why="Without a return wire the accessory does not work, or finds another way.",
            actions=(Action(label="Run a return wire", edit=edit),),
        )


def check_holes(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A wire through sheet metal without a grommet."""
    runs = [("", design.circuit.run), *((b.id, b.run) for b in design.circuit.branches)]
    for branch_id, at, segment in ((i, n, s) for i, run in runs for n, s in enumerate(run)):
        if segment.passes is not None and not segment.passes.grommet:
            edit: Edit = FitGrommet(circuit_id=design.circuit.id, segment=at, branch_id=branch_id)
            if segment.passes.leg is not None:
                edit = ProtectHole(leg_id=segment.passes.leg)
            yield Finding(
                code="bare_hole",
                area=AREA,
                place=segment.passes.name,
                severity="stop",
                text=f"The wire passes {segment.passes.name} without a grommet.",
                why="The edge cuts through the insulation.",
                actions=(Action(label="Fit a grommet", edit=edit),),
            )


def check_estimates(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Lengths that nobody has taped yet."""
    segments = design.circuit.segments
    guessed_m = sum(s.length_m for s in segments if not s.taped)
    if guessed_m > 0:
        yield Finding(
            code="estimate",
            area=AREA,
            place=main_wire(design),
            severity="note",
            text="Part of the run is still an estimate.",
            why="Tape it before you cut.",
            found=f"{guessed_m:.2f} m of {sum(s.length_m for s in segments):.2f} m",
        )


CHECKS: tuple[Check, ...] = (
    check_conductor_drop,
    check_path_drop,
    check_insulation,
    check_sturdy,
    check_pair,
    check_wire_kind,
    check_return,
    check_holes,
    check_estimates,
)
