"""What each single fault of a job does, reckoned in a process and shown by what is noticed."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from urllib.parse import urlencode

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import design, job_network
from ready_trail.core.fault_list import single_faults
from ready_trail.core.job import Job
from ready_trail.core.outcome import Design
from ready_trail.core.states import REST_V
from ready_trail.core.sweep import SYMPTOMS, VEHICLES_OWN, FaultEffect, Symptom, effects
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

    ``others`` counts further circuits where the same is noticed of it.
    """

    key: str
    words: str
    circuit: str
    seen: Symptom
    says: str
    address: str
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
    lines: tuple[FaultLine, ...]


def key_of(stored: StoredJob) -> str:
    """Name everything that the faults of a job are reckoned from."""
    facts = f"faults {stored.job.model_dump_json()} {stored.figures!r}"
    return hashlib.sha256(facts.encode()).hexdigest()


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
        lines=tuple(_by_circuit(picked, list(names))),
    )


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


def _line(effect: FaultEffect, made: Design, switches: frozenset[str]) -> FaultLine:
    return FaultLine(
        key=effect.fault.key,
        words=effect.fault.words,
        circuit=effect.circuit_id,
        seen=effect.symptom,
        says=_says(effect),
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
