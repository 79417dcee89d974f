"""A design on the grid: bars by depth of the supply, then each circuit's devices in columns."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.job import BATTERY
from ready_trail.core.kinds.base import BATTERY_DEVICE, node_of
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.kinds.point import (
    BUS,
    EARTH,
    MODULE_EARTH,
    PULSES,
    PointSpec,
    channel_terminal,
)
from ready_trail.core.kinds.point import (
    COIL as COIL_END,
)
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.drawing.sheet.grid import Bar, Block, Cell, Grid, Line, Link, Port, Side

_INLINE = ("isolator", "switch", "passage", "breaker")
_LATE = {"controller": 1, "diode": 2}
"""What gives way to a coil's own chain on its line."""

POWER = "power"
COIL = "coil"


@dataclass(slots=True)
class _Lot:
    """Devices that share a block: a circuit's own, or those that several circuits share."""

    owner: str
    name: str
    is_feeder: bool
    depth: int
    devices: list[Device]
    path: tuple[str, ...] = ()
    point: str = ""
    """The point that is drawn here, where no feeder of ours leads to it."""
    joint_depth: dict[str, int] = field(default_factory=dict)


FEEDERS = "feeders"
"""Owner of the band in which all feeders stand."""


def placed(design: Design, order: tuple[str, ...] = (), only: frozenset[str] | None = None) -> Grid:
    """Return the grid of a design. ``order`` names owners first to last; the rest follows.

    ``only`` names the owners whose rows are wanted; each brings all that it needs to be read.
    """
    return _Placing(design, order, only).grid


