"""Parts that schemes share: the power path, the coil's control path, switch and earth."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.job import Accessory
from ready_trail.core.loads import Load
from ready_trail.core.network import (
    GROUND,
    Coil,
    Element,
    LoadElement,
    RelayContact,
    Resistor,
    SwitchContact,
)
from ready_trail.core.relays import coil_resistance_ohm, pull_in_v
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.vehicle_side import feed, headlamps
from ready_trail.core.sizing.records import SWITCH_CONTACT_OHM
from ready_trail.core.states import Closed
from ready_trail.core.wiring import Device, End, Joint, Piece, Wire, WireRole, Wiring

CHASSIS_OHM = {"bonded": 0.002, "poor": 0.010}
"""The body on the way back: bonded steel, and a poor one (house)."""

_CONTROL_FUSE_DROP_V = 0.10
_BATTERY_TAP_M = 0.15
_JUMPER_M = 0.05


class Harness:
    """Collects devices and wires of one circuit, numbering the wires as they come."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.devices: list[Device] = list(bench.supply.devices)
        self.wires: list[Wire] = list(bench.supply.wires)
        self._wire_number = 0

    def add(self, device: Device) -> None:
        """Add a device."""
        self.devices.append(device)

    def wire(
        self,
        role: WireRole,
        start: End,
        end: End,
        pieces: tuple[Piece, ...],
        *,
        colour: str,
        joints: tuple[Joint | None, Joint | None] = (None, None),
    ) -> None:
        """Add the next wire of the circuit."""
        bench = self.bench
        self._wire_number += 1
        control = role in ("control", "control_return")
        self.wires.append(
            Wire(
                label=f"C{bench.number}-W{self._wire_number}",
                role=role,
                start=start,
                end=end,
                conductor=bench.control_conductor if control else bench.conductor,
                insulation_c=bench.job.rules.insulation_c,
                colour=colour,
                pieces=pieces,
                start_joint=joints[0],
                end_joint=joints[1],
            )
        )

    def wiring(self) -> Wiring:
        """Return what was collected."""
        return Wiring(devices=tuple(self.devices), wires=tuple(self.wires))


def start_end(bench: Bench) -> End:
    """Where the circuit takes its current: the battery's post, or the block's bus."""
    if bench.circuit.source == "block":
        return End(device="B1", terminal="bus")
    return End(device="BAT", terminal="+")


def fused_lead(harness: Harness) -> End:
    """Add the fuse with its lead from the source; return the fuse's load side."""
    bench = harness.bench
    ref, fuse, circuit = f"F{bench.number}", bench.fuse, bench.circuit
    begin = End(device=ref, terminal="1")
    out = End(device=ref, terminal="2")
    fed_by_block = circuit.source == "block"
    a = start_end(bench).node if fed_by_block else begin.node
    harness.add(
        Device(
            ref=ref,
            kind="fuse",
            label=f"{fuse.rating_a:g} A",
            detail=fuse.family.label,
            terminals=("1", "2"),
            zone=bench.run[0].zone,
            at_m=0.0 if fed_by_block else circuit.fuse_at_m,
            elements=(
                Resistor(name=ref.lower(), a=a, b=out.node, ohm=fuse.resistance_ohm, kind="fuse"),
            ),
        )
    )
    if not fed_by_block:
        lead = clip(bench.run, 0.0, circuit.fuse_at_m)
        harness.wire("feed", start_end(bench), begin, lead, colour=base_colour(bench.colour),
                     joints=("lug", "crimp"))  # fmt: skip
    return out


def relay_contact(harness: Harness, supply: End) -> End:
    """Add the relay and the wire from the fuse to its 30; return 87."""
    bench = harness.bench
    ref, relay, circuit = f"K{bench.number}", bench.relay, bench.circuit
    supply_in, output = End(device=ref, terminal="30"), End(device=ref, terminal="87")
    coil = f"{ref.lower()}_coil"
    elements: list[Element] = [
        RelayContact(
            name=f"{ref.lower()}_30_87", a=supply_in.node, b=output.node,
            ohm=relay.contact_mohm * 1e-3, coil=coil,
        ),
        Coil(
            name=coil, a=f"{ref.lower()}_86", b=f"{ref.lower()}_85",
            ohm=coil_resistance_ohm(relay, bench.relay_c),
            pull_in_v=pull_in_v(relay, bench.relay_c), release_v=relay.release_v,
        ),
    ]  # fmt: skip
    terminals: tuple[str, ...] = ("30", "85", "86", "87")
    if relay.has_rest_contact:
        terminals = (*terminals, "87a")
        elements.insert(
            1,
            RelayContact(
                name=f"{ref.lower()}_30_87a", a=supply_in.node, b=f"{ref.lower()}_87a",
                ohm=relay.contact_mohm * 1e-3, coil=coil, makes=False,
            ),
        )  # fmt: skip
    harness.add(
        Device(
            ref=ref, kind="relay", label=relay.label,
            detail=f"coil suppression: {relay.suppression}",
            terminals=terminals, zone=piece_at(bench.run, circuit.switching_at_m).zone,
            at_m=circuit.switching_at_m, elements=tuple(elements),
        )
    )  # fmt: skip
    _wire_to(harness, supply, supply_in)
    return output


