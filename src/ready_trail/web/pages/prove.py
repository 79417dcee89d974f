"""What the pages of Prove show: plans as they are there, where each test stands, what it means."""

from __future__ import annotations

import hashlib
import sqlite3
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from threading import Lock
from uuid import uuid4

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import design
from ready_trail.core.installation import Installation
from ready_trail.core.instruments import INSTRUMENTS, Instrument
from ready_trail.core.job import Job
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.diagnose import SURE, Ranking, apart, rank
from ready_trail.core.prove.free import BY, KIND, points, settings, with_free
from ready_trail.core.prove.keeping import VERSION, digest_of, from_bytes, to_bytes
from ready_trail.core.prove.matrix import PASS_SIGMA
from ready_trail.core.prove.next_reading import Proposal, propose
from ready_trail.core.prove.pairs import pairs
from ready_trail.core.prove.plan import Plan, plan_of
from ready_trail.core.prove.progress import Proof, Reading, Stand, evidence, is_mended, proof_of
from ready_trail.core.prove.records import NOTHING, STAGE_WORDS, STAGES, Test
from ready_trail.core.prove.verdict import expected_words, limits
from ready_trail.core.record.drift import Course, course_of
from ready_trail.drawing.scene import Trail
from ready_trail.drawing.trail import draw_trail
from ready_trail.drawing.trend import Trend, draw_trend
from ready_trail.store import plans
from ready_trail.store.db import transaction
from ready_trail.store.jobs import StoredJob
from ready_trail.store.works import Work
from ready_trail.web.pages.shell import Shell
from ready_trail.web.work import Made, Report, start

_PLANS_MOST = 60
_plans: OrderedDict[tuple[str, str], Plan] = OrderedDict()
_lock = Lock()

SHOWN_LEAST, SHOWN_MOST = 0.02, 5
"""A cause with a smaller share is not shown, nor are more."""


@lru_cache(maxsize=8)
def _digests(made: Design) -> dict[str, str]:
    """What each circuit's plan of a design is kept under, as far as anybody asked."""
    return {}


def digest(shell: Shell, circuit_id: str) -> str:
    """Return what a circuit's plan is kept under; empty where it could not be wired."""
    known = _digests(shell.design)
    if circuit_id not in known:
        bench = bench_of(shell.design, circuit_id)
        known[circuit_id] = digest_of(bench) if bench is not None else ""
    return known[circuit_id]


def _kept(key: tuple[str, str], make: Callable[[], Plan | None]) -> Plan | None:
    """A plan as this process has it, or as it is made; those used last stay."""
    with _lock:
        known = _plans.get(key)
        if known is not None:
            _plans.move_to_end(key)
            return known
    found = make()
    if found is not None:
        with _lock:
            _plans[key] = found
            while len(_plans) > _PLANS_MOST:
                _plans.popitem(last=False)
    return found


def known_plan(conn: sqlite3.Connection, shell: Shell, circuit_id: str) -> Plan | None:
    """Return a circuit's plan if it has been reckoned, as it is kept."""
    under = digest(shell, circuit_id)
    if not under:
        return None

    def stored() -> Plan | None:
        data = plans.get_plan(conn, under)
        return from_bytes(shell.design, circuit_id, data) if data is not None else None

    return _kept((under, circuit_id), stored)


def plan_with(
    conn: sqlite3.Connection, shell: Shell, circuit_id: str, keys: Iterable[str]
) -> Plan | None:
    """Return a circuit's plan that knows the free readings of these keys too."""
    plan = known_plan(conn, shell, circuit_id)
    free = tuple(sorted({k for k in keys if k.startswith(f"{KIND}:")}))
    if plan is None or not free:
        return plan
    key = (f"{digest(shell, circuit_id)}{free}", circuit_id)
    return _kept(key, lambda: with_free(shell.design, plan, free))


def start_plans(database: Path, stored: StoredJob, only: str = "") -> Work:
    """Start reckoning the plans that are not there yet, or one circuit's alone; or what runs.

    Raises TooMuchWorkError.
    """
    facts = f"prove {VERSION} {only} {stored.job.model_dump_json()} {stored.figures!r}"
    key = hashlib.sha256(facts.encode()).hexdigest()

    def begun(key: str) -> Work:
        return start(
            database,
            key,
            "The plan of tests",
            make_plans,
            stored.job.model_dump_json(),
            stored.figures,
            only,
        )

    work = begun(key)
    if work.state == "done":  # what it made was not used for so long that it is gone
        work = begun(f"{key}{uuid4().hex}")
    return work


