"""What sits where on the layout, and when each circuit's wires carry current."""

from __future__ import annotations

from ready_trail.core.edits.placing import SIGNAL_WORDS
from ready_trail.core.outcome import Design

_KEYS = {
    "always": "at any time",
    "accessory": "from key at accessory",
    "run": "with the ignition on",
}
_BEAMS = {"side": "with the side lights", "low": "on low beam", "high": "on high beam"}


def what_sits_where(design: Design) -> dict[str, list[str]]:
    """Return the names of what sits at each point of the layout."""
    layout, job = design.job.layout, design.job
    at: dict[str, list[str]] = {}
    if layout is None:
        return at

    def put(spot: str | None, words: str) -> None:
        if spot is not None and words not in at.setdefault(spot, []):
            at[spot].append(words)

    put(layout.battery, "Battery")
    for point in job.points:
        put(point.place, point.name)
    for circuit in job.circuits:
        if circuit.place is not None:
            joint = f"J{circuit.number} {circuit.name}" if circuit.branches else circuit.name
            put(circuit.place.load, joint)
            put(circuit.place.switching, f"K{circuit.number}")
        for branch in circuit.branches:
            put(branch.place, branch.name)
    for switch in job.switches:
        put(switch.place, switch.name)
    for signal in job.signals:
        put(signal.place, SIGNAL_WORDS.get(signal.signal, signal.signal))
    return at


def when_loaded(design: Design) -> dict[str, str]:
    """Return when each circuit's wires carry current, in the words of its use."""
    return {c.circuit.id: _BEAMS.get(c.use.lights, _KEYS[c.use.key]) for c in design.circuits}
