"""What a change of the layout takes off it: what sits there, and runs that lose their way."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.job.circuit import Circuit, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.layout.routing import Ways, find_ways, route_job
from ready_trail.core.schemes import BY_KEY, propose
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.tree import Tree


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenOff:
    """Names of what would be placed no more, and of circuits whose runs would be typed ones."""

    things: tuple[str, ...]
    runs: tuple[str, ...]

    def __bool__(self) -> bool:
        return bool(self.things or self.runs)


def taken_off(before: Job, after: Job) -> TakenOff:
    """Return what is placed in one job and not in the other."""
    placed, left = _placed(before), _placed(after)
    things = [name for key, name in placed.items() if key not in left]
    lost = _lost(find_ways(before, load_catalogue()), find_ways(after, load_catalogue()))
    runs = [c.name for c in before.circuits if c.id in lost]
    return TakenOff(things=tuple(dict.fromkeys(things)), runs=tuple(runs))


def with_runs_kept(before: Job, after: Job) -> Job:
    """Return the later job; a run that lost its way through the looms is typed as it was routed.

    What was typed before there was a layout is older than what the looms told.
    """
    if before.layout is None:
        return after
    ways = find_ways(before, load_catalogue())
    lost = _lost(ways, find_ways(after, load_catalogue()))
    if not lost:
        return after
    by_relay = route_job(ways).job
    carrying = frozenset(i for i in lost & set(ways.by_switch) if _passes_its_switch(by_relay, i))
    routed = {c.id: c for c in route_job(ways, in_path=carrying).job.circuits}
    circuits = tuple(
        _with_run_of(c, routed[c.id]) if c.id in lost and c.id in routed else c
        for c in after.circuits
    )
    return after.model_copy(update={"circuits": circuits})


def typed_as_routed(job: Job, routed: Iterable[Circuit]) -> Job:
    """Return the job with every run typed as it was routed, which a layout would route anew."""
    by_id = {c.id: c for c in routed}
    circuits = tuple(_with_run_of(c, by_id[c.id]) if c.id in by_id else c for c in job.circuits)
    return job.model_copy(update={"circuits": circuits})


def _with_run_of(circuit: Circuit, routed: Circuit) -> Circuit:
    """A circuit with the run, the way back and the branches' runs of another state of it."""
    runs = {b.id: b for b in routed.branches}
    branches = tuple(
        b.model_copy(update={"run": _off_the_legs(runs[b.id].run), "back": runs[b.id].back})
        if b.id in runs
        else b
        for b in circuit.branches
    )
    return circuit.model_copy(
        update={
            "run": _off_the_legs(routed.run),
            "back": routed.back,
            "fuse_at_m": routed.fuse_at_m,
            "switching_at_m": routed.switching_at_m,
            "control_m": routed.control_m,
            "control_switch_m": routed.control_switch_m,
            "branches": branches,
        }
    )


def _off_the_legs(run: tuple[Segment, ...]) -> tuple[Segment, ...]:
    """Segments that pass their holes by themselves, and no longer on a leg of the layout."""
    return tuple(
        s.model_copy(update={"passes": s.passes.model_copy(update={"leg": None})})
        if s.passes is not None
        else s
        for s in run
    )


def _passes_its_switch(job: Job, circuit_id: str) -> bool:
    """Whether the hand switch carries the load, so that its wires lead past it."""
    circuit, tree = job.circuit(circuit_id), Tree(job)
    ask = ask_of(job, tree, circuit, Currents(tree).circuit_a(circuit))
    held = BY_KEY.get(circuit.held.scheme or "")
    scheme = held if held is not None else propose(ask)[0]
    return scheme.switch_role == "path" and bool(ask.use.switch)


def _lost(before: Ways, after: Ways) -> set[str]:
    """Circuits that had a way and have none any more."""
    had = {i for i, route in before.routes.items() if route.out is not None}
    return had - {i for i, route in after.routes.items() if route.out is not None}


def _placed(job: Job) -> dict[tuple[str, str, str], str]:
    """Names of everything that is placed, by what it is and where it sits."""
    found: dict[tuple[str, str, str], str] = {}
    for circuit in job.circuits:
        place = circuit.place
        for what in ("load", "switching", "earth") if place is not None else ():
            spot = getattr(place, what)
            if spot:
                words = {"load": "", "switching": "switching of ", "earth": "earth of "}[what]
                found[circuit.id, what, spot] = f"{words}{circuit.name}"
        for spot in place.via if place is not None else ():
            found[circuit.id, "via", spot] = f"the way of {circuit.name}"
        for branch in circuit.branches:
            for what, at in (("load", branch.place), ("earth", branch.earth)):
                if at:
                    found[f"{circuit.id} {branch.id}", what, at] = branch.name
    for kind, name, place_id in (
        *(("point", p.name, p.place) for p in job.points),
        *(("switch", s.name, s.place) for s in job.switches),
        *(("signal", s.signal, s.place) for s in job.signals),
    ):
        if place_id:
            found[kind, name, place_id] = name if kind != "signal" else f"the {name} signal"
    return found


def is_routed(job: Job, circuit_id: str) -> bool:
    """Return whether the layout gives a circuit's run."""
    return circuit_id in find_ways(job, load_catalogue()).routes