class _Placing:
    """Puts one design on a grid, step by step."""

    def __init__(self, design: Design, order: tuple[str, ...], only: frozenset[str] | None) -> None:
        self.design, self.only = design, only
        self.installed = design.installation
        self.grid = Grid()
        self.depth = _depths(design)
        lots = self._lots(order)
        deepest = max((n for lot in lots for n in lot.joint_depth.values()), default=0)
        self._columns(lots, deepest)
        self.at = {key: n for n, key in enumerate(self.grid.columns)}
        self._bars()
        for number, band in enumerate(_bands(lots)):
            _BlockOf(self, number, band).place()
        self._links()

    def _columns(self, lots: list[_Lot], deepest: int) -> None:
        used = self._used_terminals()
        keys = ["bar BAT +"]
        levels = sorted({self.depth[p] for p in self.design.points})
        for level in levels:
            keys += [f"f@{level}", f"k@{level}", f"x@{level}", f"p@{level}"]
            refs = [v.ref for p, v in self.design.points.items() if self.depth[p] == level]
            keys += [f"bar {ref} {BUS}" for ref in refs if ref in self.installed.devices]
        for device in self.installed.devices.values():
            if device.spec.is_signal:
                keys += [
                    f"bar {device.ref} {t}" for t in device.terminals if (device.ref, t) in used
                ]
        keys += ["f", "s", "k", "x"]
        keys += [f"j{n}" for n in range(1, deepest + 1)]
        keys += ["load"]
        keys += [f"r{n}" for n in range(deepest, 0, -1)]
        keys += ["earth"]
        keys += [
            f"bar {v.ref} {EARTH}" for v in self.design.points.values() if (v.ref, EARTH) in used
        ]
        keys += ["bar BAT -"]
        self.grid.columns = keys

    def _used_terminals(self) -> set[tuple[str, str]]:
        wires = self.installed.wires.values()
        return {(t.device, t.terminal) for w in wires for t in (w.start, w.end)}

    def _bars(self) -> None:
        devices = self.installed.devices
        for key, column in self.at.items():
            if not key.startswith("bar "):
                continue
            ref, terminal = key.removeprefix("bar ").rsplit(" ", 1)
            device = devices.get(ref)
            if device is None:
                continue
            if ref == BATTERY_DEVICE:
                kind = "source" if terminal == "+" else "negative"
                name = "Battery +" if terminal == "+" else "Battery −"
            elif device.spec.is_signal:
                kind = "signal"
                name = device.title if terminal == "1" else f"{device.title} {terminal}"
            elif terminal == EARTH:
                kind, name = "negative", f"{device.title} −"
            else:
                kind, name = "point", device.title
            node = node_of(ref, terminal)
            self.grid.bars.append(
                Bar(
                    node=node,
                    ref=ref,
                    terminal=terminal,
                    kind=kind,  # type: ignore[arg-type]
                    column=column,
                    name=name,
                    detail=device.detail,
                )
            )
            self.grid.ports[(ref, terminal)] = Port(
                node=node, terminal=terminal, column=column, side="both", line=None
            )

    def _lots(self, order: tuple[str, ...]) -> list[_Lot]:
        """The devices in blocks: circuits in the order of the tree, what is shared behind them."""
        devices = self.installed.devices
        taken: set[str] = set()
        lots: dict[str, _Lot] = {}
        for circuit in _walk(self.design):
            own = circuit.planned.parts
            if own is None or not self._is_wanted(circuit.circuit.id):
                continue
            refs = [d.ref for d in own.devices]
            refs += [t.device for w in own.wires for t in (w.start, w.end)]
            mine = []
            for ref in dict.fromkeys(refs):
                device = devices.get(ref)
                if device is not None and ref not in taken and self._belongs(device, circuit):
                    taken.add(ref)
                    mine.append(device)
            path = (*own.out, *(r for way in own.ways for r in way.out), *own.back)
            lots[circuit.circuit.id] = _Lot(
                owner=circuit.circuit.id,
                name=circuit.circuit.name,
                devices=mine,
                is_feeder=circuit.circuit.is_feeder,
                path=path,
                depth=self.depth.get(circuit.circuit.feeds or "", 0),
                joint_depth=_joint_depths(mine, own.wires),
            )
        for owner, parts in self.design.shared.items():
            if not self._is_wanted(owner):
                continue
            rest = [d for d in parts.devices if d.ref not in taken and self._stands_alone(d)]
            taken |= {d.ref for d in rest}
            view = self.design.points.get(owner)
            parting = view if view is not None and view.point.is_a.parts_battery else None
            if rest or parting is not None:
                shared = devices.get(owner)
                usual = shared.title if shared is not None else owner
                name = next((d.name for d in rest if d.name), usual)
                lots[owner] = _Lot(
                    owner=owner,
                    name=parting.point.name if parting is not None else name,
                    is_feeder=False,
                    depth=self.depth[owner] if parting is not None else 0,
                    devices=rest,
                    path=tuple(d.ref for d in rest),
                    point=parting.ref if parting is not None else "",
                )
        first = [lots[o] for o in order if o in lots]
        return first + [lot for o, lot in lots.items() if o not in order]

    def _is_wanted(self, owner: str) -> bool:
        """Whether rows are wanted of an owner: by its name, or because a wanted circuit needs it
        and nothing else on the sheet stands for it.
        """
        if self.only is None or owner in self.only:
            return True
        if owner not in self.design.shared or owner in self.design.points:
            return False
        parts = (c.planned.parts for c in self.design.circuits if c.circuit.id in self.only)
        return any(owner in p.needs for p in parts if p is not None)

    def _belongs(self, device: Device, circuit: CircuitDesign) -> bool:
        """A circuit's own device, a switch that the first circuit on it takes along, or one whose
        own rows are not wanted.
        """
        mine = device.owner == circuit.circuit.id or device.spec.is_switch
        borrowed = self.only is not None and not self._is_wanted(device.owner)
        return (mine or borrowed) and self._stands_alone(device)

    def _stands_alone(self, device: Device) -> bool:
        """Whether a device is drawn as one: neither a bar nor a point."""
        return (
            device.ref != BATTERY_DEVICE and not device.spec.is_signal and not device.spec.is_point
        )

    def _links(self) -> None:
        """Fuses that sit on a bus, and channels, hang on it without a wire."""
        for ref, device in self.installed.devices.items():
            spec = device.spec
            if isinstance(spec, FuseSpec) and spec.on_bus:
                bus = next((b for b in self.grid.bars if b.node == spec.on_bus), None)
                port = self.grid.ports.get((ref, "1"))
                if bus is not None and port is not None:
                    bar = self.grid.ports[(bus.ref, bus.terminal)]
                    self.grid.links.append(Link(name=f"{ref} 1", a=bar, b=port))


