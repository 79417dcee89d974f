"""Edit: a circuit as it stands in the vehicle, with the one thing that differs."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ready_trail.core.edits.base import rebuilt, with_circuit
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.job.branch import Branch
from ready_trail.core.job.circuit import Circuit, HeldChoices, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Name

LongWire = Literal["", "feed", "run", "back", "control"]
"""Which wire is longer: that ahead of the fuse, one of the run, one of the way back, a coil's."""
_LEAST_M = 0.02
"""What stays of a piece that is said to be shorter than that. [m]"""


class HoldAsBuilt(CircuitEdit):
    """Hold everything that a circuit has in the vehicle, and one branch's size where that is what
    differs: what is built does not follow any more. ``longer`` names a wire that is ``more_m``
    longer than designed, on the branch that is named. ``words`` tell the difference.
    """

    kind: Literal["hold_as_built"] = "hold_as_built"
    words: Name
    held: HeldChoices
    branch_id: str = ""
    branch_size: str | None = None
    longer: LongWire = ""
    more_m: Annotated[float, Field(ge=-100, le=100)] = 0.0

    def apply(self, job: Job) -> Job:
        """Return the job with all of it held; what is not named stays as it was."""
        circuit = self.circuit(job)
        given = {name: value for name, value in self.held if value}
        changes: dict[str, Any] = self._lengths(circuit) if self.longer else {}
        if self.branch_size is not None:
            changes["branches"] = tuple(
                rebuilt(b, size=self.branch_size) if b.id == self.branch_id else b
                for b in circuit.branches
            )
        return with_circuit(job, circuit, held=rebuilt(circuit.held, **given), **changes)

    def _lengths(self, circuit: Circuit) -> dict[str, Any]:
        """What of the circuit becomes longer, or shorter."""
        if self.longer == "feed":
            fuse_at_m = max(0.0, circuit.fuse_at_m + self.more_m)
            return {
                "fuse_at_m": fuse_at_m,
                "switching_at_m": circuit.switching_at_m + fuse_at_m - circuit.fuse_at_m,
                "run": _stretched(circuit.run, fuse_at_m - circuit.fuse_at_m, at=0),
            }
        if self.longer == "control":
            return {"control_m": max(0.1, circuit.control_m + self.more_m)}
        if self.branch_id:
            return {"branches": tuple(self._branch(b) for b in circuit.branches)}
        if self.longer == "run":
            return {"run": _stretched(circuit.run, self.more_m, at=-1)}
        if not circuit.back.on_body:  # it runs beside the feed: half of it each way
            return {"run": _stretched(circuit.run, self.more_m / 2, at=-1)}
        stub_m = max(_LEAST_M, circuit.back.stub_m + self.more_m)
        return {"back": rebuilt(circuit.back, stub_m=stub_m)}

    def _branch(self, branch: Branch) -> Branch:
        if branch.id != self.branch_id:
            return branch
        if self.longer == "back" and branch.back.on_body:
            stub_m = max(_LEAST_M, branch.back.stub_m + self.more_m)
            return rebuilt(branch, back=rebuilt(branch.back, stub_m=stub_m))
        more_m = self.more_m / 2 if self.longer == "back" else self.more_m
        return rebuilt(branch, run=_stretched(branch.run, more_m, at=-1))

    def title(self, job: Job) -> str:
        """Say what was built."""
        return f"Take over {self.words}"


def _stretched(run: tuple[Segment, ...], more_m: float, *, at: int) -> tuple[Segment, ...]:
    """A run with one segment longer by so much; it stays a piece of wire."""
    pieces = list(run)
    length_m = max(_LEAST_M, round(pieces[at].length_m + more_m, 3))
    pieces[at] = rebuilt(pieces[at], length_m=length_m)
    return tuple(pieces)
