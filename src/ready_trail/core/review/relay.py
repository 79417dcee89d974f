"""Review of relays: contact, coil, suppression, and when it pulls in, by the solver."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import FeedCoilFromCommon, HoldChoice, ReleaseChoice
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.network import Coil
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.relays import AUTO_RELAYS
from ready_trail.core.review.base import Check, Context, fuse_place
from ready_trail.core.solver import solve
from ready_trail.core.states import LightState, VehicleState
from ready_trail.core.working import contacts_of, working_state

AREA = "relay"
SAGGING_V = 11.0
"""A tired battery under load, at which a relay should still pull in (house, 12 V)."""

_CONTACT_INRUSH_X = 3.0


def check_contact(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Lamp and motor starts wear a plain contact; a held relay must suit the supply."""
    relay, request = design.sizing.relay, design.sizing.request
    if relay is None:
        return
    place = f"K{design.circuit.number}"
    peak_a = request.inrush_x * request.current_a
    hard = any(a.model in ("filament", "motor") for a in design.accessories)
    if hard and peak_a > _CONTACT_INRUSH_X * relay.contact_a_23c:
        yield Finding(
            code="contact_inrush", area=AREA, place=place, severity="caution",
            text="The start of this load is hard on the relay contact.",
            why="Contacts weld when a lamp or motor starts; take the next larger relay.",
            found=f"{peak_a:.0f} A", allowed=f"{_CONTACT_INRUSH_X * relay.contact_a_23c:.0f} A",
            actions=_larger(peak_a, design, context),
        )  # fmt: skip
    if relay.max_v < request.charging_v:
        yield Finding(
            code="relay_voltage", area=AREA, place=place, severity="stop",
            text=f"The {relay.label.lower()} is not rated for this supply.",
            why="A contact that breaks above its voltage goes on arcing.",
            found=f"{request.charging_v:.1f} V", allowed=f"{relay.max_v:g} V",
            actions=_release(design),
        )  # fmt: skip
    if relay.has_rest_contact:
        yield Finding(
            code="rest_contact_live", area=AREA, place=place, severity="note",
            text="87a is live at rest.",
            why="Leave it empty and insulate it.",
        )  # fmt: skip


