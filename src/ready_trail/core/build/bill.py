"""The parts that a job takes, counted from its design: nothing is counted by hand.

Each line tells what it is for: the wires, devices and ends of wires that it accounts for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from ready_trail.core.build.cuts import Cut, CutList, owner_name
from ready_trail.core.build.ends import is_splice
from ready_trail.core.build.found import device_is_there
from ready_trail.core.build.sites import Sites
from ready_trail.core.build.terminals import SHRINK_M
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.devices.fuse import CONTROL_FAMILY, FuseSpec
from ready_trail.core.installation import Device
from ready_trail.core.outcome import Design

GROUPS = ("Wire", "Terminals and splices", "Shrink and sleeves", "Fuses and holders",
          "Relays and sockets", "Switches and panels", "Points", "Fixings", "Labels",
          "Accessories", "On the vehicle already")  # fmt: skip
ON_VEHICLE = GROUPS[-1]
_WINCH_BOXES = frozenset({"reversing"})
_EARTH_LUGS_MOST = 4
"""Lugs on one earth bolt (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One part: how many, in what unit, for what.

    ``quantity`` is what the design takes, ``spare`` what goes along beyond it. ``refs`` are the
    devices, ``wires`` the wires and ``ends`` the ends of pieces ("C15-W1 start") that it
    accounts for; ``by_owner`` tells how much each circuit, switch or point takes.
    """

    key: str
    group: str
    label: str
    unit: str
    quantity: float
    spare: float = 0.0
    refs: tuple[str, ...] = ()
    wires: tuple[str, ...] = ()
    ends: tuple[str, ...] = ()
    by_owner: Mapping[str, float] = field(default_factory=dict)
    catalogue_key: str = ""

    @property
    def buy(self) -> float:
        """What to have at hand: the need and its spare."""
        return self.quantity + self.spare

    @property
    def group_at(self) -> int:
        """Where its group stands among the groups."""
        return GROUPS.index(self.group)

    @property
    def to_get(self) -> bool:
        """Whether it is a part to get at all."""
        return self.group != ON_VEHICLE


@dataclass(slots=True, kw_only=True)
class _Count:
    """A line while it is being counted."""

    key: str
    group: str
    label: str
    unit: str
    quantity: float = 0.0
    refs: list[str] = field(default_factory=list)
    wires: list[str] = field(default_factory=list)
    ends: list[str] = field(default_factory=list)
    by_owner: dict[str, float] = field(default_factory=dict)
    spare: float = 0.0
    catalogue_key: str = ""


class _Bill:
    """Lines by their key, counted up."""

    def __init__(self) -> None:
        self.counts: dict[str, _Count] = {}

    def add(
        self, key: str, group: str, label: str, *, owner: str, quantity: float = 1.0,
        unit: str = "pc", ref: str = "", wire: str = "", end: str = "", spare: float = 0.0,
        catalogue_key: str = "",
    ) -> None:  # fmt: skip
        """Count a part for one device, wire or end. ``spare`` is set, not summed."""
        line = self.counts.setdefault(key, _Count(key=key, group=group, label=label, unit=unit))
        line.quantity += quantity
        line.by_owner[owner] = line.by_owner.get(owner, 0.0) + quantity
        line.spare = max(line.spare, spare)
        line.catalogue_key = line.catalogue_key or catalogue_key
        for value, into in ((ref, line.refs), (wire, line.wires), (end, line.ends)):
            if value and value not in into:
                into.append(value)

    def lines(self) -> tuple[Line, ...]:
        """Return the lines by group, each group by label."""
        return tuple(
            Line(
                key=c.key, group=c.group, label=c.label, unit=c.unit,
                quantity=_tidy(c.quantity), spare=c.spare, refs=tuple(c.refs),
                wires=tuple(c.wires), ends=tuple(c.ends), by_owner=dict(c.by_owner),
                catalogue_key=c.catalogue_key,
            )
            for c in sorted(self.counts.values(), key=_by_group)
        )  # fmt: skip


def parts_list(made: Design, cuts: CutList, catalogue: Catalogue) -> tuple[Line, ...]:
    """Return every part of the job, each device, wire and end of a wire in one line."""
    bill = _Bill()
    for spool in cuts.spools:
        for cut in spool.cuts:
            bill.add(spool.key, "Wire", spool.label, owner=cut.owner, quantity=cut.total_m,
                     unit="m", wire=cut.label,
                     catalogue_key=f"wire:{cut.conductor.system}:{spool.size}")  # fmt: skip
        bill.counts[spool.key].spare = round(spool.buy_m - spool.total_m, 2)
    for cut in cuts.cuts:
        _count_ends(bill, cut)
        if cut.source == "kit":
            _count_kit(bill, cut.owner, cut.circuit, wire=cut.label)
    for cut in cuts.there:
        bill.add(f"there-{_slug(cut.owner)}", ON_VEHICLE, f"{cut.circuit}, as found",
                 owner=cut.owner, quantity=0.0, wire=cut.label)  # fmt: skip
    for cut in (*cuts.cuts, *cuts.there):
        bill.add("label-wire", "Labels", "Wrap-around wire label", owner=cut.owner, quantity=2.0,
                 wire=cut.label)  # fmt: skip
    for device in made.installation.devices.values():
        if device_is_there(device, made):
            bill.add(f"there-{_slug(device.owner)}", ON_VEHICLE,
                     f"{owner_name(device.owner, made)}, as found", owner=device.owner,
                     quantity=0.0, ref=device.ref)  # fmt: skip
        elif device.owner in cuts.kits and _kit_brings(device, made):
            _count_kit(bill, device.owner, owner_name(device.owner, made), ref=device.ref)
            if device.kind != "relay":
                _count_spare(bill, device, catalogue)
        else:
            _count_device(bill, device, made, catalogue)
    _count_earths(bill, made, Sites(made, catalogue))
    _count_looms(bill, made, cuts)
    _count_holes(bill, made)
    return bill.lines()


def _count_ends(bill: _Bill, cut: Cut) -> None:
    for side, end in (("start", cut.start), ("end", cut.end)):
        name = f"{cut.label} {side}"
        if not end.count:
            continue
        bill.add(end.key, "Terminals and splices", end.label, owner=cut.owner,
                 quantity=float(end.count), end=name)  # fmt: skip
        if end.shrink is not None:
            shrink = end.shrink
            bill.add(f"shrink-{shrink.size_mm:g}", "Shrink and sleeves",
                     f"Lined shrink 3:1, {shrink.size_mm:g} mm", owner=cut.owner,
                     quantity=SHRINK_M * end.count, unit="m", end=name)  # fmt: skip


def _count_kit(bill: _Bill, owner: str, name: str, *, wire: str = "", ref: str = "") -> None:
    key = f"kit-{_slug(owner)}"
    first = key not in bill.counts
    bill.add(key, "Accessories", f"Kit harness of {name}", owner=owner,
             quantity=1.0 if first else 0.0, wire=wire, ref=ref)  # fmt: skip


def _kit_brings(device: Device, made: Design) -> bool:
    """Whether a circuit's kit has this very fuse (with its holder), or this relay."""
    kit = made.plan.circuits[device.owner].circuit.kit
    if kit is None:
        return False
    if isinstance(device.spec, FuseSpec):
        fuses = {lead.fuse_a for lead in kit.leads}
        return device.spec.family is not None and device.spec.rating_a in fuses
    relay = getattr(device.spec, "relay", None)
    return device.kind == "relay" and relay is not None and relay.key == kit.relay


def _count_spare(bill: _Bill, device: Device, catalogue: Catalogue) -> None:
    """A spare of a fuse that a kit brings; the holder is the kit's own."""
    spec = device.spec
    if not isinstance(spec, FuseSpec):
        return
    family = spec.family or catalogue.fuse_family(CONTROL_FAMILY)
    if not family.is_breaker:
        bill.add(f"fuse-{_slug(family.family)}-{spec.rating_a:g}", "Fuses and holders",
                 f"{family.label}, {spec.rating_a:g} A", owner=device.owner, quantity=0.0,
                 spare=1.0, catalogue_key=f"fuse:{family.family}")  # fmt: skip


def _count_device(bill: _Bill, device: Device, made: Design, catalogue: Catalogue) -> None:
    """Count one device: its part, what it sits in, and a spare where it wears."""
    owner, ref = device.owner, device.ref
    if device.kind in ("fuse", "breaker"):
        _count_fuse(bill, device, catalogue)
    elif device.kind == "relay":
        _count_relay(bill, device, made)
    elif device.kind in _WINCH_BOXES:
        bill.add(f"contactor-{_slug(device.label)}", "Relays and sockets", device.label,
                 owner=owner, ref=ref)  # fmt: skip
    elif device.kind == "isolator":
        bill.add("isolator-hand", "Switches and panels", "Hand isolator, two posts", owner=owner,
                 ref=ref)  # fmt: skip
    elif device.kind == "switch":
        switch = made.job.switch(device.name)
        panel = made.job.point(switch.panel) if switch is not None and switch.panel else None
        if panel is not None:
            panel_ref = made.plan.refs[panel.id]
            bill.add(_point_key(panel.name), "Points", f"{panel.name}, with its switches",
                     owner=owner, quantity=0.0, ref=ref)  # fmt: skip
            bill.counts[_point_key(panel.name)].by_owner.setdefault(panel_ref, 0.0)
        else:
            bill.add(f"switch-{_slug(device.detail)}", "Switches and panels",
                     f"Switch, {device.detail}", owner=owner, ref=ref)  # fmt: skip
    elif device.kind == "load":
        _count_load(bill, device, made)
    elif device.kind == "diode":
        bill.add("diode-1a", "Relays and sockets", f"{device.label}, {device.detail}",
                 owner=owner, ref=ref, spare=1.0)  # fmt: skip
    elif device.kind == "joint":
        _count_joint(bill, device, made)
    elif device.kind != "earth":  # earths are counted by bolt
        point = next((p for p in made.job.points if made.plan.refs[p.id] == ref), None)
        if point is not None and not point.fed_by_vehicle:
            bill.add(_point_key(point.name), "Points", f"{point.name}: {_kind_words(point.kind)}, "
                     f"{device.detail}", owner=owner, ref=ref)  # fmt: skip
        else:
            bill.add(f"vehicle-{_slug(ref)}", ON_VEHICLE, device.title, owner=owner, ref=ref)


def _count_fuse(bill: _Bill, device: Device, catalogue: Catalogue) -> None:
    spec, owner, ref = device.spec, device.owner, device.ref
    if not isinstance(spec, FuseSpec):
        return
    family = spec.family or catalogue.fuse_family(CONTROL_FAMILY)
    name, label = family.family, family.label
    rating = f"{spec.rating_a:g}"
    colour = family.colours.get(spec.rating_a, "")
    words = f"{label}, {rating} A{f', {colour}' if colour else ''}"
    bill.add(f"fuse-{_slug(name)}-{rating}", "Fuses and holders", words, owner=owner, ref=ref,
             spare=0.0 if family.is_breaker else 1.0, catalogue_key=f"fuse:{name}")  # fmt: skip
    if family.is_breaker or spec.on_bus:
        return
    bill.add(f"holder-{_slug(name)}", "Fuses and holders",
             f"Holder for {_lower_first(label)}, covered", owner=owner, ref=ref)  # fmt: skip


def _count_relay(bill: _Bill, device: Device, made: Design) -> None:
    relay = getattr(device.spec, "relay", None)
    key = relay.key if relay is not None else _slug(device.label)
    studs = relay is not None and "studs" in relay.terminals
    volts = "" if relay is None or relay.coil_v == 12 else f"-{relay.coil_v:.0f}v"
    bill.add(f"relay-{_slug(key)}{volts}", "Relays and sockets", device.label,
             owner=device.owner, ref=device.ref, spare=0.0 if studs else 1.0,
             catalogue_key=f"relay:{key}")  # fmt: skip
    if not studs:
        form = device.label.split(" relay")[0] if " relay" in device.label else "Mini"
        bill.add(f"socket-{_slug(form)}", "Relays and sockets", f"Socket for {form.lower()} relay",
                 owner=device.owner, ref=device.ref)  # fmt: skip
    if relay is not None and relay.suppression.endswith("fitted"):
        bill.add("coil-resistor", "Relays and sockets", f"Coil resistor, {relay.suppression}",
                 owner=device.owner, ref=device.ref)  # fmt: skip


def _count_load(bill: _Bill, device: Device, made: Design) -> None:
    planned = made.plan.circuits.get(device.owner)
    outlets = [o for o in planned.outlets if o.ref == device.ref] if planned is not None else []
    units = [a for o in outlets for a in o.accessories]
    if not units:
        bill.add(f"load-{_slug(device.ref)}", ON_VEHICLE, device.title, owner=device.owner,
                 ref=device.ref)  # fmt: skip
    for accessory in units:
        if accessory.own_feed:  # the vehicle's own, fed a second way
            bill.add(f"vehicle-{_slug(accessory.id)}", ON_VEHICLE,
                     made.job.accessory(accessory.id).name, owner=device.owner,
                     quantity=float(accessory.quantity), ref=device.ref)  # fmt: skip
            continue
        bill.add(f"accessory-{_slug(accessory.id)}", "Accessories",
                 made.job.accessory(accessory.id).name, owner=device.owner,
                 quantity=float(accessory.quantity), ref=device.ref)  # fmt: skip


def _count_joint(bill: _Bill, device: Device, made: Design) -> None:
    wires = [w for w in made.installation.wires.values()
             if device.ref in (w.start.device, w.end.device)]  # fmt: skip
    sides = {t.terminal for w in wires for t in (w.start, w.end) if t.device == device.ref}
    spliced = [side for side in sorted(sides) if is_splice(device, side)]
    if spliced:
        thick = max((w.conductor.lug_mm2 for w in wires), default=0.0)
        bill.add(f"splice-branch-{thick:.1f}", "Terminals and splices",
                 f"Branch splice for up to {thick:.1f} mm², lined", owner=device.owner,
                 quantity=float(len(spliced)), ref=device.ref)  # fmt: skip
    elif device.label.lower() == "double 87":
        bill.add("joint-on-relay", ON_VEHICLE, "Joint on the relay's own two 87",
                 owner=device.owner, ref=device.ref)  # fmt: skip
    else:
        bill.add(f"joint-{_slug(device.label)}", "Points", device.label, owner=device.owner,
                 ref=device.ref)  # fmt: skip


def _count_earths(bill: _Bill, made: Design, sites: Sites) -> None:
    """One bolt takes up to four lugs: earths of one place share bolts."""
    by_site: dict[str, list[Device]] = {}
    for device in made.installation.devices.values():
        if device.kind == "earth" and not device_is_there(device, made):
            by_site.setdefault(sites.of(device.ref).key, []).append(device)
    for devices in by_site.values():
        for at, device in enumerate(devices):
            bill.add("earth-bolt", "Fixings", "Earth bolt M6 with toothed washer and nut",
                     owner=device.owner, quantity=1.0 if at % _EARTH_LUGS_MOST == 0 else 0.0,
                     ref=device.ref)  # fmt: skip


def _count_looms(bill: _Bill, made: Design, cuts: CutList) -> None:
    for loom in cuts.looms:
        owners = sorted({w.circuit_id for w in loom.wires})
        for owner in owners:
            share = loom.length_m / len(owners)
            if loom.sleeve is not None:
                bill.add(f"sleeve-{_slug(loom.sleeve.kind)}-{loom.sleeve.size_mm:g}",
                         "Shrink and sleeves",
                         f"{loom.sleeve.kind.capitalize()} {loom.sleeve.size_mm:g} mm",
                         owner=owner, quantity=share, unit="m")  # fmt: skip
            if loom.leg.heat_sleeve:
                bill.add("sleeve-heat", "Shrink and sleeves", "Heat-reflecting sleeve",
                         owner=owner, quantity=share, unit="m")  # fmt: skip
            bill.add("clip", "Fixings", "P-clip or tie with a fixing", owner=owner,
                     quantity=loom.clips / len(owners))  # fmt: skip
    in_looms = {c.wire for c in cuts.cuts if c.looms}
    for circuit in made.routed.circuits:
        hot_m = sum(s.length_m for s in circuit.segments if s.heat_sleeve)
        own = [c for c in cuts.cuts if c.owner == circuit.id and c.wire not in in_looms]
        if hot_m and circuit.place is None:
            bill.add("sleeve-heat", "Shrink and sleeves", "Heat-reflecting sleeve",
                     owner=circuit.id, quantity=hot_m, unit="m")  # fmt: skip
        if own and made.job.layout is None:
            bill.add("sleeve-split-tube-10", "Shrink and sleeves", "Split tube 10 mm",
                     owner=circuit.id, quantity=circuit.run_m, unit="m")  # fmt: skip
            bill.add("clip", "Fixings", "P-clip or tie with a fixing", owner=circuit.id,
                     quantity=float(math.ceil(circuit.run_m / 0.25)))  # fmt: skip


def _count_holes(bill: _Bill, made: Design) -> None:
    for hole in holes_of(made):
        bill.add(hole.key, "Fixings", hole.label, owner=hole.owner)


@dataclass(frozen=True, slots=True, kw_only=True)
class Protected:
    """A hole with what protects its edge; ``leg_id`` where a layout has it."""

    id: str
    panel: str
    key: str
    label: str
    owner: str = ""
    leg_id: str = ""
    zone: str = ""


def holes_of(made: Design) -> Iterator[Protected]:
    """Yield each hole that wires pass, once, with its grommet or gland."""
    layout = made.job.layout
    for leg in layout.legs if layout is not None else ():
        if leg.hole is not None and _is_used(leg.id, made):
            kind = "gland" if leg.hole.protection == "gland" else "grommet"
            size = f"{leg.hole.diameter_mm:g}"
            yield Protected(id=leg.id, panel=leg.hole.panel, key=f"{kind}-{size}",
                            label=f"{kind.capitalize()} for a {size} mm hole", leg_id=leg.id,
                            zone=leg.zone)  # fmt: skip
    for circuit in made.routed.circuits:
        for at, segment in enumerate(circuit.segments):
            if segment.passes is not None and segment.passes.leg is None:
                yield Protected(id=f"{circuit.id}:{at}", panel=f"{segment.passes.name}, "
                                f"{circuit.name}", key="grommet-edge",
                                label="Grommet to fit the hole", owner=circuit.id,
                                zone=segment.zone)  # fmt: skip


def _is_used(leg_id: str, made: Design) -> bool:
    for route in made.routes.values():
        ways = [route.out, route.back, route.feed, route.control]
        ways += [w for b in route.branches.values() for w in (b.out, b.back)]
        if any(way is not None and leg_id in way.legs for way in ways):
            return True
    return False


def _kind_words(kind: str) -> str:
    return kind.replace("_", " ")


def _point_key(name: str) -> str:
    return f"point-{_slug(name)}"


def _by_group(count: _Count) -> tuple[int, str, str]:
    return GROUPS.index(count.group), count.label, count.key


def _lower_first(text: str) -> str:
    return text[:1].lower() + text[1:]


def _tidy(quantity: float) -> float:
    return round(quantity, 3)


def _slug(text: str) -> str:
    kept = (c if c.isalnum() or c == "." else "-" for c in text.lower())
    return "-".join(part for part in "".join(kept).split("-") if part)


__all__ = ["GROUPS", "ON_VEHICLE", "Line", "holes_of", "parts_list"]