def path_switch(harness: Harness, supply: End) -> End:
    """Add a hand switch that carries the load; return its far terminal."""
    bench = harness.bench
    into, out = _switch(harness, ohm=SWITCH_CONTACT_OHM, at_m=bench.circuit.switching_at_m)
    _wire_to(harness, supply, into)
    return out


def to_load_and_back(harness: Harness, output: End) -> None:
    """Add the wire to the accessories, the accessories and the way back."""
    bench = harness.bench
    circuit, number = bench.circuit, bench.number
    load = f"L{number}"
    plus, minus = End(device=load, terminal="+"), End(device=load, terminal="-")
    from_m = _switching_m(bench) if output.device != f"F{number}" else _fuse_m(bench)
    rest = clip(bench.run, from_m, circuit.run_m)
    sealed = any(a.tail_end == "sealed" for a in bench.accessories)
    tail: Joint = "sealed" if sealed else "crimp"
    harness.wire("power", output, plus, rest, colour=bench.colour, joints=("crimp", tail))
    harness.add(
        Device(
            ref=load,
            kind="load",
            label=circuit.name,
            detail=_load_detail(bench.accessories),
            terminals=("+", "-"),
            zone=bench.run[-1].zone,
            at_m=circuit.run_m,
            elements=tuple(
                LoadElement(
                    name=f"{load.lower()}_{accessory.id}",
                    a=plus.node,
                    b=minus.node,
                    load=Load(
                        model=accessory.model,
                        rated_a=accessory.rated_a,
                        rated_v=accessory.at_v,
                        cut_in_v=9.0 * bench.job.vehicle.nominal_v / 12,
                    ),
                )
                for accessory in bench.accessories
            ),
        )
    )
    if circuit.back.kind == "wire":
        harness.wire("return", minus, End(device="BAT", terminal="-"), bench.back,
                     colour="BK", joints=(tail, "lug"))  # fmt: skip
        return
    earth = End(device=f"G{number}", terminal="1")
    harness.wire("return", minus, earth, bench.back, colour="BK", joints=(tail, "lug"))
    harness.add(
        earth_point(earth, CHASSIS_OHM[circuit.back.path], bench.run[-1].zone, circuit.run_m)
    )


def earth_point(end: End, chassis_ohm: float, zone: str, at_m: float | None) -> Device:
    """A chassis point with the body's resistance back to the battery."""
    return Device(
        ref=end.device,
        kind="earth",
        label="Earth point",
        detail="clean metal, bolted lug",
        terminals=("1",),
        zone=zone,
        at_m=at_m,
        elements=(
            Resistor(
                name=f"{end.device.lower()}_body", a=end.node, b=GROUND,
                ohm=chassis_ohm, kind="chassis",
            ),
        ),
    )  # fmt: skip


def key_feed(harness: Harness) -> End:
    """Add the feed that the accessory's use asks for, and its control fuse; return its far side."""
    use = harness.bench.accessories[0].use
    if use.lights == "side":
        return control_fuse(harness, _vehicle_feed(harness, "side"))
    if use.lights in ("low", "high"):
        harness.add(headlamps(harness.bench.job))
        return control_fuse(harness, End(device="HL", terminal=use.lights))
    if use.key == "always":
        return control_fuse(harness, End(device="BAT", terminal="+"))
    return control_fuse(harness, _vehicle_feed(harness, use.key))


def control_fuse(harness: Harness, source: End) -> End:
    """Add the control circuit's own fuse next to its source; return the fuse's far side."""
    bench = harness.bench
    rating_a = bench.job.rules.control_fuse_a
    ref = f"F{bench.number}T"
    begin, out = End(device=ref, terminal="1"), End(device=ref, terminal="2")
    harness.wire("control", source, begin, (_control_piece(bench, _BATTERY_TAP_M),),
                 colour=bench.control_colour)  # fmt: skip
    harness.add(
        Device(
            ref=ref, kind="fuse", label=f"{rating_a:g} A", detail="control fuse, blade",
            terminals=("1", "2"),
            elements=(
                Resistor(name=ref.lower(), a=begin.node, b=out.node,
                         ohm=_CONTROL_FUSE_DROP_V / rating_a, kind="fuse"),
            ),
        )
    )  # fmt: skip
    return out


def through_switch(harness: Harness, supply: End) -> End:
    """Lead the control wire to the hand switch, if there is one; return where it goes on."""
    if not harness.bench.accessories[0].use.switch:
        return supply
    into, out = _switch(harness, ohm=SWITCH_CONTACT_OHM, at_m=None)
    _control_wire(harness, supply, into, _control_parts_m(harness.bench)[0])
    return out


def control_to(harness: Harness, supply: End, end: End) -> None:
    """Lead a control wire on: what is left after the hand switch, or the whole control run."""
    _control_wire(harness, supply, end, _control_parts_m(harness.bench)[1])


