"""Function wires and memory wires of an accessory: real wires, with their blocking diodes.

Each ends where it is stated: at a controller's output, a hand switch, a vehicle signal, another
accessory's wire, or capped beside the accessory.
"""

from __future__ import annotations

from ready_trail.core.installation import Terminal
from ready_trail.core.job import Accessory, InputWire
from ready_trail.core.job.points import BATTERY
from ready_trail.core.kinds.controls import ControllerSpec, DiodeSpec
from ready_trail.core.kinds.point import BUS
from ready_trail.core.kinds.switch import SwitchSpec, output_of
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.control import control_fuse, control_piece, signal_terminal
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.refs import first_unit, short
from ready_trail.core.supply.lead_feed import hand_feed, memory_feed

MEMORY = "memory"
_AT_THE_ACCESSORY_M = 0.10


def input_terminals(accessories: tuple[Accessory, ...]) -> tuple[str, ...]:
    """Return the terminals of function and memory wires, by their names."""
    names = [wire.name for a in accessories for wire in a.inputs]
    if any(a.memory_wire for a in accessories):
        names.append(MEMORY)
    return tuple(dict.fromkeys(names))


def floating(accessories: tuple[Accessory, ...]) -> tuple[str, ...]:
    """Return the names of the wires that must float at rest."""
    return tuple(dict.fromkeys(w.name for a in accessories for w in a.inputs if w.must_float))


def input_contact(circuit_name: str, wire: InputWire) -> str:
    """Return the name under which a function wire is switched on."""
    return wire.at if wire.ends == "switch" else f"{circuit_name} {wire.name}"


def function_wires(
    harness: Harness, ref: str, accessories: tuple[Accessory, ...], branch: str = ""
) -> None:
    """Lead each function wire to where it ends, a diode where one is fitted; feed a memory."""
    bench = harness.bench
    part = short(branch) if branch else ""
    inputs = {wire.name: wire for a in accessories for wire in a.inputs}
    _controller(harness, inputs)
    length_m = bench.circuit.control_m
    for number, (name, wire) in enumerate(inputs.items(), start=1):
        start = _begin(harness, wire, f"{part}P{number}")
        if start is None:
            continue
        end = Terminal(device=ref, terminal=name)
        if not wire.diode:
            harness.wire(
                "function",
                start,
                end,
                (control_piece(bench, length_m),),
                colour=bench.control_colour,
            )
            continue
        diode = f"D{ref[1:]}.{number}"
        harness.add(
            diode,
            DiodeSpec(),
            "Blocking diode",
            _diode_words(wire),
            zone=bench.run[-1].zone,
            branch=branch,
        )
        into, out = ("A", "K") if (wire.active == "high") != wire.backwards else ("K", "A")
        harness.wire(
            "function",
            start,
            Terminal(device=diode, terminal=into),
            (control_piece(bench, length_m),),
            colour=bench.control_colour,
        )
        harness.wire(
            "function",
            Terminal(device=diode, terminal=out),
            end,
            (control_piece(bench, _AT_THE_ACCESSORY_M),),
            colour=bench.control_colour,
        )
    if any(a.memory_wire for a in accessories):
        source = memory_feed(bench.ask.tree, bench.circuit, accessories)
        if source is None:
            return  # nothing fits: it is capped, and the review says so
        fused = control_fuse(harness, _plus_of(harness, source), suffix=f"M{part}", role="function")
        harness.wire(
            "function",
            fused,
            Terminal(device=ref, terminal=MEMORY),
            (control_piece(bench, bench.circuit.run_m),),
            colour="YE/RD",
        )


def _controller(harness: Harness, inputs: dict[str, InputWire]) -> None:
    """Add the controller whose outputs some of the wires end at, once a circuit."""
    bench = harness.bench
    outputs = {n: w for n, w in inputs.items() if w.ends == "controller"}
    if not outputs or any(d.ref == f"X{bench.number}" for d in harness.devices):
        return
    spec = ControllerSpec(
        outputs=tuple(outputs),
        grounded=tuple(n for n, w in outputs.items() if w.rests == "ground"),
        lifted=tuple(n for n, w in outputs.items() if w.rests == "supply"),
        low=tuple(n for n, w in outputs.items() if w.active == "low"),
        contacts=tuple(input_contact(bench.circuit.name, w) for w in outputs.values()),
        supply=_plus_of(harness, bench.circuit.start.point).node if _apart(bench) else "",
    )
    harness.add(
        f"X{bench.number}", spec, "Controller", "outputs to the function wires", name="Controller"
    )


def _begin(harness: Harness, wire: InputWire, suffix: str) -> Terminal | None:
    """Where a function wire comes from; None where it is capped."""
    bench, job = harness.bench, harness.bench.job
    if wire.ends == "controller":
        return Terminal(device=f"X{bench.number}", terminal=wire.name)
    if wire.ends == "cap":
        return None
    if wire.ends == "accessory":
        other, _, its = wire.at.partition(" ")
        host = job.circuit_of(other)
        if host is None:
            return None
        harness.needs.append(host.id)
        return Terminal(device=first_unit(bench.references[host.id], host, other), terminal=its)
    if wire.ends == "signal":
        return control_fuse(
            harness, signal_terminal(harness, wire.at), suffix=suffix, role="function"
        )
    return _switched(harness, wire, suffix)


def _switched(harness: Harness, wire: InputWire, suffix: str) -> Terminal:
    """A hand switch of its own between a fused feed (or earth) and the wire."""
    bench = harness.bench
    switch = bench.job.switch(wire.at)
    if switch is None:
        raise ValueError(f"no switch {wire.at}")
    ref = bench.references[f"switch {switch.name}"]
    source = Terminal(device="BAT", terminal="+" if wire.active == "high" else "-")
    if wire.active == "high":
        feed = hand_feed(bench.ask.tree, bench.circuit, bench.accessories)
        live = (
            signal_terminal(harness, bench.use.key) if feed == BATTERY else _plus_of(harness, feed)
        )
        source = control_fuse(harness, live, suffix=suffix, role="function")
    if all(d.ref != ref for d in harness.devices):
        harness.add(
            ref,
            SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=switch.throws),
            switch.name,
            f"rated {switch.rating_a:g} A",
            name=switch.name,
            zone="cabin",
        )
    harness.wire(
        "function",
        source,
        Terminal(device=ref, terminal="1"),
        (control_piece(bench, max(0.2, bench.circuit.control_m / 2)),),
        colour=bench.control_colour if wire.active == "high" else "BK",
    )
    return Terminal(device=ref, terminal=output_of(switch.throws, ""))


def _apart(bench: Bench) -> bool:
    """Whether the circuit lives on another voltage than the vehicle itself."""
    return bench.nominal_v != bench.job.vehicle.nominal_v


def _plus_of(harness: Harness, point_id: str) -> Terminal:
    """The live terminal of the battery or a point, which is then needed."""
    if point_id == BATTERY:
        return Terminal(device="BAT", terminal="+")
    harness.needs.append(point_id)
    return Terminal(device=harness.bench.references[point_id], terminal=BUS)


def _diode_words(wire: InputWire) -> str:
    side = "cathode" if (wire.active == "high") != wire.backwards else "anode"
    return f"1 A, {side} to the accessory"
