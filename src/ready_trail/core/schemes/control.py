"""The control path that schemes share: what feeds a coil, its fuse, its switch, its earth."""

from __future__ import annotations

from ready_trail.core.installation import Device, Duty, Piece, Terminal
from ready_trail.core.job import Job
from ready_trail.core.kinds.earth import CHASSIS_OHM, EarthSpec
from ready_trail.core.kinds.fuse import control_fuse_spec
from ready_trail.core.kinds.point import channel_terminal
from ready_trail.core.kinds.switch import SwitchSpec, output_of
from ready_trail.core.kinds.vehicle import FeedSpec, HeadlampsSpec
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.harness import Harness, piece_at
from ready_trail.core.states import WITH_ACCESSORY, WITH_IGNITION, WITH_SIDE, Closed

_BATTERY_TAP_M = 0.15
_JUMPER_M = 0.10
_EARTH_STUB_M = 0.3
_FEEDS: dict[str, tuple[str, str, str, Closed]] = {
    "accessory": ("ACC", "Accessory feed", "accessory", WITH_ACCESSORY),
    "run": ("IGN", "Ignition feed", "ignition", WITH_IGNITION),
    "side": ("SIDE", "Side-light feed", "illumination", WITH_SIDE),
    "brake": ("BRK", "Brake-light wire", "brake", Closed(signal="brake")),
    "left": ("LEFT", "Left turn wire", "left", Closed(signal="left")),
    "right": ("RIGHT", "Right turn wire", "right", Closed(signal="right")),
    "reverse": ("REV", "Reverse-light wire", "reverse", Closed(signal="reverse")),
    "charging": ("CHG", "Charge-lamp wire", "charging", Closed(signal="charging")),
}


def known_wire(job: Job, function: str) -> str:
    """Words for the wire that the survey proved to have this function, or an empty text."""
    return next((k.words for k in job.survey.known if k.function == function), "")


def vehicle_feed(job: Job, which: str) -> tuple[Device, Terminal]:
    """A vehicle feed that is live in some states: accessory, run or side."""
    ref, label, function, closed = _FEEDS[which]
    detail = known_wire(job, function) or "find and test it; use as a trigger only"
    device = Device(
        ref=ref,
        spec=FeedSpec(closed=closed, signal=which),
        owner="",
        label=label,
        detail=detail,
        name=label,
    )
    return device, Terminal(device=ref, terminal="1")


def headlamps(job: Job) -> Device:
    """The headlamps with their low and high wires, switched on the side this vehicle does it."""
    vehicle = job.vehicle
    proved = [
        f"{name} {known_wire(job, function)}"
        for name, function in (("high beam", "high_beam"), ("low beam", "low_beam"))
        if known_wire(job, function)
    ]
    spec = HeadlampsSpec(
        side=vehicle.headlamps,
        common_always=vehicle.headlamp_common == "always",
        nominal_v=float(vehicle.nominal_v),
    )
    detail = f"switched on the {vehicle.headlamps} side"
    return Device(
        ref="HL",
        spec=spec,
        owner="",
        label="Headlamps",
        name="Headlamps",
        detail="; ".join((detail, *proved)),
    )


def signal_terminal(harness: Harness, signal: str) -> Terminal:
    """Add the vehicle's feed or lamp wire of that name; return where it is picked up."""
    job = harness.bench.job
    if signal in ("low", "high"):
        harness.devices.append(headlamps(job))
        return Terminal(device="HL", terminal=signal)
    if signal == "always":
        return Terminal(device="BAT", terminal="+")
    device, end = vehicle_feed(job, signal)
    harness.devices.append(device)
    return end


def wanted_signal(bench: Bench) -> str:
    """The vehicle signal that the use asks for: lights before key."""
    use = bench.use
    return use.follows


def key_feed(harness: Harness) -> Terminal:
    """Return the coil's live side: a channel, or the feed that the use asks for, fused."""
    channel = harness.bench.use.channel
    if channel is not None:
        harness.needs.append(channel.point)
        ref = harness.bench.references[channel.point]
        return Terminal(device=ref, terminal=channel_terminal(channel.position))
    return control_fuse(harness, signal_terminal(harness, wanted_signal(harness.bench)))


def control_fuse(
    harness: Harness, source: Terminal, *, suffix: str = "T", role: Duty = "control"
) -> Terminal:
    """Add the control circuit's own fuse next to its source; return the fuse's far side."""
    bench = harness.bench
    rating_a = bench.job.rules.control_fuse_a
    ref = f"F{bench.number}{suffix}"
    begin, out = Terminal(device=ref, terminal="1"), Terminal(device=ref, terminal="2")
    harness.wire(
        role, source, begin, (control_piece(bench, _BATTERY_TAP_M),), colour=bench.control_colour
    )
    spec = control_fuse_spec(rating_a, bench.catalogue.control_fuses(bench.job.vehicle.nominal_v))
    harness.add(ref, spec, f"{rating_a:g} A", "control fuse, blade")
    return out


