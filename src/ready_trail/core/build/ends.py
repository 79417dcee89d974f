"""What each wire ends in, by the device and the terminal that it goes to."""

from __future__ import annotations

from ready_trail.core.build.terminals import End, end_without, terminal_end
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor, ambient_ratio
from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.kinds.base import BATTERY_DEVICE
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.leads import post_of
from ready_trail.core.outcome import Design

DRY_ZONES = frozenset({"cabin"})


def ends_of(wire: Wire, made: Design) -> tuple[End, End]:
    """Return the terminals of a wire's start and end."""
    first = wire.pieces[0].zone if wire.pieces else ""
    last = wire.pieces[-1].zone if wire.pieces else ""
    return (
        _end(wire, wire.start, made, wet=first not in DRY_ZONES),
        _end(wire, wire.end, made, wet=last not in DRY_ZONES),
    )


def pigtail_of(wire: Wire, terminal: Terminal, made: Design) -> Conductor | None:
    """Return the thinner wire by which this one is stepped down at a fuse holder, or None."""
    device = made.installation.devices.get(terminal.device)
    planned = made.plan.circuits.get(device.owner) if device is not None else None
    chosen = planned.sizing.chosen if planned is not None else None
    if device is None or chosen is None or chosen.pigtail is None:
        return None
    is_main = isinstance(device.spec, FuseSpec) and not device.spec.is_control
    return chosen.pigtail if is_main and device.owner == wire.owner else None


def _end(wire: Wire, terminal: Terminal, made: Design, *, wet: bool) -> End:
    device = made.installation.devices.get(terminal.device)
    conductor = wire.conductor
    if device is None:
        return terminal_end(conductor, "butt", wet=wet)
    if pigtail_of(wire, terminal, made) is not None:
        return terminal_end(conductor, "butt", wet=True)
    if device.spec.spliced(terminal.terminal):
        return end_without(conductor, f"bare, into the splice {device.ref}")
    seat = device.spec.seat(terminal.terminal, conductor)
    return terminal_end(
        conductor,
        seat.kind,
        stud=seat.stud,
        wet=wet,
        torque_nm=_stated_nm(device, terminal.terminal, made),
        usual_torque=seat.usual_torque,
        most_mm2=seat.most_mm2,
    )


def _stated_nm(device: Device, terminal: str, made: Design) -> float | None:
    """The torque that the maker of a battery, a point or an accessory states for its studs."""
    job = made.job
    if device.ref == BATTERY_DEVICE:
        return job.vehicle.battery.torque_nm
    point = next((p for p in job.points if made.plan.refs[p.id] == device.ref), None)
    if point is not None:
        return point.torque_nm
    planned = made.plan.circuits.get(device.owner)
    if isinstance(device.spec, FuseSpec) and device.spec.on_bus and planned is not None:
        starts = {p.id: p.torque_nm for p in job.points}  # the block's own bolts
        return starts.get(planned.circuit.start.point)
    units = (
        [a for o in planned.outlets if o.ref == device.ref for a in o.accessories]
        if (planned is not None)
        else []
    )
    post = post_of(device, terminal, made)
    if post is not None and post.torque_nm is not None:
        return post.torque_nm
    return next((a.torque_nm for a in units if a.torque_nm is not None), None)


def thickest_into(
    end: End, wire: Wire, terminal: Terminal, made: Design, catalogue: Catalogue
) -> Conductor | None:
    """Return the thickest wire that an end takes, for the last hand's breadth.

    None where that would not carry what the circuit's fuse lets through, in the air at that end
    of the wire: such a step down would be the part that burns.
    """
    planned = made.plan.circuits.get(wire.owner)
    fuse = planned.sizing.fuse if planned is not None else None
    most_mm2 = end.most_mm2
    sizes = catalogue.wires(wire.conductor.system, wire.conductor.kind)
    thickest = next((c for c in reversed(sizes) if c.area_mm2 <= most_mm2), None)
    if thickest is None or fuse is None:
        return None
    ambient_c = 0.0
    if wire.pieces:
        ambient_c = wire.pieces[0 if terminal == wire.start else -1].ambient_c
    alone_a = thickest.ampacity_by_class_a[wire.insulation_c] * ambient_ratio(
        insulation_c=wire.insulation_c, ambient_c=ambient_c
    )
    return thickest if alone_a >= fuse.rating_a else None
