"""Where a vehicle differs from its design, and how such a difference is taken over."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import ParamSpec

from pydantic import ValidationError

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import WireKind, WireSystem
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
    if told.startswith("mm"):
        return "metric", "copper" if wire.conductor.kind == "sae" else wire.conductor.kind
    if told == "sae":
        return "awg", "sae"
    if told == "awg":
        return "awg", "copper" if wire.conductor.kind == "sae" else wire.conductor.kind
    return ("awg" if wire.conductor.system == "awg" else "metric"), wire.conductor.kind


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
        return _stated(_other_fuse, said, planned)
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

    Nothing where it cannot be taken over, or where the design does not take it.
    """
    try:
        edit = taken_over(said, made)
        if edit is None:
            return ()
        job = apply(made.job, edit)
        if [*unknown_references(job, catalogue)]:
            return ()
        after = design(job, catalogue)
    except CoreError:
        return ()
    known = {(f.code, f.place) for f in _stops(made)}
    return tuple(f for f in _stops(after) if (f.code, f.place) not in known)


def _stops(made: Design) -> Iterator[Finding]:
    for circuit in made.circuits:
        yield from (f for f in circuit.findings if f.severity == "stop" and not f.follows)