def make_plans(
    conn: sqlite3.Connection,
    document: str,
    figures: tuple[Figure, ...],
    only: str,
    *,
    report: Report,
) -> Made:
    """Reckon every circuit's plan that is not kept yet: in the process."""
    made = design(Job.model_validate_json(document), catalogue_with(figures))
    order = [c for c in made.circuits if only in ("", c.circuit.id)]
    for at, circuit in enumerate(order):
        report(at, len(order), circuit.circuit.name)
        bench = bench_of(made, circuit.circuit.id)
        if bench is None or plans.has_plan(conn, digest_of(bench)):
            continue
        plan = plan_of(made, circuit.circuit.id)
        if plan is not None:
            with transaction(conn):
                plans.put_plan(conn, digest_of(bench), to_bytes(plan))
    return Made()


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitRow:
    """One circuit on the list: its plan and where it stands, or that it is not reckoned yet."""

    circuit: CircuitDesign
    proof: Proof | None
    can_be: bool

    @property
    def state(self) -> str:
        """Its mark."""
        if self.proof is None:
            return "empty"
        if self.proof.failing:
            return "stop"
        if any(s.standing == "watch" for s in self.proof.stands.values()):
            return "caution"
        return "ready" if self.proof.is_proved else "empty"


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveView:
    """The list of circuits, and how far the whole vehicle is."""

    rows: tuple[CircuitRow, ...]

    @property
    def reckoned(self) -> bool:
        """Whether every circuit that can be proved has its plan."""
        return all(r.proof is not None for r in self.rows if r.can_be)

    @property
    def done(self) -> int:
        """Must tests that are done."""
        return sum(r.proof.must_done for r in self.rows if r.proof)

    @property
    def total(self) -> int:
        """Must tests of all plans that are there."""
        return sum(r.proof.must_total for r in self.rows if r.proof)

    @property
    def minutes_left(self) -> float:
        """Minutes for those that are open."""
        return sum(r.proof.minutes_left for r in self.rows if r.proof)

    @property
    def failing(self) -> int:
        """Tests whose latest reading fails."""
        return sum(len(r.proof.failing) for r in self.rows if r.proof)


def prove_view(conn: sqlite3.Connection, shell: Shell, readings: Sequence[Reading]) -> ProveView:
    """Return every circuit with where it stands."""
    rows = []
    for circuit in shell.design.circuits:
        plan = known_plan(conn, shell, circuit.circuit.id)
        rows.append(
            CircuitRow(
                circuit=circuit,
                proof=proof_of(plan, readings) if plan is not None else None,
                can_be=circuit.installation is not None,
            )
        )
    return ProveView(rows=tuple(rows))


