"""Plans, verdicts, causes, next readings: by vehicles with something hidden wrong."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ready_trail.core.design import design
from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.faults import Series, faulted
from ready_trail.core.instruments import INSTRUMENTS, NotReadableError
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.diagnose import SURE, rank
from ready_trail.core.prove.free import free_test, points, settings, with_free
from ready_trail.core.prove.keeping import digest_of, from_bytes, to_bytes
from ready_trail.core.prove.matrix import FAIL_SIGMA, readings_of
from ready_trail.core.prove.next_reading import propose
from ready_trail.core.prove.pairs import pairs
from ready_trail.core.prove.plan import Plan, plan_of
from ready_trail.core.prove.progress import Reading, evidence, mended, proof_of
from ready_trail.core.prove.records import NOTHING, Test
from ready_trail.core.prove.simulated import NotThereError, SimulatedVehicle
from ready_trail.core.prove.verdict import expected_words, judge, limits
from support import CATALOGUE, demo

KESTREL = design(demo("Kestrel"), CATALOGUE)
MARMOT = design(demo("Marmot"), CATALOGUE)


def circuit_id(made: object, name: str) -> str:
    return next(c.circuit.id for c in made.circuits if c.circuit.name == name)  # type: ignore[attr-defined]


GRIPS, WIPER = circuit_id(KESTREL, "Heated grips"), circuit_id(MARMOT, "Heated wiper rest")


def made_plan(made: object, of: str) -> Plan:
    plan = plan_of(made, of)  # type: ignore[arg-type]
    assert plan is not None
    return plan


PLAN = made_plan(KESTREL, GRIPS)
WIPER_PLAN = made_plan(MARMOT, WIPER)


def read(plan: Plan, test: Test, value: float | None, *, skipped: str = "") -> Reading:
    verdict = judge(test, value).verdict if value is not None else "skipped"
    return Reading(
        circuit_id=plan.circuit_id,
        test=test.key,
        asked=test.title,
        instrument=test.instrument,
        value=value,
        skipped=skipped,
        middle=test.band.middle if test.band.most is None else None,
        sigma=test.band.sigma if test.band.most is None else None,
        verdict=verdict,
    )


def test_the_must_tests_show_every_fault_that_counts_and_no_fewer_do() -> None:
    for plan in (PLAN, WIPER_PLAN):
        must = list(plan.cover.must)
        assert plan.cover.share(must) == 1.0
        assert plan.cover.share([]) == 0.0
        needed = [i for i in must if plan.matrix.tests[i].kind != "truth"]
        alone = [plan.cover.share([j for j in must if j != i]) for i in needed]
        assert sum(share < 1.0 for share in alone) >= len(needed) - 3  # greedy leaves few spare
        named = {c.key for c in plan.matrix.candidates}
        assert all(key in named and why for key, why in plan.cover.hidden)


def test_sound_vehicles_fail_next_to_no_test() -> None:
    bench = bench_of(KESTREL, GRIPS)
    assert bench is not None
    drawn = [bench.drawn(9000 + n) for n in range(200)]
    matrix = PLAN.matrix
    places = readings_of(bench, matrix.tests, [n for n, _ in drawn], [v for _, v in drawn])
    chance = np.random.default_rng(3)
    noise = np.array(
        [
            [
                INSTRUMENTS[t.instrument].sigma(float(p)) if np.isfinite(p) else 0.0
                for t, p in zip(matrix.tests, row, strict=True)
            ]
            for row in places
        ]
    )
    off = np.abs(places + noise * chance.normal(size=places.shape) - matrix.middle) / matrix.sigma
    usable = [i for i, t in enumerate(matrix.tests) if t.band.most is None]
    assert float((off[:, usable] > FAIL_SIGMA).mean()) < 0.002
    assert float((off[:, usable] > 3.0).mean()) < 0.02


def hunted(plan: Plan, vehicle: SimulatedVehicle, first: Test) -> tuple[str, float, int]:
    """Follow the proposals from a failed test; the cause that is named, its share, the readings."""
    matrix = plan.matrix
    at = {t.key: i for i, t in enumerate(matrix.tests)}

    def place(test: Test) -> float:
        value = vehicle.read(plan.circuit_id, test.key)
        return INSTRUMENTS[test.instrument].scale(value)

    taken, before = [(at[first.key], place(first))], ""
    for _ in range(12):
        ranking = rank(matrix, taken)
        found = propose(matrix, ranking, [c for c, _ in taken])
        sure = ranking.leader.key if ranking.leader.share > SURE else ""
        if found is None or (sure and sure == before):
            break
        before = sure
        taken.append((found.column, place(found.test)))
    return ranking.leader.key, ranking.leader.share, len(taken)


@pytest.mark.parametrize(
    ("hidden", "name"),
    [
        ("rusty.g27_body:G27@0.3", "rusty.g27_body:G27"),
        ("blown.f27:F27", "blown.f27:F27"),
        ("coil.k27_coil:K27", "coil.k27_coil:K27"),
    ],
)
def test_a_hidden_fault_is_named_in_a_few_readings(hidden: str, name: str) -> None:
    vehicle = SimulatedVehicle(design=MARMOT, hidden=(hidden,))
    failing = [t for t in WIPER_PLAN.must if judge(t, vehicle.read(WIPER, t.key)).verdict == "fail"]
    assert failing
    leader, share, readings = hunted(WIPER_PLAN, vehicle, failing[0])
    assert (leader, share > SURE) == (name, True)
    assert readings <= 12


def test_a_fault_that_was_mended_reads_sound_again() -> None:
    vehicle = SimulatedVehicle(design=MARMOT, hidden=("rusty.g27_body:G27@0.3",))
    assert vehicle.mend("rusty.g27_body:G27")
    assert not vehicle.mend("rusty.g27_body:G27")
    verdicts = {judge(t, vehicle.read(WIPER, t.key)).verdict for t in WIPER_PLAN.must}
    assert "fail" not in verdicts
    with pytest.raises(NotThereError, match="no fault"):
        SimulatedVehicle(design=MARMOT, hidden=("rusty.nothing:G99",))
    with pytest.raises(NotThereError, match="no size"):
        SimulatedVehicle(design=MARMOT, hidden=("blown.f27:F27@0.3",))
    with pytest.raises(NotThereError, match="no test"):
        vehicle.read(WIPER, "nothing:volts:x@y")


def test_joints_of_drawn_sizes_are_found_between_the_rungs() -> None:
    """Sizes that nobody played: readings lie on the line between two that were."""
    bench = bench_of(KESTREL, GRIPS)
    assert bench is not None
    matrix, chance = PLAN.matrix, np.random.default_rng(5)
    right = hunts = 0
    for number, candidate in enumerate(c for c in matrix.candidates if c.kind == "bad"):
        element = candidate.rungs[0][0]
        assert isinstance(element, Series)
        ohm = float(np.exp(chance.uniform(np.log(0.3), np.log(3000.0))))
        network, offset_v = bench.drawn(500 + number)
        row = readings_of(
            bench, matrix.tests, [faulted(network, [Series(element.element, ohm)])], [offset_v]
        )[0]
        off = np.abs(row - matrix.middle) / matrix.sigma
        failing = [i for i in PLAN.cover.must if np.isfinite(off[i]) and off[i] > FAIL_SIGMA]
        if not failing:
            continue
        hunts += 1
        taken = [(failing[0], float(row[failing[0]]))]
        for _ in range(8):
            ranking = rank(matrix, taken)
            found = propose(matrix, ranking, [c for c, _ in taken])
            if found is None or not np.isfinite(row[found.column]):
                break
            taken.append((found.column, float(row[found.column])))
        leading = [c.key for c in ranking.causes if c.share > 0.3 * ranking.leader.share]
        right += candidate.key in leading
    assert hunts >= 8
    assert right >= 0.93 * hunts


def test_one_reading_that_is_wrong_is_a_candidate_and_two_faults_fit_no_single_one() -> None:
    matrix = PLAN.matrix
    rows = [i for i in PLAN.cover.must if matrix.tests[i].instrument == "volts"]
    taken = [(i, float(matrix.middle[i])) for i in rows]
    slip = rows[0]
    taken[0] = (slip, float(matrix.middle[slip] + 40 * matrix.sigma[slip]))
    assert NOTHING in [c.key for c in rank(matrix, taken).causes[:3]]
    assert rank(matrix, taken[1:]).leader.key == NOTHING
    wild = [(i, float(matrix.middle[i] + (5 - n) * 1.7)) for n, i in enumerate(rows)]
    assert not rank(matrix, wild).fits


def test_readings_are_judged_corrected_outdated_and_mended() -> None:
    test = next(t for t in PLAN.must if t.instrument == "volts")
    at = limits(test)
    assert judge(test, at.expected).verdict == "pass"
    assert judge(test, at.fail_over + 0.5).verdict == "fail"
    assert judge(test, (at.pass_to + at.fail_over) / 2).verdict == "watch"
    good, bad = read(PLAN, test, at.expected), read(PLAN, test, at.fail_over + 0.5)
    assert proof_of(PLAN, [bad]).stands[test.key].standing == "fail"
    assert proof_of(PLAN, [bad, good]).stands[test.key].standing == "pass"
    assert proof_of(PLAN, [good, bad]).stands[test.key].standing == "fail"
    skipped = read(PLAN, test, None, skipped="no way in")
    assert proof_of(PLAN, [skipped]).stands[test.key].standing == "skipped"
    fact = mended(PLAN.circuit_id, "rusty", "Mended", "", "")
    assert proof_of(PLAN, [bad, fact]).stands[test.key].standing == "again"
    assert evidence(PLAN, [bad, fact]) == ()
    assert len(evidence(PLAN, [fact, good])) == 1
    every = [read(PLAN, t, limits(t).expected) for t in PLAN.must]
    whole = proof_of(PLAN, every)
    assert (whole.is_proved, whole.share, whole.minutes_left) == (True, 1.0, 0)
    gone = Reading(
        circuit_id=PLAN.circuit_id,
        test="point:volts:X~Y@z",
        asked="",
        instrument="volts",
        value=1.0,
        verdict="pass",
    )
    assert proof_of(PLAN, [gone]).gone == (gone,)


def test_a_reading_counts_on_where_the_design_still_expects_the_same() -> None:
    job = apply(demo("Kestrel"), HoldChoice(circuit_id=GRIPS, what="size", value="8"))
    thicker = made_plan(design(job, CATALOGUE), GRIPS)
    drop = next(t for t in PLAN.matrix.tests if t.kind == "drop_out")
    rest = next(t for t in PLAN.matrix.tests if t.kind == "rest_volts")
    facts = [read(PLAN, t, limits(t).expected) for t in (drop, rest)]
    stands = proof_of(thicker, facts).stands
    assert (stands[drop.key].standing, stands[rest.key].standing) == ("older", "pass")


def test_a_plan_is_kept_as_bytes_and_taken_for_no_other() -> None:
    again = from_bytes(KESTREL, GRIPS, to_bytes(PLAN))
    assert again is not None
    assert again.cover.must == PLAN.cover.must
    assert [expected_words(t) for t in again.tests] == [expected_words(t) for t in PLAN.tests]
    assert np.allclose(again.matrix.readings, PLAN.matrix.readings, equal_nan=True, rtol=1e-5)
    other = circuit_id(KESTREL, "Camera")
    assert from_bytes(KESTREL, other, to_bytes(PLAN)) is None
    benches = [bench_of(KESTREL, c) for c in (GRIPS, GRIPS, other)]
    first, same, unlike = (digest_of(b) for b in benches if b is not None)
    assert first == same != unlike
    assert len(to_bytes(PLAN)) < 200_000


@pytest.mark.parametrize(
    ("instrument", "typed", "value"),
    [
        ("volts", "12,4", 12.4),
        ("volts", " 12.4 V", 12.4),
        ("ohms", "OL", math.inf),
        ("eye", "Weak", 0.6),
        ("clamp", "-3.5", -3.5),
    ],
)
def test_what_is_typed_is_read_as_meant(instrument: str, typed: str, value: float) -> None:
    assert INSTRUMENTS[instrument].read(typed) == value


@pytest.mark.parametrize(
    ("instrument", "typed", "words"),
    [
        ("volts", "120", "point forgotten"),
        ("volts", "nan", "A number in V"),
        ("volts", "OL", "A number in V"),
        ("ohms", "-1", "cannot be"),
        ("eye", "12", "Choose on or weak or off"),
        ("clamp", "1e9", "A number in A"),
    ],
)
def test_what_cannot_be_read_is_said_in_words(instrument: str, typed: str, words: str) -> None:
    with pytest.raises(NotReadableError, match=words):
        INSTRUMENTS[instrument].read(typed)


def test_a_free_reading_is_expected_like_any_other_and_speaks_for_a_cause() -> None:
    bench = bench_of(MARMOT, WIPER)
    assert bench is not None
    known = points(bench)
    earth, back = known["G27 1"], known["Battery -"]
    volts = free_test(bench, "volts", earth, back, bench.working)
    lamp = free_test(bench, "lamp", known["K27 87"], back, bench.working)
    dark = free_test(bench, "lamp", known["K27 87"], back, bench.resting)
    ohm = free_test(bench, "ohms", known["K27 86"], known["K27 85"], settings(bench)[-1])
    tests = (volts, lamp, dark, ohm)
    plan = with_free(MARMOT, WIPER_PLAN, [t.key for t in tests])
    told = {t.key: t for t in plan.matrix.tests}
    assert [expected_words(told[t.key]) for t in (lamp, dark)] == ["lit", "dark"]
    assert limits(told[ohm.key]).expected == pytest.approx(100, rel=0.3)
    vehicle = SimulatedVehicle(design=MARMOT, hidden=("rusty.g27_body:G27@0.3",))
    shown = vehicle.read(WIPER, volts.key)
    assert judge(told[volts.key], shown).verdict == "fail"
    found = rank(plan.matrix, evidence(plan, [read(plan, told[volts.key], shown)]))
    assert found.leader.key == "rusty.g27_body:G27"
    assert plan.cover.share(list(plan.cover.must)) == 1.0
    assert with_free(MARMOT, WIPER_PLAN, ["free:volts:X~Y@nowhere"]) is WIPER_PLAN


def test_a_lamp_shows_dark_behind_a_joint_where_a_meter_shows_full_volts() -> None:
    bench = bench_of(MARMOT, WIPER)
    assert bench is not None
    known = points(bench)
    switched = known["K27 86"], known["Battery -"]
    keys = [free_test(bench, by, *switched, bench.working).key for by in ("volts", "lamp")]
    plan = with_free(MARMOT, WIPER_PLAN, keys)
    joint = next(c for c in plan.matrix.candidates if c.key == "bad:C27-W4")
    last = int(np.flatnonzero(plan.matrix.owner == plan.matrix.candidates.index(joint))[-1])
    volts, lamp = (plan.matrix.readings[last, plan.matrix.column(k)] for k in keys)
    assert lamp < 0.2  # 5 kΩ before a coil: nothing lights, and the coil does not pull
    assert volts < 3


def test_two_faults_are_told_as_a_pair() -> None:
    matrix = WIPER_PLAN.matrix
    one = next(i for i, c in enumerate(matrix.candidates) if c.key == "rusty.g27_body:G27")
    other = next(i for i, c in enumerate(matrix.candidates) if c.key == "bad:C27-W3")
    rows = [int(np.flatnonzero(matrix.owner == c)[2]) for c in (one, other)]
    columns = [
        i
        for i, t in enumerate(matrix.tests)
        if t.kind in ("drop_out", "drop_back", "load_volts", "wire_drop")
    ]
    sums = matrix.readings[rows].sum(axis=0) - matrix.middle
    taken = [(i, float(sums[i])) for i in columns if np.isfinite(sums[i])]
    assert not rank(matrix, taken).fits
    names = {frozenset(p) for p in pairs(matrix, taken)}
    assert frozenset(("rusty.g27_body:G27", "bad:C27-W3")) in names
    assert pairs(matrix, taken[:1]) == ()
