"""Hide every single fault in a drawn vehicle, hunt it as a person would, and print how often it is
found. Arguments: jobs by their names (all demo jobs), ``--draw`` for drawn sizes of joints,
``--sound`` for false alarms instead.
"""

from __future__ import annotations

import sys
import time
from collections import Counter

import numpy as np

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import Design, design
from ready_trail.core.faults import FaultError, Series, faulted
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.netlist import Network
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.diagnose import SURE, rank
from ready_trail.core.prove.matrix import FAIL_SIGMA, Matrix, readings_of
from ready_trail.core.prove.next_reading import propose
from ready_trail.core.prove.plan import plan_of
from ready_trail.formats.demo import demo_jobs

READINGS_MOST = 14
ALIKE_RATIO = 0.3
DRAWN_OHM = (0.05, 5000.0)


def hunt(
    design_: Design, circuit_id: str, draw: bool
) -> tuple[Counter[str], list[int], list[float]]:
    """Hunt each fault that counts of one circuit; return what came of it."""
    told: Counter[str] = Counter()
    readings, times = [], []
    bench, plan = bench_of(design_, circuit_id), plan_of(design_, circuit_id)
    if bench is None or plan is None:
        return told, readings, times
    chance = np.random.default_rng(7)
    networks: list[Network] = []
    offsets, truth = [], []
    matrix, cover = plan.matrix, plan.cover
    for row, owner in enumerate(matrix.owner):
        if not (cover.counted[row] and cover.shows[row].any()):
            continue
        candidate = matrix.candidates[owner]
        faults = candidate.rungs[row - int(np.flatnonzero(matrix.owner == owner)[0])]
        first = faults[0]
        if draw and candidate.ladder and isinstance(first, Series) and candidate.kind != "tired":
            low = max(DRAWN_OHM[0], first.ohm)
            ohm = float(np.exp(chance.uniform(np.log(low), np.log(DRAWN_OHM[1]))))
            faults = (Series(first.element, ohm),)
        network, offset_v = bench.drawn(1000 + row)
        try:
            networks.append(faulted(network, faults))
        except FaultError:
            continue
        offsets.append(offset_v)
        truth.append((candidate, faults))
    if not networks:
        return told, readings, times
    for (candidate, faults), row in zip(
        truth, readings_of(bench, matrix.tests, networks, offsets), strict=True
    ):
        first_fails = _failing(matrix, row, set(cover.must))
        if not first_fails:
            told["not shown"] += 1
            continue
        taken = [(first_fails[0], _read(matrix, row, first_fails[0], chance))]
        before = ""
        for _ in range(READINGS_MOST):
            began = time.perf_counter()
            ranking = rank(matrix, taken)
            proposal = propose(matrix, ranking, [c for c, _ in taken])
            times.append(time.perf_counter() - began)
            sure = ranking.leader.key if ranking.leader.share > SURE else ""
            if proposal is None or (sure and sure == before):
                break
            before = sure
            taken.append((proposal.column, _read(matrix, row, proposal.column, chance)))
        leader = ranking.leader
        alike = [c.key for c in ranking.causes if c.share >= ALIKE_RATIO * leader.share]
        named = {c.key: c.subject for c in matrix.candidates}
        part = named.get(leader.key) == candidate.subject
        found = candidate.key in alike
        told["hunts"] += 1
        told["first or its class"] += found
        told["part"] += part or found
        told["wrong and sure"] += leader.share > SURE and not (part or found)
        readings.append(len(taken))
        if not found and "-v" in sys.argv:
            print("   ", candidate.key, faults, "->", leader.key, round(leader.share, 2))
    return told, readings, times


def false_alarms(design_: Design, circuit_id: str, count: int = 200) -> tuple[int, int]:
    """Tests that say fail of sound vehicles, and how many were read."""
    bench, plan = bench_of(design_, circuit_id), plan_of(design_, circuit_id)
    if bench is None or plan is None:
        return 0, 0
    chance = np.random.default_rng(11)
    drawn = [bench.drawn(50_000 + n) for n in range(count)]
    tests = plan.matrix.tests
    rows = readings_of(bench, tests, [n for n, _ in drawn], [v for _, v in drawn])
    usable = np.array([t.band.most is None for t in tests]) & np.isfinite(rows)
    noise = np.array(
        [
            [
                INSTRUMENTS[t.instrument].sigma(float(v)) if np.isfinite(v) else 0.0
                for t, v in zip(tests, row, strict=True)
            ]
            for row in rows
        ]
    )
    off = np.abs(rows + noise * chance.normal(size=rows.shape) - plan.matrix.middle)
    return int((usable & (off / plan.matrix.sigma > FAIL_SIGMA)).sum()), int(usable.sum())


def _failing(matrix: Matrix, row: np.ndarray, must: set[int]) -> list[int]:  # type: ignore[type-arg]
    off = np.abs(row - matrix.middle) / matrix.sigma
    failing = [i for i in sorted(must) if np.isfinite(off[i]) and off[i] > FAIL_SIGMA]
    return sorted(failing, key=lambda i: matrix.tests[i].kind != "truth")


def _read(matrix: Matrix, row: np.ndarray, column: int, chance: np.random.Generator) -> float:  # type: ignore[type-arg]
    """What the instrument shows, with its noise; nothing sensible where a fuse is in the way."""
    value = float(row[column])
    if not np.isfinite(value):
        return float(matrix.middle[column])
    sigma = INSTRUMENTS[matrix.tests[column].instrument].sigma(value)
    return value + float(chance.normal(0.0, sigma))


def main() -> None:
    names = [a for a in sys.argv[1:] if not a.startswith("-")]
    tables = load_catalogue()
    for job in demo_jobs(tables):
        if names and job.name not in names:
            continue
        made = design(job, tables)
        if "--sound" in sys.argv:
            found = [false_alarms(made, c.circuit.id) for c in made.circuits]
            failed, read = sum(f for f, _ in found), sum(r for _, r in found)
            share = 100 * failed / max(1, read)
            words = f"{failed} of {read} readings of sound vehicles fail, {share:.3f} %"
            print(f"{job.name}: {words}", flush=True)
            continue
        told: Counter[str] = Counter()
        readings: list[int] = []
        times: list[float] = []
        began = time.perf_counter()
        for circuit in made.circuits:
            each = hunt(made, circuit.circuit.id, "--draw" in sys.argv)
            told.update(each[0])
            readings += each[1]
            times += each[2]
            if "-v" in sys.argv:
                print(circuit.circuit.name, dict(each[0]))
        hunts = max(1, told["hunts"])
        shares = ", ".join(
            f"{k} {100 * told[k] / hunts:.1f} %"
            for k in ("first or its class", "part", "wrong and sure")
        )
        print(
            f"{job.name}: {hunts} hunts, {told['not shown']} not shown; {shares}; "
            f"{np.mean(readings):.2f} readings on average, {max(readings)} at most; "
            f"{1e3 * float(np.mean(times)):.1f} ms each; {time.perf_counter() - began:.0f} s",
            flush=True,
        )


if __name__ == "__main__":
    main()
