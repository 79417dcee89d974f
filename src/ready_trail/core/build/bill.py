"""The parts that a job takes, counted from its design: nothing is counted by hand.

Each line tells what it is for: the wires, devices and ends of wires that it accounts for.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from ready_trail.core.build.cuts import Cut, CutList, owner_name
from ready_trail.core.build.found import device_is_there
from ready_trail.core.build.sites import Sites
from ready_trail.core.build.terminals import SHRINK_M
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.installation import Device, Wire
from ready_trail.core.job import Accessory
from ready_trail.core.kinds.around import (
    ACCESSORIES,
    FIXINGS,
    GROUPS,
    LABELS,
    ON_VEHICLE,
    SHRINK,
    TERMINALS,
    WIRE,
    Part,
    Unit,
    slug,
)
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design

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
        self,
        key: str,
        group: str,
        label: str,
        *,
        owner: str,
        quantity: float = 1.0,
        unit: str = "pc",
        ref: str = "",
        wire: str = "",
        end: str = "",
        spare: float = 0.0,
        catalogue_key: str = "",
    ) -> None:
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
                key=c.key,
                group=c.group,
                label=c.label,
                unit=c.unit,
                quantity=_tidy(c.quantity),
                spare=c.spare,
                refs=tuple(c.refs),
                wires=tuple(c.wires),
                ends=tuple(c.ends),
                by_owner=dict(c.by_owner),
                catalogue_key=c.catalogue_key,
            )
            for c in sorted(self.counts.values(), key=_by_group)
        )


def parts_list(made: Design, cuts: CutList, catalogue: Catalogue) -> tuple[Line, ...]:
    """Return every part of the job, each device, wire and end of a wire in one line."""
    bill = _Bill()
    _count_wires(bill, cuts, made)
    _count_devices(bill, cuts, made, catalogue)
    _count_earths(bill, made, Sites(made, catalogue))
    _count_looms(bill, made, cuts)
    _count_holes(bill, made)
    if made.job.vehicle.second_strap:
        words = "Second earth cable, battery to body, as thick as the factory's"
        bill.add(SECOND_STRAP, FIXINGS, words, owner="")
    return bill.lines()


def _count_wires(bill: _Bill, cuts: CutList, made: Design) -> None:
    """Wire by the metre, its ends, labels and sleeves; what a kit brings, and what is there."""
    for spool in cuts.spools:
        for cut in spool.cuts:
            bill.add(
                spool.key,
                WIRE,
                spool.label,
                owner=cut.owner,
                quantity=cut.total_m,
                unit="m",
                wire=cut.label,
                catalogue_key=f"wire:{cut.conductor.system}:{spool.size}",
            )
        bill.counts[spool.key].spare = round(spool.buy_m - spool.total_m, 2)
    for cut in cuts.cuts:
        _count_ends(bill, cut)
        if cut.source == "kit":
            owner = next(i for i, kit in cuts.kits.items() if cut.label in kit.by_wire)
            _count_kit(bill, owner, owner_name(owner, made), wire=cut.label)
    for cut in cuts.there:
        bill.add(
            f"there-{slug(cut.owner)}",
            ON_VEHICLE,
            f"{cut.circuit}, as found",
            owner=cut.owner,
            quantity=0.0,
            wire=cut.label,
        )
    for cut in (*cuts.cuts, *cuts.there):
        bill.add(
            "label-wire",
            LABELS,
            "Wrap-around wire label",
            owner=cut.owner,
            quantity=2.0,
            wire=cut.label,
        )
    for cut in (c for c in cuts.cuts if c.mark and c.source != "supplied"):
        bill.add(
            "sleeve-marker",
            LABELS,
            "Coloured marker sleeve, by the cut list",
            owner=cut.owner,
            quantity=2.0,
        )


def _count_devices(bill: _Bill, cuts: CutList, made: Design, catalogue: Catalogue) -> None:
    """Every device: bought, brought by a kit, or there already."""
    for device in made.installation.devices.values():
        if device_is_there(device, made):
            bill.add(
                f"there-{slug(device.owner)}",
                ON_VEHICLE,
                f"{owner_name(device.owner, made)}, as found",
                owner=device.owner,
                quantity=0.0,
                ref=device.ref,
            )
        elif device.owner in cuts.kits and _kit_brings(device, made):
            _count_kit(bill, device.owner, owner_name(device.owner, made), ref=device.ref)
            if isinstance(device.spec, FuseSpec):
                _count_parts(bill, device, device.spec.spare())
        else:
            around = _Around(device, made, catalogue)
            _count_parts(bill, device, device.spec.parts(around))


def _count_ends(bill: _Bill, cut: Cut) -> None:
    for side, end in (("start", cut.start), ("end", cut.end)):
        name = f"{cut.label} {side}"
        if not end.count:
            continue
        bill.add(
            end.key, TERMINALS, end.label, owner=cut.owner, quantity=float(end.count), end=name
        )
        if end.shrink is not None:
            shrink = end.shrink
            bill.add(
                f"shrink-{shrink.size_mm:g}",
                SHRINK,
                f"Lined shrink 3:1, {shrink.size_mm:g} mm",
                owner=cut.owner,
                quantity=SHRINK_M * end.count,
                unit="m",
                end=name,
            )


def _count_kit(bill: _Bill, owner: str, name: str, *, wire: str = "", ref: str = "") -> None:
    key = f"kit-{slug(owner)}"
    first = key not in bill.counts
    bill.add(
        key,
        ACCESSORIES,
        f"Kit harness of {name}",
        owner=owner,
        quantity=1.0 if first else 0.0,
        wire=wire,
        ref=ref,
    )


def _kit_brings(device: Device, made: Design) -> bool:
    """Whether a circuit's kit has this very fuse (with its holder), or this relay."""
    kit = made.plan.circuits[device.owner].circuit.kit
    if kit is None:
        return False
    if isinstance(device.spec, FuseSpec):
        fuses = {lead.fuse_a for lead in kit.leads}
        return not device.spec.is_control and device.spec.rating_a in fuses
    relay = getattr(device.spec, "relay", None)
    return relay is not None and relay.key == kit.relay


