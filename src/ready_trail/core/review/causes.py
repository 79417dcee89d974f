"""One cause is one finding: what follows from a stop ahead is folded under it."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.outcome import CircuitDesign, Plan

FOLLOWS = frozenset(
    {
        "unfed",
        "unsized",
        "dead_when_on",
        "far_short_slow",
        "far_short_burns",
        "branch_short",
        "load_voltage",
        "path_drop",
        "conductor_drop",
        "branch_drop",
    }
)
"""What a circuit has for want of current, or of a feeder that carries its short-circuit current."""


def folded(circuits: tuple[CircuitDesign, ...], plan: Plan) -> tuple[CircuitDesign, ...]:
    """Return circuits whose findings name the circuit ahead that causes them, where one does.

    Its own stops count there: a circuit stays not ready while one follows from another's.
    """
    stopped = {c.circuit.id: c for c in circuits if c.count("stop")}
    found = []
    for circuit in circuits:
        cause = _cause(circuit, stopped, plan)
        if cause is None:
            found.append(circuit)
            continue
        name = cause.circuit.name
        told = tuple(
            replace(f, follows=name) if f.code in FOLLOWS and f.is_open else f
            for f in circuit.findings
        )
        found.append(replace(circuit, findings=told))
    return tuple(found)


def _cause(
    circuit: CircuitDesign, stopped: dict[str, CircuitDesign], plan: Plan
) -> CircuitDesign | None:
    """The circuit nearest to the source, of those that this one needs, with a stop of its own."""
    needed = _needs(circuit, plan)
    for circuit_id in needed:
        cause = stopped.get(circuit_id)
        own = cause is not None and any(
            f.severity == "stop" and f.is_open and f.code not in ("unfed", "dead_when_on")
            for f in cause.findings
        )
        if own:
            return cause
    return None


def _needs(circuit: CircuitDesign, plan: Plan) -> tuple[str, ...]:
    """Every circuit without which this one is dead: feeders of its own and of what works it."""
    job, tree = plan.job, plan.tree
    found: dict[str, None] = dict.fromkeys(circuit.ahead)
    leader = job.leader(circuit.circuit)
    for other in (leader.id, circuit.use.while_on):
        if other and other != circuit.circuit.id and other in plan.circuits:
            found.update(dict.fromkeys(tree.parts_needed(job.circuit(other))))
            found[other] = None
    switch = job.switch(circuit.use.switch) if circuit.use.switch else None
    panel = switch.panel if switch is not None else None
    channel = circuit.use.channel.point if circuit.use.channel is not None else None
    for point_id in (panel, channel):
        feeder = tree.feeders.get(point_id) if point_id else None
        if feeder is not None:
            found.update(dict.fromkeys((*tree.parts_needed(feeder), feeder.id)))
    return tuple(found)
