"""The plan of a circuit's tests: its matrix with what must be read, as one kept thing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ready_trail.core.errors import NotConvergedError
from ready_trail.core.outcome import Design
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.cover import Cover, cover_of, marked
from ready_trail.core.prove.kinds import KINDS
from ready_trail.core.prove.matrix import Matrix, matrix_of, unique
from ready_trail.core.prove.records import STAGES, Test
from ready_trail.core.solver import solve


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """One circuit's tests, in the order in which they are taken, over its matrix."""

    circuit_id: str
    matrix: Matrix
    cover: Cover

    @property
    def tests(self) -> tuple[Test, ...]:
        """Every test in order: by stage, must before more, one setting after the other."""
        return in_order(self.matrix.tests)

    @property
    def must(self) -> tuple[Test, ...]:
        """The cheapest set that shows every single fault that counts."""
        return tuple(t for t in self.tests if t.must)

    def test(self, key: str) -> Test | None:
        """Return a test by its key, None where this design has no such test (any more)."""
        return next((t for t in self.matrix.tests if t.key == key), None)


def tests_of(design: Design, circuit_id: str) -> tuple[Test, ...]:
    """Return every test of a circuit without what it expects; none where it was not wired."""
    bench = bench_of(design, circuit_id)
    return unique([t for kind in KINDS for t in kind(bench)]) if bench is not None else ()


def plan_of(design: Design, circuit_id: str) -> Plan | None:
    """Return a circuit's plan, or None where it could not be wired. Deterministic; seconds."""
    bench, matrix = bench_of(design, circuit_id), matrix_of(design, circuit_id)
    if bench is None or matrix is None:
        return None
    try:
        sound = solve(bench.sound, bench.working.state)
    except NotConvergedError:
        sound = None
    cover = cover_of(bench, matrix, sound)
    return Plan(circuit_id=circuit_id, matrix=marked(matrix, cover), cover=cover)


def in_order(tests: Sequence[Test]) -> tuple[Test, ...]:
    """Return tests by stage, then setting as first met, then place."""
    settings = {s: i for i, s in enumerate(dict.fromkeys(t.setting for t in tests))}
    return tuple(sorted(tests, key=lambda t: (STAGES.index(t.stage), settings[t.setting])))
