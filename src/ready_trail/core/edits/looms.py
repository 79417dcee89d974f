"""Counting the wires of typed runs that lie in one loom."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.edits.base import Edit, find_circuit, rebuilt, with_circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, ZoneKey

LOADED_MOST = 60
"""So many a segment may count; from 25 on what they bear is the same."""


class CountInLoom(Edit):
    """State that the typed runs of some circuits share a loom in one zone, and its loaded wires.

    What was counted higher stays.
    """

    kind: Literal["count_in_loom"] = "count_in_loom"
    zone: ZoneKey
    circuit_ids: Annotated[tuple[Ident, ...], Field(min_length=1, max_length=1000)]
    loaded_conductors: Annotated[int, Field(ge=2, le=LOADED_MOST)]

    def apply(self, job: Job) -> Job:
        """Return the job with those segments counted."""
        for circuit_id in self.circuit_ids:
            circuit = find_circuit(job, circuit_id)
            run = tuple(
                rebuilt(s, loaded_conductors=max(s.loaded_conductors, self.loaded_conductors))
                if s.zone == self.zone
                else s
                for s in circuit.run
            )
            job = with_circuit(job, circuit, run=run)
        return job

    def title(self, job: Job) -> str:
        """Say how many."""
        return f"Count {self.loaded_conductors} loaded wires in one loom"
