"""Function wires and memory wires of an accessory: real wires, with their blocking diodes."""

from __future__ import annotations

from ready_trail.core.devices.controls import ControllerSpec, DiodeSpec
from ready_trail.core.installation import Terminal
from ready_trail.core.job import Accessory
from ready_trail.core.schemes.control import control_fuse, control_piece
from ready_trail.core.schemes.harness import Harness

MEMORY = "memory"
_AT_THE_ACCESSORY_M = 0.10


def input_terminals(accessories: tuple[Accessory, ...]) -> tuple[str, ...]:
    """Return the terminals of function and memory wires, by their names."""
    names = [wire.name for a in accessories for wire in a.inputs]
    if any(a.memory_wire for a in accessories):
        names.append(MEMORY)
    return tuple(dict.fromkeys(names))


def function_wires(harness: Harness) -> None:
    """Lead each function wire from the controller, a diode where one is fitted; feed a memory."""
    bench = harness.bench
    inputs = {wire.name: wire for a in bench.accessories for wire in a.inputs}
    length_m = bench.circuit.control_m
    if inputs:
        ref = f"X{bench.number}"
        grounded = tuple(n for n, w in inputs.items() if w.rests == "ground")
        harness.add(ref, ControllerSpec(outputs=tuple(inputs), grounded=grounded), "Controller",
                    "outputs to the function wires", name="Controller")  # fmt: skip
    for number, (name, wire) in enumerate(inputs.items(), start=1):
        start = Terminal(device=f"X{bench.number}", terminal=name)
        end = Terminal(device=bench.load, terminal=name)
        if not wire.diode:
            harness.wire("function", start, end, (control_piece(bench, length_m),),
                         colour=bench.control_colour)  # fmt: skip
            continue
        diode = f"D{bench.number}.{number}"
        harness.add(diode, DiodeSpec(), "Blocking diode", _diode_words(wire.active),
                    zone=bench.run[-1].zone)  # fmt: skip
        into, out = ("A", "K") if wire.active == "high" else ("K", "A")
        harness.wire("function", start, Terminal(device=diode, terminal=into),
                     (control_piece(bench, length_m),), colour=bench.control_colour)  # fmt: skip
        harness.wire("function", Terminal(device=diode, terminal=out), end,
                     (control_piece(bench, _AT_THE_ACCESSORY_M),),
                     colour=bench.control_colour)  # fmt: skip
    if any(a.memory_wire for a in bench.accessories):
        fused = control_fuse(harness, Terminal(device="BAT", terminal="+"), suffix="M",
                             role="function")  # fmt: skip
        harness.wire("function", fused, Terminal(device=bench.load, terminal=MEMORY),
                     (control_piece(bench, bench.circuit.run_m),), colour="YE/RD")  # fmt: skip


def _diode_words(active: str) -> str:
    side = "cathode" if active == "high" else "anode"
    return f"1 A, {side} to the accessory"
