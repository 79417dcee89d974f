"""What each single fault of a job does, reckoned in a process and shown by what is noticed."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from itertools import takewhile
from pathlib import Path
from urllib.parse import urlencode

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import design, job_network
from ready_trail.core.fault_list import single_faults
from ready_trail.core.job import Job
from ready_trail.core.outcome import Design
from ready_trail.core.states import REST_V
from ready_trail.core.sweep import SYMPTOMS, VEHICLES_OWN, FaultEffect, Symptom, effects
from ready_trail.store import works
from ready_trail.store.jobs import StoredJob
from ready_trail.store.works import Work
from ready_trail.web.work import Made, Report, start

SYMPTOM_WORDS: Mapping[Symptom, str] = {
    "burns": "A wire burns",
    "dead": "Does not run",
    "part": "Runs in part",
    "weak": "Runs weakly",
    "fuse": "A fuse opens",
    "on": "Runs unasked",
    "nothing": "Nothing shows",
    "unsure": "No steady state",
}
_REPORT_EACH = 25


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultLine:
    """One fault: where it shows, what is noticed, in words, and its state on the drawing.

    ``gist`` is what it has in common with others that look the same; ``others`` counts further
    circuits where the same is noticed of it.
    """

    key: str
    words: str
    circuit: str
    seen: Symptom
    says: str
    gist: str
    address: str
    others: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultSubject:
    """A wire or device, and all that may be wrong with it: in words, what is seen of it in
    figures, and its address on the drawing.
    """

    words: str
    ways: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultGroup:
    """Faults that look the same: any of these may be it."""

    circuit: str
    seen: Symptom
    gist: str
    count: int
    subjects: tuple[FaultSubject, ...]
    others: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultRow:
    """How many faults of one circuit are noticed how, in the order of ``SYMPTOMS``."""

    circuit: str
    name: str
    counts: tuple[tuple[Symptom, int], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultView:
    """The page: the table of all circuits, and the faults that were picked from it."""

    rows: tuple[FaultRow, ...]
    total: int
    circuit: str
    seen: str
    groups: tuple[FaultGroup, ...]


def key_of(stored: StoredJob) -> str:
    """Name everything that the faults of a job are reckoned from."""
    facts = f"faults, grouped {stored.job.model_dump_json()} {stored.figures!r}"
    return hashlib.sha256(facts.encode()).hexdigest()


def kept_faults(conn: sqlite3.Connection, stored: StoredJob) -> bytes | None:
    """Return what was worked out of a job as it is, or None."""
    work = works.same(conn, key_of(stored))
    return works.result(conn, work.work_id) if work is not None else None


def start_faults(database: Path, stored: StoredJob) -> Work:
    """Start reckoning, or return what runs or is done for the same facts.

    Raises TooMuchWorkError.
    """
    return start(
        database,
        key_of(stored),
        "What each fault does",
        make_faults,
        stored.job.model_dump_json(),
        stored.figures,
    )


def make_faults(
    _: sqlite3.Connection, document: str, figures: tuple[Figure, ...], *, report: Report
) -> Made:
    """Return every fault's line as JSON: in the process."""
    made = design(Job.model_validate_json(document), catalogue_with(figures))
    places = {fault.key: at for at, fault in enumerate(single_faults(made))}
    switches = job_network(made).switches
    lines = []
    for at, effect in enumerate(effects(made, everywhere=True)):
        lines.append(asdict(_line(effect, made, switches)))
        if at % _REPORT_EACH == 0:
            report(places[effect.fault.key], len(places), effect.fault.words)
    return Made(data=json.dumps(lines).encode())


def fault_view(made: Design, data: bytes, circuit: str, seen: str) -> FaultView:
    """Return the page's view of what was reckoned; what is not there picks nothing."""
    lines = tuple(FaultLine(**line) for line in json.loads(data))
    counts = Counter((line.circuit, line.seen) for line in lines)
    names = {c.circuit.id: c.circuit.name for c in made.circuits}
    rows = tuple(
        FaultRow(circuit=at, name=name, counts=tuple((s, counts[at, s]) for s in SYMPTOMS))
        for at, name in names.items()
        if any(counts[at, s] for s in SYMPTOMS)
    )
    circuit = circuit if circuit in names else ""
    seen = seen if seen in SYMPTOMS else ""
    picked = [
        line
        for line in lines
        if (circuit or seen) and circuit in ("", line.circuit) and seen in ("", line.seen)
    ]
    if not circuit:
        picked = _once_each(picked)
    return FaultView(
        rows=rows,
        total=len({line.key for line in lines}),
        circuit=circuit,
        seen=seen,
        groups=grouped(_by_circuit(picked, list(names))),
    )


