"""The supply as a template sees it: points by their depth, positions as rows with bars."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from ready_trail.core.budget import HALF
from ready_trail.core.budget.parting import parting
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, Design, PointDesign
from ready_trail.core.design.feeders import Copper, copper_of
from ready_trail.core.edits import StartAt
from ready_trail.core.edits.channels import why_no_channel
from ready_trail.core.installation import Device, lamps_owner
from ready_trail.core.job import BATTERY, Channel, Circuit, Point, Scenario
from ready_trail.core.kinds.finds import CONVERTER_RATIO, TAP_RATIO
from ready_trail.core.supply.tree import Tree
from ready_trail.drawing.band import split_colour, stroke_px
from ready_trail.web.pages.sheet import PinRow, terminal_rows
from ready_trail.web.pages.shell import Shell, worst

_WAKE_WORDS = {"always": "always live", "accessory": "accessory key", "run": "ignition"}
_CHEMISTRY = {"agm": "AGM", "flooded": "flooded", "lithium": "lithium"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One position of a point: what is printed, its fuse, its circuit, its amps of its limit."""

    position: str
    legend: str
    circuit: CircuitDesign | None
    state: str
    fuse: str
    fuse_colour: str
    amps: float
    limit_a: float | None
    spare: bool
    is_off: bool = False
    works: tuple[CircuitDesign, ...] = ()
    """Of a position that holds a switch: the circuits that it works."""

    @property
    def share(self) -> float:
        """Amps over the limit, at most 1. [ratio]"""
        return min(1.0, self.amps / self.limit_a) if self.limit_a else 0.0

    @property
    def over(self) -> bool:
        """Whether it carries more than its limit."""
        return self.limit_a is not None and self.amps > self.limit_a + 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A point, or the battery: its feeder as a band, its rows, its totals."""

    point_id: str
    ref: str
    name: str
    kind: str
    wakes: str
    nominal_v: float
    rows: tuple[Row, ...]
    feeder: CircuitDesign | None
    feeder_stroke: float
    feeder_base: str
    feeder_tracer: str
    feeder_words: str
    total_a: float
    limit_a: float | None
    limit_words: str
    state: str
    spare_count: int
    is_fed: bool
    children: tuple[str, ...]
    worst: str = ""
    parts_battery: bool = False
    gives_back: bool = False
    fuses_a: float = 0.0
    """Of a block, the ratings of its fuses in sum: what could flow before the last one opens."""

    @property
    def share(self) -> float:
        """What runs together over the limit, at most 1. [ratio]"""
        return min(1.0, self.total_a / self.limit_a) if self.limit_a else 0.0

    @property
    def over(self) -> bool:
        """Whether more runs together than its limit."""
        return self.limit_a is not None and self.total_a > self.limit_a + 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """One press that moves what starts at a place, with the words of the press."""

    name: str
    edit: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartedView:
    """What a disconnect leaves alive and what dies with it, each with the press that changes it."""

    lives: tuple[Move, ...]
    dies: tuple[Move, ...]
    flows_a: float
    surges_a: float
    cranking_a: float | None
    parked_days: float | None
    vehicle: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Filler:
    """A circuit that a module's channel could work: its amps, the switch that it would lose, and
    whether it is ticked at first; what a guard protects is not.
    """

    circuit_id: str
    name: str
    amps: float
    loses: str
    usual: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyView:
    """Boxes by depth, left to right; where circuits may be moved; pin-outs by point."""

    columns: tuple[tuple[Box, ...], ...]
    targets: tuple[tuple[str, str], ...]
    pins: dict[str, tuple[PinRow, ...]]
    switch_users: dict[str, tuple[str, ...]]
    copper: tuple[Copper, ...]
    parted: dict[str, PartedView]
    fillers: dict[str, tuple[Filler, ...]]


@lru_cache(maxsize=8)
def _copper(made: Design, catalogue: Catalogue) -> tuple[Copper, ...]:
    return copper_of(made.plan, catalogue)


def supply_of(shell: Shell, catalogue: Catalogue, scenario_id: str = "") -> SupplyView:
    """Return the supply tree of a job: at its worst, or with the amps of one scenario."""
    made, job = shell.design, shell.design.job
    tree = Tree(job)
    scenario = next((s for s in job.scenarios if s.id == scenario_id), None)
    on = made.plan.currents.runs.on(scenario) if scenario is not None else None
    depth = {BATTERY: 0}
    for point in job.points:
        depth[point.id] = _depth(point.id, tree)
    columns: list[list[Box]] = [[] for _ in range(max(depth.values()) + 1)]
    columns[0].append(_battery(shell, on))
    for point in sorted(job.points, key=lambda p: (depth[p.id], p.number)):
        columns[depth[point.id]].append(_box(made.points[point.id], shell, tree, scenario, on))
    targets = [(f"{BATTERY}:", "the battery")]
    for point in job.points:
        used = {c.start.position for c in job.circuits if c.start.point == point.id}
        free = [p.name for p in point.positions if p.name not in used and not p.spare]
        if not point.positions:
            targets.append((f"{point.id}:", point.name))
        targets += [(f"{point.id}:{name}", f"{point.name} {name}") for name in free]
    return SupplyView(
        copper=_copper(made, catalogue),
        columns=tuple(tuple(column) for column in columns if column),
        targets=tuple(targets),
        parted={p.id: _parted(p, made) for p in job.points if p.is_a.parts_battery},
        fillers={p.id: _fillers(p, made) for p in job.points if p.is_a.has_channels},
        pins={p.id: _pins(p, shell, catalogue) for p in job.points},
        switch_users={
            s.name: tuple(
                [c.circuit.name for c in made.circuits if c.use.switch == s.name]
                + [p.name for p in job.points if p.pulse_switch == s.name]
            )
            for s in job.switches
        },
    )


def _fillers(point: Point, made: Design) -> tuple[Filler, ...]:
    """The circuits that may go on a point's channels, as many ticked as there are free ones."""
    job = made.job
    found: list[Filler] = []
    used = {c.start.position for c in job.circuits if c.start.point == point.id}
    free = sum(p.name not in used and not p.spare for p in point.positions)
    for circuit in made.circuits:
        use = circuit.use
        there = circuit.circuit.start.point == point.id or (
            use.channel is not None and use.channel.point == point.id
        )
        if there or why_no_channel(job, circuit.circuit):
            continue
        switch = job.switch(use.switch) if use.switch else None
        guarded = switch is not None and switch.guarded
        guard = " and its guard" if guarded else ""
        usual = switch is not None and not guarded and sum(f.usual for f in found) < free
        found.append(
            Filler(
                circuit_id=circuit.circuit.id,
                name=circuit.circuit.name,
                amps=circuit.current_a,
                loses=f"the switch {switch.name}{guard}" if switch is not None else "",
                usual=usual,
            )
        )
    return tuple(found)


