"""Keeping a buying plan: the sizes, colours and insulation that few spools ask for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.edits.base import Edit, find_circuit, rebuilt, with_circuit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Stated
from ready_trail.core.job.vehicle import ColourSchool


class SizeOf(Stated):
    """The size of a circuit's wire, or of one of its branches."""

    circuit_id: Ident
    branch_id: Annotated[str, Field(pattern=r"^([a-z][a-z0-9]{0,15})?$")] = ""
    size: Annotated[str, Field(min_length=1, max_length=12)]


class KeepSpools(Edit):
    """Hold what a plan raises, and set the house rules by which it buys."""

    kind: Literal["keep_spools"] = "keep_spools"
    spools: Annotated[int, Field(ge=0, le=1000)]
    colours: ColourSchool
    control_mm2: Annotated[float, Field(ge=0, le=6)]
    one_class_c: Annotated[int, Field(ge=0, le=200)] = 0
    sizes: Annotated[tuple[SizeOf, ...], Field(max_length=2000)] = ()

    def apply(self, job: Job) -> Job:
        """Return the job with the plan held."""
        changes: dict[str, object] = {"colours": self.colours, "control_mm2": self.control_mm2}
        if self.one_class_c:
            changes["insulation_c"] = self.one_class_c
        job = rebuilt(job, rules=rebuilt(job.rules, **changes))
        for each in self.sizes:
            circuit = find_circuit(job, each.circuit_id)
            if not each.branch_id:
                held = rebuilt(circuit.held, size=each.size)
                job = with_circuit(job, circuit, held=held)
                continue
            if all(b.id != each.branch_id for b in circuit.branches):
                raise EditRefusedError("sizes", "a branch of this plan is no longer there")
            branches = tuple(
                rebuilt(b, size=each.size) if b.id == each.branch_id else b
                for b in circuit.branches
            )
            job = with_circuit(job, circuit, branches=branches)
        return job

    def title(self, job: Job) -> str:
        """Say how many."""
        return f"Cut {job.name} from {self.spools} spools"