def grouped(lines: Sequence[FaultLine]) -> tuple[FaultGroup, ...]:
    """Return faults by circuit and by what is seen of them, in the order in which they come."""
    alike: dict[tuple[str, Symptom, str], list[FaultLine]] = {}
    for line in lines:
        alike.setdefault((line.circuit, line.seen, line.gist), []).append(line)
    return tuple(
        FaultGroup(
            circuit=circuit,
            seen=seen,
            gist=gist,
            count=len(own),
            subjects=_subjects(own),
            others=min(line.others for line in own),
        )
        for (circuit, seen, gist), own in alike.items()
    )


def _subjects(lines: Sequence[FaultLine]) -> tuple[FaultSubject, ...]:
    """Faults by what they are of; what their words begin with alike is said once."""
    found: dict[str, list[FaultLine]] = {}
    for line in lines:
        found.setdefault(line.key.rpartition(":")[2], []).append(line)
    subjects = []
    for own in found.values():
        shared = _alike([line.words.split() for line in own])
        ways = tuple((x.words.removeprefix(shared).strip(), x.says, x.address) for x in own)
        subjects.append(FaultSubject(words=shared, ways=ways))
    return tuple(subjects)


def _once_each(lines: Sequence[FaultLine]) -> list[FaultLine]:
    """Each fault once, with how many more circuits show the same of it."""
    found: dict[tuple[str, Symptom], FaultLine] = {}
    for line in lines:
        at = (line.key, line.seen)
        known = found.get(at)
        found[at] = line if known is None else replace(known, others=known.others + 1)
    return list(found.values())


def _by_circuit(lines: Sequence[FaultLine], order: list[str]) -> list[FaultLine]:
    return sorted(lines, key=lambda x: (order.index(x.circuit), SYMPTOMS.index(x.seen)))


def _alike(said: list[list[str]]) -> str:
    """The words with which several texts begin; nothing of a single one."""
    if len(said) < 2:
        return ""
    return " ".join(w[0] for w in takewhile(lambda w: len(set(w)) == 1, zip(*said, strict=False)))


def _line(effect: FaultEffect, made: Design, switches: frozenset[str]) -> FaultLine:
    return FaultLine(
        key=effect.fault.key,
        words=effect.fault.words,
        circuit=effect.circuit_id,
        seen=effect.symptom,
        says=_says(effect),
        gist=_gist(effect),
        address=_address(effect, made, switches),
    )


def _says(effect: FaultEffect) -> str:
    match effect.symptom:
        case "unsure":
            return "What is on cannot all run: it gets too little, or something chatters"
        case "burns":
            return f"{effect.burns} carries {effect.burns_a:.0f} A, and no fuse opens in time"
        case "fuse" if effect.opens == VEHICLES_OWN:
            return "The vehicle's own fuse has to open: prove its rating"
        case "fuse":
            within = f"{effect.opens_s:.2g} s" if effect.opens_s < 60 else "minutes"
            return f"{effect.opens} opens within {within}"
        case "on":
            return f"{effect.runs} runs though it should not"
        case "nothing":
            return "Everything runs, and stops, as it should"
        case "part":
            return f"One unit gets nothing, {effect.left} still run{'s' * (effect.left == 1)}"
        case "weak":
            return f"Gets {effect.load_v:.1f} V, sound {effect.sound_v:.1f} V"
        case _:
            return f"Gets {effect.load_v:.1f} V" if effect.load_v > 0.05 else "Gets nothing"


def _gist(effect: FaultEffect) -> str:
    """What of it others share, without figures of its own."""
    match effect.symptom:
        case "burns":
            return f"{effect.burns} gets too hot, and no fuse opens in time"
        case "fuse" if effect.opens != VEHICLES_OWN:
            return f"{effect.opens} opens"
        case "weak":
            return "Gets too little"
        case "dead":
            return "Gets nothing"
        case _:
            return _says(effect)


def _address(effect: FaultEffect, made: Design, switches: frozenset[str]) -> str:
    """The query under which the drawing shows this."""
    state = effect.state
    asked: list[tuple[str, str]] = [("key", state.key), ("lights", state.lights)]
    rest_v = REST_V * made.job.vehicle.nominal_v / 12
    if state.key == "run" and state.emf_v is not None and state.emf_v > rest_v:
        asked.append(("engine", "on"))
    asked += [("on", name) for name in sorted(state.on & switches)]
    asked += [("signal", name) for name in sorted(state.signals - {"charging"})]
    asked += [("fault", effect.fault.key), ("pick", effect.fault.subject)]
    return urlencode(asked)
