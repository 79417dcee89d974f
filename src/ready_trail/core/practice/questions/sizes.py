"""Which wire, which fuse: for a circuit of the job, with what decides."""

from __future__ import annotations

from random import Random

from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.practice.questions.base import Ground, Kind, Question, offered
from ready_trail.core.sizing.records import Rung


def _sized(ground: Ground) -> dict[str, CircuitDesign]:
    """Circuits of which one size is the thinnest that every rule allows."""
    found = {}
    for made in ground.made.circuits:
        sizing, circuit = made.sizing, made.circuit
        sound = [r for r in sizing.ladder if not r.rejects]
        if (
            sizing.ok
            and sizing.request.rule.is_steady
            and not circuit.branches
            and not any((circuit.held.size, circuit.held.fuse_a, circuit.kit, circuit.found))
            and sound
            and sound[0] is not sizing.ladder[0]
        ):
            found[circuit.id] = made
    return found


def _items(ground: Ground) -> list[str]:
    sized = _sized(ground)
    return [f"wire:{i}" for i in sized] + [f"fuse:{i}" for i, c in sized.items() if _by_load(c)]


def _by_load(made: CircuitDesign) -> bool:
    """Whether its load alone decides its fuse: one rating down does not hold it."""
    fuse = made.sizing.fuse
    if fuse is None or fuse.below_rating_a is None or fuse.by_maker:
        return False
    return made.current_a > fuse.below_rating_a * made.sizing.request.rule.share


def _make(ground: Ground, item: str, chance: Random) -> Question:
    what, _, circuit_id = item.partition(":")
    made = _sized(ground)[circuit_id]
    sizing, fuse = made.sizing, made.sizing.fuse
    assert fuse is not None, "it is sized"
    air_c = max(leg.ambient_c for leg in sizing.request.path.legs)
    load = f"{made.circuit.name}: {made.current_a:.1f} A, {made.circuit.run_m:.1f} m out"
    if what == "fuse":
        ratings = sorted(fuse.family.ratings_a)
        at = ratings.index(fuse.rating_a)
        near = ratings[max(0, at - 3) : at + 4]
        holds_a = fuse.rating_a * sizing.request.rule.share
        why = [
            f"It holds its load for good up to {sizing.request.rule.share:.0%} of the rating: "
            f"{holds_a:.1f} A of {fuse.rating_a:g} A, in a cool place; heat takes some more.",
            "The smallest that holds the load is taken: it tells of a fault sooner, and lets "
            "thinner wire do.",
        ]
        return offered(
            "sizes",
            item,
            f"{load}. Which {fuse.family.label.lower()} fuse is the smallest that holds it?",
            f"{fuse.rating_a:g} A",
            [f"{r:g} A" for r in near],
            why,
            chance,
        )
    least = next(r for r in sizing.ladder if not r.rejects)
    below = sizing.ladder[sizing.ladder.index(least) - 1]
    asks = (
        f"{load}, air up to {air_c:.0f} °C, behind {fuse.rating_a:g} A; "
        f"{sizing.request.drop_limit_v:.2f} V may be lost. Which is the thinnest wire that every "
        "rule allows?"
    )
    why = [
        f"{least.conductor.label} carries {least.ampacity_a:.0f} A there and loses "
        f"{least.conductor_drop_v:.2f} V.",
        f"{below.conductor.label} does not do: {_fault(below, fuse.rating_a)}.",
    ]
    others = [r.conductor.label for r in sizing.ladder]
    return offered("sizes", item, asks, least.conductor.label, others, why, chance)


def _fault(rung: Rung, rating_a: float) -> str:
    if "ampacity" in rung.rejects:
        return f"it carries {rung.ampacity_a:.0f} A, and the fuse lets {rating_a:g} A through"
    if "return" in rung.rejects:
        return "more comes back through its earth wire than it carries"
    if "drop" in rung.rejects:
        return f"it loses {rung.conductor_drop_v:.2f} V"
    if "minimum" in rung.rejects:
        return "it is too thin to be laid there"
    return "it does not outlast a short, or lets it burn too long"


KIND = Kind(key="sizes", words="Which wire, which fuse", items=_items, make=_make)
