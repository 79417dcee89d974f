"""The wire list as CSV, one wire a row."""

from __future__ import annotations

import csv
import io

from ready_trail.core.design import CircuitDesign, Design
from ready_trail.core.wiring import Wire

COLUMNS = (
    "circuit", "wire", "from", "to", "role", "size", "area_mm2", "colour", "insulation_c",
    "length_m", "cut_length_m", "taped",
)  # fmt: skip
_FORMULA_STARTS = ("=", "+", "-", "@", "\t")


def wire_list_csv(design: Design) -> str:
    """Return every wire of the job; the shared feeder's wires come first, once."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    if design.feeder is not None:
        for wire in design.feeder.wiring.wires:
            writer.writerow(_row("Feeder", wire))
    for circuit in design.circuits:
        for wire in own_wires(circuit):
            writer.writerow(_row(circuit.circuit.name, wire))
    return out.getvalue()


def own_wires(circuit: CircuitDesign) -> tuple[Wire, ...]:
    """Return the circuit's own wires, without those of a shared feeder."""
    if circuit.wiring is None:
        return ()
    shared = {w.label for w in circuit.feeder.wiring.wires} if circuit.feeder else set()
    return tuple(w for w in circuit.wiring.wires if w.label not in shared)


def _row(circuit_name: str, wire: Wire) -> tuple[str, ...]:
    name = f"'{circuit_name}" if circuit_name.startswith(_FORMULA_STARTS) else circuit_name
    return (
        name,
        wire.label,
        str(wire.start),
        str(wire.end),
        wire.role,
        wire.conductor.label,
        f"{wire.conductor.area_mm2:.2f}",
        wire.colour,
        str(wire.insulation_c),
        f"{wire.length_m:.2f}",
        f"{wire.cut_length_m:.2f}",
        "yes" if wire.taped else "no",
    )
