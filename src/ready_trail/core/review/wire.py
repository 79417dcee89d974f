"""Review of wires: drop, heat, sturdiness, return, holes."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    Edit,
    FitGrommet,
    ProtectHole,
    ReleaseChoice,
    SetHouseRules,
    SetReturn,
)
from ready_trail.core.job import Return
from ready_trail.core.job.zones import zone_ambient_c
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.profile import by_place
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO

AREA = "wire"
_HOT_ZONE_C = 100.0


def check_conductor_drop(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Drop in copper against the limit of the drop class."""
    rung, request = design.sizing.chosen, design.sizing.request
    if rung is None or "drop" not in rung.rejects:
        return
    release = ReleaseChoice(circuit_id=design.circuit.id, what="size")
    yield Finding(
        code="conductor_drop", area=AREA, place=_main_wire(design), severity="caution",
        text=f"{rung.conductor.label} loses too much voltage over this length.",
        why="The accessory works below what its maker expects.",
        found=f"{rung.conductor_drop_v:.2f} V", allowed=f"{request.drop_limit_v:.2f} V",
        actions=(Action(label="Let the wire size follow", edit=release),)
        if design.circuit.held.size else (),
    )  # fmt: skip


def check_path_drop(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Drop of the whole path, and the accessory's own minimum voltage."""
    profile, request = design.profile, design.sizing.request
    if profile is None:
        return
    limit_v = request.drop_limit_v + PATH_EXTRA_RATIO * request.nominal_v
    sums = by_place(profile)
    largest = max(sums, key=lambda place: sums[place])
    if profile.path_drop_v > limit_v:
        yield Finding(
            code="path_drop", area=AREA, place=largest, severity="caution",
            text=f"The path loses too much between battery and accessory; most of it in "
                 f"{largest} ({sums[largest]:.2f} V).",
            why="Fuses, contacts and joints add to what the wire loses.",
            found=f"{profile.path_drop_v:.2f} V", allowed=f"{limit_v:.2f} V",
        )  # fmt: skip
    minima = [a.min_v for a in design.accessories if a.min_v is not None]
    if minima and profile.load_v < max(minima):
        yield Finding(
            code="load_voltage", area=AREA, place=f"L{design.circuit.number}", severity="caution",
            text=f"The accessory gets less than its maker's minimum; {largest} loses most.",
            why="It may cut out or restart under load.",
            found=f"{profile.load_v:.2f} V", allowed=f"at least {max(minima):.1f} V",
        )  # fmt: skip


def check_insulation(design: CircuitDesign, catalogue: Catalogue) -> Iterator[Finding]:
    """Insulation class against the zones on the way."""
    class_c = design.job.rules.insulation_c
    for segment in design.circuit.run:
        ambient_c = zone_ambient_c(segment, catalogue)
        label = catalogue.zones[segment.zone].label.lower()
        if ambient_c >= class_c:
            yield Finding(
                code="insulation", area=AREA, place=segment.zone, severity="stop",
                text=f"{class_c} °C insulation may not be used in {label}.",
                why="The air alone is as hot as the insulation may get.",
                found=f"{ambient_c:.0f} °C", allowed=f"under {class_c} °C",
            )  # fmt: skip
        elif ambient_c >= _HOT_ZONE_C:
            yield Finding(
                code="hot_zone", area=AREA, place=segment.zone, severity="caution",
                text=f"The run passes {label}.",
                why="Route it elsewhere if you can; else sleeve it against radiant heat.",
                found=f"{ambient_c:.0f} °C", allowed=f"under {_HOT_ZONE_C:.0f} °C",
            )  # fmt: skip


def check_sturdy(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Mechanical minimum and what the fuse holder takes."""
    rung, fuse = design.sizing.chosen, design.sizing.fuse
    if rung is None or fuse is None:
        return
    release = Action(
        label="Let the wire size follow",
        edit=ReleaseChoice(circuit_id=design.circuit.id, what="size"),
    )
    if "minimum" in rung.rejects:
        yield Finding(
            code="too_thin", area=AREA, place=_main_wire(design), severity="caution",
            text=f"{rung.conductor.label} is thinner than wires should be there.",
            why="Thin strands break where it shakes and chafes.",
            found=f"{rung.conductor.area_mm2:.2f} mm²",
            allowed=f"at least {design.sizing.request.minimum_mm2:g} mm²",
            actions=(release,),
        )  # fmt: skip
    if "fit" in rung.rejects:
        yield Finding(
            code="does_not_fit", area=AREA, place=f"F{design.circuit.number}", severity="stop",
            text=f"{rung.conductor.label} does not fit the holder, and no pigtail carries "
                 "the fuse.",
            why="Trimmed strands in a terminal make heat.",
            found=f"{rung.conductor.area_mm2:.1f} mm²",
            allowed=f"{fuse.family.socket_max_mm2:g} mm²", actions=(release,),
        )  # fmt: skip
    if rung.pigtail is not None:
        yield Finding(
            code="pigtail", area=AREA, place=f"F{design.circuit.number}", severity="note",
            text=f"Fit a pigtail of {rung.pigtail.label}, at most 150 mm, at the holder.",
            why=f"{rung.conductor.label} is thicker than the holder takes; step down with a "
                "crimped splice.",
        )  # fmt: skip


def check_wire_kind(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Copper-clad aluminium is selectable, never assumed, and discouraged."""
    rules = design.job.rules
    if rules.wire_kind == "cca":
        edit = SetHouseRules(rules=rules.model_copy(update={"wire_kind": "copper"}))
        yield Finding(
            code="clad_aluminium", area=AREA, place=_main_wire(design), severity="caution",
            text="This wire is copper-clad aluminium.",
            why="It breaks and corrodes at crimps; sizes here allow for its resistance only.",
            actions=(Action(label="Take copper", edit=edit),),
        )  # fmt: skip


def check_return(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A composite body carries no current."""
    circuit = design.circuit
    if design.job.vehicle.body == "composite" and circuit.back.kind == "chassis":
        edit = SetReturn(circuit_id=circuit.id, back=Return(kind="wire"))
        yield Finding(
            code="no_return", area=AREA, place=f"G{circuit.number}", severity="stop",
            text="A composite body is no way back for the current.",
            why="Without a return wire the accessory does not work, or finds another way.",
            actions=(Action(label="Run a return wire", edit=edit),),
        )  # fmt: skip


def check_holes(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A wire through sheet metal without a grommet."""
    for at, segment in enumerate(design.circuit.run):
        if segment.passes is not None and not segment.passes.grommet:
            edit: Edit = FitGrommet(circuit_id=design.circuit.id, segment=at)
            if segment.passes.leg is not None:
                edit = ProtectHole(leg_id=segment.passes.leg)
            yield Finding(
                code="bare_hole", area=AREA, place=segment.passes.name, severity="stop",
                text=f"The wire passes {segment.passes.name} without a grommet.",
                why="The edge cuts through the insulation.",
                actions=(Action(label="Fit a grommet", edit=edit),),
            )  # fmt: skip


def check_estimates(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Lengths that nobody has taped yet."""
    guessed_m = sum(s.length_m for s in design.circuit.run if not s.taped)
    if guessed_m > 0:
        yield Finding(
            code="estimate", area=AREA, place=_main_wire(design), severity="note",
            text="Part of the run is still an estimate.",
            why="Tape it before you cut.",
            found=f"{guessed_m:.2f} m of {design.circuit.run_m:.2f} m",
        )  # fmt: skip


def _main_wire(design: CircuitDesign) -> str:
    """Label of the wire to the accessory."""
    if design.wiring is None:
        return f"C{design.circuit.number}"
    power = [w for w in design.wiring.wires if w.role == "power" and w.label.startswith("C")]
    return power[-1].label if power else f"C{design.circuit.number}"


CHECKS: tuple[Callable[[CircuitDesign, Catalogue], Iterator[Finding]], ...] = (
    check_conductor_drop,
    check_path_drop,
    check_insulation,
    check_sturdy,
    check_wire_kind,
    check_return,
    check_holes,
    check_estimates,
)
