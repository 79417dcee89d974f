"""What every test of a circuit reads for every thing that may be wrong with it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.faults import Fault, Series
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.instruments.lamp import LAMP_W
from ready_trail.core.instruments.load import LOAD_A
from ready_trail.core.loads import Load
from ready_trail.core.netlist import LoadElement, Network
from ready_trail.core.outcome import Design
from ready_trail.core.prove.batch import Batch, Floats, Solved
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.candidates import candidates
from ready_trail.core.prove.kinds import KINDS
from ready_trail.core.prove.records import Band, Candidate, Setting, Test

SAMPLES = 60
"""Sound vehicles from which a test's spread is taken. (house)"""
PASS_SIGMA, FAIL_SIGMA = 3.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Matrix:
    """One circuit: its tests, what may be wrong, and what each then reads.

    ``readings`` has a row for each rung of each candidate, by ``owner``; a place on the
    instrument's scale, NaN where it cannot be read. ``spread`` are the same of sound vehicles,
    less their middle.
    """

    circuit_id: str
    tests: tuple[Test, ...]
    candidates: tuple[Candidate, ...]
    owner: NDArray[np.intp]
    readings: Floats
    middle: Floats
    spread: Floats
    sigma: Floats

    @property
    def nbytes(self) -> int:
        """Bytes that its arrays take."""
        return int(self.readings.nbytes + self.spread.nbytes + self.middle.nbytes)

    def column(self, key: str) -> int | None:
        """Return a test's place, or None where the plan has no such test (any more)."""
        return next((i for i, t in enumerate(self.tests) if t.key == key), None)


def matrix_of(design: Design, circuit_id: str) -> Matrix | None:
    """Return a circuit's matrix, or None where it could not be wired. Deterministic."""
    bench = bench_of(design, circuit_id)
    if bench is None:
        return None
    tests = unique([test for kind in KINDS for test in kind(bench)])
    found, networks, owner = kept_candidates(bench, candidates(design, bench.installation))
    return _filled(bench, tests, found, networks, owner)


def widened(matrix: Matrix, bench: Bench, tests: Sequence[Test]) -> Matrix:
    """Return a matrix with further tests, at the end of its own."""
    new = [t for t in tests if matrix.column(t.key) is None]
    if not new:
        return matrix
    found, networks, owner = kept_candidates(bench, matrix.candidates)
    more = _filled(bench, tuple(new), found, networks, owner)
    return replace(
        matrix,
        tests=(*matrix.tests, *more.tests),
        readings=np.hstack((matrix.readings, more.readings)),
        middle=np.append(matrix.middle, more.middle),
        spread=np.hstack((matrix.spread, more.spread)),
        sigma=np.append(matrix.sigma, more.sigma),
    )


def _filled(
    bench: Bench,
    tests: tuple[Test, ...],
    found: tuple[Candidate, ...],
    networks: list[Network],
    owner: list[int],
) -> Matrix:
    series = ["", *(_series(rung) for c in found for rung in c.rungs)]
    read = readings_of(bench, tests, [bench.sound, *networks], series=series)
    drawn = [bench.drawn(seed) for seed in range(SAMPLES)]
    sample = readings_of(bench, tests, [n for n, _ in drawn], [v for _, v in drawn])
    middle = np.where(np.isfinite(read[0]), read[0], np.nanmedian(sample, axis=0))
    spread = sample - middle
    own = np.array(
        [INSTRUMENTS[t.instrument].sigma(float(m)) for t, m in zip(tests, middle, strict=True)]
    )
    sigma = np.sqrt(own**2 + np.nanmean(spread**2, axis=0))
    banded = tuple(
        t if t.band.most is not None else t.with_band(Band(middle=float(m), sigma=float(s)))
        for t, m, s in zip(tests, middle, sigma, strict=True)
    )
    return Matrix(
        circuit_id=bench.made.circuit.id,
        tests=banded,
        candidates=found,
        owner=np.array(owner, dtype=np.intp),
        readings=read[1:].astype(np.float32).astype(np.float64),
        middle=middle,
        spread=np.nan_to_num(spread),
        sigma=sigma,
    )


def kept_candidates(
    bench: Bench, every: Iterable[Candidate]
) -> tuple[tuple[Candidate, ...], list[Network], list[int]]:
    """Return the candidates that the bench's network can have, each rung's network, and whose
    each of these is.
    """
    found: list[Candidate] = []
    networks: list[Network] = []
    owner: list[int] = []
    for candidate in every:
        made = [bench.faulty(f) for f in candidate.rungs]
        kept = [(f, n) for f, n in zip(candidate.rungs, made, strict=True) if n is not None]
        if not kept:
            continue
        owner += [len(found)] * len(kept)
        found.append(replace(candidate, rungs=tuple(f for f, _ in kept)))
        networks += [n for _, n in kept]
    return tuple(found), networks, owner


