"""Where a vehicle differs from its design, and how such a difference is taken over."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ready_trail.core.edits import ChangeBranch, Edit, HoldChoice, StartAt
from ready_trail.core.job.accessory import Channel
from ready_trail.core.outcome import Design
from ready_trail.core.record.facts import AnyFact, Different, Settled

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


def taken_over(said: Different, made: Design) -> Edit | None:
    """Return the edit that makes a difference part of the design, or None where there is none:
    sizes and colours of wires, fuses and positions can be; the rest is put right or left.
    """
    sort, _, name = said.subject.partition(":")
    wire = made.installation.wires.get(name) if sort == "wire" else None
    device = made.installation.devices.get(name) if sort == "device" else None
    owner = wire.owner if wire is not None else device.owner if device is not None else ""
    planned = made.plan.circuits.get(owner)
    if planned is None:
        return None
    circuit = planned.circuit
    if wire is not None and said.what == "size" and not wire.is_control:
        branch = next((b for b in circuit.branches if b.id == wire.branch), None)
        if branch is None:
            return HoldChoice(
                circuit_id=owner, what="size", value=_bare(said.value), note=said.note
            )
        return ChangeBranch(
            circuit_id=owner,
            branch_id=branch.id,
            name=branch.name,
            run=branch.run,
            back=branch.back,
            size=_bare(said.value),
        )
    if wire is not None and said.what == "colour" and not wire.is_control:
        return HoldChoice(circuit_id=owner, what="colour", value=said.value, note=said.note)
    if device is not None and said.what == "fuse_a":
        return HoldChoice(circuit_id=owner, what="fuse_a", value=_bare(said.value), note=said.note)
    if device is not None and said.what == "position":
        start = Channel(point=circuit.start.point, position=said.value)
        return StartAt(circuit_id=owner, start=start)
    return None