def switched_feed(harness: Harness) -> Terminal:
    """Return the live side of the coil behind its hand switch, or the feed where there is none.

    The switch and its feed are parts of their own: several circuits may share them.
    """
    bench = harness.bench
    switch = bench.ask.switch
    if switch is None:
        return key_feed(harness)
    ref = bench.references[f"switch {switch.name}"]
    harness.needs.append(ref)
    return Terminal(device=ref, terminal=output_of(switch.throws, bench.use.throw))


def own_switch(harness: Harness, supply: Terminal | None, *, from_relay: bool = False) -> Terminal:
    """Put this circuit's switch into a control wire of its own; return its far side.

    Without ``supply`` the wires to it are there already. ``from_relay`` tells that it comes from
    the coil, not from the signal.
    """
    bench = harness.bench
    switch = bench.ask.switch
    if switch is None:
        if supply is None:
            raise ValueError("there is no switch")
        return supply
    ref = bench.references[f"switch {switch.name}"]
    into = Terminal(device=ref, terminal="1")
    if supply is not None:
        control_wire(harness, supply, into, control_parts_m(bench)[1 if from_relay else 0])
    detail = f"rated {switch.rating_a:g} A"
    harness.add(
        ref,
        SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=switch.throws),
        switch.name,
        detail,
        name=switch.name,
        zone="cabin",
    )
    return Terminal(device=ref, terminal=output_of(switch.throws, bench.use.throw))


def control_to(harness: Harness, supply: Terminal, end: Terminal) -> None:
    """Lead a control wire on: what is left after the hand switch, or the whole control run."""
    control_wire(harness, supply, end, control_parts_m(harness.bench)[1])


def control_past(harness: Harness, start: Terminal, end: Terminal) -> None:
    """Lead a control wire between signal and relay that does not stop at the hand switch: never
    longer than by way of it.
    """
    control_wire(harness, start, end, harness.bench.circuit.control_m)


def control_back(harness: Harness, start: Terminal, end: Terminal) -> None:
    """Lead a control wire from the hand switch back to the signal; without one from the relay."""
    bench = harness.bench
    to_switch_m, whole_m = control_parts_m(bench)
    control_wire(harness, start, end, whole_m if bench.ask.switch is None else to_switch_m)


def jumper_from_30(harness: Harness, end: Terminal) -> None:
    """Feed a coil end from this relay's own 30 through a small fuse: a hand's breadth of wire."""
    fused = control_fuse(harness, coil_end(harness, "30"))
    control_wire(harness, fused, end, _JUMPER_M)


def control_wire(harness: Harness, start: Terminal, end: Terminal, length_m: float) -> None:
    """Add one control wire of a length."""
    bench = harness.bench
    harness.wire(
        "control", start, end, (control_piece(bench, length_m),), colour=bench.control_colour
    )


def control_parts_m(bench: Bench) -> tuple[float, float]:
    """The control run up to the hand switch and beyond; all of it beyond without a switch. [m]"""
    total_m = bench.circuit.control_m
    if bench.ask.switch is None:
        return 0.0, total_m
    to_switch_m = bench.circuit.control_switch_m or total_m / 2
    return min(to_switch_m, total_m - 0.02), max(total_m - to_switch_m, 0.02)


def coil_end(harness: Harness, terminal: str) -> Terminal:
    """A coil terminal of this circuit's relay."""
    return Terminal(device=f"K{harness.bench.number}", terminal=terminal)


def coil_to_earth(harness: Harness, start: Terminal) -> None:
    """Earth the coil at a chassis point near the relay, or at the battery in a composite body."""
    bench = harness.bench
    if bench.job.vehicle.body == "composite":
        # its block's earth, where it has one: no ring more at the post
        by_bus = bench.circuit.back.by_bus
        end = bench.negative if by_bus else Terminal(device="BAT", terminal="-")
        harness.wire(
            "control_return",
            start,
            end,
            (control_piece(bench, control_parts_m(bench)[1]),),
            colour="BK",
        )
        return
    ref = f"G{bench.number}T"
    zone = piece_at(bench.run, bench.circuit.switching_at_m).zone
    harness.wire(
        "control_return",
        start,
        Terminal(device=ref, terminal="1"),
        (control_piece(bench, _EARTH_STUB_M),),
        colour="BK",
    )
    harness.add(
        ref,
        EarthSpec(ohm=CHASSIS_OHM["bonded"]),
        "Earth point",
        "clean metal, bolted lug",
        zone=zone,
        of_coil=True,
    )


def control_piece(bench: Bench, length_m: float) -> Piece:
    """A control wire as one piece in the relay's air."""
    return Piece(
        zone=piece_at(bench.run, bench.circuit.switching_at_m).zone,
        ambient_c=bench.relay_c,
        conductor_c=bench.relay_c,
        length_m=length_m,
        loaded_conductors=1,
    )