def _control_wire(harness: Harness, start: End, end: End, length_m: float) -> None:
    bench = harness.bench
    harness.wire("control", start, end, (_control_piece(bench, length_m),),
                 colour=bench.control_colour)  # fmt: skip


def _control_parts_m(bench: Bench) -> tuple[float, float]:
    """The control run up to the hand switch and beyond; all of it beyond without a switch. [m]"""
    total_m = bench.circuit.control_m
    if not bench.accessories[0].use.switch:
        return 0.0, total_m
    to_switch_m = bench.circuit.control_switch_m or total_m / 2
    return min(to_switch_m, total_m - 0.02), max(total_m - to_switch_m, 0.02)


def coil_end(harness: Harness, terminal: str) -> End:
    """A coil terminal of this circuit's relay."""
    return End(device=f"K{harness.bench.number}", terminal=terminal)


def coil_to_earth(harness: Harness, start: End) -> None:
    """Earth the coil at a chassis point near the relay, or at the battery in a composite body."""
    bench = harness.bench
    if bench.job.vehicle.body == "composite":
        harness.wire("control_return", start, End(device="BAT", terminal="-"),
                     (_control_piece(bench, _control_parts_m(bench)[1]),), colour="BK")  # fmt: skip
        return
    earth = End(device=f"G{bench.number}T", terminal="1")
    zone = piece_at(bench.run, bench.circuit.switching_at_m).zone
    harness.wire("control_return", start, earth, (_control_piece(bench, 0.3),), colour="BK")
    harness.add(earth_point(earth, CHASSIS_OHM["bonded"], zone, None))


def base_colour(colour: str) -> str:
    """The base of a colour code: ``RD`` of ``RD/YE``."""
    return colour.split("/")[0]


def clip(pieces: tuple[Piece, ...], from_m: float, to_m: float) -> tuple[Piece, ...]:
    """Return the pieces of a run between two distances from its start."""
    cut: list[Piece] = []
    begin_m = 0.0
    for piece in pieces:
        end_m = begin_m + piece.length_m
        length_m = min(end_m, to_m) - max(begin_m, from_m)
        if length_m > 1e-9:
            passes = piece.passes if end_m <= to_m + 1e-9 else ""
            cut.append(replace(piece, length_m=length_m, passes=passes))
        begin_m = end_m
    return tuple(cut)


def piece_at(pieces: tuple[Piece, ...], at_m: float) -> Piece:
    """Return the piece that holds a distance from the run's start."""
    end_m = 0.0
    for piece in pieces:
        end_m += piece.length_m
        if at_m < end_m:
            return piece
    return pieces[-1]


def _fuse_m(bench: Bench) -> float:
    return 0.0 if bench.circuit.source == "block" else bench.circuit.fuse_at_m


def _switching_m(bench: Bench) -> float:
    """Where relay or switch sits: at least a hand's breadth behind the fuse. [m]"""
    least_m = _fuse_m(bench) + min(_JUMPER_M, bench.circuit.run_m / 4)
    return max(bench.circuit.switching_at_m, least_m)


def _wire_to(harness: Harness, supply: End, end: End) -> None:
    bench = harness.bench
    pieces = clip(bench.run, _fuse_m(bench), _switching_m(bench))
    harness.wire("power", supply, end, pieces, colour=base_colour(bench.colour),
                 joints=("crimp", "crimp"))  # fmt: skip


def _switch(harness: Harness, *, ohm: float, at_m: float | None) -> tuple[End, End]:
    bench = harness.bench
    use = bench.accessories[0].use
    ref = f"S{bench.number}"
    into, out = End(device=ref, terminal="1"), End(device=ref, terminal="2")
    details = [f"rated {use.switch_a:g} A", "momentary" if use.momentary else "latching"]
    if use.guarded:
        details.append("guarded")
    harness.add(
        Device(
            ref=ref, kind="switch", label=use.switch or "Switch", detail=", ".join(details),
            terminals=("1", "2"), zone="cabin", at_m=at_m,
            elements=(
                SwitchContact(name=ref.lower(), a=into.node, b=out.node, ohm=ohm,
                              closed=Closed(switch=bench.circuit.id)),
            ),
        )
    )  # fmt: skip
    return into, out


def _vehicle_feed(harness: Harness, which: str) -> End:
    device, end = feed(harness.bench.job, which)
    harness.add(device)
    return end


def _control_piece(bench: Bench, length_m: float) -> Piece:
    return Piece(
        zone=piece_at(bench.run, bench.circuit.switching_at_m).zone,
        ambient_c=bench.relay_c,
        conductor_c=bench.relay_c,
        length_m=length_m,
        loaded_conductors=1,
    )


def _load_detail(accessories: tuple[Accessory, ...]) -> str:
    parts = []
    for accessory in accessories:
        each = f"{accessory.watts:g} W" if accessory.watts else f"{accessory.amps:g} A"
        count = f"{accessory.quantity} × " if accessory.quantity > 1 else ""
        parts.append(f"{count}{each} at {accessory.at_v:g} V")
    return " + ".join(parts)
