"""The wires between two places add up to at least the way between them."""

from __future__ import annotations

import heapq
import math

import pytest
from hypothesis import given, settings

from any_edits import MARMOT
from core.build.test_build import ANY_JOB, edited
from ready_trail.core.build.sites import Sites
from ready_trail.core.design import Design, design
from ready_trail.core.edits import Edit
from ready_trail.core.installation import Wire
from ready_trail.core.job import Job
from support import CATALOGUE, demo, small


class Ways:
    """Shortest way between points of a layout, along its legs that may be used."""

    def __init__(self, job: Job) -> None:
        assert job.layout is not None
        at = {p.id: (p.x_m, p.y_m, p.z_m) for p in job.layout.points}
        self.graph: dict[str, list[tuple[str, float]]] = {p: [] for p in at}
        for leg in job.layout.legs:
            if leg.rule == "forbidden":
                continue
            a, b = at[leg.a], at[leg.b]
            boxed = sum(abs(x - y) for x, y in zip(a, b, strict=True))
            straight_m = max(0.02, (math.dist(a, b) + boxed) / 2)
            length_m = straight_m if leg.taped_m is None else leg.taped_m
            self.graph[leg.a].append((leg.b, length_m))
            self.graph[leg.b].append((leg.a, length_m))

    def length_m(self, start: str, end: str) -> float:
        best, queue = {start: 0.0}, [(0.0, start)]
        while queue:
            so_far, here = heapq.heappop(queue)
            if here == end:
                return so_far
            for there, more in self.graph[here]:
                if so_far + more < best.get(there, math.inf):
                    best[there] = so_far + more
                    heapq.heappush(queue, (so_far + more, there))
        return 0.0  # no way: the design says so


def short(made: Design) -> list[tuple[str, float, float]]:
    """Wires that would not reach: each of the control, and from source to load all together."""
    ways, sites = Ways(made.job), Sites(made, CATALOGUE)
    found: list[tuple[str, float, float]] = []

    def ask(name: str, length_m: float, start: str, end: str) -> None:
        a, b = sites.of(start).spot, sites.of(end).spot
        least_m = ways.length_m(a, b) if a and b else 0.0
        if length_m < least_m - 0.002:
            found.append((name, round(length_m, 3), round(least_m, 3)))

    for c in made.circuits:
        route = made.routes.get(c.circuit.id)
        if route is None or route.problem or route.control_problem or route.out is None:
            continue
        along = [w for w in c.wires if w.role in ("power", "feed")]
        for wire in c.wires:
            placed = c.circuit.place is not None and c.circuit.place.switching is not None
            if wire.role == "control" and placed:  # a relay somewhere along is at no point
                ask(wire.label, wire.length_m, wire.start.device, wire.end.device)
        begin = along[0].start.device if along else ""
        for ref, length_m in reached(along, begin).items():
            if made.installation.devices[ref].kind in ("load", "battery", "fuse_block", "stud"):
                ask(f"{c.circuit.id} to {ref}", length_m, begin, ref)
    return found


def reached(wires: list[Wire], begin: str) -> dict[str, float]:
    """Length of wire from a device to each that it feeds."""
    best, queue = {begin: 0.0}, [begin]
    while queue:
        here = queue.pop(0)
        for wire in wires:
            if wire.start.device == here and wire.end.device not in best:
                best[wire.end.device] = best[here] + wire.length_m
                queue.append(wire.end.device)
    return best


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_every_wire_of_the_demo_jobs_reaches(name: str) -> None:
    assert short(design(demo(name), CATALOGUE)) == []


@given(*ANY_JOB)
@settings(max_examples=20, deadline=None)
def test_every_wire_of_any_job_reaches(name: str, sequence: list[Edit]) -> None:
    job = edited(name, sequence)
    if job.layout is not None:
        assert short(design(job, CATALOGUE)) == []


def test_a_switch_between_relay_and_headlamp_is_reached_from_the_relay() -> None:
    """1 m from the relay to the dash, and another from there to the headlamp wire."""
    made = design(small("high_beam_earth_switched"), CATALOGUE).circuit("c2")
    to_switch = next(w for w in made.wires if w.role == "control" and w.start.terminal == "85")
    onward = next(w for w in made.wires if w.start.device == to_switch.end.device)
    assert to_switch.length_m == pytest.approx(1.0, abs=0.02)
    assert onward.length_m == pytest.approx(1.0, abs=0.02)


def test_an_interlock_is_led_from_the_lamp_that_enables_it() -> None:
    """The hoist waits for the beacon on the roof: its coil's feed starts up there."""
    made = design(MARMOT, CATALOGUE)
    wire = next(
        w for w in made.circuit("c19").wires if w.role == "control" and w.end.device.startswith("S")
    )
    sites = Sites(made, CATALOGUE)
    ways = Ways(made.job)
    roof, dash = sites.of(wire.start.device).spot, sites.of(wire.end.device).spot
    assert wire.length_m == pytest.approx(ways.length_m(roof, dash), abs=0.01)
    assert wire.length_m > 2
