"""A design with one seeded mistake, to be named before the review does."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from random import Random

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import design
from ready_trail.core.edits import Edit, HoldChoice, MoveFuse, SetReturn, SetRun, apply
from ready_trail.core.errors import CoreError
from ready_trail.core.job.circuit import Return
from ready_trail.core.outcome import CircuitDesign, Design, Finding

CHOICES = 4
_TRIES = 24


class NoMistakeError(ValueError):
    """None of the mistakes shows on this job."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Mistake:
    """A mistaken circuit: the design, what the review says, and what may be answered."""

    circuit: CircuitDesign
    finding: Finding
    choices: tuple[str, ...]
    right: int


def _bigger_fuse(c: CircuitDesign) -> Iterator[Edit]:
    fuse = c.sizing.fuse
    if fuse is not None:
        larger = [r for r in sorted(fuse.family.ratings_a) if r > fuse.rating_a]
        for rating in larger[1:3]:
            yield HoldChoice(circuit_id=c.circuit.id, what="fuse_a", value=rating)


def _smaller_fuse(c: CircuitDesign) -> Iterator[Edit]:
    fuse = c.sizing.fuse
    if fuse is not None:
        less = [r for r in sorted(fuse.family.ratings_a) if r < fuse.rating_a]
        if less:
            yield HoldChoice(circuit_id=c.circuit.id, what="fuse_a", value=less[-1])


def _thinner_wire(c: CircuitDesign) -> Iterator[Edit]:
    chosen = c.sizing.chosen
    if chosen is not None and not c.circuit.branches:
        at = c.sizing.ladder.index(chosen)
        for rung in c.sizing.ladder[max(0, at - 2) : at]:
            yield HoldChoice(circuit_id=c.circuit.id, what="size", value=rung.conductor.size)


def _far_fuse(c: CircuitDesign) -> Iterator[Edit]:
    far_m = min(1.4, c.circuit.switching_at_m)
    if far_m > 0.6 and c.circuit.place is None:
        yield MoveFuse(circuit_id=c.circuit.id, fuse_at_m=round(far_m, 2))


def _bare_hole(c: CircuitDesign) -> Iterator[Edit]:
    run = c.circuit.run
    for at, segment in enumerate(run):
        if segment.passes is not None and segment.passes.grommet and c.circuit.place is None:
            bare = segment.model_copy(
                update={"passes": segment.passes.model_copy(update={"grommet": False})}
            )
            yield SetRun(
                circuit_id=c.circuit.id,
                run=(*run[:at], bare, *run[at + 1 :]),
                back=c.circuit.back,
                fuse_at_m=c.circuit.fuse_at_m,
                switching_at_m=c.circuit.switching_at_m,
                control_m=c.circuit.control_m,
            )


def _poor_earth(c: CircuitDesign) -> Iterator[Edit]:
    if c.circuit.back.on_body and c.circuit.place is None:
        back = c.circuit.back
        poor = Return.model_validate({**dict(back), "measured_mohm": 400.0})
        yield SetReturn(circuit_id=c.circuit.id, back=poor)


_WAYS: tuple[Callable[[CircuitDesign], Iterator[Edit]], ...] = (
    _bigger_fuse,
    _smaller_fuse,
    _thinner_wire,
    _far_fuse,
    _bare_hole,
    _poor_earth,
)


def mistake(made: Design, titles: Mapping[str, str], catalogue: Catalogue, seed: int) -> Mistake:
    """Return a design with one mistake that the review finds, as one code alone: the same for the
    same seed. ``titles`` name every code. Raises NoMistakeError.
    """
    chance = Random(f"mistake {seed}")
    able = [c for c in made.circuits if c.is_ready and not c.circuit.is_feeder]
    ways = list(_WAYS)
    chance.shuffle(ways)
    tries = [(ways[n % len(ways)], chance.choice(able)) for n in range(_TRIES)] if able else []
    for way, circuit in tries:
        edits = list(way(circuit))
        if not edits:
            continue
        found = _seeded(made, circuit, chance.choice(edits), catalogue)
        if found is None or found[1].code not in titles:
            continue
        wrong, finding = found
        shown = {f.code for f in wrong.findings}
        others = sorted(t for code, t in titles.items() if code not in shown)
        others = [t for t in others if t != titles[finding.code]]
        choices = [titles[finding.code], *chance.sample(others, CHOICES - 1)]
        chance.shuffle(choices)
        return Mistake(
            circuit=wrong,
            finding=finding,
            choices=tuple(choices),
            right=choices.index(titles[finding.code]),
        )
    raise NoMistakeError("nothing that can be seeded on this job is found as one thing alone")


def _seeded(
    made: Design, circuit: CircuitDesign, edit: Edit, catalogue: Catalogue
) -> tuple[CircuitDesign, Finding] | None:
    try:
        after = design(apply(made.job, edit), catalogue)
    except CoreError:
        return None
    wrong = after.circuit(circuit.circuit.id)
    known = {f.code for f in circuit.findings}
    new = [f for f in wrong.findings if f.code not in known and f.severity in ("stop", "caution")]
    if len({f.code for f in new}) != 1 or wrong.installation is None or wrong.profile is None:
        return None
    return wrong, new[0]
