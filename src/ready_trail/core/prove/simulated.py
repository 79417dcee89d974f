"""A vehicle that is not there: a design, perhaps with something hidden wrong, to be measured.

It differs from the book as a sound vehicle may, and its readings carry the instruments' noise.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ready_trail.core.errors import CoreError
from ready_trail.core.fault_list import faults_of
from ready_trail.core.faults import Fault, FaultError, Series, faulted
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.outcome import Design
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.free import named
from ready_trail.core.prove.matrix import readings_of
from ready_trail.core.prove.plan import tests_of

AT = "@"


class NotThereError(CoreError):
    """A fault or a test that this vehicle does not have."""


@dataclass(kw_only=True)
class SimulatedVehicle:
    """One vehicle as it was built. ``hidden`` are keys of its faults, a joint's size after an @."""

    design: Design
    hidden: tuple[str, ...] = ()
    seed: int = 1
    _chance: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._chance = np.random.default_rng(self.seed)
        self._faults()

    def _faults(self) -> dict[str, tuple[Fault, ...]]:
        made: dict[str, tuple[Fault, ...]] = {}
        for each in self.hidden:
            key, _, size = each.partition(AT)
            named = faults_of(self.design, [key])
            if not named:
                raise NotThereError(f"this job has no fault {key}")
            faults = named[0].faults
            first = faults[0]
            if size:
                if not isinstance(first, Series):
                    raise NotThereError(f"{key} has no size")
                faults = (Series(first.element, float(size)),)
            made[key] = faults
        return made

    def mend(self, key: str) -> bool:
        """Put something right that is wrong; False where it was not."""
        left = tuple(h for h in self.hidden if h.partition(AT)[0] != key)
        mended = len(left) < len(self.hidden)
        self.hidden = left
        return mended

    def read(self, circuit_id: str, test_key: str) -> float:
        """Return what the instrument of a test shows, in its unit, with its noise; infinity where
        nothing joins the points.

        Raises NotThereError.
        """
        bench = bench_of(self.design, circuit_id)
        every = (*tests_of(self.design, circuit_id), *(named(bench, [test_key]) if bench else ()))
        test = next((t for t in every if t.key == test_key), None)
        if bench is None or test is None:
            raise NotThereError(f"{circuit_id} has no test {test_key}")
        network, offset_v = bench.drawn(self.seed)
        for faults in self._faults().values():
            try:
                network = faulted(network, faults)
            except FaultError:
                continue  # in a part that this circuit does not reach
        place = float(readings_of(bench, [test], [network], [offset_v])[0, 0])
        if not np.isfinite(place):
            return 0.0
        instrument = INSTRUMENTS[test.instrument]
        place += float(self._chance.normal(0.0, instrument.sigma(place) / 2))
        return instrument.value(place)
