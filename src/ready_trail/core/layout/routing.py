"""From placed circuits to stated runs: routes, lengths, zones, bundles, earth stubs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job.document import Circuit, Job, Panel, Return, Segment
from ready_trail.core.job.layout import Layout, LoomLeg
from ready_trail.core.layout.network import LoomNetwork, Way

_LEAST_M = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """The way of one circuit: from its source to the accessory, and back to an earth point.

    ``problem`` says why there is none; the circuit then keeps its typed run. ``control`` leads
    to the hand switch or signal (empty without a switch to feed), and from there to the relay.
    """

    circuit_id: str
    out: Way | None
    back: Way | None
    control: tuple[Way, ...] = ()
    problem: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Routed:
    """A job whose placed circuits have their runs from the layout."""

    job: Job
    routes: Mapping[str, Route]
    loaded: Mapping[str, int]


def route_job(
    job: Job, catalogue: Catalogue, *, lightly_loaded: frozenset[str] = frozenset()
) -> Routed:
    """Return the job with runs, returns and bundles as the layout gives them.

    Parameters
    ----------
    lightly_loaded : frozenset of circuit ids
        Circuits whose wires carry at most 30 % of their single-wire ampacity: they do not
        count as loaded conductors.
    """
    layout = job.layout
    if layout is None or not any(c.place for c in job.circuits):
        return Routed(job=job, routes={}, loaded={})
    network = LoomNetwork(layout, catalogue)
    routes = {
        c.id: _with_control(_route(c, layout, network), job, c, network)
        for c in job.circuits
        if c.place is not None
    }
    loaded = loaded_conductors(job, routes, lightly_loaded)
    circuits = tuple(
        _with_run(c, routes[c.id], network, loaded) if c.id in routes else c for c in job.circuits
    )
    return Routed(job=job.model_copy(update={"circuits": circuits}), routes=routes, loaded=loaded)


def loaded_conductors(
    job: Job, routes: Mapping[str, Route], lightly_loaded: frozenset[str]
) -> dict[str, int]:
    """Return how many loaded conductors share each leg.

    A return wire counts like its feed. Circuits that never run together count once: the
    largest group that can run together decides.
    """
    on_leg: dict[str, list[tuple[str, int]]] = {}
    for circuit in job.circuits:
        route = routes.get(circuit.id)
        if route is None or route.out is None or circuit.id in lightly_loaded:
            continue
        wires = 2 if circuit.back.kind == "wire" else 1
        for leg in dict.fromkeys(route.out.legs):
            on_leg.setdefault(leg, []).append((circuit.id, wires))
        if route.back is not None and circuit.back.kind == "chassis":
            for leg in dict.fromkeys(route.back.legs):
                on_leg.setdefault(leg, []).append((circuit.id, 1))
    apart = {frozenset((c.id, other)) for c in job.circuits for other in c.never_with}
    return {leg: most_together(members, apart) for leg, members in on_leg.items()}


def most_together(members: list[tuple[str, int]], apart: Iterable[frozenset[str]]) -> int:
    """Return the most wires that can be loaded at once, given pairs that never run together."""
    pairs = set(apart)
    weights: dict[str, int] = {}
    for name, wires in members:
        weights[name] = weights.get(name, 0) + wires
    free = [n for n in weights if not any(n in pair for pair in pairs)]
    bound = sorted(n for n in weights if n not in free)
    return sum(weights[n] for n in free) + _best(bound, weights, pairs)


def _best(names: list[str], weights: Mapping[str, int], pairs: set[frozenset[str]]) -> int:
    """Exact by taking or leaving each name in turn; the groups are small."""
    if not names:
        return 0
    first, rest = names[0], names[1:]
    without = _best(rest, weights, pairs)
    beside = [n for n in rest if frozenset((first, n)) not in pairs]
    if len(beside) == len(rest):
        return weights[first] + without
    return max(without, weights[first] + _best(beside, weights, pairs))


def _route(circuit: Circuit, layout: Layout, network: LoomNetwork) -> Route:
    place = circuit.place
    if place is None:
        raise ValueError("only a placed circuit has a route")
    source = _source(circuit, layout)
    via = place.via
    if place.switching is not None and place.switching not in via:
        via = (place.switching, *via)
    if place.load == source:
        words = "the accessory sits on its own source; move one of them"
        return Route(circuit_id=circuit.id, out=None, back=None, problem=words)
    out = network.way(source, place.load, tuple(v for v in via if v not in (source, place.load)))
    if out is None:
        words = "no allowed way leads to the accessory; add or allow a leg"
        return Route(circuit_id=circuit.id, out=None, back=None, problem=words)
    if circuit.back.kind == "wire":
        back = network.way(place.load, layout.battery)
    elif place.earth is not None:
        back = network.way(place.load, place.earth)
    else:
        back = network.nearest_earth(place.load)
    problem = "" if back is not None else "no earth point can be reached; add one"
    return Route(circuit_id=circuit.id, out=out, back=back, problem=problem)


def _with_control(route: Route, job: Job, circuit: Circuit, network: LoomNetwork) -> Route:
    """Lead the control wires: source, hand switch, relay; or from the signal to the relay."""
    place = circuit.place
    if place is None or place.control is None:
        return route
    source = _source(circuit, network.layout)
    stops = [place.control, place.switching or source]
    if job.accessory(circuit.accessory_ids[0]).use.switch:
        stops.insert(0, source)
    ways = [network.way(a, b) for a, b in pairwise(stops)]
    if None in ways:
        return route
    return replace(route, control=tuple(way for way in ways if way is not None))


def _source(circuit: Circuit, layout: Layout) -> str:
    if circuit.source == "block" and layout.block is not None:
        return layout.block
    return layout.battery


def _with_run(
    circuit: Circuit, route: Route, network: LoomNetwork, loaded: Mapping[str, int]
) -> Circuit:
    if route.out is None:
        return circuit
    run = _merged([_segment(network.legs[leg], network, loaded) for leg in route.out.legs])
    back = circuit.back
    if route.back is not None and back.kind == "chassis":
        taped = bool(route.back.legs) and all(
            network.legs[leg].taped_m is not None for leg in route.back.legs
        )
        stub_m = min(30.0, max(0.1, round(route.back.length_m, 3)))
        back = Return(kind="chassis", stub_m=stub_m, taped=taped, path=back.path)
    run_m = sum(s.length_m for s in run)
    fuse_at_m = 0.0 if circuit.source == "block" else min(circuit.fuse_at_m, run_m / 2)
    switching_at_m = max(fuse_at_m, _switching_m(circuit, route.out, network))
    return circuit.model_copy(
        update={
            "run": run,
            "back": back,
            "fuse_at_m": fuse_at_m,
            "switching_at_m": min(switching_at_m, run_m * 0.98),
            **_control_lengths(circuit, route),
        }
    )


def _switching_m(circuit: Circuit, out: Way, network: LoomNetwork) -> float:
    """Distance along the run at which the relay or switch sits."""
    place = circuit.place
    if place is None or place.switching is None or place.switching not in out.points:
        return circuit.switching_at_m
    at = out.points.index(place.switching)
    return round(sum(_segment_m(network, leg) for leg in out.legs[:at]), 3)


def _control_lengths(circuit: Circuit, route: Route) -> dict[str, float | None]:
    """Length of the control run, and up to the switch; as typed where neither is placed. [m]"""
    if not route.control:
        return {"control_m": circuit.control_m, "control_switch_m": circuit.control_switch_m}
    parts_m = [max(0.1, round(way.length_m, 3)) for way in route.control]
    to_switch_m = min(29.9, parts_m[0]) if len(parts_m) > 1 else None
    return {"control_m": min(60.0, sum(parts_m)), "control_switch_m": to_switch_m}


def _segment(leg: LoomLeg, network: LoomNetwork, loaded: Mapping[str, int]) -> Segment:
    passes = None
    if leg.hole is not None:
        passes = Panel(name=leg.hole.panel, grommet=leg.hole.protection != "none", leg=leg.id)
    return Segment(
        zone=leg.zone,
        length_m=_segment_m(network, leg.id),
        taped=leg.taped_m is not None,
        loaded_conductors=max(1, min(60, loaded.get(leg.id, 1))),
        passes=passes,
    )


def _segment_m(network: LoomNetwork, leg_id: str) -> float:
    """A leg's length to the millimetre, as runs are stated."""
    return round(max(_LEAST_M, network.length_m(leg_id)), 3)


def _merged(segments: list[Segment]) -> tuple[Segment, ...]:
    """Join neighbours that differ in length only."""
    joined: list[Segment] = []
    for segment in segments:
        last = joined[-1] if joined else None
        alike = (
            last is not None
            and last.passes is None
            and (last.zone, last.taped, last.loaded_conductors)
            == (segment.zone, segment.taped, segment.loaded_conductors)
        )
        if last is not None and alike:
            joined[-1] = segment.model_copy(
                update={
                    "length_m": min(30.0, round(last.length_m + segment.length_m, 3)),
                }
            )
        else:
            joined.append(segment)
    return tuple(joined)
