"""From placed circuits to stated runs: routes, lengths, zones, bundles, earth stubs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job.branch import AT_DEVICE, Branch
from ready_trail.core.job.circuit import Circuit, Penetration, Return, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.job.layout import Layout, LoomLeg, Placement
from ready_trail.core.job.points import BATTERY
from ready_trail.core.layout.loom_network import LoomNetwork, Way
from ready_trail.core.supply.apart import most_together, pairs_apart

_LEAST_M = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchRoute:
    """The way of one branch from its joint, and back to an earth (none where it shares)."""

    out: Way
    back: Way | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """The way of one circuit: from its source to the accessory, and back to an earth point.

    ``problem`` says why there is none; the circuit then keeps its typed run. ``feed`` leads from
    the vehicle's signal to the hand switch, ``control`` from there (or from the signal) to the
    relay; either is None where a place is not stated, or a panel's own feed serves.
    """

    circuit_id: str
    out: Way | None
    back: Way | None
    feed: Way | None = None
    control: Way | None = None
    nearest_earth: Way | None = None
    branches: Mapping[str, BranchRoute] = field(default_factory=dict)
    problem: str = ""
    control_problem: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Routed:
    """A job whose placed circuits have their runs from the layout."""

    job: Job
    routes: Mapping[str, Route]
    loaded: Mapping[str, float]


_REMEMBERED = 4
BESIDE_M = 0.1
"""From a relay to the thing beside which it sits (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """The ways of all placed circuits; they do not depend on what is loaded.

    ``runs`` keeps each circuit as it was routed the last few times, with what it was routed from.
    """

    job: Job
    network: LoomNetwork | None
    placed: Mapping[str, Placement]
    routes: Mapping[str, Route]
    by_switch: Mapping[str, Route] = field(default_factory=dict)
    """The way of each circuit past its hand switch, for one whose switch carries the load."""
    at_switch: Mapping[str, str] = field(default_factory=dict)
    runs: dict[str, tuple[tuple[tuple[object, ...], Circuit], ...]] = field(default_factory=dict)


def find_ways(job: Job, catalogue: Catalogue) -> Ways:
    """Return the way of every placed circuit through the looms."""
    layout = job.layout
    nothing = Ways(job=job, network=None, placed={}, routes={})
    if layout is None:
        return nothing
    spots = _Spots(job, layout)
    placed = {c.id: place for c in job.circuits if (place := spots.placement(c)) is not None}
    if not placed:
        return nothing
    network = LoomNetwork(layout, catalogue)
    routes = {
        c.id: _with_control(
            _route(c, placed[c.id], spots, network), spots, c, placed[c.id], network
        )
        for c in job.circuits
        if c.id in placed
    }
    at_switch = {
        c.id: spot for c in job.circuits if c.id in placed and (spot := spots.switch(c)) is not None
    }
    by_switch = {
        c.id: _route(
            c, placed[c.id].model_copy(update={"switching": at_switch[c.id]}), spots, network
        )
        for c in job.circuits
        if c.id in at_switch
    }
    by_switch = {i: route for i, route in by_switch.items() if route.out is not None}
    return Ways(
        job=job,
        network=network,
        placed=placed,
        routes=routes,
        by_switch=by_switch,
        at_switch=at_switch,
    )


def route_job(
    ways: Ways,
    *,
    lightly_loaded: frozenset[str] = frozenset(),
    in_path: frozenset[str] = frozenset(),
) -> Routed:
    """Return the job with runs, returns and bundles as the layout gives them.

    Parameters
    ----------
    lightly_loaded : frozenset of circuit ids
        Circuits whose wires carry at most 30 % of their single-wire ampacity: they do not
        count as loaded conductors.
    in_path : frozenset of circuit ids
        Circuits whose hand switch carries the load: they go by way of it.
    """
    job, network = ways.job, ways.network
    routes = {
        i: ways.by_switch[i] if i in in_path and i in ways.by_switch else route
        for i, route in ways.routes.items()
    }
    if network is None:
        return Routed(job=job, routes={}, loaded={})
    loaded = loaded_conductors(job, routes, lightly_loaded)
    circuits = tuple(
        _routed(c, routes[c.id], ways, network, loaded) if c.id in routes else c
        for c in job.circuits
    )
    return Routed(job=job.model_copy(update={"circuits": circuits}), routes=routes, loaded=loaded)


def _routed(
    circuit: Circuit, route: Route, ways: Ways, network: LoomNetwork, loaded: Mapping[str, float]
) -> Circuit:
    """The circuit with its run, as it was routed before where nothing on its legs differs."""
    by_switch = ways.by_switch.get(circuit.id)
    place = ways.placed[circuit.id]
    if route is by_switch:
        place = place.model_copy(update={"switching": ways.at_switch[circuit.id]})
    legs = [*(route.out.legs if route.out is not None else ())]
    for branch in route.branches.values():
        legs += branch.out.legs
    key = (circuit, place, *(loaded.get(leg) for leg in legs))
    known = ways.runs.get(circuit.id, ())
    found = next((made for was, made in known if was == key), None)
    if found is None:
        found = _with_run(circuit, route, place, network, loaded)
        by_way_m = by_switch.out.length_m if by_switch is not None and by_switch.out else None
        found = found.model_copy(update={"by_switch_m": by_way_m})
        # rounds of routing alternate between few bundles
        ways.runs[circuit.id] = ((key, found), *known[: _REMEMBERED - 1])
    return found


class _Spots:
    """Where everything sits on the layout: sources, switches, signals."""

    def __init__(self, job: Job, layout: Layout) -> None:
        self.job, self.layout = job, layout
        self.points = {point.id: point.place for point in job.points}
        self.points[BATTERY] = layout.battery
        self.fed_panels = {c.feeds for c in job.circuits if c.feeds is not None}

    def placement(self, circuit: Circuit) -> Placement | None:
        """Return where a circuit's parts sit, or None; a feeder ends where its point sits."""
        if self.points.get(circuit.start.point) is None:
            return None
        if circuit.feeds is None:
            return circuit.place
        spot = self.points.get(circuit.feeds)
        if spot is None:
            return None
        own = circuit.place or Placement()
        return own.model_copy(update={"load": spot})

    def source(self, circuit: Circuit) -> str:
        """Return where a circuit starts."""
        return self.points[circuit.start.point] or self.layout.battery

    def switch(self, circuit: Circuit) -> str | None:
        """Return where its hand switch sits: at its own place, or its panel's."""
        use = self.job.use_of(circuit)
        switch = self.job.switch(use.switch) if use.switch else None
        if switch is None:
            return None
        panel = self.points.get(switch.panel) if switch.panel is not None else None
        return switch.place or panel

    def signal(self, circuit: Circuit) -> str | None:
        """Return where its signal is picked up: as stated; a constant one at the battery."""
        use = self.job.use_of(circuit)
        if use.channel is not None:
            return self.points.get(use.channel.point)
        enabler = next((c for c in self.job.circuits if c.id == use.while_on), None)
        if enabler is not None and use.while_by == "switch":
            return self.switch(enabler)
        if enabler is not None:
            return enabler.place.load if enabler.place is not None else None
        signal = use.follows
        if signal == "always":
            return self.layout.battery
        return self.job.signal_place(signal)

    def has_panel_feed(self, circuit: Circuit) -> bool:
        """Whether a panel with a feed of its own serves its switch."""
        use = self.job.use_of(circuit)
        switch = self.job.switch(use.switch) if use.switch else None
        return (
            switch is not None
            and switch.panel in self.fed_panels
            and (use.lights == "any" and not use.signal and use.channel is None)
            and not use.while_on
        )


def loaded_conductors(
    job: Job, routes: Mapping[str, Route], lightly_loaded: frozenset[str]
) -> dict[str, float]:
    """Return how many loaded conductors share each leg.

    A return wire counts like its feed. Circuits that never run together count once: the
    largest group that can run together decides.
    """
    on_leg: dict[str, list[tuple[str, float]]] = {}
    for circuit in job.circuits:
        route = routes.get(circuit.id)
        if route is None or route.out is None or circuit.id in lightly_loaded:
            continue
        several = _wires_behind_device(circuit, route.out)
        for leg in dict.fromkeys(route.out.legs):
            on_leg.setdefault(leg, []).append((circuit.id, several.get(leg, 1)))
        for leg in dict.fromkeys(route.back.legs if route.back is not None else ()):
            on_leg.setdefault(leg, []).append((circuit.id, 1))
        for branch_id, branch in route.branches.items():
            back = branch.back.legs if branch.back is not None else branch.out.legs
            for leg in (*dict.fromkeys(branch.out.legs), *dict.fromkeys(back)):
                on_leg.setdefault(leg, []).append((f"{circuit.id} {branch_id}", 1))
    apart = pairs_apart(job)
    apart |= {
        frozenset((f"{a} {b.id}", other))
        for pair in tuple(apart)
        for a, other in (tuple(pair), tuple(pair)[::-1])
        for c in job.circuits
        if c.id == a
        for b in c.branches
    }
    return {leg: most_together(members, apart) for leg, members in on_leg.items()}


def _wires_behind_device(circuit: Circuit, out: Way) -> dict[str, int]:
    """Legs in which every branch has a wire of its own: behind a joint that sits on a device."""
    begin = [b for b in circuit.branches if not b.behind]
    if circuit.joint not in AT_DEVICE or not begin:
        return {}
    at = circuit.place.switching if circuit.place is not None else None
    if at in out.points:
        return dict.fromkeys(out.legs[out.points.index(at) :], len(begin))
    gone_m, found = 0.0, {}
    for leg, leg_m in zip(out.legs, out.leg_m, strict=True):
        gone_m += leg_m
        if gone_m > circuit.switching_at_m:
            found[leg] = len(begin)
    return found


def _route(circuit: Circuit, place: Placement, spots: _Spots, network: LoomNetwork) -> Route:
    source, load = spots.source(circuit), place.load or ""
    via = place.via
    if place.switching is not None and place.switching not in via:
        via = (place.switching, *via)
    if load == source:
        words = "it sits on its own source; move one of them"
        return Route(circuit_id=circuit.id, out=None, back=None, problem=words)
    out = network.way(source, load, tuple(v for v in via if v not in (source, load)))
    if out is None:
        words = "no allowed way leads to it; add or allow a leg"
        return Route(circuit_id=circuit.id, out=None, back=None, problem=words)
    if circuit.feeds is not None and not _returns(circuit, spots):
        return Route(circuit_id=circuit.id, out=out, back=None)
    nearest = network.nearest_earth(load)
    if circuit.back.by_wire:
        back = network.way(load, spots.layout.battery)
    elif circuit.back.by_bus:
        back = network.way(load, source)
    elif place.earth is not None:
        back = network.way(load, place.earth)
    else:
        back = nearest
    problem = "" if back is not None else "no earth point can be reached; add one"
    branches = _branch_routes(circuit, load, network)
    if (
        circuit.branches
        and circuit.back.on_body
        and not any(b.back.is_shared and not b.behind for b in circuit.branches)
    ):
        back, problem = None, ""  # every branch has an earth of its own
    return Route(
        circuit_id=circuit.id,
        out=out,
        back=back,
        nearest_earth=nearest,
        branches=branches,
        problem=problem,
    )


def _branch_routes(circuit: Circuit, joint: str, network: LoomNetwork) -> dict[str, BranchRoute]:
    """The way of each placed branch from where its joint sits; others keep their typed run."""
    spots = {"": joint} | {b.id: b.place for b in circuit.branches if b.place is not None}
    found: dict[str, BranchRoute] = {}
    for branch in circuit.branches:
        start, end = spots.get(branch.behind), branch.place
        if start is None or end is None or start == end:
            continue
        out = network.way(start, end)
        if out is None:
            continue
        back = None
        if branch.back.on_body:
            back = network.way(end, branch.earth) if branch.earth else network.nearest_earth(end)
        found[branch.id] = BranchRoute(out=out, back=back)
    return found


def _with_branch_run(
    branch: Branch, route: BranchRoute | None, network: LoomNetwork, loaded: Mapping[str, float]
) -> Branch:
    if route is None:
        return branch
    run = _merged([_segment(network.legs[leg], network, loaded) for leg in route.out.legs])
    back = branch.back
    if route.back is not None:
        taped = bool(route.back.legs) and all(
            network.legs[leg].taped_m is not None for leg in route.back.legs
        )
        measured = network.measured_mohm(route.back.points[-1])
        back = back.model_copy(
            update={
                "stub_m": min(30.0, max(0.1, round(route.back.length_m, 3))),
                "taped": taped,
                "measured_mohm": back.measured_mohm if measured is None else measured,
            }
        )
    return branch.model_copy(update={"run": run, "back": back})


def _returns(circuit: Circuit, spots: _Spots) -> bool:
    point = next(p for p in spots.job.points if p.id == circuit.feeds)
    return point.earth_bus or point.starts_a_system


def _with_control(
    route: Route, spots: _Spots, circuit: Circuit, place: Placement, network: LoomNetwork
) -> Route:
    """Lead the control wires: from the signal to the hand switch, and on to the relay."""
    switch, signal = spots.switch(circuit), spots.signal(circuit)
    relay = place.switching or spots.source(circuit)
    use = spots.job.use_of(circuit)
    if use.switch and switch is None:
        return route
    if not use.switch and (signal is None or use.follows == "always"):
        return route
    start = switch if switch is not None else signal
    control = network.way(start, relay) if start is not None else None
    feed = None
    if switch is not None and not spots.has_panel_feed(circuit):
        feed = network.way(signal or spots.source(circuit), switch)
    if control is None or (
        feed is None and switch is not None and not spots.has_panel_feed(circuit)
    ):
        return replace(route, control_problem="no allowed way leads to the switch or signal")
    return replace(route, feed=feed, control=control)


def _with_run(
    circuit: Circuit,
    route: Route,
    place: Placement,
    network: LoomNetwork,
    loaded: Mapping[str, float],
) -> Circuit:
    if route.out is None:
        return circuit
    run = _merged([_segment(network.legs[leg], network, loaded) for leg in route.out.legs])
    back = circuit.back
    if route.back is not None and back.on_body:
        taped = bool(route.back.legs) and all(
            network.legs[leg].taped_m is not None for leg in route.back.legs
        )
        stub_m = min(30.0, max(0.1, round(route.back.length_m, 3)))
        measured = network.measured_mohm(route.back.points[-1])
        back = Return(
            kind="chassis",
            stub_m=stub_m,
            taped=taped,
            path=back.path,
            measured_mohm=back.measured_mohm if measured is None else measured,
        )
    if place.switching is not None and place.switching == place.load:  # and on to what it feeds
        last = run[-1]
        run = (*run[:-1], last.model_copy(update={"length_m": min(30.0, last.length_m + BESIDE_M)}))
    run_m = sum(s.length_m for s in run)
    fuse_at_m = min(circuit.fuse_at_m, run_m / 2)
    switching_at_m = max(fuse_at_m, _switching_m(circuit, place, route.out, network))
    return circuit.model_copy(
        update={
            "run": run,
            "back": back,
            "fuse_at_m": fuse_at_m,
            "switching_at_m": min(switching_at_m, run_m * 0.98),
            "branches": tuple(
                _with_branch_run(b, route.branches.get(b.id), network, loaded)
                for b in circuit.branches
            ),
            **_control_lengths(circuit, route),
        }
    )


def _switching_m(circuit: Circuit, place: Placement, out: Way, network: LoomNetwork) -> float:
    """Distance along the run at which the relay or switch sits."""
    if place.switching is None or place.switching not in out.points:
        return circuit.switching_at_m
    at = out.points.index(place.switching)
    return round(sum(_segment_m(network, leg) for leg in out.legs[:at]), 3)


def _control_lengths(circuit: Circuit, route: Route) -> dict[str, float | None]:
    """Length of the control run, and up to the switch; as typed where neither is placed. [m]"""
    if route.control is None:
        return {"control_m": circuit.control_m, "control_switch_m": circuit.control_switch_m}
    to_relay_m = max(0.1, round(route.control.length_m, 3))
    if route.feed is None:
        return {"control_m": min(60.0, round(to_relay_m + 0.05, 3)), "control_switch_m": 0.05}
    to_switch_m = max(0.1, round(route.feed.length_m, 3))
    return {
        "control_m": min(60.0, round(to_switch_m + to_relay_m, 3)),
        "control_switch_m": min(59.0, to_switch_m),
    }


def _segment(leg: LoomLeg, network: LoomNetwork, loaded: Mapping[str, float]) -> Segment:
    passes = None
    if leg.hole is not None:
        passes = Penetration(name=leg.hole.panel, grommet=leg.hole.protection != "none", leg=leg.id)
    return Segment(
        zone=leg.zone,
        length_m=_segment_m(network, leg.id),
        taped=leg.taped_m is not None,
        loaded_conductors=max(1, min(60, round(loaded.get(leg.id, 1)))),
        passes=passes,
        heat_sleeve=leg.heat_sleeve,
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
            and (last.zone, last.taped, last.loaded_conductors, last.heat_sleeve)
            == (segment.zone, segment.taped, segment.loaded_conductors, segment.heat_sleeve)
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