def _parted(point: Point, made: Design) -> PartedView:
    """What hangs on either side of a disconnect, and how to bring it to the other."""
    job = made.job
    found = parting(point, job, made.plan.tree, made.plan.currents)
    capacity_ah = job.vehicle.battery.capacity_ah
    days = HALF * capacity_ah / (24.0 * found.parked_a) if found.parked_a > 0 else None

    def moves(start: str, to: str, words: str) -> tuple[Move, ...]:
        here = [c for c in job.circuits if c.start.point == start]
        edits = [(c, StartAt(circuit_id=c.id, start=Channel(point=to))) for c in here]
        return tuple(
            Move(name=_with_behind(c, made), edit=e.model_dump_json(), words=words)
            for c, e in edits
        )

    return PartedView(
        lives=moves(BATTERY, point.id, "Put it behind"),
        dies=moves(point.id, BATTERY, "Keep it alive"),
        flows_a=found.flows_a,
        surges_a=found.surges_a,
        cranking_a=found.cranking_a,
        parked_days=days,
        vehicle=made.plan.tree.parts_vehicle(point),
    )


def _with_behind(circuit: Circuit, made: Design) -> str:
    """A circuit's name; of a feeder, what hangs behind it."""
    if circuit.feeds is None:
        return circuit.name
    members = len(made.points[circuit.feeds].members)
    return f"{made.points[circuit.feeds].point.name} with {members} circuits"


