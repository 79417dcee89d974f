"""One cause is one finding: what follows from a stop ahead is folded under it."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.outcome import CircuitDesign, Finding, Plan

FOLLOWS = frozenset(
    {
        "unfed",
        "unsized",
        "dead_when_on",
        "no_operating_point",
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


_OWN = {
    "converter_limit": frozenset({"no_operating_point"}),
    "fuse_over_wire": frozenset({"converter_earth"}),
    "scheme": frozenset({"dead_when_on", "pulls_in_off"}),
}
"""What a circuit's own stop brings on that circuit: by the stop, what follows from it."""


def folded(circuits: tuple[CircuitDesign, ...], plan: Plan) -> tuple[CircuitDesign, ...]:
    """Return circuits whose findings name the circuit that causes them, where one does: one ahead,
    or itself by another stop.

    Its own stops count there: a circuit stays not ready while one follows from another's.
    """
    stopped = {c.circuit.id: c for c in circuits if c.count("stop")}
    found = []
    for circuit in circuits:
        cause = _cause(circuit, stopped, plan)
        ahead = cause.circuit.name if cause is not None else ""
        told = tuple(replace(f, follows=_from(f, circuit, ahead)) for f in circuit.findings)
        found.append(replace(circuit, findings=told) if told != circuit.findings else circuit)
    return tuple(found)


def _from(finding: Finding, circuit: CircuitDesign, ahead: str) -> str:
    """The circuit that a finding follows from; empty where it is a cause itself."""
    if not finding.is_open:
        return finding.follows
    if ahead and finding.code in FOLLOWS:
        return ahead
    own = {f.code for f in circuit.findings if f.severity == "stop" and f.is_open}
    brought = any(finding.code in brings for code, brings in _OWN.items() if code in own)
    return circuit.circuit.name if brought else finding.follows


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
