"""The order of the steps: a directed graph of rules, sorted so that places stay together."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

import networkx as nx

from ready_trail.core.build.sites import Site
from ready_trail.core.build.steps import (
    bench,
    closing,
    cut_wire,
    disconnect,
    first_power,
    holes,
    keypad,
    looms,
    mount,
    moved_battery,
    prepare,
    strap,
)
from ready_trail.core.build.steps import joining as joining_steps
from ready_trail.core.build.steps.base import STAGES, Step, Yard
from ready_trail.core.job.points import BATTERY

Rule = tuple[str, str, str]
"""What comes before, what waits for it, why."""


class OrderError(RuntimeError):
    """The rules contradict each other: a mistake in them, never in a job."""


def build_steps(yard: Yard) -> tuple[Step, ...]:
    """Return the steps of a job in order, each with what it waits for.

    Raises OrderError when the rules run in a ring.
    """
    found = (
        *prepare.steps(yard),
        *bench.steps(yard),
        *holes.steps(yard),
        *mount.steps(yard),
        *looms.steps(yard),
        *looms.sleeve_steps(yard),
        *joining_steps.steps(yard),
        *keypad.steps(yard),
        *strap.steps(yard),
        *cut_wire.steps(yard),
        *closing.steps(yard),
        *disconnect.steps(yard),
        *moved_battery.steps(yard),
        *first_power.steps(yard),
    )
    by_id = {step.id: step for step in found}
    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(by_id)
    waits: dict[str, dict[str, str]] = {}
    for before, after, why in rules(found, yard):
        if before in by_id and after in by_id and before != after:
            graph.add_edge(before, after)
            waits.setdefault(after, {}).setdefault(before, why)
    places = _places(found, yard)
    stages = {stage.key: at for at, stage in enumerate(STAGES)}

    def rank(step_id: str) -> tuple[int, float, str, str]:
        step = by_id[step_id]
        return stages[step.stage], places[step.site.key], step.site.key, step_id

    try:
        order = list(nx.lexicographical_topological_sort(graph, key=rank))
    except nx.NetworkXUnfeasible as error:
        raise OrderError(f"the steps wait for each other: {error}") from error
    return tuple(replace(by_id[i], after=tuple(waits.get(i, {}).items())) for i in order)


def rules(steps: tuple[Step, ...], yard: Yard) -> Iterator[Rule]:
    """Yield what waits for what, and why."""
    for step in steps:
        if step.id.startswith("prove:"):
            yield step.id, prepare.OFF, "a dead vehicle cannot be proved"
        elif step.stage not in ("prepare", "bench") or step.id.startswith(("look:", "out:")):
            yield prepare.OFF, step.id, "the vehicle is dead first"
        if step.stage == "bench" and step.id != prepare.GATHER:
            yield prepare.GATHER, step.id, "with the parts at hand"
        if step.id.startswith("kit-test:"):
            yield step.id.replace("kit-test:", "kit:"), step.id, "fitted to length first"
    yield from _wire_rules(steps, yard)
    yield from _stage_rules(steps)
    yield from _fuse_rules(steps, yard)


def _wire_rules(steps: tuple[Step, ...], yard: Yard) -> Iterator[Rule]:
    """A wire is cut, laid, sleeved and ended in this order, at what is mounted."""
    wire_of = {c.label: c.wire for c in yard.cuts.cuts}
    cut = _by_label(steps, lambda s: [wire_of[label] for label in s.cuts])
    sleeved = _by_label(steps, lambda s: s.sleeves)
    laid = {label: s.id for s in steps for label in s.lays}
    mounted = {ref: s.id for s in steps if s.stage == "mount" for ref in s.refs}
    for step in steps:
        for label in step.lays:
            yield from ((piece, step.id, "cut first") for piece in cut.get(label, ()))
        if step.stage == "looms":
            holes = (hole.id for hole in steps if hole.stage == "holes")
            yield from ((hole, step.id, "the hole before the wire") for hole in holes)
            ends = (yard.first_end(yard.wires[label]) for label in step.first)
            yield from (
                (mounted.get(end.device, ""), step.id, "what it ends at is up") for end in ends
            )
        yield from ((laid[label], step.id, "every wire is in") for label in step.sleeves)
        for label in step.second:
            yield laid[label], step.id, "laid first"
            sleeves = sleeved.get(label, ())
            yield from ((sleeve, step.id, "the sleeve before the second end") for sleeve in sleeves)
            end = yard.second_end(yard.wires[label])
            yield mounted.get(end.device, ""), step.id, "what it ends at is up"


def _by_label(
    steps: tuple[Step, ...], labels: Callable[[Step], Iterable[str]]
) -> dict[str, list[str]]:
    """The steps that do something to a wire, by its label."""
    found: dict[str, list[str]] = {}
    for step in steps:
        for label in labels(step):
            found.setdefault(label, []).append(step.id)
    return found


def _stage_rules(steps: tuple[Step, ...]) -> Iterator[Rule]:
    """Earths before control before power before covers before the battery before fuses."""
    at = {stage.key: [s for s in steps if s.stage == stage.key] for stage in STAGES}
    for step in at["power"]:
        for earth in (*at["earths"], *at["control"]):
            if earth.stage == "earths":
                yield earth.id, step.id, "the earth before the feed"
            elif set(earth.circuits) & set(step.circuits):
                yield earth.id, step.id, "control before power"
    for step in at["control"]:
        for earth in at["earths"]:
            yield earth.id, step.id, "the earth before the feed"
    for step in (
        *at["mount"],
        *at["sleeves"],
        *at["earths"],
        *at["control"],
        *at["power"],
        *at["bench"],
        *at["holes"],
        *at["looms"],
    ):
        yield step.id, closing.COVERS, "all joints are made"
    yield closing.COVERS, closing.TIDY, "then tidy"
    for step in at["battery"]:
        yield closing.TIDY, step.id, "the battery last"
        yield step.id, closing.CLAMP, "the negative clamp last of all leads"
    yield "battery:+", "battery:-", "positive first, then negative"
    for step in at["first_power"]:
        yield closing.CLAMP, step.id, "fuses last of all"


def _fuse_rules(steps: tuple[Step, ...], yard: Yard) -> Iterator[Rule]:
    """A feeder's fuse goes in before those behind it, a switch's before what it works."""
    job = yard.made.routed
    feeders = {c.feeds: c.id for c in job.circuits if c.feeds is not None}
    for circuit in job.circuits:
        if circuit.start.point != BATTERY and circuit.start.point in feeders:
            yield f"fuse:{feeders[circuit.start.point]}", f"fuse:{circuit.id}", "its feed first"
        planned = yard.made.plan.circuits.get(circuit.id)
        for need in planned.parts.needs if planned is not None and planned.parts else ():
            yield f"fuse:{feeders.get(need, need)}", f"fuse:{circuit.id}", "what works it first"
    for step in steps:
        if step.id.startswith("part:"):
            ref = step.refs[0]
            for circuit in job.circuits:
                if yard.made.plan.refs.get(circuit.start.point) == ref:
                    yield step.id, f"fuse:{circuit.id}", "what parts it is proved first"
    for owner, parts in yard.made.shared.items():
        for need in parts.needs:
            yield f"fuse:{feeders.get(need, need)}", f"fuse:{owner}", "its feed first"


def _places(steps: tuple[Step, ...], yard: Yard) -> dict[str, float]:
    """Rank places far from the battery first: work comes back towards the source."""
    found: dict[str, Site] = {step.site.key: step.site for step in steps}
    home = yard.battery.rank
    return {key: -abs(site.rank - home) for key, site in found.items()}
