"""The power path that schemes share: fuse with its lead, contact or switch, load and way back."""

from __future__ import annotations

from ready_trail.core.devices.earth import EarthSpec
from ready_trail.core.devices.fuse import FuseSpec
from ready_trail.core.devices.load import LoadSpec
from ready_trail.core.devices.point import BUS, EARTH
from ready_trail.core.devices.relay import RelaySpec
from ready_trail.core.devices.switch import SwitchSpec, output_of
from ready_trail.core.installation import Joint, Piece, Terminal
from ready_trail.core.job import Accessory
from ready_trail.core.job.supply import BATTERY
from ready_trail.core.loads import Load
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.functions import function_wires, input_terminals
from ready_trail.core.schemes.harness import Harness, base_colour, clip, piece_at

_JUMPER_M = 0.05


def fused_lead(harness: Harness) -> Terminal:
    """Add the fuse with its lead from the source; return the fuse's load side.

    A block holds the fuse, so there is no lead; a channel brings its own protection.
    """
    bench = harness.bench
    ref, fuse = f"F{bench.number}", bench.fuse
    if bench.channel:
        return bench.start
    begin, out = Terminal(device=ref, terminal="1"), Terminal(device=ref, terminal="2")
    fuse_m = _fuse_m(bench)
    joints: tuple[Joint, Joint] = ("lug", "crimp")
    if fuse_m > 0:
        harness.wire("feed", bench.start, begin, clip(bench.run, 0.0, fuse_m),
                     colour=base_colour(bench.colour), joints=joints)  # fmt: skip
    else:
        begin = bench.start
    on_bus = "" if fuse_m > 0 else begin.node
    spec = FuseSpec(rating_a=fuse.rating_a, ohm=fuse.resistance_ohm, family=fuse.family,
                    on_bus=on_bus)  # fmt: skip
    harness.add(ref, spec, f"{fuse.rating_a:g} A", fuse.family.label, zone=bench.run[0].zone,
                at_m=fuse_m, on_the_way=True)  # fmt: skip
    return out


def relay_contact(harness: Harness, supply: Terminal) -> Terminal:
    """Add the relay and the wire from the fuse to its 30; return 87."""
    bench = harness.bench
    ref, relay, circuit = f"K{bench.number}", bench.relay, bench.circuit
    _wire_to(harness, supply, Terminal(device=ref, terminal="30"))
    harness.add(
        ref, RelaySpec(relay=relay, ambient_c=bench.relay_c), relay.label,
        f"coil suppression: {relay.suppression}",
        zone=piece_at(bench.run, circuit.switching_at_m).zone,
        at_m=circuit.switching_at_m, on_the_way=True,
    )  # fmt: skip
    return Terminal(device=ref, terminal="87")


def path_switch(harness: Harness, supply: Terminal) -> Terminal:
    """Add the hand switch that carries the load; return its far terminal."""
    bench = harness.bench
    switch = bench.ask.switch
    if switch is None:
        raise ValueError("there is no switch to put into the path")
    ref = bench.references[f"switch {switch.name}"]
    _wire_to(harness, supply, Terminal(device=ref, terminal="1"))
    harness.add(
        ref, SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=switch.throws),
        switch.name, switch_detail(switch.rating_a, switch.momentary, switch.guarded),
        name=switch.name, zone=piece_at(bench.run, bench.circuit.switching_at_m).zone,
        at_m=bench.circuit.switching_at_m, on_the_way=True,
    )  # fmt: skip
    return Terminal(device=ref, terminal=output_of(switch.throws, bench.use.throw))


def switch_detail(rating_a: float, momentary: bool, guarded: bool) -> str:
    """What a switch is, in words."""
    words = [f"rated {rating_a:g} A", "momentary" if momentary else "latching"]
    return ", ".join([*words, "guarded"] if guarded else words)


def to_load_and_back(harness: Harness, output: Terminal) -> None:
    """Add the wire to what is fed, the thing itself and the way back."""
    bench = harness.bench
    circuit = bench.circuit
    switched = any(d.kind in ("relay", "switch") for d in harness.devices)
    from_m = _switching_m(bench) if switched else _fuse_m(bench)
    rest = clip(bench.run, from_m, circuit.run_m)
    tail: Joint = "crimp"
    if circuit.is_feeder:
        tail = "lug"
        bus = "in" if bench.ask.tree.points[circuit.feeds or ""].kind in _CONVERTERS else BUS
        plus, minus = (
            Terminal(device=bench.load, terminal=bus),
            Terminal(device=bench.load, terminal=EARTH),
        )
    else:
        sealed = any(a.tail_end == "sealed" for a in bench.accessories)
        tail = "sealed" if sealed else "crimp"
        plus = Terminal(device=bench.load, terminal="+")
        minus = Terminal(device=bench.load, terminal="-")
    output = _end_fuse(harness, output, rest) if circuit.end_fuse else output
    if not circuit.end_fuse:
        harness.wire("power", output, plus, rest, colour=bench.colour, joints=("crimp", tail),
                     tail_m=_tail_m(bench))  # fmt: skip
    else:
        lead = clip(rest, _length_m(rest) - _END_LEAD_M, _length_m(rest))
        harness.wire("power", output, plus, lead, colour=bench.colour, joints=("crimp", tail))
    if not circuit.is_feeder:
        _load(harness)
        function_wires(harness)
    if circuit.is_feeder and not bench.back:
        return
    _way_back(harness, minus, tail)


