"""The power path that schemes share: fuse with its lead, contact or switch, load and way back."""

from __future__ import annotations

from ready_trail.core.installation import Joint, Piece, Terminal
from ready_trail.core.job import Circuit, Point
from ready_trail.core.job.points import BATTERY
from ready_trail.core.kinds.base import stated_seat
from ready_trail.core.kinds.fuse import BLOCK_PIN, FuseSpec
from ready_trail.core.kinds.point import BUS, EARTH
from ready_trail.core.kinds.relay import RelaySpec, RestRelaySpec
from ready_trail.core.kinds.switch import SwitchSpec, output_of
from ready_trail.core.schemes.base import Bench, fed_and_earthed
from ready_trail.core.schemes.branches import add_branches, add_joint, end_joint
from ready_trail.core.schemes.ends import add_earth, add_load
from ready_trail.core.schemes.harness import Harness, base_colour, clip, piece_at
from ready_trail.core.schemes.refs import joint_ref

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
        harness.wire(
            "feed",
            bench.start,
            begin,
            clip(bench.run, 0.0, fuse_m),
            colour=base_colour(bench.colour),
            joints=joints,
        )
    else:
        begin = bench.start
    on_bus = "" if fuse_m > 0 else begin.node
    point = bench.ask.start_point
    spec = FuseSpec(
        rating_a=fuse.rating_a,
        ohm=fuse.resistance_ohm,
        family=fuse.family,
        on_bus=on_bus,
        in_block=stated_seat(point.ends, point.ends_stud, point.takes_mm2, BLOCK_PIN)
        if point is not None
        else None,
    )
    harness.add(
        ref,
        spec,
        f"{fuse.rating_a:g} A",
        fuse.family.label,
        zone=bench.run[0].zone,
        at_m=fuse_m,
        on_the_way=True,
    )
    return out


def relay_contact(harness: Harness, supply: Terminal) -> Terminal:
    """Add the relay and the wire from the fuse to its 30; return what feeds the load."""
    ref = f"K{harness.bench.number}"
    wire_to(harness, supply, Terminal(device=ref, terminal="30"))
    add_relay(harness)
    return Terminal(device=ref, terminal="87a" if harness.bench.at_rest else "87")


def add_relay(harness: Harness) -> None:
    """Add the sized relay where it sits along the run."""
    bench = harness.bench
    ref, relay, circuit = f"K{bench.number}", bench.relay, bench.circuit
    kind = RestRelaySpec if bench.at_rest else RelaySpec
    harness.add(
        ref,
        kind(relay=relay, ambient_c=bench.relay_c),
        relay.label,
        f"coil suppression: {relay.suppression}",
        zone=piece_at(bench.run, circuit.switching_at_m).zone,
        at_m=circuit.switching_at_m,
        on_the_way=True,
    )


def path_switch(harness: Harness, supply: Terminal) -> Terminal:
    """Add the hand switch that carries the load; return its far terminal."""
    bench = harness.bench
    switch = bench.ask.switch
    if switch is None:
        raise ValueError("there is no switch to put into the path")
    ref = bench.references[f"switch {switch.name}"]
    wire_to(harness, supply, Terminal(device=ref, terminal="1"))
    harness.add(
        ref,
        SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=switch.throws),
        switch.name,
        switch_detail(switch.rating_a, switch.momentary, switch.guarded),
        name=switch.name,
        zone=piece_at(bench.run, bench.circuit.switching_at_m).zone,
        at_m=bench.circuit.switching_at_m,
        on_the_way=True,
    )
    return Terminal(device=ref, terminal=output_of(switch.throws, bench.use.throw))


def switch_detail(rating_a: float, momentary: bool, guarded: bool) -> str:
    """What a switch is, in words."""
    words = [f"rated {rating_a:g} A", "momentary" if momentary else "latching"]
    return ", ".join([*words, "guarded"] if guarded else words)


def to_load_and_back(harness: Harness, output: Terminal) -> None:
    """Add the wire to what is fed, the thing itself and the way back."""
    bench = harness.bench
    circuit = bench.circuit
    switched = any(d.spec.has_contact for d in harness.devices)
    from_m = switching_m(bench) if switched else _fuse_m(bench)
    from_m = max((d.at_m or 0.0 for d in harness.devices if d.spec.is_passage), default=from_m)
    rest = clip(bench.run, from_m, circuit.run_m)
    tail: Joint = "crimp"
    if circuit.is_feeder:
        tail = "lug"
        bus = "in" if bench.ask.tree.points[circuit.feeds or ""].is_a.converts else BUS
        plus, minus = (
            Terminal(device=bench.load, terminal=bus),
            Terminal(device=bench.load, terminal=EARTH),
        )
    else:
        sealed = any(a.tail_end == "sealed" for a in bench.accessories)
        tail = "sealed" if sealed else "crimp"
        plus = Terminal(device=bench.load, terminal=bench.job.plus_of(circuit))
        minus = Terminal(device=bench.load, terminal="-")
    if circuit.branches:
        _trunk_and_branches(harness, output, rest)
        return
    if circuit.end_fuse:
        output = _end_fuse(harness, output, rest)
        rest = clip(rest, length_m(rest) - _END_LEAD_M, length_m(rest))
    harness.wire(
        "power",
        output,
        plus,
        rest,
        colour=bench.colour,
        joints=("crimp", tail),
        tail_m=0.0 if circuit.end_fuse else _tail_m(bench),
    )
    if not circuit.is_feeder:
        _load(harness)
    if (circuit.is_feeder and not bench.back) or fed_and_earthed(bench.accessories):
        return
    if bench.leader.id != circuit.id:
        harness.needs.append(bench.leader.id)
        return
    way_back(harness, minus, tail)


