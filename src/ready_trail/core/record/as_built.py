"""Where a vehicle differs from its design, and how such a difference is taken over."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ParamSpec

from pydantic import ValidationError

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import WireKind, WireSystem, ampacity_a, sold_as
from ready_trail.core.design import design
from ready_trail.core.edits import (
    ChangeBranch,
    Edit,
    HoldAsBuilt,
    HoldChoice,
    RecordFound,
    StartAt,
    apply,
)
from ready_trail.core.errors import CoreError
from ready_trail.core.installation import Wire
from ready_trail.core.job.accessory import Channel
from ready_trail.core.job.circuit import HeldChoices
from ready_trail.core.job.kit import Found
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design, Finding, Planned
from ready_trail.core.record.facts import AnyFact, Different, Settled
from ready_trail.core.references import unknown_references

P = ParamSpec("P")
_UNIT = re.compile(r"\s*(awg|sae|mm²|mm2|mm\^2|a|amps?|amperes?)$", re.IGNORECASE)
WHAT_WORDS = {
    "size": "wire size",
    "colour": "colour",
    "length_m": "length",
    "splice": "a splice",
    "fuse_a": "fuse fitted",
    "position": "position used",
    "place": "place",
    "other": "something else",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """A difference with its key, and how it was settled, if it was."""

    key: str
    said: Different
    settled: Settled | None = None

    @property
    def is_open(self) -> bool:
        """Whether nobody dealt with it yet."""
        return self.settled is None

    @property
    def words(self) -> str:
        """It in words: ``C15-W2, wire size: 12``."""
        where = self.said.subject.partition(":")[2]
        return f"{where}, {WHAT_WORDS[self.said.what]}: {self.said.value}"


def differences_of(facts: Sequence[tuple[str, AnyFact]]) -> tuple[Difference, ...]:
    """Return every difference that was said of a vehicle, with how it was settled last."""
    settled = {f.key: f for _, f in facts if isinstance(f, Settled)}
    return tuple(
        Difference(key=key, said=fact, settled=settled.get(key))
        for key, fact in facts
        if isinstance(fact, Different)
    )


def _bare(value: str) -> str:
    """A size or rating without its unit, as people write it: ``10 AWG`` is 10, ``7,5 A`` is 7.5."""
    return _UNIT.sub("", value.strip()).replace(",", ".")


def _wire_said(value: str, wire: Wire) -> tuple[WireSystem, WireKind]:
    """System and kind of wire that a size was said in; without a unit, those of the design."""
    unit = _UNIT.search(value.strip())
    told = unit[1].lower() if unit else ""
    own = wire.conductor
    if told.startswith("mm"):
        return "metric", sold_as("metric", own.kind)
    if told == "sae":
        return "awg", "sae"
    if told == "awg":  # full gauge, or clad as the design's is
        return "awg", sold_as("metric", own.kind)
    return ("awg" if own.system == "awg" else "metric"), own.kind


def taken_over(said: Different, made: Design) -> Edit | None:
    """Return the edit that makes a difference part of the design, or None where there is none:
    sizes and colours of wires, fuses and positions can be; the rest is put right or left.

    Wire of another system or kind than the design's makes the circuit one as found.
    """
    sort, _, name = said.subject.partition(":")
    wire = made.installation.wires.get(name) if sort == "wire" else None
    device = made.installation.devices.get(name) if sort == "device" else None
    owner = wire.owner if wire is not None else device.owner if device is not None else ""
    planned = made.plan.circuits.get(owner)
    if planned is None:
        return None
    circuit = planned.circuit
    if wire is not None and said.what == "size":
        return None if wire.is_control else _stated(_other_size, said, wire, planned)
    if wire is not None and said.what == "colour" and not wire.is_control:
        return HoldChoice(circuit_id=owner, what="colour", value=said.value, note=said.note)
    if device is not None and said.what == "fuse_a":
        spec = device.spec
        main = isinstance(spec, FuseSpec) and not spec.is_control
        return _stated(_other_fuse, said, planned) if main else None
    if device is not None and said.what == "position":
        start = Channel(point=circuit.start.point, position=said.value)
        return StartAt(circuit_id=owner, start=start)
    return None


def _stated(make: Callable[P, Edit | None], *args: P.args, **more: P.kwargs) -> Edit | None:
    """The edit, or None where what was said is no size or rating."""
    try:
        return make(*args, **more)
    except ValidationError:
        return None


def _other_size(said: Different, wire: Wire, planned: Planned) -> Edit | None:
    circuit, size = planned.circuit, _bare(said.value)
    system, kind = _wire_said(said.value, wire)
    alike = (system, kind) == (wire.conductor.system, wire.conductor.kind)
    branch = next((b for b in circuit.branches if b.id == wire.branch), None)
    if branch is not None:
        return (
            ChangeBranch(
                circuit_id=circuit.id,
                branch_id=branch.id,
                name=branch.name,
                run=branch.run,
                back=branch.back,
                size=size,
            )
            if alike
            else None
        )
    if alike and circuit.found is None:
        return HoldAsBuilt(
            circuit_id=circuit.id,
            what="size",
            value=size,
            note=said.note,
            beside=_held_as_designed(planned),
        )
    if circuit.kit is not None:
        return None
    found = circuit.found or _as_designed(planned)
    return RecordFound(
        circuit_id=circuit.id,
        found=Found.model_validate(
            {**dict(found), "size": size, "system": system, "wire_kind": kind}
        ),
    )


def _other_fuse(said: Different, planned: Planned) -> Edit:
    circuit, value, fuse = planned.circuit, _bare(said.value), planned.sizing.fuse
    ratings = [f"{r:g}" for r in fuse.family.ratings_a] if fuse is not None else []
    if circuit.found is not None:
        return RecordFound(
            circuit_id=circuit.id,
            found=Found.model_validate({**dict(circuit.found), "fuse_a": value, "family": None}),
        )
    beside = _held_as_designed(planned)
    if value not in ratings:  # then it is of another family, and nobody said of which
        beside = beside.model_copy(update={"family": None})
    return HoldAsBuilt(
        circuit_id=circuit.id, what="fuse_a", value=value, note=said.note, beside=beside
    )


def _as_designed(planned: Planned) -> Found:
    """What a circuit has that was built as it was designed, but for its wire."""
    held = _held_as_designed(planned)
    names = ("fuse_a", "family", "relay", "insulation_c")
    return Found.model_validate({name: getattr(held, name) for name in names})


def _held_as_designed(planned: Planned) -> HeldChoices:
    sizing = planned.sizing
    return HeldChoices.model_validate(
        {
            "size": sizing.chosen.conductor.size if sizing.chosen else None,
            "fuse_a": sizing.fuse.rating_a if sizing.fuse else None,
            "family": sizing.fuse.family.family if sizing.fuse else None,
            "relay": sizing.relay.key if sizing.relay else None,
            "insulation_c": sizing.request.wire.insulation_c,
        }
    )


@lru_cache(maxsize=16)
def stops_of(said: Different, made: Design, catalogue: Catalogue) -> tuple[Finding, ...]:
    """Return the stops that a difference brings to the design: what is so in the vehicle may burn.

    Nothing where it cannot be taken over, or where the design does not take it; but fuses and
    wires of coils, which no press takes over, are held against each other.
    """
    try:
        edit = taken_over(said, made)
        if edit is None:
            return tuple(_control_stops(said, made, catalogue))
        job = apply(made.job, edit)
        if [*unknown_references(job, catalogue)]:
            return ()
        after = design(job, catalogue)
    except CoreError:
        return ()
    known = {(f.code, f.place) for f in _stops(made)}
    return tuple(f for f in _stops(after) if (f.code, f.place) not in known)


def _control_stops(said: Different, made: Design, catalogue: Catalogue) -> Iterator[Finding]:
    """A control fuse that lets more through than the thinnest coil wire behind it carries."""
    sort, _, name = said.subject.partition(":")
    installed = made.installation
    wire, device = installed.wires.get(name), installed.devices.get(name)
    owner = wire.owner if wire is not None else device.owner if device is not None else ""
    thin = [w for w in installed.wires.values() if w.owner == owner and w.is_control]
    fuses = [
        d.spec.rating_a
        for d in installed.devices.values()
        if d.owner == owner and isinstance(d.spec, FuseSpec) and d.spec.is_control
    ]
    if sort == "wire" and wire is not None and wire.is_control and said.what == "size":
        system, kind = _wire_said(said.value, wire)
        sizes = {c.size: c for c in catalogue.wires(system, kind)}
        told = sizes.get(_bare(said.value))
        thin = [replace(wire, conductor=told)] if told is not None else []
    elif sort == "device" and device is not None and said.what == "fuse_a":
        is_control = isinstance(device.spec, FuseSpec) and device.spec.is_control
        fuses = [_number(said.value)] if is_control else []
    else:
        return
    bears = [(_bears_a(w), w) for w in thin if w.pieces]
    if not bears or not fuses:
        return
    least_a, least = min(bears, key=lambda each: each[0])
    if max(fuses) > least_a:
        yield Finding(
            code="fuse_over_wire",
            area="protection",
            place=name,
            severity="stop",
            text=f"The {max(fuses):g} A control fuse lets more through than the "
            f"{least.conductor.label} coil wire carries.",
            why="The wire overheats before the fuse opens.",
            found=f"{max(fuses):g} A",
            allowed=f"{least_a:.1f} A",
        )


def _number(value: str) -> float:
    try:
        return float(_bare(value))
    except ValueError:
        return 0.0


def _bears_a(wire: Wire) -> float:
    return min(
        ampacity_a(
            wire.conductor,
            insulation_c=wire.insulation_c,
            ambient_c=piece.ambient_c,
            loaded_conductors=piece.loaded_conductors,
        )
        for piece in wire.pieces
    )


def _stops(made: Design) -> Iterator[Finding]:
    for circuit in made.circuits:
        yield from (f for f in circuit.findings if f.severity == "stop" and not f.follows)