def _count_parts(bill: _Bill, device: Device, parts: Iterable[Part]) -> None:
    """Count what a device answers when it is asked for its parts."""
    for part in parts:
        bill.add(
            part.key,
            part.group,
            part.label,
            owner=device.owner,
            quantity=part.quantity,
            ref=device.ref,
            spare=part.spare,
            catalogue_key=part.catalogue_key,
        )
        if part.keeps:
            bill.counts[part.key].by_owner.setdefault(part.keeps, 0.0)


SECOND_STRAP = "earth-strap-2"


class _Around:
    """One device where it is fitted, as its kind asks for it."""

    def __init__(self, device: Device, made: Design, catalogue: Catalogue) -> None:
        self.ref, self.label, self.detail = device.ref, device.label, device.detail
        self.title, self.catalogue = device.title, catalogue
        self._device, self._made = device, made

    @property
    def units(self) -> tuple[Unit, ...]:
        made, job = self._made, self._made.job
        planned = made.plan.circuits.get(self._device.owner)
        outlets = [o for o in planned.outlets if o.ref == self.ref] if planned is not None else []
        found = []
        starts = {p.id: p for p in job.points}
        start = starts.get(planned.circuit.start.point) if planned is not None else None
        for accessory in (a for o in outlets for a in o.accessories):
            whole = job.accessory(accessory.id)
            # the vehicle's own: fed a second way, or over a cut wire
            own = accessory.own_feed or (start is not None and start.is_a.is_cut)
            key = f"vehicle-{slug(accessory.id)}" if own else _accessory_key(whole)
            found.append(
                Unit(
                    key=key,
                    name=whole.name,
                    quantity=float(accessory.quantity),
                    of_vehicle=bool(own),
                )
            )
        return tuple(found)

    @property
    def panel(self) -> tuple[str, str] | None:
        switch = self._made.job.switch(self._device.name)
        if switch is None or not switch.panel:
            return None
        return self._made.job.point(switch.panel).name, self._made.plan.refs[switch.panel]

    @property
    def point(self) -> tuple[str, str] | None:
        refs = self._made.plan.refs
        found = next((p for p in self._made.job.points if refs[p.id] == self.ref), None)
        return (found.name, found.is_a.words) if found is not None else None

    @property
    def thickest_mm2(self) -> float:
        return max((w.conductor.lug_mm2 for w in self._wires), default=0.0)

    @property
    def used(self) -> tuple[str, ...]:
        ends = {t.terminal for w in self._wires for t in (w.start, w.end) if t.device == self.ref}
        return tuple(sorted(ends))

    def on_vehicle(self) -> Part:
        """Return the line of something that is on the vehicle already."""
        return Part(key=f"vehicle-{slug(self.ref)}", group=ON_VEHICLE, label=self.title)

    @property
    def _wires(self) -> list[Wire]:
        wires = self._made.installation.wires.values()
        return [w for w in wires if self.ref in (w.start.device, w.end.device)]


