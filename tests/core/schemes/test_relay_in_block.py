"""A relay that plugs into its block: one wire comes from the dash, what is inside is not cut."""

from __future__ import annotations

from ready_trail.core.build import build_of
from ready_trail.core.design import design
from ready_trail.core.edits import WakePoint, apply
from support import CATALOGUE, small, table_of

JOB = "relay_block_wired_inside"


def test_one_wire_a_relay_comes_from_the_dash_and_nothing_inside_is_cut() -> None:
    job = small(JOB)
    made = design(job, CATALOGUE)
    for circuit in made.circuits:
        if circuit.scheme.key != "relay_in_block":
            continue
        inside = {str(w.end) for w in circuit.wires if w.supplied}
        number = circuit.circuit.number
        assert inside == {f"K{number} 30", f"K{number} 86"}
        dash = [w for w in circuit.wires if w.role == "control" and not w.supplied]
        assert [str(w.start) for w in dash] == [f"K{number} 85"]
        on = {(c.key, c.switch_on) for c in table_of(job, circuit.circuit.id).cells if c.is_on}
        assert on == {("run", True), ("cranking", True)}
    build = build_of(made, CATALOGUE)
    relays = {line.key: line.quantity for line in build.parts}
    feeders_own = 1.0  # the relay that wakes the block stands beside it, in a socket
    assert relays["socket-mini"] == feeders_own
    assert relays["relay-mini-no"] == 3.0
    cut = {label for step in build.steps for label in step.cuts}
    assert not any(label in cut for c in made.circuits for label in _inside(c.wires))


def _inside(wires: tuple) -> list[str]:  # type: ignore[type-arg]
    return [w.label for w in wires if w.supplied]


def test_a_block_that_is_live_otherwise_does_not_feed_the_coil() -> None:
    job = apply(small(JOB), WakePoint(point_id="p1", key="always"))
    schemes = {c.scheme.key for c in design(job, CATALOGUE).circuits if not c.circuit.is_feeder}
    assert "relay_in_block" not in schemes
