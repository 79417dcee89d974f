"""Review of what is in the vehicle already: a fuse that is missing, and what nobody recorded."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.conductors import UNKNOWN_CLASS_C
from ready_trail.core.edits import ForgetFound, RecordFound
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, fuse_place, main_wire

AREA = "protection"


def check_found_fuse(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A circuit that was found without a fuse gets one before anything else."""
    found = design.circuit.found
    if found is None or not found.unfused or found.fit_fuse:
        return
    edit = RecordFound(
        circuit_id=design.circuit.id, found=found.model_copy(update={"fit_fuse": True})
    )
    yield Finding(
        code="found_unfused",
        area=AREA,
        place=fuse_place(design),
        severity="stop",
        text="This circuit was found without a fuse.",
        why="A chafed wire is a dead short that nothing opens: it burns until the battery is flat.",
        actions=(Action(label="Fit the fuse that is missing", edit=edit),),
    )


def check_found_unknown(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Of a circuit as found, wire and fuse are recorded; its insulation where that matters."""
    found, sizing = design.circuit.found, design.sizing
    if found is None or sizing.chosen is None or sizing.fuse is None:
        return
    wire, fuse = sizing.chosen.conductor, sizing.fuse
    class_c = sizing.request.wire.insulation_c
    seen: dict[str, tuple[str, object]] = {}
    if found.size is None:
        seen["size"] = wire.label, wire.size
    if found.fuse_a is None and not found.unfused:
        seen["fuse_a"] = f"{fuse.rating_a:g} A", fuse.rating_a
    if found.insulation_c is None and (seen or _hangs_on_class(design, fuse.rating_a, class_c)):
        seen["insulation_c"] = f"{class_c} °C", class_c
    if not seen:
        return
    words = {"size": "wire size", "fuse_a": "fuse", "insulation_c": "insulation class"}
    filled = found.model_copy(
        update={name: value for name, (_, value) in seen.items()}
        | ({"system": wire.system, "wire_kind": wire.kind} if "size" in seen else {})
    )
    told = ", ".join(label for label, _ in seen.values())
    *most, last = (words[name] for name in seen)
    circuit_id = design.circuit.id
    yield Finding(
        code="found_unknown",
        area=AREA,
        place=main_wire(design),
        severity="caution",
        text=f"As found, nobody recorded its {', '.join(most)}{' and ' * bool(most)}{last}.",
        why="What stands here is what they must be. What is in the vehicle may bear less: look at "
        "it, then record it.",
        allowed=told,
        actions=(
            Action(
                label=f"It was looked at, and is so: {told}",
                edit=RecordFound(circuit_id=circuit_id, found=filled),
            ),
            Action(
                label="Build it anew",
                edit=ForgetFound(circuit_id=circuit_id),
                alters=("fuse",) if found.fuse_a is not None else (),
            ),
        ),
    )


def _hangs_on_class(design: CircuitDesign, fuse_a: float, class_c: int) -> bool:
    """Whether wire of the lowest class would bear less than the fuse lets through, and wire of
    the class that is reckoned with would not.
    """
    wires = [w for w in design.wires if not w.is_control and w.role != "return"]
    if design.circuit.kept is None or not wires:
        return False
    lowest_a, bears_a = (min(w.bears_a(c) for w in wires) for c in (UNKNOWN_CLASS_C, class_c))
    return lowest_a < fuse_a <= bears_a


CHECKS: tuple[Check, ...] = (check_found_fuse, check_found_unknown)