def _depth(point_id: str, tree: Tree) -> int:
    depth = 0
    while point_id != BATTERY and point_id in tree.feeders:
        depth += 1
        point_id = tree.feeders[point_id].start.point
    return depth + (point_id != BATTERY)


def _battery(shell: Shell, on: frozenset[str] | None) -> Box:
    made, job = shell.design, shell.design.job
    direct = [
        c for c in made.circuits if c.circuit.start.point == BATTERY and not c.circuit.is_feeder
    ]
    fed = tuple(
        c.feeds.name
        for c in made.feeders
        if c.circuit.start.point == BATTERY and c.feeds is not None
    )
    battery = job.vehicle.battery
    return Box(
        point_id=BATTERY,
        ref="BAT",
        name="Battery",
        kind=f"{job.vehicle.nominal_v} V, "
        f"{battery.capacity_ah:g} Ah {_CHEMISTRY[battery.chemistry]}",
        wakes="",
        nominal_v=float(job.vehicle.nominal_v),
        rows=tuple(_row("", "", c, on=on) for c in direct),
        feeder=None,
        feeder_stroke=0.0,
        feeder_base="",
        feeder_tracer="",
        feeder_words="",
        total_a=0.0,
        limit_a=None,
        limit_words="",
        state="none",
        spare_count=0,
        is_fed=True,
        children=fed,
    )


def _box(
    view: PointDesign,
    shell: Shell,
    tree: Tree,
    scenario: Scenario | None,
    on: frozenset[str] | None,
) -> Box:
    made, point = shell.design, view.point
    members = [made.circuit(i) for i in view.members]
    rows = _rows(view, members, shell, on)
    feeder = made.circuit(view.feeder_id) if view.feeder_id is not None else None
    wire = feeder.wire_on("power") if feeder is not None else None
    base, tracer = split_colour(wire.colour) if wire is not None else ("", "")
    limit_a, limit_words = _limit(point, feeder)
    waking = tree.waking(point.id)
    state = "ready" if view.is_fed else "stop"
    together_a = view.total_a if scenario is None else view.by_scenario[scenario.id]
    fused = [c.sizing.fuse.rating_a for c in members if c.sizing.fuse is not None]
    return Box(
        point_id=point.id,
        ref=view.ref,
        name=point.name,
        kind=point.is_a.words,
        wakes=_WAKE_WORDS[waking.key] if waking.lights == "any" else f"{waking.lights} lights",
        nominal_v=view.nominal_v,
        rows=tuple(rows),
        feeder=feeder,
        feeder_stroke=stroke_px(wire.conductor.area_mm2) if wire is not None else 0.0,
        feeder_base=base,
        feeder_tracer=tracer,
        feeder_words=_feeder_words(feeder),
        total_a=view.input_a if point.is_a.gives_back else together_a,
        worst=view.worst if point.together_a is None else "",
        limit_a=limit_a,
        limit_words=limit_words,
        state=worst(feeder) if feeder is not None else state,
        spare_count=sum(r.circuit is None and not r.works for r in rows),
        is_fed=view.is_fed,
        parts_battery=point.is_a.parts_battery,
        gives_back=point.is_a.gives_back,
        fuses_a=sum(fused) if point.is_a.holds_fuses else 0.0,
        children=tuple(c.feeds.name for c in members if c.feeds is not None),
    )


