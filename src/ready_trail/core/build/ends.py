"""What each wire ends in, by the device and the terminal that it goes to."""

from __future__ import annotations

from ready_trail.core.build.terminals import End, end_without, terminal_end, terminal_kinds
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor, ambient_ratio
from ready_trail.core.devices.base import BATTERY_DEVICE
from ready_trail.core.devices.fuse import FuseSpec
from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.outcome import Design
from ready_trail.core.relays import Relay

DRY_ZONES = frozenset({"cabin"})
_HEAVY_POSTS = frozenset({"30", "87", "87a"})


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
    is_main = isinstance(device.spec, FuseSpec) and device.spec.family is not None
    return chosen.pigtail if is_main and device.owner == wire.owner else None


def _end(wire: Wire, terminal: Terminal, made: Design, *, wet: bool) -> End:
    device = made.installation.devices.get(terminal.device)
    conductor = wire.conductor
    if device is None:
        return terminal_end(conductor, "butt", wet=wet)
    if pigtail_of(wire, terminal, made) is not None:
        return terminal_end(conductor, "butt", wet=True)
    if device.kind == "joint" and is_splice(device, terminal.terminal):
        return end_without(conductor, f"bare, into the splice {device.ref}")
    kind, stud = joint_of(device, terminal.terminal, conductor)
    return terminal_end(conductor, kind, stud=stud, wet=wet, torque_nm=_stated_nm(device, made),
                        usual_torque=device.kind in _USUAL_TORQUE)  # fmt: skip


_USUAL_TORQUE = frozenset({"fuse", "breaker", "earth", "joint", "fuse_block", "relay_block",
                           "stud"})  # fmt: skip
"""Studs of steel in bolt-down holders, bars and the body; a battery's soft post, a motor's or a
contactor's stud want what their maker says."""


def _stated_nm(device: Device, made: Design) -> float | None:
    """The torque that the maker of a battery, a point or an accessory states for its studs."""
    job = made.job
    if device.ref == BATTERY_DEVICE:
        return job.vehicle.battery.torque_nm
    point = next((p for p in job.points if made.plan.refs[p.id] == device.ref), None)
    if point is not None:
        return point.torque_nm
    planned = made.plan.circuits.get(device.owner)
    units = [a for o in planned.outlets if o.ref == device.ref for a in o.accessories] if (
        planned is not None) else []  # fmt: skip
    return next((a.torque_nm for a in units if a.torque_nm is not None), None)


def is_splice(joint: Device, side: str) -> bool:
    """Whether a side of a joint is a splice: returns beside a double 87 are spliced too."""
    label = joint.label.lower()
    return label == "splice" or (label == "double 87" and side == "-")


def thickest_into(
    kind: str, wire: Wire, terminal: Terminal, made: Design, catalogue: Catalogue
) -> Conductor | None:
    """Return the thickest wire that a kind of terminal takes, for the last hand's breadth.

    None where that would not carry what the circuit's fuse lets through, in the air at that end
    of the wire: such a step down would be the part that burns.
    """
    planned = made.plan.circuits.get(wire.owner)
    fuse = planned.sizing.fuse if planned is not None else None
    most_mm2 = terminal_kinds()[kind].mm2_max
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


def joint_of(device: Device, terminal: str, conductor: Conductor) -> tuple[str, str]:
    """Return the kind of terminal that a device's pin takes, and the stud for a ring."""
    if device.kind in ("fuse", "breaker"):
        return _fuse_joint(device)
    if device.kind == "relay":
        return relay_joint(getattr(device.spec, "relay", None), terminal)
    by_kind = {
        "battery": ("ring", "M8"),
        "isolator": ("ring", "M10"),
        "switch": ("blade_6_3", ""),
        "joint": _JOINTS.get(device.label.lower(), ("butt", "")),
        "fuse_block": ("ring", "M6" if terminal == "bus" else "M5"),
        "relay_block": ("ring", "M6" if terminal == "bus" else "M5"),
        "stud": ("ring", "M8"),
        "earth": ("ring", "M8" if conductor.lug_mm2 > 35 else "M6"),
    }
    if device.kind in ("switch_panel", "power_panel", "factory_bank", "isolator_box", "converter",
                       "charger"):  # fmt: skip
        return ("ring", "M6") if terminal in ("bus", "in", "earth") else ("ferrule", "")
    if device.kind in _WINCH_BOXES:
        return ("ring", "M8") if terminal in ("+", "-", "M1", "M2") else ("blade_6_3", "")
    if device.kind == "load" and conductor.lug_mm2 > 25:
        return ("ring", "M8")  # a winch's motor has studs
    return by_kind.get(device.kind, ("butt", ""))


_WINCH_BOXES = frozenset({"reversing"})
_JOINTS = {
    "junction box": ("ferrule", ""),
    "double lug": ("ring", "M6"),
    "bus bar": ("ring", "M6"),
    "double 87": ("base_6_3", ""),
}


def _fuse_joint(device: Device) -> tuple[str, str]:
    spec = device.spec
    family = spec.family if isinstance(spec, FuseSpec) else None
    if family is None:
        return ("holder_blade", "")
    name = family.family
    studs = {"strip_m5": "M5", "strip_m5_58v": "M5", "strip_m8": "M8", "post_block": "M8",
             "breaker_manual": "M6", "breaker_auto": "#10"}  # fmt: skip
    if isinstance(spec, FuseSpec) and spec.on_bus and name not in studs:
        return ("blade_6_3", "")  # a position of a block
    if name in studs:
        return ("ring", studs[name])
    return ("holder_large", "") if name == "large_blade" else ("holder_blade", "")


def relay_joint(relay: Relay | None, terminal: str) -> tuple[str, str]:
    """Return the kind of terminal at a relay's pin, and the stud where it has them."""
    contact_a = relay.contact_a_23c if relay is not None else 40.0
    if relay is not None and "studs" in relay.terminals:
        stud = relay.terminals.split(" ")[0]
        return ("ring", stud) if terminal in _HEAVY_POSTS else ("blade_6_3", "")
    if terminal in _HEAVY_POSTS and contact_a > 40:
        return ("base_9_5", "")
    return ("base_6_3", "")
