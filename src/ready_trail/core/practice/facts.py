"""What a learner did, as facts: answers, hunts begun, read, named."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from ready_trail.core.job.parts import ShortText, Stated


class Answered(Stated):
    """A short question was answered."""

    kind: Literal["answered"] = "answered"
    drill: ShortText
    item: ShortText
    is_right: bool
    seconds: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    at: Annotated[str, Field(max_length=40)] = ""


class HuntBegun(Stated):
    """A fault was hidden on a circuit, or a second one with it; its ``plan`` is the digest of what
    was played.
    """

    kind: Literal["hunt_begun"] = "hunt_begun"
    job_id: int
    circuit_id: ShortText
    level: ShortText
    plan: ShortText
    candidate: Annotated[str, Field(max_length=200)]
    row: Annotated[int, Field(ge=0)]
    second: Annotated[int, Field(ge=0)] | None = None
    """Row of the second fault, on the level that has two."""
    symptom: Annotated[int, Field(ge=0)] = 0
    """What was complained of, in files of before: it follows from the rows."""
    at: Annotated[str, Field(max_length=40)] = ""

    @property
    def rows(self) -> tuple[int, ...]:
        """The rows of what is hidden."""
        return (self.row,) if self.second is None else (self.row, self.second)


class HuntActed(Stated):
    """Something was done in a hunt: a reading by its test, a name, or what one must not do."""

    kind: Literal["hunt_acted"] = "hunt_acted"
    hunt: Annotated[str, Field(min_length=8, max_length=64)]
    what: Literal["read", "name", "danger", "give_up"]
    key: Annotated[str, Field(max_length=400)] = ""
    is_right: bool = False
    at: Annotated[str, Field(max_length=40)] = ""


AnyPractice = Annotated[Answered | HuntBegun | HuntActed, Field(discriminator="kind")]
PRACTICE_ADAPTER: TypeAdapter[AnyPractice] = TypeAdapter(AnyPractice)