def _rows(
    view: PointDesign,
    members: list[CircuitDesign],
    shell: Shell,
    on: frozenset[str] | None,
) -> list[Row]:
    """The positions of a point as printed, then what starts there without one."""
    made, point = shell.design, view.point
    by_position = {c.circuit.start.position: c for c in members if c.circuit.start.position}
    sits = {s.name: s.position for s in shell.stored.job.switches if s.panel == point.id}
    named = {at: name for name, at in sits.items()}
    worked: dict[str, tuple[CircuitDesign, ...]] = {}
    for circuit in made.circuits:
        if circuit.use.switch in sits:
            at = sits[circuit.use.switch]
            worked[at] = (*worked.get(at, ()), circuit)
    rows = [
        _row(
            p.name,
            named.get(p.name, p.legend),
            by_position.get(p.name),
            limit_a=p.rating_a,
            spare=p.spare,
            works=worked.get(p.name, ()),
            on=on,
        )
        for p in point.positions
    ]
    rows += [_row("", "", c, on=on) for c in members if not c.circuit.start.position]
    return rows


def _limit(point: Point, feeder: CircuitDesign | None) -> tuple[float | None, str]:
    """The lowest of what limits a point: main, its own total, converter, tapped fuse."""
    limits: list[tuple[float, str]] = []
    if feeder is not None and feeder.sizing.fuse is not None and not point.starts_a_system:
        limits.append((feeder.sizing.fuse.holds_a, f"{feeder.sizing.fuse.rating_a:g} A main"))
    if point.total_a is not None:
        limits.append((point.total_a, "own total"))
    if point.is_a.converts and point.output_a is not None:
        limits.append(
            (CONVERTER_RATIO * point.output_a, f"{CONVERTER_RATIO:.0%} of {point.output_a:g} A")
        )
    if point.is_a.taps_a_circuit and point.fuse_a is not None:
        limits.append(
            (TAP_RATIO * point.fuse_a - point.carries_a, f"room behind {point.fuse_a:g} A")
        )
    if point.is_a.has_channel_bank and point.continuous_a is not None:
        limits.append((point.continuous_a, "continuous total"))
    return min(limits, default=(None, ""), key=lambda x: x[0] or 0.0)


def _feeder_words(feeder: CircuitDesign | None) -> str:
    if feeder is None:
        return ""
    sizing = feeder.sizing
    parts = []
    if sizing.fuse is not None:
        what = "breaker" if sizing.fuse.family.is_breaker else "fuse"
        parts.append(f"{sizing.fuse.rating_a:g} A {what}")
    if sizing.relay is not None:
        parts.append(sizing.relay.label)
    if sizing.chosen is not None:
        parts.append(sizing.chosen.conductor.label)
    return " · ".join(parts)


def _row(
    position: str,
    legend: str,
    circuit: CircuitDesign | None,
    *,
    limit_a: float | None = None,
    spare: bool = False,
    works: tuple[CircuitDesign, ...] = (),
    on: frozenset[str] | None = None,
) -> Row:
    off = (
        on is not None
        and circuit is not None
        and not circuit.circuit.is_feeder
        and circuit.circuit.id not in on
    )
    fuse = circuit.sizing.fuse if circuit is not None else None
    return Row(
        position=position,
        legend=legend,
        circuit=circuit,
        state=worst(circuit) if circuit is not None else "none",
        fuse=f"{fuse.rating_a:g}" if fuse is not None else "",
        fuse_colour=fuse.family.colours.get(fuse.rating_a, "") if fuse is not None else "",
        amps=circuit.current_a if circuit is not None and not off else 0.0,
        is_off=off,
        limit_a=fuse.holds_a if fuse is not None else limit_a,
        spare=spare,
        works=works,
    )


def _pins(point: Point, shell: Shell, catalogue: Catalogue) -> tuple[PinRow, ...]:
    """What goes on each terminal of a point and of the switches in it."""
    installation = shell.design.installation
    devices: list[Device] = [
        d
        for d in installation.devices.values()
        if d.owner in (point.id, lamps_owner(shell.design.points[point.id].ref))
    ]
    names = {s.name for s in shell.design.job.switches if s.panel == point.id}
    devices += [d for d in installation.devices.values() if d.spec.is_switch and d.name in names]
    found: list[PinRow] = []
    for device in devices:
        for row in terminal_rows(device, shell.design, catalogue, {}):
            found.append(
                PinRow(
                    terminal=row.terminal,
                    role=device.title,
                    wire=row.wire,
                    colour=row.colour,
                    goes_to=row.goes_to,
                )
            )
    return tuple(found)
