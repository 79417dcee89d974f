"""Handing over: what is still open of a circuit, what was sealed, what a later change reopens."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.build.progress import Progress
from ready_trail.core.build.steps import Step
from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.progress import Proof
from ready_trail.core.record.as_built import Difference
from ready_trail.core.record.facts import AnyFact, HandedOver

State = Literal["open", "ready", "handed", "changed"]
_DONE = ("pass", "watch", "skipped")
UNWORKED = "its tests are not worked out yet"


@dataclass(frozen=True, slots=True, kw_only=True)
class Left:
    """Something that is still open: what it is, by a key, in words, and where it is done."""

    key: str
    words: str
    stage: Literal["build", "prove", "record", "review"]

    @property
    def waived_as(self) -> str:
        """The words that a seal keeps it under, where it stays undone with a reason."""
        return self.words[:180]


@dataclass(frozen=True, slots=True, kw_only=True)
class Handing:
    """Where one circuit stands with its hand-over; ``sealed`` is the latest seal."""

    circuit_id: str
    name: str
    left: tuple[Left, ...]
    sealed: HandedOver | None
    is_changed: bool

    @property
    def state(self) -> State:
        """Open, ready to hand over, handed over, or changed since."""
        if self.sealed is not None:
            return "changed" if self.is_changed else "handed"
        return "open" if self.left else "ready"

    @property
    def waived(self) -> Mapping[str, str]:
        """What was left undone at the seal, and why."""
        return self.sealed.waived if self.sealed is not None else {}


def handing_of(
    circuit: CircuitDesign,
    *,
    digest: str,
    steps: Sequence[Step],
    progress: Progress,
    plan: Plan | None,
    proof: Proof | None,
    differences: Sequence[Difference],
    stops: Mapping[str, str],
    facts: Sequence[AnyFact],
) -> Handing:
    """Return where a circuit stands. ``digest`` is its design's, as its tests are kept under;
    without a ``plan`` nobody worked its tests out yet, and that is left to do. ``stops`` tells of
    differences, by key, what they are a stop for: no reason lets those stay.
    """
    own = circuit.circuit.id
    seals = [f for f in facts if isinstance(f, HandedOver) and f.circuit_id in (own, "")]
    left = [
        Left(key=f"finding:{f.code}:{f.place}", words=f"{f.place}: {f.text}", stage="review")
        for f in circuit.findings
        if f.severity == "stop" and f.is_open
    ]
    for step in steps:
        standing = progress.steps[step.id].state
        if own in step.circuits and standing != "done":
            again = "do again: " if standing == "redo" else ""
            left.append(Left(key=f"step:{step.id}", words=f"{again}{step.title}", stage="build"))
    if plan is None or proof is None:
        left.append(Left(key="tests", words=UNWORKED, stage="prove"))
    else:
        left += [
            Left(key=f"test:{t.key}", words=f"test: {t.title}", stage="prove")
            for t in plan.must
            if proof.stands[t.key].standing not in _DONE
        ]
    left += [
        Left(key=f"difference:{d.key}", words=d.words, stage="record")
        for d in differences
        if d.is_open and d.said.circuit_id == own and d.key not in stops
    ]
    left += [
        Left(key=f"stop:{d.key}", words=f"{d.words}. {stops[d.key]}", stage="review")
        for d in differences
        if d.said.circuit_id == own and d.key in stops
    ]
    sealed = seals[-1] if seals else None
    return Handing(
        circuit_id=own,
        name=circuit.circuit.name,
        left=tuple(left),
        sealed=sealed,
        is_changed=sealed is not None
        and bool(sealed.circuit_id)
        and (sealed.design != digest or _is_open_again(left, sealed)),
    )


def _is_open_again(left: Sequence[Left], sealed: HandedOver) -> bool:
    """Whether something is open that was not when the circuit was handed over, nor left so then.

    Tests that are not worked out just now say nothing; where they never were at the hand-over,
    that was left open with its reason.
    """
    unworked = UNWORKED in sealed.waived
    return any(
        each.waived_as not in sealed.waived
        and each.words != UNWORKED
        and not (unworked and each.stage == "prove")
        for each in left
    )
