"""Where a vehicle differs from its design, and how such a difference is taken over."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, ParamSpec

from pydantic import ValidationError

from ready_trail.core.edits import Edit, HoldAsBuilt, HoldChoice, RecordFound, StartAt
from ready_trail.core.edits.as_built import LongWire
from ready_trail.core.edits.off_layout import is_routed
from ready_trail.core.installation import Duty, Wire
from ready_trail.core.job.accessory import Channel
from ready_trail.core.job.kit import Found
from ready_trail.core.job.points import BATTERY
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design, Planned
from ready_trail.core.record.facts import AnyFact, Different, Settled
from ready_trail.core.record.said import bare, metres, things_of, wire_said

P = ParamSpec("P")
_NOTE_MOST, _WORDS_MOST = 60, 80
"""What a held choice's note, and the title of taking over, hold of longer ones."""
_LONGER: dict[Duty, LongWire] = {
    "feed": "feed",
    "power": "run",
    "function": "run",
    "return": "back",
    "control": "control",
    "control_return": "control",
}
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
    def is_so(self) -> bool:
        """Whether the vehicle is so, and the design is not: open, or left."""
        return self.settled is None or self.settled.how == "left"

    @property
    def words(self) -> str:
        """It in words: ``C15-W2, wire size: 12``."""
        return words_of(self.said)


def words_of(said: Different) -> str:
    """Return a difference in words: ``C15-W2, wire size: 12``."""
    return f"{said.subject.partition(':')[2]}, {WHAT_WORDS[said.what]}: {said.value}"


def differences_of(facts: Sequence[tuple[str, AnyFact]]) -> tuple[Difference, ...]:
    """Return every difference that was said of a vehicle, with how it was settled last."""
    settled = {f.key: f for _, f in facts if isinstance(f, Settled)}
    return tuple(
        Difference(key=key, said=fact, settled=settled.get(key))
        for key, fact in facts
        if isinstance(fact, Different)
    )


def taken_over(said: Different, made: Design) -> Edit | None:
    """Return the edit that makes a difference part of the design, or None where there is none:
    sizes, colours and lengths of wires, fuses and positions can be; the rest is put right or left.

    Wire of another system or kind than the design's makes the circuit one as found. Where a
    layout gives the run, its legs are taped there instead.
    """
    return None if is_of_layout(said, made) else edit_of(said, made)


def is_of_layout(said: Different, made: Design) -> bool:
    """Whether what differs is a length that the layout gives."""
    return said.what == "length_m" and is_routed(made.job, owner_of(said, made))


def owner_of(said: Different, made: Design) -> str:
    """Return the circuit whose wire or device a difference is of, or an empty text."""
    wire, device = things_of(said, made)
    return wire.owner if wire is not None else device.owner if device is not None else ""


def edit_of(said: Different, made: Design) -> Edit | None:
    """Return the edit that states a difference; a layout may not leave it standing."""
    wire, device = things_of(said, made)
    owner = owner_of(said, made)
    planned = made.plan.circuits.get(owner)
    if planned is None:
        return None
    circuit = planned.circuit
    if wire is not None and said.what == "size":
        return None if wire.is_control else _stated(_other_size, said, wire, planned)
    if wire is not None and said.what == "length_m":
        return _stated(_other_length, said, wire, planned)
    if wire is not None and said.what == "colour" and not wire.is_control:
        return HoldChoice(
            circuit_id=owner, what="colour", value=said.value, note=said.note[:_NOTE_MOST]
        )
    if device is not None and said.what == "fuse_a":
        spec = device.spec
        main = isinstance(spec, FuseSpec) and not spec.is_control
        return _stated(_other_fuse, said, planned) if main else None
    if device is not None and said.what == "position" and circuit.start.point != BATTERY:
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
    circuit, size = planned.circuit, bare(said.value)
    system, kind = wire_said(said.value, wire)
    if (system, kind) == (wire.conductor.system, wire.conductor.kind):
        if wire.branch:
            return _held(said, planned, branch_id=wire.branch, branch_size=size)
        if circuit.found is None:
            return _held(said, planned, size=size)
    if wire.branch or circuit.kit is not None:
        return None
    found = circuit.found or _as_designed(planned)
    return RecordFound(
        circuit_id=circuit.id,
        found=Found.model_validate(
            {**dict(found), "size": size, "system": system, "wire_kind": kind}
        ),
    )


def _other_length(said: Different, wire: Wire, planned: Planned) -> Edit | None:
    length_m = metres(said.value)
    if length_m is None:
        return None
    more_m = round(length_m - wire.cut_length_m, 3)
    longer = _LONGER[wire.role]
    return _held(said, planned, branch_id=wire.branch, longer=longer, more_m=more_m)


def _other_fuse(said: Different, planned: Planned) -> Edit:
    circuit, value, fuse = planned.circuit, bare(said.value), planned.sizing.fuse
    if circuit.found is not None:
        return RecordFound(
            circuit_id=circuit.id,
            found=Found.model_validate({**dict(circuit.found), "fuse_a": value, "family": None}),
        )
    ratings = [f"{r:g}" for r in fuse.family.ratings_a] if fuse is not None else []
    if value in ratings:
        return _held(said, planned, fuse_a=value)
    return _held(said, planned, fuse_a=value, family=None)  # of another, and nobody said of which


def _held(
    said: Different,
    planned: Planned,
    *,
    branch_id: str = "",
    branch_size: str = "",
    longer: LongWire = "",
    more_m: float = 0.0,
    **other: Any,
) -> HoldAsBuilt:
    """Everything as it was designed, but for what is other."""
    return HoldAsBuilt.model_validate(
        {
            "circuit_id": planned.circuit.id,
            "words": words_of(said)[:_WORDS_MOST],
            "held": {**_chosen(planned), "note": said.note[:_NOTE_MOST], **other},
            "branch_id": branch_id,
            "branch_size": branch_size or None,
            "longer": longer,
            "more_m": more_m,
        }
    )


def _as_designed(planned: Planned) -> Found:
    """What a circuit has that was built as it was designed, but for its wire."""
    return Found.model_validate({**_chosen(planned), "size": None})


def _chosen(planned: Planned) -> dict[str, Any]:
    """What the design chose for a circuit, by the names that hold it."""
    sizing = planned.sizing
    return {
        "size": sizing.chosen.conductor.size if sizing.chosen else None,
        "fuse_a": sizing.fuse.rating_a if sizing.fuse else None,
        "family": sizing.fuse.family.family if sizing.fuse else None,
        "relay": sizing.relay.key if sizing.relay else None,
        "insulation_c": sizing.request.wire.insulation_c,
    }