def readings_of(
    bench: Bench,
    tests: Sequence[Test],
    networks: list[Network],
    offset_v: list[float] | None = None,
    series: Sequence[str] = (),
) -> Floats:
    """Return what each test reads in each vehicle: (vehicle, test), on the instruments' scales.

    ``series`` may name for each the one joint in which it differs from the first.
    """
    batch = bench.batch(networks, offset_v)
    made = np.full((len(networks), len(tests)), np.nan)
    blown: NDArray[np.bool_] | None = None
    settings = dict.fromkeys((bench.working, *(t.setting for t in tests)))
    sound_eye: dict[str, float] = {}
    for setting in settings:
        columns = [i for i, t in enumerate(tests) if t.setting == setting]
        if not setting.power:
            ohms = batch.passive(setting.state)
            for i in columns:
                made[:, i] = _passive(batch, tests[i], ohms)
            continue
        solved = batch.solve(setting.state, blown, series)
        if blown is None:
            blown = solved.blown  # what blows when it is first switched on stays blown
            sound_eye = _sound_eye(bench, tests, setting)
        for i in columns:
            if tests[i].instrument == "lamp":
                made[:, i] = _lit(bench, tests[i], networks, offset_v, blown)
            elif tests[i].instrument == "fuse":
                made[:, i] = batch.whole(tests[i].probe.wire, solved.blown)
            else:
                made[:, i] = _live(batch, tests[i], solved, sound_eye)
    return made


def _series(faults: tuple[Fault, ...]) -> str:
    """The element that a fault puts a resistance beside, if that is all of it."""
    only = faults[0] if len(faults) == 1 else None
    return only.element if isinstance(only, Series) else ""


def _lit(
    bench: Bench,
    test: Test,
    networks: list[Network],
    offset_v: list[float] | None,
    blown: NDArray[np.bool_] | None,
) -> Floats:
    """How bright a test lamp burns between two points of each vehicle: it loads what it is on."""
    assert test.probe.plus is not None
    assert test.probe.minus is not None
    rated = Load(model="filament", rated_a=LAMP_W / bench.nominal_v, rated_v=bench.nominal_v)
    a, b = test.probe.plus.node, test.probe.minus.node
    lamp = LoadElement(name="test_lamp", a=a, b=b, load=rated)
    lit = [replace(n, elements=(*n.elements, lamp)) for n in networks]
    batch = bench.batch(lit, offset_v)
    solved = batch.solve(test.setting.state, blown)
    volts = np.abs(solved.volts[:, batch.at(a)] - solved.volts[:, batch.at(b)])
    bright = np.clip(1.1 * volts / bench.nominal_v, 0.0, 1.0)
    return np.where(solved.sure, bright, np.nan)


def unique(tests: list[Test]) -> tuple[Test, ...]:
    """Return tests without those that two kinds ask for."""
    return tuple({t.key: t for t in tests}.values())


def _passive(batch: Batch, test: Test, ohms: Floats) -> Floats:
    assert test.probe.plus is not None
    assert test.probe.minus is not None
    a, b = batch.at(test.probe.plus.node), batch.at(test.probe.minus.node)
    found = ohms[:, a, b]
    instrument = INSTRUMENTS[test.instrument]
    if test.instrument == "load":
        found = np.minimum(found * LOAD_A * 1e3, 70_000.0)
    return np.array([instrument.scale(float(x)) for x in found])


def _live(batch: Batch, test: Test, solved: Solved, sound_eye: dict[str, float]) -> Floats:
    if test.probe.wire:
        at = list(batch.clamps).index(test.probe.wire)
        found = solved.wire_a[:, at]
    else:
        assert test.probe.plus is not None
        assert test.probe.minus is not None
        plus, minus = batch.at(test.probe.plus.node), batch.at(test.probe.minus.node)
        found = solved.volts[:, plus] - solved.volts[:, minus]
        if test.instrument == "eye":
            usual = sound_eye.get(test.probe.key, 0.0)
            found = np.clip(np.abs(found) / usual, 0.0, 1.0) if usual else found * 0.0
    return np.where(solved.sure, found, np.nan)


def _sound_eye(bench: Bench, tests: Sequence[Test], setting: Setting) -> dict[str, float]:
    """Volts at each accessory while all is sound, by which an eye judges."""
    batch = bench.batch([bench.sound])
    volts = batch.solve(setting.state).volts[0]
    return {
        t.probe.key: float(
            abs(volts[batch.at(t.probe.plus.node)] - volts[batch.at(t.probe.minus.node)])
        )
        for t in tests
        if t.instrument == "eye" and t.probe.plus is not None and t.probe.minus is not None
    }