class _BlockOf:
    """Places the devices of a lot on the lines of its block; feeders share one."""

    def __init__(self, placing: _Placing, number: int, band: tuple[_Lot, ...]) -> None:
        self.placing, self.number, self.band = placing, number, band
        self.taken: set[tuple[int, int]] = set()
        self.lines = self.base = 0

    def place(self) -> None:
        """Place one lot after the other, each on the first lines where its columns are free."""
        for lot in self.band:
            self.lot = lot
            wires = self.placing.installed.wires.values()
            self.wires = [w for w in wires if w.owner == lot.owner]
            own = {self._column(key) for key in ("f", "s", "k", "x", "earth", "load")}
            self.base = max((n + 1 for n, column in self.taken if column in own), default=0)
            self._place()
        first = self.band[0]
        several = len(self.band) > 1
        self.placing.grid.blocks.append(
            Block(
                number=self.number,
                owner=FEEDERS if several else first.owner,
                owners=tuple(lot.owner for lot in self.band),
                name="Feeders" if several else first.name,
                lines=max(1, self.lines),
                is_feeder=first.is_feeder,
            )
        )

    def _place(self) -> None:
        """Power first, on top; then coils with what works them; then the rest."""
        on_path = set(self.lot.path)
        self._channel()
        power = [d for d in self.lot.devices if d.ref in on_path and not d.spec.is_earth]
        power += [
            d for d in self.lot.devices if (d.spec.is_load or d.spec.is_joint) and d not in power
        ]
        for device in power:
            if not device.spec.is_joint:
                self._power(device)
        for device in reversed([d for d in power if d.spec.is_joint]):
            self._joint(device)
        for device in self.lot.devices:
            if device.spec.is_earth and device.ref in on_path | self._return_earths():
                self._device(device, self._column("earth"), self._line_before(device))
        self._point()
        rest = [d for d in self.lot.devices if (d.ref, POWER) not in self._done()]
        base = self._control_line()
        for device in power:
            if device.spec.coil_apart and device.spec.coil in device.terminals:
                self._coil(device, base)
        for device in sorted(rest, key=lambda d: _LATE.get(d.kind, 0)):
            if any(c.ref == device.ref for c in self.placing.grid.cells):
                continue
            self._device(device, self._column(_aside(device)), base)

    def _channel(self) -> None:
        """The switched output of a point at which a circuit starts, linked to its bus."""
        for wire in self.wires:
            device = self.placing.installed.devices.get(wire.start.device)
            terminal = wire.start.terminal
            if device is None or not terminal.startswith(channel_terminal("")):
                continue
            if (device.ref, terminal) in self.placing.grid.ports:
                continue
            bus = self.placing.grid.ports.get((device.ref, BUS))
            into = f"{terminal} bus"
            ports: tuple[tuple[str, Side], ...] = ((into, "left"), (terminal, "right"))
            self._cell(device, terminal, self._column("f"), self.base, ports)
            if bus is not None:
                port = self.placing.grid.ports[(device.ref, into)]
                self.placing.grid.links.append(Link(name=f"{device.ref} {terminal}", a=bus, b=port))

    def _control_line(self) -> int:
        """Coils stand right under their contacts, unless wires fan out there."""
        beside = {self._column(key) for key in ("f", "s", "k", "x")}
        used = max((n + 1 for n, column in self.taken if column in beside), default=0)
        ends = [w.start for w in self.wires if w.role == "power"]
        fans = any(ends.count(t) > 1 for t in ends if t.terminal in ("87", "2"))
        return self.lines if fans else max(self.base + 1, used)

    def _done(self) -> set[tuple[str, str]]:
        return {(c.ref, c.part) for c in self.placing.grid.cells}

    def _return_earths(self) -> set[str]:
        return {t.device for w in self.wires if w.role == "return" for t in (w.start, w.end)}

    def _column(self, key: str) -> int:
        """A column by its key; a feeder's lie ahead of its point's bar."""
        if self.lot.is_feeder and self.lot.depth:
            own = {"f": "f", "s": "x", "k": "k", "x": "x", "earth": "p", "load": "p"}.get(key, "x")
            return self.placing.at[f"{own}@{self.lot.depth}"]
        return self.placing.at[key]

    def _power(self, device: Device) -> None:
        if device.spec.coil_apart:
            contact = tuple(t for t in device.terminals if t not in ("85", "86"))
            sides = _sides(device, contact)
            if "86" not in device.terminals:
                sides += [("85", "right")]
            self._cell(device, POWER, self._column("k"), self.base, tuple(sides))
            return
        fuses = {
            c.ref for c in self.placing.grid.cells if c.line.block == self.number and c.protects
        }
        if device.spec.protects and fuses and device.ref in self.lot.path:
            self._device(device, self._column("x"), self.base)  # the one at the far end of a link
            return
        spec = device.spec
        key = "load" if spec.is_load else "f" if spec.protects else "k" if spec.is_relay else "s"
        self._device(device, self._column(key), self.base)

    def _coil(self, device: Device, base: int) -> None:
        self._cell(device, COIL, self._column("k"), base, (("86", "left"), ("85", "right")))

    def _joint(self, joint: Device) -> None:
        """A joint's two sides, each on the first line of what hangs on it; innermost first."""
        depth = self.lot.joint_depth.get(joint.ref, 1)
        for terminal, key, part in (("+", "j", POWER), ("-", "r", "return")):
            lines = self._lines_at(joint, terminal)
            if lines is not None:
                column = self._column(f"{key}{depth}")
                self._cell(
                    joint, part, column, min(lines, default=self.base), ((terminal, "both"),)
                )

    def _lines_at(self, device: Device, terminal: str = "") -> list[int] | None:
        """Lines of what hangs on a device or one terminal of it; None where no wire does."""
        found: list[int] = []
        wired = False
        for wire in self.wires:
            for near, far in ((wire.start, wire.end), (wire.end, wire.start)):
                if near.device == device.ref and terminal in ("", near.terminal):
                    wired = True
                    port = self.placing.grid.ports.get((far.device, far.terminal))
                    if port is not None and port.line is not None:
                        found.append(port.line.number)
        return found if wired else None

    def _line_before(self, earth: Device) -> int:
        """The line of what an earth point serves."""
        return min(self._lines_at(earth) or [], default=self.base)

    def _point(self) -> None:
        """The box of a point that is more than a bus, just ahead of its bar."""
        device = self.placing.installed.devices.get(self.lot.point or self._fed())
        if device is None:
            return
        spec = device.spec
        if not isinstance(spec, PointSpec):
            return
        ports: list[tuple[str, Side]] = [("in", "left")] if spec.converter is not None else []
        ports += [("battery post", "left")] if self.lot.point else []
        ports += [(t, "left") for t in spec.senses]
        ports += [(t, "left") for t in (*PULSES, COIL_END, MODULE_EARTH) if t in device.terminals]
        if not ports and spec.battery_ohm is None:
            return
        column = self.placing.at[f"p@{self.lot.depth}"]
        self._cell(
            device,
            "point",
            column,
            self.lines if spec.battery_ohm else self.base,
            (*ports, (f"{BUS} inside", "right")),
        )
        inside = self.placing.grid.ports[(device.ref, f"{BUS} inside")]
        bus = self.placing.grid.ports.get((device.ref, BUS))
        if bus is not None:
            link = Link(name=f"{device.ref} {BUS}", a=bus, b=inside)
            self.placing.grid.links.append(link)
        post = self.placing.grid.ports.get((device.ref, "battery post"))
        if post is not None:
            battery = self.placing.grid.ports[(BATTERY_DEVICE, "+")]
            link = Link(name=f"{device.ref} battery post", a=battery, b=post)
            self.placing.grid.links.append(link)

    def _fed(self) -> str:
        """Reference of the point that a feeder leads to, or an empty text."""
        if not self.lot.is_feeder:
            return ""
        circuit = self.placing.design.circuit(self.lot.owner)
        view = self.placing.design.points.get(circuit.circuit.feeds or "")
        return view.ref if view is not None else ""

    def _device(self, device: Device, column: int, line: int) -> None:
        self._cell(device, POWER, column, line, tuple(_sides(device)))

    def _cell(
        self,
        device: Device,
        part: str,
        column: int,
        line: int,
        ports: tuple[tuple[str, Side], ...],
    ) -> None:
        """Put a part of a device on the first lines that are free from ``line`` on."""
        grid = self.placing.grid
        counts = {
            side: sum(1 for _, s in ports if s in (side, "both")) for side in ("left", "right")
        }
        height = max(1, *counts.values())
        while any((line + n, column) in self.taken for n in range(height)):
            line += 1
        self.taken |= {(line + n, column) for n in range(height)}
        self.lines = max(self.lines, line + height)
        made: list[Port] = []
        seen = {"left": 0, "right": 0}
        for terminal, side in ports:
            own = "left" if side == "both" else side
            at = Line(self.number, False, line + seen[own])
            seen[own] += 1
            port = Port(
                node=node_of(device.ref, terminal),
                terminal=terminal,
                column=column,
                side=side,
                line=at,
            )
            made.append(port)
            grid.ports[(device.ref, terminal)] = port
        grid.cells.append(
            Cell(
                ref=device.ref,
                part=part,
                kind=device.kind,
                column=column,
                line=Line(self.number, False, line),
                lines=height,
                words=_words(device, part),
                title=f"{device.title}: {device.label}, {device.detail}",
                ports=tuple(made),
                protects=device.spec.protects,
            )
        )