def _tail_m(bench: Bench) -> float:
    """How much of the way the accessory's own cable covers; of several, none is counted on. [m]"""
    return bench.accessories[0].tail_m if len(bench.accessories) == 1 else 0.0


_CONVERTERS = ("converter", "charger")
_END_LEAD_M = 0.15


def _length_m(pieces: tuple[Piece, ...]) -> float:
    return sum(p.length_m for p in pieces)


def _end_fuse(harness: Harness, output: Terminal, rest: tuple[Piece, ...]) -> Terminal:
    """Add the second fuse of a link between two sources, close to its far end."""
    bench = harness.bench
    ref, fuse = f"F{bench.number}E", bench.fuse
    into = Terminal(device=ref, terminal="1")
    before = clip(rest, 0.0, _length_m(rest) - _END_LEAD_M)
    harness.wire("power", output, into, before, colour=bench.colour, joints=("crimp", "crimp"))
    harness.add(
        ref, FuseSpec(rating_a=fuse.rating_a, ohm=fuse.resistance_ohm, family=fuse.family),
        f"{fuse.rating_a:g} A", f"{fuse.family.label}, at the far source",
        zone=bench.run[-1].zone, at_m=bench.circuit.run_m - _END_LEAD_M, on_the_way=True,
    )  # fmt: skip
    return Terminal(device=ref, terminal="2")


def _load(harness: Harness) -> None:
    bench = harness.bench
    cut_in_v = 9.0 * bench.nominal_v / 12
    loads = tuple(
        (a.id, Load(model=a.model, rated_a=a.rated_a, rated_v=a.at_v, cut_in_v=cut_in_v))
        for a in bench.accessories
    )
    harness.add(
        bench.load, LoadSpec(loads=loads, inputs=input_terminals(bench.accessories)),
        bench.circuit.name, _load_detail(bench.accessories), zone=bench.run[-1].zone,
        at_m=bench.circuit.run_m, name=bench.circuit.name,
    )  # fmt: skip


def _way_back(harness: Harness, minus: Terminal, tail: Joint) -> None:
    bench, circuit = harness.bench, harness.bench.circuit
    if circuit.back.kind != "chassis":
        harness.wire("return", minus, bench.negative, bench.back, colour="BK",
                     joints=(tail, "lug"), tail_m=_tail_m(bench))  # fmt: skip
        return
    ref = f"G{bench.number}"
    harness.wire("return", minus, Terminal(device=ref, terminal="1"), bench.back, colour="BK",
                 joints=(tail, "lug"), tail_m=_tail_m(bench))  # fmt: skip
    add_earth(harness, ref, bench.chassis_ohm, bench.run[-1].zone, circuit.run_m)
    harness.back.append(ref)


def add_earth(harness: Harness, ref: str, ohm: float, zone: str, at_m: float | None) -> None:
    """Add a chassis point with the body's resistance back to the battery."""
    harness.add(ref, EarthSpec(ohm=ohm), "Earth point", "clean metal, bolted lug", zone=zone,
                at_m=at_m)  # fmt: skip


def fuse_m(bench: Bench) -> float:
    """Where the fuse sits along the run: on the bus of a block, or as stated. [m]"""
    return _fuse_m(bench)


def _fuse_m(bench: Bench) -> float:
    return 0.0 if holds_its_fuses(bench) else bench.circuit.fuse_at_m


def holds_its_fuses(bench: Bench) -> bool:
    """Whether the fuse sits in the point at which the circuit starts."""
    point = bench.ask.start_point
    if bench.circuit.start.point == BATTERY or point is None:
        return False
    return point.kind in ("fuse_block", "relay_block", "switch_panel") or bench.channel


def _switching_m(bench: Bench) -> float:
    """Where relay or switch sits: at least a hand's breadth behind the fuse. [m]"""
    least_m = _fuse_m(bench) + min(_JUMPER_M, bench.circuit.run_m / 4)
    return max(bench.circuit.switching_at_m, least_m)


def _wire_to(harness: Harness, supply: Terminal, end: Terminal) -> None:
    bench = harness.bench
    pieces = clip(bench.run, _fuse_m(bench), _switching_m(bench))
    harness.wire("power", supply, end, pieces, colour=base_colour(bench.colour),
                 joints=("crimp", "crimp"))  # fmt: skip


def _load_detail(accessories: tuple[Accessory, ...]) -> str:
    parts = []
    for accessory in accessories:
        each = f"{accessory.watts:g} W" if accessory.watts else f"{accessory.amps:g} A"
        count = f"{accessory.quantity} × " if accessory.quantity > 1 else ""
        tail = f", {accessory.tail_m:g} m of its own cable" if accessory.tail_m else ""
        parts.append(f"{count}{each} at {accessory.at_v:g} V{tail}")
    return " + ".join(parts)
