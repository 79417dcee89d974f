"""How schemes are asked about a circuit."""

from __future__ import annotations

from ready_trail.core.job import Circuit, Job
from ready_trail.core.schemes.base import Ask
from ready_trail.core.supply.tree import Tree


def ask_of(job: Job, tree: Tree, circuit: Circuit, current_a: float) -> Ask:
    """Return a circuit as schemes are asked about it."""
    return Ask(
        job=job,
        tree=tree,
        circuit=circuit,
        accessories=job.loads_of(circuit),
        use=job.use_of(circuit),
        current_a=current_a,
    )
