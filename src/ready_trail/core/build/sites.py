"""Where each device sits, as a place that one goes to: a point of the layout, or a zone.

Steps are grouped by it, so that nobody crawls under the dash twice.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.installation import Device, lamps_owner
from ready_trail.core.job import Circuit
from ready_trail.core.job.points import BATTERY
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.layout.loom_network import Way
from ready_trail.core.outcome import Design

_NO_ZONE = "vehicle"


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """A place: ``spot`` is its point on the layout, where there is one; ``rank`` orders places
    from the front of the vehicle to its rear.
    """

    key: str
    name: str
    rank: float
    zone: str = ""
    spot: str = ""


class Sites:
    """The places of one design, by device."""

    def __init__(self, made: Design, catalogue: Catalogue) -> None:
        self._made = made
        self._catalogue = catalogue
        self._circuits = {c.id: c for c in made.routed.circuits}
        self._points = {p.id: p for p in made.job.layout.points} if made.job.layout else {}
        self._by_ref = {ref: self._find(d) for ref, d in made.installation.devices.items()}
        for ref, source in self._control_fuses():
            self._by_ref[ref] = self._by_ref[source]

    def of(self, ref: str) -> Site:
        """Return the place of a device; KeyError when the design has none of that reference."""
        return self._by_ref[ref]

    @property
    def by_ref(self) -> Mapping[str, Site]:
        """The place of every device."""
        return self._by_ref

    def spot(self, spot: str) -> Site:
        """Return a point of the layout as a place."""
        point = self._points[spot]
        return Site(key=f"at:{spot}", name=point.name, rank=point.x_m, spot=spot)

    def zone(self, zone: str) -> Site:
        """Return a zone as a place, for what has no point."""
        known = self._catalogue.zones.get(zone)
        if known is None:
            return Site(key=f"zone:{_NO_ZONE}", name="Vehicle", rank=99.0)
        rank = 50.0 + list(self._catalogue.zones).index(zone)
        return Site(key=f"zone:{zone}", name=known.label, rank=rank, zone=zone)

    def _find(self, device: Device) -> Site:
        spot = self._spot(device)
        if spot and spot in self._points:
            return self.spot(spot)
        zone = device.zone or self._zone(device)
        return self.zone(zone)

    def _spot(self, device: Device) -> str | None:
        job, layout = self._made.job, self._made.job.layout
        if layout is None:
            return None
        if device.spec.is_post:
            return layout.battery
        point = next((p for p in job.points if self._made.plan.refs.get(p.id) == device.ref), None)
        if point is not None:
            return point.place
        refs = self._made.plan.refs
        lit = next((p for p in job.points if lamps_owner(refs[p.id]) == device.owner), None)
        if lit is not None and (device.spec.is_load or device.spec.is_earth):
            return lit.place
        alone = next((s for s in job.switches if lamps_owner(f"S{s.number}") == device.owner), None)
        if alone is not None and (device.spec.is_load or device.spec.is_earth):
            return alone.place
        if device.spec.is_switch:
            switch = job.switch(device.name)
            if switch is not None:
                panel = job.point(switch.panel) if switch.panel else None
                return switch.place or (panel.place if panel else None)
        if device.spec.is_signal:
            places = (job.signal_place(s) for s in device.spec.signals)
            return next((place for place in places if place is not None), None)
        circuit = self._circuits.get(device.owner)
        return self._on_circuit(device, circuit) if circuit is not None else None

    def _on_circuit(self, device: Device, circuit: Circuit) -> str | None:
        route = self._made.routes.get(circuit.id)
        place = circuit.place
        branches = {b.id: b for b in circuit.branches}
        branch = branches.get(device.branch)
        at = branch
        while at is not None and at.place is None:
            at = branches.get(at.behind)
        branch_spot = at.place if at is not None else (place.load if place else None)
        if device.spec.is_earth:
            if device.of_coil:  # beside the relay
                return place.switching if place else None
            if branch is not None:
                way = route.branches.get(branch.id) if route else None
                return branch.earth or (way.back.points[-1] if way and way.back else branch_spot)
            return route.back.points[-1] if route and route.back else None
        if device.spec.is_load or device.spec.is_joint or device.spec.blocks:
            return branch_spot
        if device.spec.is_relay:
            switching = place.switching if place else None
            return switching or self._along(circuit, device)
        return self._along(circuit, device)

    def _along(self, circuit: Circuit, device: Device) -> str | None:
        """The point of the circuit's way that is nearest to where the device sits on it."""
        route = self._made.routes.get(circuit.id)
        if device.at_m is None or route is None or route.out is None:
            return self._start(circuit) if device.spec.protects else None
        return _nearest(route.out, device.at_m)

    def _start(self, circuit: Circuit) -> str | None:
        if circuit.start.point == BATTERY:
            return self._made.job.layout.battery if self._made.job.layout else None
        return self._made.job.point(circuit.start.point).place

    def _control_fuses(self) -> Iterator[tuple[str, str]]:
        """Each control fuse with the device from which it is fed, and each coil's earth with what
        is earthed there: it sits beside that.
        """
        installation = self._made.installation
        for wire in installation.wires.values():
            end = installation.devices[wire.end.device]
            fuse = isinstance(end.spec, FuseSpec) and end.spec.is_control
            earth = wire.role == "control_return" and end.of_coil
            if earth or (fuse and wire.end.terminal == "1"):
                yield wire.end.device, wire.start.device

    def _zone(self, device: Device) -> str:
        """The zone of a device that names none: that of the first wire at it."""
        for wire in self._made.installation.wires.values():
            if device.ref in (wire.start.device, wire.end.device):
                at = 0 if wire.start.device == device.ref else -1
                return wire.pieces[at].zone if wire.pieces else ""
        return ""


def _nearest(way: Way, at_m: float) -> str:
    gone_m, best = 0.0, (abs(at_m), way.points[0])
    for point, leg_m in zip(way.points[1:], way.leg_m, strict=True):
        gone_m += leg_m
        best = min(best, (abs(at_m - gone_m), point))
    return best[1]
