"""Review of second batteries: what joins them, their voltage, their kind, and their gas."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import ChangePoint, ChargeByCharger, HoldChoice, ReleaseChoice
from ready_trail.core.job import Point
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, main_wire

AREA = "protection"
_CLOSED_ZONES = ("cabin",)
"""Zones in which people sit with what a flooded battery gives off."""


def check_joined(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Two batteries are joined through something that can part them, and are of one voltage."""
    point = design.feeds
    if point is None or point.battery is None or not _from_battery(design, context):
        return
    volts = float(point.output_v or design.job.vehicle.nominal_v)
    there_v = context.plan.tree.nominal_v(design.circuit.start.point)
    charger = Action(
        label="Charge it by a charger of its voltage",
        edit=ChargeByCharger(circuit_id=design.circuit.id),
    )
    if volts != there_v:
        yield Finding(
            code="battery_volts",
            area=AREA,
            place=main_wire(design),
            severity="stop",
            text=f"{point.name} of {volts:g} V is joined to {there_v:g} V.",
            why="The difference drives hundreds of amperes from one into the other, for as long "
            "as they are joined.",
            found=f"{there_v:g} V",
            allowed=f"{volts:g} V",
            actions=(charger,),
        )
        return
    if not _can_part(design):
        yield Finding(
            code="batteries_joined",
            area=AREA,
            place=main_wire(design),
            severity="stop",
            text=f"Nothing can part {point.name} from the other battery.",
            why="One drains the other while the vehicle stands, and a dead cell boils its twin.",
            actions=(*_parted(design), charger),
        )
    other = _other_chemistry(design, context)
    if (point.battery.chemistry == "lithium") != (other == "lithium"):
        yield Finding(
            code="chemistries",
            area=AREA,
            place=main_wire(design),
            severity="caution",
            text=f"{point.name} is {point.battery.chemistry}, and what it is joined to is {other}.",
            why="They charge and rest at different voltages: one is never full, or the other is "
            "overcharged. A charger between them keeps each right.",
            actions=(charger,),
        )


def _from_battery(design: CircuitDesign, context: Context) -> bool:
    """Whether the link begins at a battery, without charger or converter between."""
    root = context.plan.tree.root(design.circuit)
    return root is None or root.battery is not None


def _can_part(design: CircuitDesign) -> bool:
    by_hand = design.scheme.switch_role == "path" and bool(design.use.switch)
    return design.scheme.has_relay or by_hand or design.planned.parts is None


def _parted(design: CircuitDesign) -> tuple[Action, ...]:
    """The link that the program would take, or one that senses the charging voltage."""
    if design.circuit.held.scheme is not None:
        edit = ReleaseChoice(circuit_id=design.circuit.id, what="scheme")
        return (Action(label="Take a link that parts by itself", edit=edit, alters=("when",)),)
    hold = HoldChoice(circuit_id=design.circuit.id, what="scheme", value="link_sensing")
    return (Action(label="Join them while charging only", edit=hold, alters=("when",)),)


def _other_chemistry(design: CircuitDesign, context: Context) -> str:
    root = context.plan.tree.root(design.circuit)
    if root is not None and root.battery is not None:
        return root.battery.chemistry
    return design.job.vehicle.battery.chemistry


def check_vent(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A flooded battery among people wants a vent to the outside."""
    point = design.feeds
    if point is None or point.battery is None or point.battery.chemistry != "flooded":
        return
    if point.zone not in _CLOSED_ZONES:
        return
    sealed: Point = point.model_copy(
        update={"battery": point.battery.model_copy(update={"chemistry": "agm"})}
    )
    yield Finding(
        code="battery_vent",
        area=AREA,
        place=design.load_ref,
        severity="caution",
        text=f"{point.name} is flooded, and stands in the {point.zone.replace('_', ' ')}.",
        why="It gives off explosive gas and acid: take a sealed one, or box it with a vent to the "
        "outside and accept this with that in writing.",
        actions=(Action(label="Take a sealed one (AGM)", edit=ChangePoint(point=sealed)),),
    )


CHECKS: tuple[Check, ...] = (check_joined, check_vent)
