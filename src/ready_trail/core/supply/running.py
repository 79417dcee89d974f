"""What runs in a scenario: which circuits are on, at what share, and which never could be.

An accessory that stands in no scenario counts in each one in which it can be on, so that a
feeder is never sized as if it were not there; it is told apart, and somebody should place it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.job.accessory import Use
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.scenario import Running, Scenario
from ready_trail.core.supply.apart import pairs_apart
from ready_trail.core.supply.tree import LIT, Tree

_KEYS = {"always": 0, "accessory": 1, "run": 2, "off": 0}
_KEY_WORDS = {"accessory": "needs the accessory key", "run": "needs the ignition"}
_OFF_WORDS = {"side": "side lights", "low": "low beam", "high": "high beam"}
_LIGHT_WORDS = {
    "side": "needs the side lights",
    "low": "needs the low beam",
    "high": "needs the high beam",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A line of the matrix: an accessory, or one of its outputs where circuits feed them apart."""

    accessory: str
    output: str
    name: str
    circuit: str
    """Id of the circuit that feeds it; empty where none does yet."""


def rows_of(job: Job) -> tuple[Row, ...]:
    """Return what can be put into a scenario, in the order of the job."""
    found: list[Row] = []
    for accessory in job.accessories:
        circuits = job.circuits_of(accessory.id)
        apart = [c for c in circuits if c.output]
        if apart:
            found += [
                Row(
                    accessory=accessory.id,
                    output=c.output,
                    name=f"{accessory.name}, {c.output}",
                    circuit=c.id,
                )
                for c in apart
            ]
        else:
            first = circuits[0].id if circuits else ""
            found.append(Row(accessory=accessory.id, output="", name=accessory.name, circuit=first))
    return tuple(found)


def feeds(circuit: Circuit, item: Running, job: Job) -> bool:
    """Whether a circuit feeds what a line of a scenario names; an unknown output means all."""
    if item.accessory not in circuit.accessory_ids:
        return False
    named = {c.output for c in job.circuits_of(item.accessory)}
    return circuit.output in ("", item.output) or not item.output or item.output not in named


class Runs:
    """What is on in the scenarios of one job."""

    def __init__(self, tree: Tree) -> None:
        self.tree, self.job = tree, tree.job
        self.apart = pairs_apart(tree.job)
        listed = {r.accessory for s in tree.job.scenarios for r in s.running}
        self.unlisted = frozenset(a.id for a in tree.job.accessories if a.id not in listed)
        self._on = {s.id: frozenset(self._find(s)) for s in tree.job.scenarios}

    def _find(self, scenario: Scenario) -> Iterator[str]:
        for circuit in self.job.circuits:
            if not circuit.accessory_ids or self.why_not(circuit, scenario):
                continue
            named = any(feeds(circuit, item, self.job) for item in scenario.running)
            if named or self.unlisted.issuperset(circuit.accessory_ids):
                yield circuit.id

    def on(self, scenario: Scenario) -> frozenset[str]:
        """Return the ids of the accessory circuits that are on in a scenario."""
        return self._on[scenario.id]

    def why_not(self, circuit: Circuit, scenario: Scenario) -> str:
        """Return in a few words why a circuit cannot be on in that state; empty when it can."""
        use = self.job.use_of(circuit)
        waking = self.tree.waking_of(circuit)
        own = _missing(use, scenario)
        if own and use.also and not _missing(_also(use), scenario):
            own = ""
        if own:
            return own
        if circuit.rest_start is not None:
            return ""
        fed = _missing(Use(key=waking.key, lights=waking.lights), scenario)
        return f"its feed {fed}" if fed else ""

    def clash(self, scenario: Scenario) -> Iterator[tuple[Running, str]]:
        """Yield each line of a scenario that is impossible there, with the reason."""
        on = [
            c
            for c in self.job.circuits
            if any(feeds(c, item, self.job) for item in scenario.running)
        ]
        ids = {c.id for c in on}
        for item in scenario.running:
            mine = [c for c in on if feeds(c, item, self.job)]
            for circuit in mine:
                why = self.why_not(circuit, scenario)
                waits = self.job.use_of(circuit).while_on
                if not why and waits and waits not in ids:
                    named = [c.name for c in self.job.circuits if c.id == waits]
                    why = f"works only while {named[0]} is on" if named else ""
                if not why:
                    why = self._against(circuit, on)
                if why:
                    yield item, why
                    break

    def _against(self, circuit: Circuit, on: list[Circuit]) -> str:
        """Why a circuit cannot be on beside the others; the later one of a pair is told."""
        for other in on:
            if other.id == circuit.id:
                return ""
            if frozenset((other.id, circuit.id)) in self.apart:
                return f"is never on with {other.name}"
        return ""


def _missing(use: Use, scenario: Scenario) -> str:
    """What a use asks for and the state of the vehicle does not give."""
    if use.unless in LIT and scenario.lights in LIT[use.unless]:
        return f"is taken off by the {_OFF_WORDS[use.unless]}"
    if use.unless == "charging" and scenario.engine != "off":
        return "is taken off while the engine charges"
    if use.signal == "charging" and scenario.engine == "off":
        return "needs the engine running"
    if use.signal:
        return ""
    if use.engine_only and scenario.engine == "off":
        return "is used only with the engine running"
    if _KEYS[scenario.key] < _KEYS[use.key]:
        return _KEY_WORDS[use.key]
    if scenario.lights not in LIT[use.lights]:
        return _LIGHT_WORDS[use.lights]
    return ""


def _also(use: Use) -> Use:
    """The second trigger as a use of its own."""
    if use.also in ("side", "low", "high"):
        return Use(key="always", lights=use.also)
    if use.also in ("accessory", "run"):
        return Use(key=use.also)
    return Use.model_validate({"key": "always", "signal": use.also})