def check_pull_in(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Coil voltage with the real drops on a sagging battery, and whether the relay chatters."""
    coil = _coil(design)
    if coil is None or design.network is None:
        return
    place = f"K{design.circuit.number}"
    if design.operating is not None and coil.name in design.operating.chatter:
        yield Finding(
            code="chatter", area=AREA, place=place, severity="stop",
            text="The relay switches itself off again and again.",
            why="Its own load takes away the coil's voltage; contacts burn within minutes.",
            actions=_release(design),
        )  # fmt: skip
        return
    sagging_v = SAGGING_V * design.job.vehicle.nominal_v / 12
    state = working_state(context.plan, design.circuit, sagging_v=sagging_v)
    try:
        point = solve(design.network, state)
    except NotConvergedError:
        return
    if not point.energised[coil.name]:
        across_v = abs(point.between_v(coil.a, coil.b))
        yield Finding(
            code="pull_in", area=AREA, place=place, severity="caution",
            text=f"On a battery at {sagging_v:.0f} V the relay may not pull in.",
            why="A warm coil needs more voltage; shorten the control path or cool the relay.",
            found=f"{across_v:.1f} V", allowed=f"at least {coil.pull_in_v:.1f} V",
            actions=_release(design),
        )  # fmt: skip


def check_off_when_off(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """With the trigger off, the relay must be off, even through lamps and other loads."""
    coil = _coil(design)
    use = design.use
    if coil is None or design.network is None or use.lights == "any":
        return
    unlit: tuple[LightState, ...] = ("off", "side", "low")
    for lights in unlit:
        if lights == use.lights or (use.lights == "side" and lights == "low"):
            continue
        on = frozenset({use.contact} if use.contact else set())
        on |= contacts_of(context.plan, design.circuit)
        state = VehicleState(key="run", lights=lights, on=on)
        try:
            point = solve(design.network, state)
        except NotConvergedError:
            continue
        if not point.energised[coil.name]:
            continue
        actions: tuple[Action, ...] = ()
        if design.circuit.coil_fed_from_30:
            edit = FeedCoilFromCommon(circuit_id=design.circuit.id)
            actions = (Action(label="Feed 86 from the headlamp common", edit=edit),)
        yield Finding(
            code="pulls_in_off", area=AREA, place=f"K{design.circuit.number}", severity="stop",
            text=f"The relay pulls in with the lights at {lights}.",
            why="Current finds a way through the headlamp filaments to the coil.",
            found=f"{abs(point.between_v(coil.a, coil.b)):.1f} V",
            allowed=f"under {coil.release_v:.1f} V", actions=actions,
        )  # fmt: skip
        return


def check_coil_from_30(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """Feeding 86 from 30 on an earth-switched vehicle is common, and a trap.

    Where the coil already pulls in with the lights off, that stop tells of the same cause.
    """
    if any(check_off_when_off(design, context)):
        return
    if design.circuit.coil_fed_from_30 and design.scheme.coil_may_bridge_30:
        edit = FeedCoilFromCommon(circuit_id=design.circuit.id)
        yield Finding(
            code="coil_from_30", area=AREA, place=f"K{design.circuit.number}", severity="caution",
            text="86 is fed from 30 instead of the headlamp common.",
            why="The coil stays live with everything off, and leaks through the filaments.",
            actions=(Action(label="Feed 86 from the headlamp common", edit=edit),),
        )  # fmt: skip


def check_suppression(design: CircuitDesign, context: Context) -> Iterator[Finding]:
    """A coil on a supervised output needs suppression."""
    relay = design.sizing.relay
    if relay is None or design.job.vehicle.data_bus != "supervised":
        return
    if relay.suppression == "none":
        actions: tuple[Action, ...] = ()
        if relay.key == "mini_no":
            edit = HoldChoice(circuit_id=design.circuit.id, what="relay", value="mini_no_r")
            actions = (Action(label="Use a relay with a coil resistor", edit=edit),)
        yield Finding(
            code="unsuppressed", area=AREA, place=f"K{design.circuit.number}",
            severity="caution",
            text="This coil has no suppression, on a supervised vehicle.",
            why="The spike when it switches off can upset or damage a control unit.",
            actions=actions,
        )  # fmt: skip


def check_operating_point(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A circuit without an operating point: no voltage can be told."""
    if design.unsolved:
        yield Finding(
            code="no_operating_point", area=AREA, place=fuse_place(design), severity="stop",
            text="This circuit finds no steady state.",
            why=f"The load asks for more than its source and wires can give ({design.unsolved}).",
            found=f"{design.current_a:.0f} A",
        )  # fmt: skip


def _coil(design: CircuitDesign) -> Coil | None:
    device = design.device("relay")
    if device is None:
        return None
    return next(e for e in device.elements() if isinstance(e, Coil))


def _larger(peak_a: float, design: CircuitDesign, context: Context) -> tuple[Action, ...]:
    """The smallest relay that takes this start, held."""
    for key in AUTO_RELAYS:
        relay = context.catalogue.relays[key]
        if peak_a <= _CONTACT_INRUSH_X * relay.contact_a_23c:
            edit = HoldChoice(circuit_id=design.circuit.id, what="relay", value=key)
            return (Action(label=f"Take the {relay.label.lower()}", edit=edit),)
    return _release(design)


def _release(design: CircuitDesign) -> tuple[Action, ...]:
    if design.circuit.held.relay is None:
        return ()
    edit = ReleaseChoice(circuit_id=design.circuit.id, what="relay")
    return (Action(label="Let the relay follow", edit=edit),)


CHECKS: tuple[Check, ...] = (
    check_operating_point,
    check_contact,
    check_pull_in,
    check_off_when_off,
    check_coil_from_30,
    check_suppression,
)