def _bands(lots: list[_Lot]) -> list[tuple[_Lot, ...]]:
    """The rows of the sheet: all feeders in one band on top, everything else by itself."""
    feeders = tuple(lot for lot in lots if lot.is_feeder)
    rest: list[tuple[_Lot, ...]] = [(lot,) for lot in lots if not lot.is_feeder]
    return [feeders, *rest] if feeders else rest


def _sides(device: Device, only: Iterable[str] = ()) -> list[tuple[str, Side]]:
    """The side at which each terminal leaves: what gives current is right."""
    return [(t, "right" if device.spec.gives(t) else "left") for t in only or device.terminals]


def _aside(device: Device) -> str:
    """The column of a device beside the power path."""
    return {
        "fuse": "f",
        "breaker": "f",
        "earth": "x",
        "diode": "x",
        "relay": "k",
        "load": "load",
    }.get(device.kind, "s")


def _words(device: Device, part: str) -> tuple[str, ...]:
    """What stands above a device: reference and name, and its rating."""
    if part.startswith(channel_terminal("")):
        return (f"{device.title} {part.removeprefix(channel_terminal(''))}",)
    if part in (COIL, "return") or device.spec.is_earth:
        return (device.ref,)
    if isinstance(device.spec, FuseSpec):
        return (f"{device.ref} {device.spec.rating_a:g}\N{NO-BREAK SPACE}A",)
    if device.name and device.name != device.ref:
        return (f"{device.ref} {device.name}", device.detail if device.spec.is_load else "")
    return (device.ref,)


