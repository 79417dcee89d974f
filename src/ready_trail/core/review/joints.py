"""Review of the joints: a wire that its pin does not take, and that nothing may step down to.

This area looks at the whole job, after every circuit has its wires.
"""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.ends import ends_of, thickest_into
from ready_trail.core.build.terminals import terminal_kinds
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import HoldChoice
from ready_trail.core.installation import Device, Wire
from ready_trail.core.job import BATTERY
from ready_trail.core.kinds.relay import relay_seat
from ready_trail.core.outcome import Action, CircuitDesign, Design, Finding
from ready_trail.core.review.base import WholeCheck, at_battery, releases
from ready_trail.core.wording import lower_first

AREA = "protection"


def whole_joints(made: Design, catalogue: Catalogue) -> Iterator[tuple[str, Finding]]:
    """Pins that take neither their wire nor a shorter, thinner one that would bear its fuse."""
    takes_mm2 = [kind.mm2_max for kind in terminal_kinds().values()]
    takes_mm2 += [p.takes_mm2 for p in made.job.points if p.takes_mm2 is not None]
    takes_mm2 += [a.takes_mm2 for a in made.job.accessories if a.takes_mm2 is not None]
    least_mm2 = min(takes_mm2)
    told: set[tuple[str, str]] = set()
    for wire in made.installation.wires.values():
        planned = made.plan.circuits.get(wire.owner)
        if planned is None or wire.conductor.area_mm2 <= least_mm2:
            continue
        for terminal, end in zip((wire.start, wire.end), ends_of(wire, made), strict=True):
            device = made.installation.devices.get(terminal.device)
            if device is None or not end.step_down or (wire.owner, device.ref) in told:
                continue
            if thickest_into(end, wire, terminal, made, catalogue) is not None:
                continue
            told.add((wire.owner, device.ref))
            fuse = planned.sizing.fuse
            yield (
                wire.owner,
                Finding(
                    code="no_fit",
                    area=AREA,
                    place=device.ref,
                    severity="stop",
                    text=f"Pin {terminal.terminal} of {device.ref} does not take this wire.",
                    why="A piece that fits is too thin for the fuse, and would burn before it.",
                    found=f"{wire.conductor.label} on {fuse.rating_a:g} A" if fuse else "",
                    allowed=f"{end.most_mm2:g} mm²",
                    actions=tuple(_ways_out(made.circuit(wire.owner), device, wire, catalogue)),
                ),
            )


def _ways_out(
    design: CircuitDesign, device: Device, wire: Wire, catalogue: Catalogue
) -> Iterator[Action]:
    circuit, scheme, fuse = design.circuit, design.scheme, design.sizing.fuse
    switching = design.sizing.request.switching if device.spec.is_relay else None
    for key in switching.relays if switching is not None and fuse is not None else ():
        relay = catalogue.relays[key]
        seat = relay_seat(relay, "30")
        fits = wire.conductor.area_mm2 <= terminal_kinds()[seat.kind].mm2_max
        if fits and fuse is not None and relay.contact_a_23c >= fuse.rating_a:
            yield Action(
                label=f"Take the {lower_first(relay.label)}",
                edit=HoldChoice(circuit_id=circuit.id, what="relay", value=key),
            )
            break
    yield from releases(design)
    if circuit.start.point != BATTERY:
        yield at_battery(design, "Start it at the battery, with a holder of its own")
    if scheme.switch_role == "path" and device.spec.is_switch:
        yield Action(
            label="Let a relay carry it",
            edit=HoldChoice(circuit_id=circuit.id, what="scheme", value="relay_positive"),
        )


WHOLE: tuple[WholeCheck, ...] = (whole_joints,)
