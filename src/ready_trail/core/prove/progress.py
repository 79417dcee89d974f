"""How far a vehicle is proved: joins readings, which are facts, and the design's tests."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.next_reading import walk_minutes
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Test

Outcome = Literal["pass", "watch", "fail", "skipped"]
Standing = Literal["open", "pass", "watch", "fail", "skipped", "older", "again"]
"""``older``: read against another design; ``again``: it failed, and something was mended since."""

MENDED = "mended"
"""Kind of the fact that something was mended: what was read before it tells nothing of a cause."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A fact: what was read at one test, in the instrument's unit, or why it was skipped.

    ``asked`` are the test's words as they stood, ``middle`` and ``sigma`` what was expected on the
    instrument's scale, ``design`` the digest of the circuit's design that it was read against.
    """

    circuit_id: str
    test: str
    asked: str
    instrument: str
    value: float | None
    skipped: str = ""
    middle: float | None = None
    sigma: float | None = None
    verdict: Outcome
    source: Literal["typed", "instrument", "file"] = "typed"
    design: str = ""
    who: str = ""
    made_at: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """Where one test stands, with its latest reading."""

    standing: Standing
    reading: Reading | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """Where every test of one circuit stands.

    ``share`` is what part of the faults that count the readings so far would have shown;
    ``gone`` are readings of tests that the design no longer has.
    """

    stands: Mapping[str, Stand]
    share: float
    must_done: int
    must_total: int
    minutes_left: float
    gone: tuple[Reading, ...]

    @property
    def failing(self) -> tuple[Stand, ...]:
        """Tests whose latest reading fails."""
        return tuple(s for s in self.stands.values() if s.standing == "fail")

    @property
    def is_proved(self) -> bool:
        """Whether every must test has passed, or was near enough, against this design."""
        return self.must_total > 0 and self.must_done == self.must_total


def proof_of(plan: Plan, readings: Sequence[Reading]) -> Proof:
    """Join a circuit's tests and a vehicle's readings: of one test the latest counts.

    One read against an older design counts on where what it expects is still the same.
    """
    latest = _latest(plan, readings)
    fresh = {id(r) for r in _since_mended(plan, readings)}
    stands = {
        t.key: _stand(t, r, is_fresh=id(r) in fresh)
        for t in plan.matrix.tests
        for r in (latest.get(t.key),)
    }
    read = [
        i
        for i, t in enumerate(plan.matrix.tests)
        if stands[t.key].standing in ("pass", "watch", "fail")
    ]
    done = [t for t in plan.must if stands[t.key].standing in ("pass", "watch", "skipped")]
    left = [t for t in plan.must if t not in done]
    return Proof(
        stands=stands,
        share=plan.cover.share(read),
        must_done=sum(stands[t.key].standing != "skipped" for t in done),
        must_total=len(plan.must),
        minutes_left=walk_minutes(left),
        gone=tuple(r for k, r in latest.items() if k not in stands and not is_mended(r)),
    )


def mended(circuit_id: str, cause: str, words: str, who: str, at: str) -> Reading:
    """Return the fact that a cause was mended."""
    return Reading(
        circuit_id=circuit_id,
        test=f"{MENDED}:eye:{cause}",
        asked=words,
        instrument="eye",
        value=None,
        skipped=words,
        verdict="skipped",
        who=who,
        made_at=at,
    )


def is_mended(reading: Reading) -> bool:
    """Return whether a fact is that something was mended."""
    return reading.test.startswith(f"{MENDED}:")


def _latest(plan: Plan, readings: Sequence[Reading]) -> dict[str, Reading]:
    """The last reading of each test of a circuit, in the order in which they were taken."""
    latest: dict[str, Reading] = {}
    for reading in readings:
        if reading.circuit_id == plan.circuit_id:
            latest.pop(reading.test, None)
            latest[reading.test] = reading
    return latest


def _since_mended(plan: Plan, readings: Sequence[Reading]) -> Sequence[Reading]:
    """A circuit's readings since something was last mended in it."""
    own = [r for r in readings if r.circuit_id == plan.circuit_id]
    ends = [i for i, r in enumerate(own) if is_mended(r)]
    return own[ends[-1] + 1 :] if ends else own


def _stand(test: Test, reading: Reading | None, *, is_fresh: bool) -> Stand:
    if reading is None:
        return Stand(standing="open")
    if reading.value is None:
        return Stand(standing="skipped", reading=reading)
    if reading.middle is not None and abs(reading.middle - test.band.middle) > test.band.sigma:
        return Stand(standing="older", reading=reading)
    if not is_fresh and reading.verdict != "pass":
        return Stand(standing="again", reading=reading)
    return Stand(standing=reading.verdict, reading=reading)


def evidence(plan: Plan, readings: Sequence[Reading]) -> tuple[tuple[int, float], ...]:
    """Return the latest readings of a circuit for diagnosis, those since anything was mended:
    (column, place on its scale).
    """
    found = []
    for key, reading in _latest(plan, _since_mended(plan, readings)).items():
        column = plan.matrix.column(key)
        known = column is not None and plan.matrix.tests[column].band.most is None
        if column is not None and known and reading.value is not None:
            found.append((column, INSTRUMENTS[reading.instrument].scale(reading.value)))
    return tuple(found)