def _count_earths(bill: _Bill, made: Design, sites: Sites) -> None:
    """One bolt takes up to four lugs: earths of one place share bolts."""
    by_site: dict[str, list[Device]] = {}
    for device in made.installation.devices.values():
        if device.spec.is_earth and not device_is_there(device, made):
            by_site.setdefault(sites.of(device.ref).key, []).append(device)
    for devices in by_site.values():
        for at, device in enumerate(devices):
            bill.add(
                "earth-bolt",
                FIXINGS,
                "Earth bolt M6 with toothed washer and nut",
                owner=device.owner,
                quantity=1.0 if at % _EARTH_LUGS_MOST == 0 else 0.0,
                ref=device.ref,
            )


def _count_looms(bill: _Bill, made: Design, cuts: CutList) -> None:
    for loom in cuts.looms:
        owners = sorted({w.circuit_id for w in loom.wires})
        for owner in owners:
            share = loom.length_m / len(owners)
            if loom.sleeve is not None:
                bill.add(
                    f"sleeve-{slug(loom.sleeve.kind)}-{loom.sleeve.size_mm:g}",
                    SHRINK,
                    f"{loom.sleeve.kind.capitalize()} {loom.sleeve.size_mm:g} mm",
                    owner=owner,
                    quantity=share,
                    unit="m",
                )
            if loom.leg.heat_sleeve:
                bill.add(
                    "sleeve-heat",
                    SHRINK,
                    "Heat-reflecting sleeve",
                    owner=owner,
                    quantity=share,
                    unit="m",
                )
            bill.add(
                "clip",
                FIXINGS,
                "P-clip or tie with a fixing",
                owner=owner,
                quantity=loom.clips / len(owners),
            )
    in_looms = {c.wire for c in cuts.cuts if c.looms}
    for circuit in made.routed.circuits:
        hot_m = sum(s.length_m for s in circuit.segments if s.heat_sleeve)
        own = [c for c in cuts.cuts if c.owner == circuit.id and c.wire not in in_looms]
        if hot_m and circuit.place is None:
            bill.add(
                "sleeve-heat",
                SHRINK,
                "Heat-reflecting sleeve",
                owner=circuit.id,
                quantity=hot_m,
                unit="m",
            )
        if own and made.job.layout is None:
            bill.add(
                "sleeve-split-tube-10",
                SHRINK,
                "Split tube 10 mm",
                owner=circuit.id,
                quantity=circuit.run_m,
                unit="m",
            )
            bill.add(
                "clip",
                FIXINGS,
                "P-clip or tie with a fixing",
                owner=circuit.id,
                quantity=float(math.ceil(circuit.run_m / 0.25)),
            )


def _count_holes(bill: _Bill, made: Design) -> None:
    for hole in holes_of(made):
        bill.add(hole.key, FIXINGS, hole.label, owner=hole.owner)


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
            yield Protected(
                id=leg.id,
                panel=leg.hole.panel,
                key=f"{kind}-{size}",
                label=f"{kind.capitalize()} for a {size} mm hole",
                leg_id=leg.id,
                zone=leg.zone,
            )
    for circuit in made.routed.circuits:
        for at, segment in enumerate(circuit.segments):
            if segment.passes is not None and segment.passes.leg is None:
                yield Protected(
                    id=f"{circuit.id}:{at}",
                    panel=f"{segment.passes.name}, {circuit.name}",
                    key="grommet-edge",
                    label="Grommet to fit the hole",
                    owner=circuit.id,
                    zone=segment.zone,
                )


def _is_used(leg_id: str, made: Design) -> bool:
    for route in made.routes.values():
        ways = [route.out, route.back, route.feed, route.control]
        ways += [w for b in route.branches.values() for w in (b.out, b.back)]
        if any(way is not None and leg_id in way.legs for way in ways):
            return True
    return False


def _by_group(count: _Count) -> tuple[int, str, str]:
    return GROUPS.index(count.group), count.label, count.key


def _accessory_key(accessory: Accessory) -> str:
    """What the shelf knows an accessory by: its name and figures, not its number in this job."""
    figures = f"{accessory.name}|{accessory.watts}|{accessory.amps}|{accessory.at_v}"
    ascii_name = slug(accessory.name).encode("ascii", "ignore").decode()
    return f"accessory-{ascii_name[:40]}-{hashlib.sha256(figures.encode()).hexdigest()[:6]}"


def _tidy(quantity: float) -> float:
    return round(quantity, 3)


__all__ = ["GROUPS", "ON_VEHICLE", "Line", "holes_of", "parts_list"]
