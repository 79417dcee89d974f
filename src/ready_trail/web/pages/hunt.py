"""What a hunt's page shows: the complaint, what can be read and named, what was, what is best."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ready_trail.core.practice.broken import Broken, complaint, shown
from ready_trail.core.practice.facts import HuntActed, HuntBegun
from ready_trail.core.practice.strategy import (
    Act,
    Best,
    Stage,
    Step,
    best_hunt,
    minutes_of,
    replay,
    stages,
)
from ready_trail.core.prove.bench import NEGATIVE, Bench
from ready_trail.core.prove.free import clamp_test, free_test, fuse_test, points, settings
from ready_trail.core.prove.matrix import Matrix
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Candidate, Setting, Test
from ready_trail.core.prove.verdict import expected_words
from ready_trail.web.fields import FieldsRefusedError

BETWEEN = {"volts": "Volts", "lamp": "Test lamp", "ohms": "Ohms, power off"}
ON_PIECE = {"clamp": "Clamp it", "pull": "Pull and look", "look": "Look at it"}
"""What can be done between two points, and to one piece."""
ACTS = frozenset((*BETWEEN, *ON_PIECE))


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """What can be chosen before a reading: points by node, pieces by what is done to them."""

    points: tuple[tuple[str, str], ...]
    negative: str
    pieces: tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...]
    settings: tuple[tuple[str, str], ...]
    groups: tuple[tuple[str, tuple[Test, ...]], ...]
    names: tuple[Candidate, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A reading of a hunt as the page shows it, with what a sound one reads."""

    test: Test
    shown: str
    sound: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A hunt from a complaint to a right name."""

    complaint: str
    readings: tuple[Reading, ...]
    wrong: tuple[str, ...]
    named: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HuntView:
    """A hunt as far as it is; ``replay`` and ``best`` once it has ended."""

    begun: HuntBegun
    parts: tuple[Part, ...]
    minutes: float
    dangers: tuple[str, ...]
    ended: str
    truth: tuple[str, ...]
    bar: Bar
    replay: tuple[Act, ...] = ()
    best: Best | None = None
    best_names: tuple[str, ...] = ()

    @property
    def readings(self) -> tuple[Reading, ...]:
        """All of them, in order."""
        return tuple(r for part in self.parts for r in part.readings)


def ended_of(begun: HuntBegun, acts: Sequence[HuntActed]) -> str:
    """Return how a hunt ended: found, given up; empty while it goes on."""
    if sum(a.what == "name" and a.is_right for a in acts) >= len(begun.rows):
        return "found"
    return "given up" if any(a.what == "give_up" for a in acts) else ""


def steps_of(acts: Sequence[HuntActed]) -> list[Step]:
    """Return what of a hunt reads and names."""
    return [
        Step(what="read" if a.what == "read" else "name", key=a.key)
        for a in acts
        if a.what in ("read", "name")
    ]


def vehicle_now(
    begun: HuntBegun, bench: Bench, matrix: Matrix, acts: Sequence[HuntActed]
) -> Broken:
    """Return the vehicle with what is still wrong with it."""
    vehicle = Broken(bench=bench, matrix=matrix, rows=begun.rows)
    for act in acts:
        if act.what == "name" and act.is_right:
            vehicle = vehicle.without(vehicle.means(act.key))
    return vehicle


def hunt_view(plan: Plan, bench: Bench, begun: HuntBegun, acts: Sequence[HuntActed]) -> HuntView:
    """Return a hunt from its facts. ``plan`` knows every free reading of one that has ended."""
    matrix, ended = plan.matrix, ended_of(begun, acts)
    broken = Broken(bench=bench, matrix=matrix, rows=begun.rows)
    hunt = stages(broken, steps_of(acts))
    words = {c.key: c.words for c in matrix.candidates}
    best = best_hunt(broken) if ended else None
    return HuntView(
        begun=begun,
        parts=tuple(_part(stage, words) for stage in hunt),
        minutes=minutes_of(hunt),
        dangers=tuple(a.key for a in acts if a.what == "danger"),
        ended=ended,
        truth=tuple(c.words for c in broken.faults),
        bar=_bar(bench, matrix),
        replay=replay(hunt) if ended else (),
        best=best,
        best_names=tuple(words.get(s.named, s.named) for s in best.stages) if best else (),
    )


def _part(stage: Stage, words: Mapping[str, str]) -> Part:
    sound = stage.vehicle.sound(stage.tests)
    return Part(
        complaint=complaint(stage.vehicle, stage.symptom),
        readings=tuple(
            Reading(test=test, shown=shown(test, place), sound=_sound(test, float(middle)))
            for test, place, middle in zip(stage.tests, stage.places, sound, strict=True)
        ),
        wrong=tuple(words.get(key, key) for key in stage.wrong),
        named=words.get(stage.named, stage.named),
    )


def _sound(test: Test, middle: float) -> str:
    return expected_words(test) if test.band.sigma or test.band.most else shown(test, middle)


def _bar(bench: Bench, matrix: Matrix) -> Bar:
    by_setting: dict[str, list[Test]] = {}
    for test in matrix.tests:
        by_setting.setdefault(test.setting.words, []).append(test)
    titles = {t.look: t.title for t in matrix.tests if t.instrument == "eye"}
    wires = tuple((label, label) for label in bench.installation.wires)
    fuses = {f.device: f"{f.device}, {f.rating_a:g} A" for f in bench.fuses}
    return Bar(
        points=tuple((t.node, name) for name, t in points(bench).items()),
        negative=NEGATIVE.node,
        pieces=(
            ("Accessories: look", "look", tuple(titles.items())),
            ("Fuses: pull", "pull", tuple(fuses.items())),
            ("Wires: clamp", "clamp", wires),
        ),
        settings=tuple((s.key, s.words) for s in _live(bench)),
        groups=tuple((words, tuple(tests)) for words, tests in by_setting.items()),
        names=tuple(sorted(matrix.candidates, key=lambda c: c.words)),
    )


def _live(bench: Bench) -> tuple[Setting, ...]:
    """The settings with power, one of those that are said alike."""
    by_words: dict[str, Setting] = {}
    for setting in settings(bench):
        if setting.power:
            by_words.setdefault(setting.words, setting)
    return tuple(by_words.values())


def asked_test(bench: Bench, matrix: Matrix, what: str, form: Mapping[str, str]) -> Test:
    """Return the reading that a form asks for. Raises FieldsRefusedError."""
    setting = next((s for s in _live(bench) if s.key == form.get("set")), None)
    if setting is None:
        raise FieldsRefusedError({"set": "Choose how the vehicle is set."})
    if what in BETWEEN:
        return _between(bench, what, setting, form)
    piece, found = form.get("piece", ""), None
    if what == "pull":
        found = fuse_test(bench, piece)
        words = "Pick a fuse to pull."
    elif what == "clamp":
        found = clamp_test(bench, piece, setting)
        words = "Pick a wire for the clamp."
    else:
        looks = [t for t in matrix.tests if t.instrument == "eye" and t.look == piece]
        found = next((t for t in looks if t.setting.words == setting.words), None)
        words = "In that setting it tells nothing: choose another." if looks else ""
        words = words or "Pick an accessory to look at."
    if found is None:
        raise FieldsRefusedError({"piece": words})
    return found


def _between(bench: Bench, what: str, setting: Setting, form: Mapping[str, str]) -> Test:
    plus = bench.terminals.get(form.get("red", ""))
    minus = bench.terminals.get(form.get("black", ""))
    if plus is None or minus is None or plus == minus:
        raise FieldsRefusedError({"red": "Put the probes on two different points."})
    if what == "ohms":
        away = [s for s in settings(bench) if not s.power]
        setting = away[-1] if setting.state.on else away[0]
    return free_test(bench, what, plus, minus, setting)


__all__ = [
    "ACTS",
    "HuntView",
    "asked_test",
    "ended_of",
    "hunt_view",
    "vehicle_now",
]
