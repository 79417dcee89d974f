"""Parts that circuits share: points, and hand switches with their feeds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.colours import control_colour
from ready_trail.core.conductors import Conductor, ampacity_a
from ready_trail.core.design.request import channel_fuse
from ready_trail.core.design.thin_wires import ThinWires
from ready_trail.core.errors import TableError
from ready_trail.core.installation import Device, Parts, Terminal
from ready_trail.core.job import BATTERY, Job, Point, Switch, Use
from ready_trail.core.kinds.base import stated_seat
from ready_trail.core.kinds.battery import BatterySpec
from ready_trail.core.kinds.earth import CHASSIS_OHM, EarthSpec
from ready_trail.core.kinds.fuse import control_fuse_spec
from ready_trail.core.kinds.keypad import KeypadSpec
from ready_trail.core.kinds.point import (
    BUS,
    COIL,
    MODULE_EARTH,
    PULSES,
    ChannelSpec,
    ConverterSpec,
    PointSpec,
    channel_terminal,
)
from ready_trail.core.kinds.switch import LAMP, SwitchSpec
from ready_trail.core.schemes.control import headlamps, vehicle_feed
from ready_trail.core.schemes.power import switch_detail
from ready_trail.core.supply.currents import LAMP_A
from ready_trail.core.supply.tree import Tree, closed_when
from ready_trail.core.working import channel_contact

CONTROL_FUSE_MOST_A = 5.0
_SENSE_M = 1.0
_LAMP_EARTH_M = 0.3
_TAP_M = 0.15
_LINK_M = 0.05
_MOST_FOR_105_C = 85.0
"""Above this air a control wire takes the hotter class, to keep 20 K of rise (house). [°C]"""
_CHANNEL_DROP_V = 0.10
_PULSE_A, _PULSE_M, _PULSE_FEED_M = 4.0, 2.5, 2.0
"""What a latching coil takes for its half second, and the usual ways of its wires (house)."""


def references(job: Job) -> dict[str, str]:
    """Return the reference of every point, switch and accessory circuit, by what names it."""
    refs = {point.id: f"{point.is_a.letter}{point.number}" for point in job.points}
    refs[BATTERY] = "BAT"
    refs |= {f"switch {switch.name}": f"S{switch.number}" for switch in job.switches}
    refs |= {c.id: f"L{job.leader(c).number}" for c in job.circuits if not c.is_feeder}
    return refs


def vehicle_parts(job: Job) -> Parts:
    """Return what is always there: the battery."""
    stated = job.vehicle.battery
    device = Device(
        ref="BAT",
        spec=BatterySpec(ohm=stated.resistance_mohm * 1e-3, stud=stated.stud or "M8"),
        owner="",
        label="Battery",
        name="Battery",
        at_m=0.0,
        detail=f"{job.vehicle.nominal_v} V {stated.capacity_ah:g} Ah {stated.chemistry.upper()}",
    )
    return Parts(owner="", devices=(device,))


def point_parts(point: Point, tree: Tree, ref: str, catalogue: Catalogue) -> Parts:
    """Return a distribution point as a device."""
    feeder = tree.feeders.get(point.id)
    ratio = float(point.output_v or tree.job.vehicle.nominal_v) / 12.0
    converter = None
    output_v = point.is_a.output_12_v
    if output_v is not None:
        in_v = tree.nominal_v(feeder.start.point) if feeder else 12.0
        converter = ConverterSpec(
            set_v=output_v * ratio,
            limit_a=point.output_a or 1.0,
            efficiency_ratio=point.efficiency_ratio,
            cut_in_v=point.cut_in_v or 10.0 * in_v / 12.0,
            enabled=closed_when(Use(key=point.key, lights=point.lights)),
        )
    live = closed_when(Use(key=point.key, lights=point.lights))
    if point.is_a.parts_battery:
        live = replace(live, unless=point.opened)
    spec = PointSpec(
        is_a=point.is_a,
        channels=_channels(point, tree, catalogue),
        has_earth=point.earth_bus or point.starts_a_system,
        senses=tuple(_sensed(point, tree)),
        vehicle_feed=live if point.fed_by_vehicle else None,
        feed_ohm=point.feed_ohm,
        pulse_ohm=tree.job.vehicle.nominal_v / _PULSE_A if point.pulse_switch else None,
        vehicle_behind=point.vehicle_behind and tree.main_post is None,
        stated=stated_seat(point.ends, point.ends_stud, point.takes_mm2, point.is_a.position),
        converter=converter,
        battery_ohm=point.battery.resistance_mohm * 1e-3 if point.battery else None,
        battery_v=12.7 * ratio,
    )
    count = len(point.positions)
    detail = f"{count} position{'' if count == 1 else 's'}" if count else point.note or "one stud"
    device = Device(
        ref=ref,
        spec=spec,
        owner=point.id,
        label=point.name,
        detail=detail,
        name=point.name,
        zone=point.zone,
    )
    needs = (feeder.id,) if feeder is not None else ()
    thin = thin_wires(tree.job, catalogue, owner=point.id, ref=ref, zone=point.zone)
    sensed = _sense_wires(point, tree, thin)
    if point.is_a.own_earth:
        beside, earth = _earth_beside(tree.job, f"G{point.number}M", point.id, point.zone)
        thin.add(
            "control_return", Terminal(device=ref, terminal=MODULE_EARTH), earth, _LAMP_EARTH_M
        )
        sensed += beside
    pads = (_keypad(point, ref),) if point.is_a.has_keypad else ()
    devices = (device, *sensed, *pads)
    return Parts(owner=point.id, devices=devices, wires=tuple(thin.made), needs=needs)


def thin_wires(job: Job, catalogue: Catalogue, *, owner: str, ref: str, zone: str) -> ThinWires:
    """Return the thin wires of what sits in a zone, none drawn yet."""
    place = catalogue.zones[zone]
    class_c = max(job.rules.insulation_c, 105)
    return ThinWires(
        job=job,
        owner=owner,
        ref=ref,
        zone=zone,
        ambient_c=place.ambient_c,
        conductor=control_conductor(job, place.ambient_c, place.minimum_mm2, class_c, catalogue),
        insulation_c=class_c,
    )


def _keypad(point: Point, ref: str) -> Device:
    """The keypad of a module, in the cabin."""
    name = f"Keypad of {point.name}"
    return Device(
        ref=f"{ref}K",
        spec=KeypadSpec(),
        owner=point.id,
        label=name,
        detail="plugs in by its own cable",
        name=name,
        zone="cabin",
    )


def _sensed(point: Point, tree: Tree) -> dict[str, str]:
    """The terminals at which a point listens to the vehicle, and the signal of each: an isolator to
    lamps, a converter to its enable wire, a module to the keys that its channels follow.
    """
    if point.copies_signals:
        uses = _copied(point, tree).values()
        return {f"sense {u.follows}": u.follows for u in uses if u.follows != "always"}
    own = Use(key=point.key, lights=point.lights)
    if point.is_a.converts and own.follows != "always":
        return {"enable": own.follows}
    if point.is_a.has_channels and point.is_a.own_earth:
        fed = tree.waking(point.id).key
        later = {p.wakes for p in point.positions if p.wakes} - {fed, "always"}
        return {f"key {key}": key for key in sorted(later)}
    return {}


def _sense_wires(point: Point, tree: Tree, thin: ThinWires) -> list[Device]:
    """Draw wires to a point's own inputs: lamp signals of an isolator, a converter's enable."""
    devices: list[Device] = []
    for terminal, signal in _sensed(point, tree).items():
        own = control_colour(point.number + len(thin.made))
        start = _signal(tree.job, Use(key="always"), devices, signal)
        thin.add("function", start, Terminal(device=thin.ref, terminal=terminal), _SENSE_M, own)
    return devices


def _channels(point: Point, tree: Tree, catalogue: Catalogue) -> tuple[ChannelSpec, ...]:
    if not point.switches_its_positions:
        return ()
    blade = catalogue.fuse_family("blade")
    followers = _copied(point, tree)
    found = []
    for position in point.positions:
        woken = closed_when(Use(key=position.wakes or "always"))
        closed = replace(woken, switch=channel_contact(point, position.name))
        if point.is_a.is_cut:
            closed = closed_when(Use(key="always"))  # the vehicle's switch is ahead
        use = followers.get(position.name)
        if point.copies_signals and use is not None:
            wire = use if use.follows == use.key else use.model_copy(update={"key": "always"})
            closed = closed_when(wire)  # it copies that wire, whatever the key does
        rating_a = channel_fuse(point, position.name, blade)
        found.append(
            ChannelSpec(
                position=position.name,
                closed=closed,
                rating_a=rating_a,
                fuse_ohm=_CHANNEL_DROP_V / rating_a,
                gates=blade.gates,
            )
        )
    return tuple(found)


def _copied(point: Point, tree: Tree) -> dict[str, Use]:
    """What each output of a point is used for: by a circuit that starts there, or as a trigger."""
    found = {c.start.position: tree.job.use_of(c) for c in tree.starting.get(point.id, ())}
    for use in tree.job.uses():
        if use.channel is not None and use.channel.point == point.id:
            found.setdefault(use.channel.position, use)
    return found


def control_conductor(
    job: Job, relay_c: float, minimum_mm2: float, insulation_c: int, catalogue: Catalogue
) -> Conductor:
    """Return the thinnest wire that is sturdy enough there and outlives the control fuse.

    Where the air leaves its class no rise at all, the thinnest sturdy one stands in: the review
    stops such a run for its insulation.
    """
    sturdy = [
        c
        for c in catalogue.wires(job.rules.system, job.rules.wire_kind)
        if c.area_mm2 >= max(minimum_mm2, job.rules.control_mm2)
    ]
    for conductor in sturdy:
        carries_a = ampacity_a(
            conductor, insulation_c=insulation_c, ambient_c=relay_c, loaded_conductors=1
        )
        if carries_a >= CONTROL_FUSE_MOST_A:
            return conductor
    if not sturdy:
        raise TableError("no wire for the control circuit in the catalogue")
    return sturdy[0]


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchUse:
    """A hand switch that feeds coils: the number of who uses it first, which gives the colour, and
    the run from its signal to it.
    """

    switch: Switch
    number: int
    use: Use
    feed_m: float
    zone: str
    ambient_c: float


def switch_parts(
    asked: SwitchUse, tree: Tree, refs: Mapping[str, str], catalogue: Catalogue
) -> Parts:
    """Return a hand switch with the wires that bring its feed.

    In a panel with a feed of its own it is a link on the panel's bus; alone it has a fused wire
    from the vehicle's signal.
    """
    job, switch, use = tree.job, asked.switch, asked.use
    ref = refs[f"switch {switch.name}"]
    device = _switch(switch, ref, job)
    devices: list[Device] = [device]
    thin = _switch_wires(asked, job, ref, catalogue)
    into, own = Terminal(device=ref, terminal="1"), control_colour(asked.number)
    if switch.shows_on:
        earth, end = _lamp_earth(job, switch, asked.zone)
        devices += earth
        thin.add("control_return", Terminal(device=ref, terminal=LAMP), end, _LAMP_EARTH_M)
    panel = tree.panel_feed(switch, use)
    needs: tuple[str, ...] = ()
    if panel is not None:
        needs = (panel.id,)
        thin.add("control", Terminal(device=refs[panel.id], terminal=BUS), into, _LINK_M, own)
    elif use.channel is not None:
        needs = (use.channel.point,)
        output = channel_terminal(use.channel.position)
        start = Terminal(device=refs[use.channel.point], terminal=output)
        thin.add("control", start, into, asked.feed_m, own)
    else:
        source = _signal(job, use, devices)
        fuse = control_fuse(f"F{switch.number}S", ref, job, catalogue)
        devices.append(fuse)
        thin.add("control", source, Terminal(device=fuse.ref, terminal="1"), _TAP_M, own)
        behind = Terminal(device=fuse.ref, terminal="2")
        thin.add("control", behind, into, asked.feed_m, own)
    return Parts(owner=ref, devices=tuple(devices), wires=tuple(thin.made), needs=needs)


def _switch(switch: Switch, ref: str, job: Job) -> Device:
    """A hand switch."""
    return Device(
        ref=ref,
        spec=SwitchSpec(
            name=switch.name,
            rating_a=switch.rating_a,
            throws=switch.throws,
            lamp_ohm=job.vehicle.nominal_v / LAMP_A if switch.shows_on else None,
        ),
        owner=ref,
        label=switch.name,
        name=switch.name,
        zone="cabin",
        detail=switch_detail(switch.rating_a, switch.momentary, switch.guarded),
    )


def _switch_wires(asked: SwitchUse, job: Job, ref: str, catalogue: Catalogue) -> ThinWires:
    """The wires of a switch, none drawn yet."""
    zone = catalogue.zones[asked.zone]
    class_c = max(job.rules.insulation_c, 105 if asked.ambient_c <= _MOST_FOR_105_C else 125)
    return ThinWires(
        job=job,
        owner=ref,
        ref=ref,
        zone=asked.zone,
        ambient_c=asked.ambient_c,
        conductor=control_conductor(job, asked.ambient_c, zone.minimum_mm2, class_c, catalogue),
        insulation_c=class_c,
    )


def control_fuse(ref: str, owner: str, job: Job, catalogue: Catalogue) -> Device:
    """Return the fuse in the feed of a small circuit."""
    rating_a = job.rules.control_fuse_a
    return Device(
        ref=ref,
        owner=owner,
        label=f"{rating_a:g} A",
        detail="control fuse, blade",
        spec=control_fuse_spec(rating_a, catalogue.control_fuses(job.vehicle.nominal_v)),
    )


def pulse_parts(
    point: Point, tree: Tree, refs: Mapping[str, str], catalogue: Catalogue
) -> Parts | None:
    """Return the switch that works a disconnect, with its wires; None where a hand does.

    Its feed comes from the battery's side: from behind it could never be closed again.
    """
    job = tree.job
    switch = job.switch(point.pulse_switch)
    if switch is None:
        return None
    zone = catalogue.zones[point.zone]
    asked = SwitchUse(
        switch=switch,
        number=point.number,
        use=Use(key="always"),
        feed_m=_PULSE_FEED_M,
        zone=point.zone,
        ambient_c=zone.ambient_c,
    )
    made = switch_parts(asked, tree, refs, catalogue)
    ref = refs[point.id]
    thin = replace(_switch_wires(asked, job, made.owner, catalogue), made=list(made.wires))
    earths, earth = _earth_beside(job, f"G{point.number}Q", point.id, point.zone)
    outputs = SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=switch.throws).outputs
    for at, (output, pulse) in enumerate(zip(outputs, PULSES, strict=False), start=1):
        start, end = (
            Terminal(device=d, terminal=t) for d, t in ((made.owner, output), (ref, pulse))
        )
        thin.add("control", start, end, _PULSE_M, control_colour(asked.number + at))
    thin.add("control_return", Terminal(device=ref, terminal=COIL), earth, _LAMP_EARTH_M)
    return replace(
        made,
        devices=(*made.devices, *earths),
        wires=tuple(thin.made),
        needs=tuple(dict.fromkeys((*made.needs, point.id))),
    )


def _lamp_earth(job: Job, switch: Switch, zone: str) -> tuple[list[Device], Terminal]:
    """Where a switch's own lamp is earthed."""
    return _earth_beside(job, f"G{switch.number}S", f"S{switch.number}", zone)


def _earth_beside(job: Job, ref: str, owner: str, zone: str) -> tuple[list[Device], Terminal]:
    """An earth on the metal beside it, or the battery's post in a composite body."""
    if job.vehicle.body == "composite":
        return [], Terminal(device="BAT", terminal="-")
    earth = Device(
        ref=ref,
        owner=owner,
        label="Earth point",
        zone=zone,
        detail="clean metal, bolted lug",
        spec=EarthSpec(ohm=CHASSIS_OHM["bonded"]),
    )
    return [earth], Terminal(device=ref, terminal="1")


def _signal(job: Job, use: Use, devices: list[Device], signal: str = "") -> Terminal:
    signal = signal or use.follows
    if signal in ("low", "high"):
        devices.append(headlamps(job))
        return Terminal(device="HL", terminal=signal)
    if signal == "always":
        return Terminal(device="BAT", terminal="+")
    device, end = vehicle_feed(job, signal)
    devices.append(device)
    return end
