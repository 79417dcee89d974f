"""Pass, watch or fail: a reading beside what a sound vehicle reads."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.matrix import FAIL_SIGMA, PASS_SIGMA
from ready_trail.core.prove.records import Test

Verdict = Literal["pass", "watch", "fail"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """A verdict, and how many standard errors the reading is off; 0 where only a limit counts."""

    verdict: Verdict
    off: float


def judge(test: Test, value: float) -> Judged:
    """Return the verdict on a reading, in the instrument's unit.

    Notes
    -----
    Within three standard errors of what sound vehicles read it passes, beyond five it fails
    (sampling; the errors are the instrument's and the spread of sound vehicles together).
    """
    if test.band.most is not None:
        return Judged(verdict="fail" if value > test.band.most else "pass", off=0.0)
    place = INSTRUMENTS[test.instrument].scale(value)
    off = (place - test.band.middle) / test.band.sigma
    if not math.isfinite(off):
        return Judged(verdict="fail", off=math.inf)
    size = abs(off)
    found: Verdict = "pass" if size <= PASS_SIGMA else "watch" if size <= FAIL_SIGMA else "fail"
    return Judged(verdict=found, off=off)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What passes and what fails, in the instrument's unit."""

    expected: float
    pass_from: float
    pass_to: float
    fail_under: float
    fail_over: float


def limits(test: Test) -> Limits:
    """Return a test's band in its instrument's unit."""
    instrument, band = INSTRUMENTS[test.instrument], test.band
    if band.most is not None:
        low = -math.inf
        return Limits(
            expected=0.0, pass_from=low, pass_to=band.most, fail_under=low, fail_over=band.most
        )

    def at(off: float) -> float:
        return instrument.value(band.middle + off * band.sigma)

    return Limits(
        expected=at(0.0),
        pass_from=at(-PASS_SIGMA),
        pass_to=at(PASS_SIGMA),
        fail_under=at(-FAIL_SIGMA),
        fail_over=at(FAIL_SIGMA),
    )


def expected_words(test: Test) -> str:
    """Say in one line what a sound vehicle reads."""
    instrument, found = INSTRUMENTS[test.instrument], limits(test)
    if test.band.most is not None:
        return f"at most {instrument.shown(test.band.most)}"
    if instrument.choices:
        return min(instrument.choices, key=lambda c: abs(c[1] - test.band.middle))[0]
    if math.isinf(found.expected):
        return "open"
    low, high = max(found.pass_from, instrument.least), found.pass_to
    if math.isinf(high):
        return f"over {instrument.shown(low)}"
    if low <= 0.0 < found.expected and found.expected < 0.5 * high:
        return f"at most {instrument.shown(high)}"
    return f"{_bare(instrument.shown(low))} to {instrument.shown(high)}"


def _bare(shown: str) -> str:
    return shown.rpartition(" ")[0] or shown
