"""A vehicle with one seeded mistake, to be named before the review does; from every finding."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from random import Random

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import design
from ready_trail.core.errors import CoreError
from ready_trail.core.outcome import CircuitDesign, Design, Finding
from ready_trail.core.practice.mistakes import protection, source, switching, wire
from ready_trail.core.practice.mistakes.ways import Way

WAYS: tuple[Way, ...] = (*protection.WAYS, *wire.WAYS, *switching.WAYS, *source.WAYS)
"""Every way of going wrong; a finding may have several."""
CODES = tuple(dict.fromkeys(way.code for way in WAYS))
CHOICES = 4
DRILL = "errors"
"""What an answer to such a question is kept under."""
_TRIES, _TRIES_A_WAY, _SEED_STEP = 16, 4, 1_000


class NoMistakeError(ValueError):
    """None of the mistakes shows on this job."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Mistake:
    """A mistaken vehicle: the design, the circuit where the finding sits, what may be answered.

    ``circuit`` is None where the finding sits at none: it is about the whole vehicle.
    """

    made: Design
    circuit: CircuitDesign | None
    finding: Finding
    choices: tuple[str, ...]
    right: int


def mistake(made: Design, titles: Mapping[str, str], catalogue: Catalogue, seed: int) -> Mistake:
    """Return a vehicle with one mistake that the review finds: the same for the same seed.

    ``titles`` name every code; of those offered one alone is broken. A seed of ``seed_for`` asks
    its own code first. Raises NoMistakeError.
    """
    chance = Random(f"mistake {seed}")
    codes = [code for code in CODES if code in titles]
    chance.shuffle(codes)
    wanted = seed % _SEED_STEP
    if 0 < wanted <= len(CODES):
        codes.insert(0, CODES[wanted - 1])
    for code in codes[:_TRIES] if made.circuits else ():
        for wrong, circuit, finding in seeded(made, code, catalogue, chance):
            return _asked(wrong, circuit, finding, titles, chance)
    raise NoMistakeError("nothing that can be seeded on this job is found")


def seed_for(code: str | None, chance: Random) -> int:
    """Return a new seed; one that asks for a code first where that is given."""
    wanted = CODES.index(code) + 1 if code in CODES else 0
    return chance.randrange(1_000_000) * _SEED_STEP + wanted


def seeded(
    made: Design, code: str, catalogue: Catalogue, chance: Random
) -> Iterator[tuple[Design, CircuitDesign | None, Finding]]:
    """Yield vehicles on which a finding comes that was not there, with where it sits."""
    known = {(f.code, f.place) for f in _every(made)}
    ways = [way for way in WAYS if way.code == code]
    able = [c for c in made.circuits if c.installation is not None]
    chance.shuffle(ways)
    for way in ways:
        chance.shuffle(able)
        seen_from = able if way.of_circuit else able[:1]
        for tried, job in enumerate(job for c in seen_from for job in way.make(made, c)):
            if tried >= _TRIES_A_WAY:
                break
            try:
                wrong = design(job, catalogue)
            except CoreError:
                continue
            found = _found(wrong, code, known)
            if found is not None:
                yield wrong, *found


def _every(made: Design) -> Iterator[Finding]:
    yield from made.findings
    for circuit in made.circuits:
        yield from circuit.findings


def _found(
    wrong: Design, code: str, known: set[tuple[str, str]]
) -> tuple[CircuitDesign | None, Finding] | None:
    def is_it(finding: Finding) -> bool:
        is_new = (code, finding.place) not in known
        return finding.code == code and is_new and finding.is_open and not finding.follows

    for circuit in wrong.circuits:
        finding = next((f for f in circuit.findings if is_it(f)), None)
        if finding is not None:
            return circuit, finding
    finding = next((f for f in wrong.findings if is_it(f)), None)
    return (None, finding) if finding is not None else None


def _asked(
    wrong: Design,
    circuit: CircuitDesign | None,
    finding: Finding,
    titles: Mapping[str, str],
    chance: Random,
) -> Mistake:
    """The question: the rule that is broken, among others of which none is."""
    broken = {f.code for f in _every(wrong)}
    right = titles[finding.code]
    others = sorted({t for code, t in titles.items() if code not in broken} - {right})
    choices = [right, *chance.sample(others, CHOICES - 1)]
    chance.shuffle(choices)
    return Mistake(
        made=wrong,
        circuit=circuit,
        finding=finding,
        choices=tuple(choices),
        right=choices.index(right),
    )
