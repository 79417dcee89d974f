"""The wire list as CSV, one wire a row."""

from __future__ import annotations

import csv
import io

from ready_trail.core.design import CircuitDesign, Design
from ready_trail.core.installation import Wire, lamps_owner
from ready_trail.core.leads import maker_lead
from ready_trail.formats.cells import guarded
from ready_trail.formats.saying import saying_of

COLUMNS = (
    "circuit",
    "wire",
    "from",
    "to",
    "role",
    "size",
    "area_mm2",
    "colour",
    "mark",
    "meets_lead",
    "insulation_c",
    "length_m",
    "cut_length_m",
    "taped",
)


def wire_list_csv(design: Design) -> str:
    """Return every wire of the job once; a shared switch's feed stands with its first circuit."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    rows: list[tuple[str, ...]] = [COLUMNS]
    told: set[str] = set()
    for circuit in design.circuits:
        for wire in own_wires(circuit, design):
            if wire.label not in told:
                told.add(wire.label)
                rows.append(_row(circuit, wire, design))
    for row in saying_of(design.job.rules, design.job).rows(rows):
        writer.writerow([guarded(cell) for cell in row])
    return out.getvalue()


def own_wires(circuit: CircuitDesign, design: Design) -> tuple[Wire, ...]:
    """Return the circuit's own wires, and those that bring its switch its feed.

    With the feeder of a lit panel go the wires of its lamps.
    """
    parts = circuit.planned.parts
    if parts is None:
        return ()
    lamps: tuple[str, ...] = ()
    if circuit.feeds is not None:
        lamps = (lamps_owner(circuit.load_ref), circuit.feeds.id)
    shared = [
        wire
        for owner in (*parts.needs, *lamps)
        if owner in design.shared
        for wire in design.shared[owner].wires
    ]
    return (*parts.wires, *shared)


def _row(circuit: CircuitDesign, wire: Wire, design: Design) -> tuple[str, ...]:
    words = design.installation.words
    return (
        circuit.circuit.name,
        wire.label,
        words(wire.start),
        words(wire.end),
        wire.role,
        wire.conductor.label,
        f"{wire.conductor.area_mm2:.2f}",
        wire.colour,
        wire.mark,
        maker_lead(wire, design),
        str(wire.insulation_c),
        f"{wire.length_m:.2f}",
        f"{wire.cut_length_m:.2f}",
        "yes" if wire.taped else "no",
    )
