"""Review of heat: in joints, earths and the body at the design current; holders in hot air."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import (
    ChangeAccessory,
    ChangeBranch,
    CoolStart,
    Edit,
    MoveFuse,
    SetReturn,
)
from ready_trail.core.job import BATTERY, Circuit
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.netlist import Resistor
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, fuse_place
from ready_trail.core.review.relay import cooler_place

AREA = "wire"
SMALL_W, BOLTED_W, STOP_W = 2.0, 4.0, 10.0
"""What a small joint and a bolted one may lose for good, and what chars it (house)."""
HOLDER_C, HOLDER_STOP_C = 85.0, 105.0
"""Air that holders and relays are made for, and that softens them (typical)."""
_PLAIN_MM2 = 6.0
"""Up to this copper the house's figure for a crimp or lug holds; larger ones are better."""


def check_joints(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """What each joint, earth and body path turns into heat. A contact is judged by its rating."""
    point, parts = design.operating, design.planned.parts
    if point is None or parts is None or design.sizing.request.rule.duty == "momentary":
        return
    if design.scheme.for_winch:
        return
    for device in parts.devices:
        for element in device.elements():
            if isinstance(element, Resistor) and element.is_body:
                amps = point.branch_a.get(element.name, 0.0)
                if _too_hot(amps**2 * element.ohm, BOLTED_W):
                    actions = _other_way_back(design, device.ref)
                    yield _heat(device.ref, amps, element.ohm, BOLTED_W, actions)
    for wire in parts.wires:
        scale = min(1.0, _PLAIN_MM2 / wire.conductor.area_mm2)
        ends = (wire.start_joint, wire.end_joint)
        joints = [r for r in wire.resistors() if r.is_joint]
        for joint, element in zip([e for e in ends if e], joints, strict=True):
            amps = point.branch_a.get(element.name, 0.0)
            ohm = element.ohm if joint == "sealed" else element.ohm * scale
            limit_w = BOLTED_W if joint == "lug" else SMALL_W
            if _too_hot(amps**2 * ohm, limit_w):
                actions = _without_plug(design) if joint == "sealed" else ()
                yield _heat(wire.label, amps, ohm, limit_w, actions)


def _too_hot(watts: float, limit_w: float) -> bool:
    return watts > limit_w + 1e-9


def _heat(
    place: str, amps: float, ohm: float, limit_w: float, actions: tuple[Action, ...]
) -> Finding:
    watts = amps**2 * ohm
    return Finding(
        code="joint_heat",
        area=AREA,
        place=place,
        severity="stop" if watts > STOP_W else "caution",
        text=f"{abs(amps):.0f} A through {ohm * 1000:.1f} mΩ make {watts:.0f} W of heat at "
        f"{place}.",
        why="A joint that gets warm corrodes, gets warmer, and burns what is around it.",
        found=f"{watts:.1f} W",
        allowed=f"{limit_w:g} W",
        actions=actions,
    )


def _other_way_back(design: CircuitDesign, earth: str) -> tuple[Action, ...]:
    """A wire instead of the body: for the circuit, or for the branch whose earth it is."""
    circuit = design.circuit
    branch_id = next((w.branch for w in design.wires if w.end.device == earth), "")
    branch = next((b for b in circuit.branches if branch_id and b.id == branch_id), None)
    if branch is None:
        edit: Edit = SetReturn.turned(design.job, circuit.id, "wire")
        return (Action(label="Run a return wire", edit=edit),)
    back = branch.back.model_copy(update={"kind": "shared"})
    edit = ChangeBranch(
        circuit_id=circuit.id,
        branch_id=branch.id,
        name=branch.name,
        run=branch.run,
        back=back,
        size=branch.size,
    )
    return (Action(label="Bring its return to the joint", edit=edit),)


def _without_plug(design: CircuitDesign) -> tuple[Action, ...]:
    plugged = [a for a in design.accessories if a.tail_end == "sealed"]
    if not plugged:
        return ()
    whole = design.job.accessory(plugged[0].id)
    edit = ChangeAccessory(accessory=whole.model_copy(update={"tail_end": "bare"}))
    return (Action(label=f"Join {whole.name} without its plug", edit=edit),)


def check_holders(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A holder or relay in air hotter than it bears; a sleeve on the wire does not mend it."""
    request, circuit = design.sizing.request, design.circuit
    own_fuse = design.fuse_device is not None and request.fusing.own_holder
    relay_c = request.relay_c
    parts = (
        (own_fuse, fuse_place(design), "holder of the fuse", request.fusing.holder_c),
        (design.sizing.relay is not None, f"K{circuit.number}", "relay", relay_c),
    )
    for is_there, place, what, air_c in parts:
        if not is_there or air_c <= HOLDER_C:
            continue
        actions = (
            cooler_place(design, context) if what == "relay" else _cooler_fuse(circuit, context)
        )
        yield Finding(
            code="holder_heat",
            area="protection",
            place=place,
            severity="stop" if air_c > HOLDER_STOP_C else "caution",
            text=f"The {what} sits in air of {air_c:.0f} °C.",
            why="Its plastic softens, its springs give, and the fuse opens early. Put it where "
            "it is cooler; a sleeve on the wire does not help it.",
            found=f"{air_c:.0f} °C",
            allowed=f"{HOLDER_C:.0f} °C",
            actions=(*actions, *_cool_start(circuit)),
        )


def _cooler_fuse(circuit: Circuit, context: Context) -> tuple[Action, ...]:
    """The fuse nearer to the source, where the air is cooler and the house's limit is kept."""
    if circuit.start.point != BATTERY:
        return ()
    near_m = min(circuit.fuse_at_m, context.plan.job.rules.unprotected_m) / 2
    here = segment_at(circuit.run, circuit.fuse_at_m)
    there = segment_at(circuit.run, near_m)
    if zone_ambient_c(there, context.catalogue) >= zone_ambient_c(here, context.catalogue):
        return ()
    edit = MoveFuse(circuit_id=circuit.id, fuse_at_m=round(near_m, 3))
    return (Action(label=f"Move the fuse to {near_m * 1000:.0f} mm", edit=edit),)


def _cool_start(circuit: Circuit) -> tuple[Action, ...]:
    if circuit.place is not None:
        return ()
    edit = CoolStart(circuit_id=circuit.id)
    return (Action(label="Mount fuse and relay in the engine bay, off the hot part", edit=edit),)


CHECKS: tuple[Check, ...] = (check_joints, check_holders)