def _trunk_and_branches(harness: Harness, output: Terminal, rest: tuple[Piece, ...]) -> None:
    """Lead the trunk to its joint and every branch on from there; then the trunk's return.

    On two 87 blades or two lugs the branches begin at the device itself, and run all the way.
    """
    bench = harness.bench
    circuit = bench.circuit
    ref = joint_ref(bench.number)
    at = Terminal(device=ref, terminal="+")
    joint_at_m = circuit.run_m
    if bench.joint_m is not None:
        at, joint_at_m = output, bench.joint_m
    else:
        harness.wire(
            "power",
            output,
            at,
            rest,
            colour=bench.colour,
            joints=("crimp", end_joint(circuit.joint)),
        )
    add_joint(harness, ref, circuit.joint, bench.run[-1].zone, joint_at_m)
    minus = add_branches(harness, at, tuple(harness.out))
    if minus is not None:
        way_back(harness, minus, end_joint(circuit.joint))


def _tail_m(bench: Bench) -> float:
    """How much of the way the accessory's own cable covers; of several, none is counted on. [m]"""
    return bench.accessories[0].tail_m if len(bench.accessories) == 1 else 0.0


_END_LEAD_M = 0.15


def length_m(pieces: tuple[Piece, ...]) -> float:
    """Return the length of some pieces of wire. [m]"""
    return sum(p.length_m for p in pieces)


def _end_fuse(harness: Harness, output: Terminal, rest: tuple[Piece, ...]) -> Terminal:
    """Add the second fuse of a link between two sources, close to its far end."""
    bench = harness.bench
    ref, fuse = f"F{bench.number}E", bench.fuse
    into = Terminal(device=ref, terminal="1")
    before = clip(rest, 0.0, length_m(rest) - _END_LEAD_M)
    harness.wire("power", output, into, before, colour=bench.colour, joints=("crimp", "crimp"))
    harness.add(
        ref,
        FuseSpec(rating_a=fuse.rating_a, ohm=fuse.resistance_ohm, family=fuse.family),
        f"{fuse.rating_a:g} A",
        f"{fuse.family.label}, at the far source",
        zone=bench.run[-1].zone,
        at_m=bench.circuit.run_m - _END_LEAD_M,
        on_the_way=True,
    )
    return Terminal(device=ref, terminal="2")


def _load(harness: Harness) -> None:
    """Add what is fed; of an accessory with several outputs, the first circuit brings it whole."""
    bench, job = harness.bench, harness.bench.job
    if bench.leader.id != bench.circuit.id:
        return
    loads = [(a, job.plus_of(bench.circuit)) for a in bench.accessories]
    for other in job.followers(bench.circuit):
        loads += [(a, job.plus_of(other)) for a in job.loads_of(other)]
    own = bench.accessories[0] if bench.circuit.output and bench.accessories else None
    name = job.accessory(own.id).name if own is not None else bench.circuit.name
    add_load(harness, bench.load, tuple(loads), name, bench.run[-1].zone, bench.circuit.run_m)


def way_back(harness: Harness, minus: Terminal, tail: Joint) -> None:
    """Add the return: a stub to an earth point, or the wire back."""
    bench, circuit = harness.bench, harness.bench.circuit
    if not circuit.back.on_body:
        harness.wire(
            "return",
            minus,
            bench.negative,
            bench.back,
            colour="BK",
            joints=(tail, "lug"),
            tail_m=_tail_m(bench),
        )
        return
    ref = f"G{bench.number}"
    harness.wire(
        "return",
        minus,
        Terminal(device=ref, terminal="1"),
        bench.back,
        colour="BK",
        joints=(tail, "lug"),
        tail_m=_tail_m(bench),
    )
    add_earth(harness, ref, bench.chassis_ohm, bench.run[-1].zone, circuit.run_m)
    harness.back.append(ref)


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
    return holds_fuses(point)


def holds_fuses(point: Point) -> bool:
    """Whether what starts at a point finds its fuse there."""
    return point.is_a.holds_fuses or point.switches_its_positions


def switching_m(bench: Bench) -> float:
    """Return where relay or switch sits: at least a hand's breadth behind the fuse. [m]"""
    return behind_fuse_m(bench.circuit, _fuse_m(bench))


def behind_fuse_m(circuit: Circuit, fuse_at_m: float) -> float:
    """Return the same for a circuit whose fuse sits there. [m]"""
    return max(circuit.switching_at_m, fuse_at_m + min(_JUMPER_M, circuit.run_m / 4))


def wire_to(harness: Harness, supply: Terminal, end: Terminal) -> None:
    """Add the wire from the fuse to relay or switch."""
    bench = harness.bench
    pieces = clip(bench.run, _fuse_m(bench), switching_m(bench))
    harness.wire(
        "power", supply, end, pieces, colour=base_colour(bench.colour), joints=("crimp", "crimp")
    )
