"""What is never on together, and the most that then can be."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ready_trail.core.job.document import Job


def pairs_apart(job: Job) -> set[frozenset[str]]:
    """Return the pairs of circuits that are never on together: stated, or on one switch's sides."""
    pairs = {frozenset((c.id, other)) for c in job.circuits for other in c.never_with}
    for accessory in job.accessories:
        if accessory.one_at_a_time:
            ids = [c.id for c in job.circuits_of(accessory.id)]
            pairs |= {frozenset((a, b)) for n, a in enumerate(ids) for b in ids[n + 1 :]}
    thrown: dict[str, list[tuple[str, str]]] = {}
    for circuit in job.circuits:
        use = job.use_of(circuit)
        if use.switch and use.throw:
            thrown.setdefault(use.switch, []).append((circuit.id, use.throw))
    for members in thrown.values():
        for at, (a, side) in enumerate(members):
            pairs |= {frozenset((a, b)) for b, other in members[at + 1 :] if other != side}
    return pairs


def most_together(members: Iterable[tuple[str, float]], apart: Iterable[frozenset[str]]) -> float:
    """Return the largest sum of weights that can be on at once, given pairs that never are."""
    pairs = set(apart)
    weights: dict[str, float] = {}
    for name, weight in members:
        weights[name] = weights.get(name, 0.0) + weight
    free = [n for n in weights if not any(n in pair for pair in pairs)]
    bound = sorted(n for n in weights if n not in free)
    return sum(weights[n] for n in free) + _best(bound, weights, pairs)


def _best(names: list[str], weights: Mapping[str, float], pairs: set[frozenset[str]]) -> float:
    """Exact by taking or leaving each name in turn; the groups are small."""
    if not names:
        return 0.0
    first, rest = names[0], names[1:]
    without = _best(rest, weights, pairs)
    beside = [n for n in rest if frozenset((first, n)) not in pairs]
    if len(beside) == len(rest):
        return weights[first] + without
    return max(without, weights[first] + _best(beside, weights, pairs))
