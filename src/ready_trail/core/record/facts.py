"""The facts of a vehicle's record, append-only: each says what was found, done or sealed."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, TypeAdapter

from ready_trail.core.job.parts import Note, ShortText, Stated

Subject = Annotated[str, StringConstraints(pattern=r"^[a-z]+:[^\x00-\x1f]{0,80}$")]
"""What a fact is about: ``wire:C15-W2``, ``device:F15``, ``step:…``, ``test:…``, ``circuit:c2``."""
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{0,64}$")]
What = Literal["size", "colour", "length_m", "splice", "fuse_a", "position", "place", "other"]
Said = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]


class Fact(Stated):
    """What every fact has: whom it is from, and when it was."""

    who: ShortText = ""
    made_at: Annotated[str, Field(max_length=40)] = ""


class Different(Fact):
    """Something in the vehicle is not as designed: what, and how it is instead."""

    kind: Literal["different"] = "different"
    subject: Subject
    circuit_id: ShortText = ""
    what: What
    value: Said
    note: Note = ""


class Settled(Fact):
    """A difference is dealt with: taken over into the design, put right, or left with a reason."""

    kind: Literal["settled"] = "settled"
    key: Annotated[str, Field(min_length=8, max_length=64)]
    how: Literal["taken_over", "put_right", "left"]
    reason: Note = ""


class HandedOver(Fact):
    """A circuit, or the whole job (no circuit), is sealed as it stands."""

    kind: Literal["handed_over"] = "handed_over"
    circuit_id: ShortText = ""
    revision: Annotated[int, Field(ge=1)]
    design: Digest
    steps: Annotated[int, Field(ge=0)]
    readings: Annotated[int, Field(ge=0)]
    differences: Annotated[tuple[str, ...], Field(max_length=400)] = ()
    waived: Annotated[dict[str, Said], Field(default_factory=dict, max_length=500)]
    """What was not done, by what it is, and why."""


class CareDone(Fact):
    """A piece of care was done: what was found, and at what distance. [km]"""

    kind: Literal["care_done"] = "care_done"
    care: ShortText
    found: Note = ""
    is_fine: bool = True
    km: Annotated[float, Field(ge=0, le=5_000_000)] | None = None


class Visited(Fact):
    """A visit: what was complained of, what it was, what was done. ``part`` names the wire or
    device that failed, so that it is suspected sooner the next time.
    """

    kind: Literal["visited"] = "visited"
    circuit_id: ShortText = ""
    complaint: Said
    cause: Note = ""
    repair: Note = ""
    part: ShortText = ""
    km: Annotated[float, Field(ge=0, le=5_000_000)] | None = None


class Photographed(Fact):
    """A picture was taken: of what, and where it is kept, by its digest."""

    kind: Literal["photographed"] = "photographed"
    subject: Subject
    digest: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    width: Annotated[int, Field(ge=1, le=20_000)]
    height: Annotated[int, Field(ge=1, le=20_000)]
    words: ShortText = ""


AnyFact = Annotated[
    Different | Settled | HandedOver | CareDone | Visited | Photographed,
    Field(discriminator="kind"),
]
FACT_ADAPTER: TypeAdapter[AnyFact] = TypeAdapter(AnyFact)