def _joint_depths(devices: list[Device], wires: tuple[Wire, ...]) -> dict[str, int]:
    """How many joints lie ahead of each joint, itself included."""
    joints = {d.ref for d in devices if d.spec.is_joint}
    ahead = {
        w.end.device: w.start.device
        for w in wires
        if w.role == "power" and w.end.device in joints and w.start.device in joints
    }

    def depth(ref: str) -> int:
        return 1 + (depth(ahead[ref]) if ref in ahead else 0)

    return {ref: depth(ref) for ref in joints}


def _depths(design: Design) -> dict[str, int]:
    """How many feeders lie between the battery and each point."""
    tree = design.plan.tree

    def depth(point_id: str, seen: frozenset[str]) -> int:
        feeder = tree.feeders.get(point_id)
        if feeder is None or feeder.start.point == BATTERY or point_id in seen:
            return 1
        return 1 + depth(feeder.start.point, seen | {point_id})

    return {p: depth(p, frozenset()) for p in design.points}


def _walk(design: Design) -> Iterator[CircuitDesign]:
    """Circuits in the order of the supply: a feeder, then all behind it; the battery's own last."""
    tree = design.plan.tree
    made = {c.circuit.id: c for c in design.circuits}
    done: set[str] = set()

    def behind(point_id: str) -> Iterator[CircuitDesign]:
        for circuit in tree.starting.get(point_id, ()):
            if circuit.id in done or circuit.id not in made:
                continue
            done.add(circuit.id)
            yield made[circuit.id]
            if circuit.feeds is not None:
                yield from behind(circuit.feeds)

    feeders = [c for c in tree.starting.get(BATTERY, ()) if c.feeds is not None]
    for feeder in feeders:
        if feeder.id in made and feeder.id not in done:
            done.add(feeder.id)
            yield made[feeder.id]
            yield from behind(feeder.feeds or "")
    yield from behind(BATTERY)
    for circuit in design.circuits:
        if circuit.circuit.id not in done:
            done.add(circuit.circuit.id)
            yield circuit


def end_of(grid: Grid, terminal: Terminal) -> Port | None:
    """Return where a wire's end is on the grid; None where its device is not placed."""
    return grid.ports.get((terminal.device, terminal.terminal))