@dataclass(frozen=True, slots=True, kw_only=True)
class TestView:
    """A test with where it stands, what it expects and where it is read, in words."""

    __test__ = False
    test: Test
    stand: Stand
    expected: str
    place: str
    instrument: Instrument

    @property
    def bar(self) -> Bar | None:
        """Its band, and its latest reading in it."""
        return _bar(self)

    @property
    def shown(self) -> str:
        """Its latest reading as the instrument shows it."""
        reading = self.stand.reading
        if reading is None or reading.value is None:
            return ""
        return self.instrument.shown(reading.value)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedTest:
    """A must test of some circuit, where it is read."""

    circuit: CircuitDesign
    view: TestView


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """The band of a test as a bar from 0 to 100: what passes, what is watched, and a reading."""

    low: float
    high: float
    watch_low: float
    watch_high: float
    at: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseView:
    """One likely cause: words, share, what to do, and the readings that speak for and against."""

    key: str
    words: str
    share: float
    subject: str
    mends: str
    numbers: tuple[tuple[str, str, str, bool], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class NextView:
    """What to read next: its test, and for each outcome its share and what it would mean."""

    test: TestView
    minutes: float
    outcomes: tuple[tuple[str, float, tuple[str, ...]], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeView:
    """What a free reading may be put together from."""

    points: tuple[str, ...]
    settings: tuple[tuple[str, str], ...]
    instruments: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitView:
    """The page of one circuit."""

    made: CircuitDesign
    plan: Plan
    proof: Proof
    groups: tuple[tuple[str, tuple[TestView, ...]], ...]
    more: tuple[TestView, ...]
    looks: tuple[TestView, ...]
    current: TestView | None
    course: tuple[Course, Trend] | None
    kept: tuple[TestView, ...]
    trail: Trail | None
    causes: tuple[CauseView, ...]
    following: NextView | None
    sure: CauseView | None
    fits: bool
    again: bool
    together: tuple[tuple[str, str], ...]
    hidden: tuple[tuple[str, str], ...]
    free: FreeView


def by_place(
    conn: sqlite3.Connection, shell: Shell, readings: Sequence[Reading]
) -> tuple[tuple[str, tuple[PlacedTest, ...]], ...]:
    """Return every must test of the plans that are there, by the zone where it is read."""
    found: dict[str, list[PlacedTest]] = {}
    for circuit in shell.design.circuits:
        plan = known_plan(conn, shell, circuit.circuit.id)
        if plan is None or circuit.installation is None:
            continue
        proof = proof_of(plan, readings)
        for test in plan.must:
            view = _viewed(shell, circuit, proof, test)
            found.setdefault(view.place, []).append(PlacedTest(circuit=circuit, view=view))
    return tuple((label, tuple(tests)) for label, tests in found.items())


def _viewed(shell: Shell, circuit: CircuitDesign, proof: Proof, test: Test) -> TestView:
    return TestView(
        test=test,
        stand=proof.stands[test.key],
        expected=expected_words(test),
        place=_place(shell, circuit, test),
        instrument=INSTRUMENTS[test.instrument],
    )


def _place(shell: Shell, circuit: CircuitDesign, test: Test) -> str:
    """Where a test is read, in words."""
    zone = _zone(circuit.installation, test) if circuit.installation is not None else ""
    return shell.catalogue.zones[zone].label if zone else "At the battery"


def _zone(installed: Installation, test: Test) -> str:
    """The zone where a test is read: of its first probe, or of the wire that it is put round."""
    wire = installed.wires.get(test.probe.wire)
    if wire is not None and wire.pieces:
        return wire.pieces[0].zone
    for end in (test.probe.plus, test.probe.minus):
        device = installed.devices.get(end.device) if end is not None else None
        if device is not None and device.zone:
            return device.zone
    for wire in installed.wires.values():
        if test.probe.plus in (wire.start, wire.end) and wire.pieces:
            return wire.pieces[0 if wire.start == test.probe.plus else -1].zone
    return ""


def circuit_view(
    shell: Shell,
    made: CircuitDesign,
    plan: Plan,
    readings: Sequence[Reading],
    key: str,
    failed: Mapping[str, int] | None = None,
) -> CircuitView:
    """Return the page of one circuit with one of its tests at hand: that named, or the next.

    ``failed`` counts what visits found wrong, by wire or device.
    """
    proof = proof_of(plan, readings)
    views = {t.key: _viewed(shell, made, proof, t) for t in plan.tests}
    groups = tuple(
        (STAGE_WORDS[s], tuple(views[t.key] for t in plan.must if t.stage == s))
        for s in STAGES
        if any(t.stage == s for t in plan.must)
    )
    taken = evidence(plan, readings)
    suspects = any(s.standing in ("fail", "watch") for s in proof.stands.values())
    ranking = rank(plan.matrix, taken, failed) if taken and suspects else None
    again = _only_once(plan, readings) if ranking is not None else False
    following = _next(plan, ranking, taken, views) if ranking is not None else None
    causes = _causes(plan, ranking, taken) if ranking is not None else ()
    sure = _sure(plan, taken, causes)
    current = views.get(key) or _next_open(plan, proof, views, following if not sure else None)
    names = {c.key: c.words for c in plan.matrix.candidates}
    return CircuitView(
        made=made,
        plan=plan,
        proof=proof,
        groups=groups,
        more=tuple(v for v in views.values() if not v.test.must),
        looks=tuple(v for v in views.values() if v.test.instrument == "eye"),
        current=current,
        course=_course(current, readings),
        kept=tuple(views[t.key] for t in plan.must),
        trail=draw_trail(made, shell.catalogue),
        causes=causes,
        following=following,
        sure=sure,
        fits=ranking.fits if ranking is not None else True,
        again=again,
        together=tuple(
            (names[a], names[b])
            for a, b in (pairs(plan.matrix, taken) if ranking and not ranking.fits else ())
        ),
        free=_free(shell, plan),
        hidden=tuple((names.get(k, k), why) for k, why in plan.cover.hidden),
    )


def _course(view: TestView | None, readings: Sequence[Reading]) -> tuple[Course, Trend] | None:
    """A test's readings over time, where there are several."""
    if view is None or view.instrument.choices:
        return None
    found = course_of(view.test.key, readings, limits(view.test))
    return (found, draw_trend(found)) if found is not None else None


def _free(shell: Shell, plan: Plan) -> FreeView:
    bench = bench_of(shell.design, plan.circuit_id)
    assert bench is not None, "it has a plan"
    return FreeView(
        points=tuple(points(bench)),
        settings=tuple((s.key, s.words) for s in settings(bench)),
        instruments=BY,
    )


def _only_once(plan: Plan, readings: Sequence[Reading]) -> bool:
    """Whether the one test that fails was read once alone: it is read again first."""
    own = [r for r in readings if r.circuit_id == plan.circuit_id]
    failing = [r.test for r in own if r.verdict == "fail"]
    return len(failing) == 1 and not any(is_mended(r) for r in own)


def _next_open(
    plan: Plan, proof: Proof, views: dict[str, TestView], following: NextView | None
) -> TestView | None:
    """The test at hand: what tells most about a cause, else the first must test that is open."""
    if following is not None:
        return following.test
    undone = ("open", "older", "again", "fail")
    first = next((t for t in plan.must if proof.stands[t.key].standing in undone), None)
    return views[first.key] if first is not None else None


def _next(
    plan: Plan, ranking: Ranking, taken: Sequence[tuple[int, float]], views: dict[str, TestView]
) -> NextView | None:
    found: Proposal | None = propose(plan.matrix, ranking, [c for c, _ in taken])
    if found is None:
        return None
    instrument = INSTRUMENTS[found.test.instrument]
    words = {c.key: c.words for c in plan.matrix.candidates} | {NOTHING: "all is sound"}
    outcomes = []
    for o in found.outcomes[:4]:
        low, high = instrument.value(o.low), instrument.value(o.high)
        shown = "cannot be read: a fuse opens first" if o.low != o.low else instrument.shown(low)
        if instrument.choices and o.low == o.low:
            middle = (o.low + o.high) / 2
            shown = min(instrument.choices, key=lambda c: abs(c[1] - middle))[0]
        elif o.low == o.low and instrument.shown(low) != instrument.shown(high):
            shown = f"{instrument.shown(low)} to {instrument.shown(high)}"
        means = tuple(f"{words[k]} ({100 * s:.0f} %)" for k, s in o.means)
        outcomes.append((shown, o.share, means))
    return NextView(test=views[found.test.key], minutes=found.minutes, outcomes=tuple(outcomes))


def _causes(
    plan: Plan, ranking: Ranking, taken: Sequence[tuple[int, float]]
) -> tuple[CauseView, ...]:
    known = {c.key: c for c in plan.matrix.candidates}
    found: list[CauseView] = []
    for cause in ranking.causes[:SHOWN_MOST]:
        if cause.share < SHOWN_LEAST and found:
            continue
        numbers = []
        for (column, place), would in zip(taken, cause.reads, strict=True):
            test = plan.matrix.tests[column]
            instrument = INSTRUMENTS[test.instrument]
            off = apart(plan.matrix, column, place, float(would))
            numbers.append(
                (test.where, _shown(instrument, place), _shown(instrument, would), off < PASS_SIGMA)
            )
        candidate = known.get(cause.key)
        found.append(
            CauseView(
                key=cause.key,
                words=candidate.words if candidate else "All is sound, and a reading was wrong",
                share=cause.share,
                subject=candidate.subject if candidate else "",
                mends=candidate.mends if candidate else "Read the failed test again",
                numbers=tuple(numbers),
            )
        )
    return tuple(found)


def _shown(instrument: Instrument, place: float) -> str:
    value = instrument.value(place)
    if instrument.choices:
        return min(instrument.choices, key=lambda c: abs(c[1] - value))[0]
    return instrument.shown(value)


def _sure(
    plan: Plan, taken: Sequence[tuple[int, float]], causes: Sequence[CauseView]
) -> CauseView | None:
    """The cause that stands above the limit, and did so before the last reading too."""
    if len(taken) < 2 or not causes or causes[0].share < SURE:
        return None
    before = rank(plan.matrix, taken[:-1]).leader
    confirmed = before.key == causes[0].key and before.share >= SURE
    return causes[0] if confirmed and causes[0].key != NOTHING else None


def _bar(view: TestView) -> Bar | None:
    """The band on a scale that shows it and the reading, or None where there is nothing to see."""
    test, instrument = view.test, view.instrument
    if test.band.most is not None or instrument.choices:
        return None
    middle, sigma = test.band.middle, test.band.sigma
    span = 10.0 * sigma

    def at(place: float) -> float:
        return max(0.0, min(100.0, 50.0 + 50.0 * (place - middle) / span))

    reading = view.stand.reading
    value = reading.value if reading is not None else None
    return Bar(
        low=at(middle - 3 * sigma),
        high=at(middle + 3 * sigma),
        watch_low=at(middle - 5 * sigma),
        watch_high=at(middle + 5 * sigma),
        at=at(instrument.scale(value)) if value is not None else None,
    )
