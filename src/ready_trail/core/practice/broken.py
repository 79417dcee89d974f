"""A vehicle with something hidden wrong with it: what any reading of it shows, and who is right."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ready_trail.core.faults import Fault
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.netlist import Network
from ready_trail.core.prove.batch import Floats, Ints
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.free import named
from ready_trail.core.prove.matrix import FAIL_SIGMA, PASS_SIGMA, Matrix, readings_of
from ready_trail.core.prove.records import Candidate, Test


@dataclass(frozen=True, slots=True, kw_only=True)
class Broken:
    """A circuit on the bench with faults in it, by their rows of its matrix."""

    bench: Bench
    matrix: Matrix
    rows: tuple[int, ...]

    @property
    def faults(self) -> tuple[Candidate, ...]:
        """What is wrong with it."""
        return tuple(self.matrix.candidates[int(self.matrix.owner[row])] for row in self.rows)

    def without(self, fault: str) -> Broken:
        """Return it with one fault mended."""
        left = (r for r, c in zip(self.rows, self.faults, strict=True) if c.key != fault)
        return replace(self, rows=tuple(left))

    def tests(self, keys: Iterable[str]) -> tuple[Test, ...]:
        """Return what can be read under these keys, planned or free; what cannot is left out."""
        found: list[Test] = []
        for key in keys:
            column = self.matrix.column(key)
            found += [self.matrix.tests[column]] if column is not None else named(self.bench, [key])
        return tuple(found)

    def reads(self, tests: Sequence[Test]) -> Floats:
        """Return what each test reads, as a place on its scale; NaN where it cannot be read."""
        columns = self._columns(tests)
        if len(self.rows) == 1 and columns is not None:
            return self.matrix.readings[list(self.rows), columns]
        network = self._network()
        if network is None or not tests:
            return np.full(len(tests), np.nan)
        return readings_of(self.bench, tests, [self.bench.sound, network])[1:].ravel()

    def sound(self, tests: Sequence[Test]) -> Floats:
        """Return what each test reads where nothing is wrong."""
        columns = self._columns(tests)
        if columns is not None:
            return self.matrix.middle.take(columns)
        return readings_of(self.bench, tests, [self.bench.sound]).ravel()

    def means(self, name: str) -> str:
        """Return the fault that somebody's name means: the wire or device itself, whatever is said
        to be wrong with it, or one that no reading tells from it. Empty where it means none.
        """
        subject = next((c.subject for c in self.matrix.candidates if c.key == name), None)
        for row, fault in zip(self.rows, self.faults, strict=True):
            if subject == fault.subject or self._is_like(name, row):
                return fault.key
        return ""

    def _columns(self, tests: Sequence[Test]) -> Ints | None:
        """Where tests stand in the matrix; None where one is not in it."""
        columns = [c for t in tests if (c := self.matrix.column(t.key)) is not None]
        return np.array(columns, dtype=np.intp) if len(columns) == len(tests) else None

    def _is_like(self, name: str, row: int) -> bool:
        for other, owner in enumerate(self.matrix.owner):
            if self.matrix.candidates[int(owner)].key == name:
                apart = self.matrix.readings[other] - self.matrix.readings[row]
                off = np.nan_to_num(np.abs(apart) / self.matrix.sigma, nan=0.0)
                if float(off.max()) <= PASS_SIGMA:
                    return True
        return False

    def _network(self) -> Network | None:
        faults: list[Fault] = []
        for row, fault in zip(self.rows, self.faults, strict=True):
            first = int(np.argmax(self.matrix.owner == self.matrix.owner[row]))
            faults += fault.rungs[row - first]
        return self.bench.faulty(faults)


def symptom(broken: Broken) -> int | None:
    """Return the column of the look that shows an owner what is wrong, None where none does."""
    matrix = broken.matrix
    eyes = [n for n, t in enumerate(matrix.tests) if t.instrument == "eye"]
    if not eyes:
        return None
    got = broken.reads([matrix.tests[n] for n in eyes])
    off = np.abs(got - matrix.middle[eyes]) / matrix.sigma[eyes] > FAIL_SIGMA
    return eyes[int(np.argmax(off))] if off.any() else None


def complaint(broken: Broken, column: int) -> str:
    """Say what an owner notices, in their words."""
    test = broken.matrix.tests[column]
    got, sound = float(broken.reads([test])[0]), float(broken.matrix.middle[column])
    when = test.setting.words
    when = when[:1].lower() + when[1:]
    if sound < 0.5:
        return f"{test.title} runs by itself: {when}, and it is on."
    if got < 0.3:
        return f"{test.title} does not work: {when}, and nothing happens."
    return f"{test.title} is weak: {when}, and it only just runs."


def shown(test: Test, place: float) -> str:
    """Return a place as the instrument shows it."""
    if not np.isfinite(place):
        return "cannot be read"
    instrument = INSTRUMENTS[test.instrument]
    if instrument.choices:
        return min(instrument.choices, key=lambda choice: abs(choice[1] - place))[0]
    return instrument.shown(instrument.value(place))
