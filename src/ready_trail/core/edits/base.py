"""What every edit is, and the steps that edits share."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.document import Circuit, Job
from ready_trail.core.job.parts import Stated
from ready_trail.core.job.plain import plain_message

M = TypeVar("M", bound=BaseModel)


class Edit(Stated):
    """One change to a job, with a readable name for the history."""

    def apply(self, job: Job) -> Job:
        """Return the job after this edit."""
        raise NotImplementedError

    def title(self, job: Job) -> str:
        """Return the revision's name, in the words of the job before the edit."""
        raise NotImplementedError


def rebuilt(model: M, **changes: Any) -> M:
    """Return a validated copy with changes; a refusal names the field."""
    try:
        return type(model).model_validate({**dict(model), **changes})
    except ValidationError as error:
        first = error.errors()[0]
        message = plain_message(first)
        named = message.split(" ")[0]  # a rule over several fields begins with the one to change
        field = ".".join(str(part) for part in first["loc"])
        if not field:
            field = named if named in type(model).model_fields else next(iter(changes))
        raise EditRefusedError(field, message) from error


def find_circuit(job: Job, circuit_id: str) -> Circuit:
    """Return a circuit of the job, or refuse the edit."""
    try:
        return job.circuit(circuit_id)
    except KeyError:
        raise EditRefusedError("circuit_id", "this circuit is no longer in the job") from None


def with_circuit(job: Job, circuit: Circuit, **changes: Any) -> Job:
    """Return the job with one circuit changed."""
    changed = rebuilt(circuit, **changes)
    circuits = tuple(changed if c.id == circuit.id else c for c in job.circuits)
    return rebuilt(job, circuits=circuits)
