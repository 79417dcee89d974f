"""Design review: checks by area that yield findings with their ways out.

One registry: checks of a circuit by itself in ``OWN``, checks over the whole job in ``WHOLE``,
checks of the budget in ``BUDGET``.
Acceptance is applied here, once. A check that raises is a bug and surfaces.
"""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.outcome import CircuitDesign, Design, Finding, Plan
from ready_trail.core.review import (
    as_found,
    branches,
    bundling,
    charging,
    converter,
    disconnect,
    excess,
    functions,
    heat,
    joints,
    leads,
    protection,
    relay,
    returns,
    routing,
    source,
    storages,
    sums,
    switch,
    usage,
    wire,
)
from ready_trail.core.review.acceptance import accepted
from ready_trail.core.review.base import BudgetCheck, Check, Context, WholeCheck
from ready_trail.core.review.causes import folded

OWN: tuple[Check, ...] = (
    *protection.CHECKS,
    *as_found.CHECKS,
    *wire.CHECKS,
    *relay.CHECKS,
    *switch.CHECKS,
    *source.CHECKS,
    *branches.CHECKS,
    *functions.CHECKS,
    *usage.CHECKS,
    *storages.CHECKS,
    *converter.CHECKS,
    *heat.CHECKS,
    *leads.CHECKS,
    *excess.CHECKS,
)
BUDGET: tuple[BudgetCheck, ...] = (
    *charging.CHECKS,
    *disconnect.CHECKS,
    *returns.CHECKS,
)
WHOLE: tuple[WholeCheck, ...] = (
    *protection.WHOLE,
    *source.WHOLE,
    *switch.WHOLE,
    *routing.WHOLE,
    *joints.WHOLE,
    *sums.WHOLE,
    *bundling.WHOLE,
)


def review_circuit(design: CircuitDesign, plan: Plan, catalogue: Catalogue) -> CircuitDesign:
    """Return a circuit with what its own checks find."""
    context = Context(plan=plan, catalogue=catalogue)
    found = tuple(f for check in OWN for f in check(design, context))
    return replace(design, own_findings=found, findings=accepted(design.circuit, found))


def review_job(made: Design, catalogue: Catalogue) -> Design:
    """Return the design with the findings over the whole job added to its circuits."""
    more: dict[str, list[Finding]] = {}
    for check in WHOLE:
        for circuit_id, finding in check(made, catalogue):
            more.setdefault(circuit_id, []).append(finding)
    circuits = tuple(
        replace(
            c,
            findings=accepted(c.circuit, (*c.own_findings, *more.get(c.circuit.id, ()))),
        )
        for c in made.circuits
    )
    circuits = folded(circuits, made.plan)
    whole = accepted(made.job, [f for budget_check in BUDGET for f in budget_check(made)])
    return replace(made, circuits=circuits, findings=whole)
