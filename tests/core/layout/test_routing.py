"""Routing against brute force, packing without overlap, and what follows for the circuits."""

from __future__ import annotations

import math
from itertools import combinations, pairwise, permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddPoint,
    AddSupply,
    AddSwitch,
    ChangeAccessory,
    ChangeLeg,
    Edit,
    JoinPoints,
    KeepApart,
    MovePoint,
    PlaceCircuit,
    PlaceMany,
    PlaceThing,
    PointDraft,
    RemovePoint,
    SetLayout,
    StartAt,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Channel, Job, Position, Switch, Vehicle
from ready_trail.core.job.layout import Hole, Layout, LoomLeg, LoomPoint, Placement
from ready_trail.core.layout.loom_network import LoomNetwork
from ready_trail.core.layout.packing import bundle_diameter_mm, pack
from ready_trail.core.layout.templates import offered_layout, vehicle_shape
from ready_trail.core.looms import choose_sleeve, earth_loads, looms
from ready_trail.core.supply.apart import most_together
from support import CATALOGUE, afresh, demo, facts

KINDS = ["pickup", "wagon", "saloon", "van", "lorry", "motorcycle", "side_by_side"]


@st.composite
def layouts(draw: st.DrawFn) -> Layout:
    count = draw(st.integers(3, 7))
    points = tuple(
        LoomPoint(
            id=f"p{i}",
            name=f"P{i}",
            x_m=draw(st.floats(0, 4)),
            y_m=draw(st.floats(-0.8, 0.8)),
            z_m=0.1 * i,
            is_earth=i == count - 1,
        )
        for i in range(count)
    )
    pairs = list(combinations(range(count), 2))
    chosen = draw(st.lists(st.sampled_from(pairs), min_size=2, max_size=12, unique=True))
    legs = tuple(
        LoomLeg(
            id=f"l{n}",
            a=f"p{a}",
            b=f"p{b}",
            zone=draw(st.sampled_from(["engine_bay", "cabin", "exhaust"])),
            rule=draw(st.sampled_from(["allowed", "allowed", "preferred", "forbidden"])),
            taped_m=draw(st.one_of(st.none(), st.floats(0.1, 3))),
        )
        for n, (a, b) in enumerate(chosen)
    )
    return Layout(length_m=4, width_m=1.8, height_m=1.6, points=points, legs=legs, battery="p0")


def brute_force(layout: Layout, network: LoomNetwork, start: str, end: str) -> float | None:
    """The cheapest of all simple paths, by trying every order of points."""
    cost: dict[frozenset[str], float] = {}
    for leg in layout.legs:
        if leg.rule == "forbidden":
            continue
        factor = 20.0 if leg.zone == "exhaust" else 1.0
        factor *= 0.6 if leg.rule == "preferred" else 1.0
        key = frozenset((leg.a, leg.b))
        cost[key] = min(cost.get(key, math.inf), network.length_m(leg.id) * factor)
    others = [p.id for p in layout.points if p.id not in (start, end)]
    best = math.inf
    for size in range(len(others) + 1):
        for middle in permutations(others, size):
            way = (start, *middle, end)
            best = min(best, sum(cost.get(frozenset(p), math.inf) for p in pairwise(way)))
    return None if math.isinf(best) else best


@given(layouts())
@settings(max_examples=80, deadline=None)
def test_routing_is_exact(layout: Layout) -> None:
    network = LoomNetwork(layout, CATALOGUE)
    end = layout.points[-1].id
    got = network.way("p0", end)
    want = brute_force(layout, network, "p0", end)
    assert (got is None) == (want is None)
    if got is not None and want is not None:
        assert got.cost == pytest.approx(want)
        legs = [network.legs[leg] for leg in got.legs]
        assert all(leg.rule != "forbidden" for leg in legs)
        for (a, b), leg in zip(pairwise(got.points), legs, strict=True):
            assert {a, b} == {leg.a, leg.b}


@given(st.lists(st.floats(1.0, 14.0), min_size=1, max_size=14))
@settings(max_examples=80, deadline=None)
def test_packing_overlaps_nothing_and_stays_inside(diameters: list[float]) -> None:
    discs, around = pack(tuple((f"{i}", d) for i, d in enumerate(diameters)))
    assert len(discs) == len(diameters)
    for a, b in combinations(discs, 2):
        apart = math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm)
        assert apart >= (a.diameter_mm + b.diameter_mm) / 2 - 1e-6
    for d in discs:
        assert math.hypot(d.x_mm, d.y_mm) + d.diameter_mm / 2 <= around / 2 + 1e-9


def test_seven_like_wires_pack_like_coins() -> None:
    discs, around = pack(tuple((f"{i}", 2.0) for i in range(7)))
    assert len(discs) == 7
    assert around == pytest.approx(6.0, rel=0.02)
    assert bundle_diameter_mm((2.0,) * 7) == pytest.approx(1.2 * math.sqrt(28))


@given(
    st.lists(st.integers(1, 2), min_size=1, max_size=7),
    st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6)), max_size=8),
)
def test_most_together_is_exact(weights: list[int], pairs: list[tuple[int, int]]) -> None:
    names = [f"c{i}" for i in range(len(weights))]
    apart = {frozenset((f"c{a}", f"c{b}")) for a, b in pairs if a != b}
    members = list(zip(names, weights, strict=True))
    best = 0
    for size in range(len(names) + 1):
        for group in combinations(range(len(names)), size):
            if not any(frozenset((names[i], names[j])) in apart for i, j in combinations(group, 2)):
                best = max(best, sum(weights[i] for i in group))
    assert most_together(members, apart) == best


@pytest.mark.parametrize("kind", KINDS)
def test_every_offered_layout_reaches_every_point_without_the_exhaust(kind: str) -> None:
    layout = offered_layout(kind)
    network = LoomNetwork(layout, CATALOGUE)
    for point in layout.points:
        way = network.way(layout.battery, point.id)
        assert way is not None, point.name
        zones = [network.legs[leg].zone for leg in way.legs]
        assert "exhaust" not in zones or "exhaust" in point.name.lower(), point.name
        assert network.nearest_earth(point.id) is not None
    assert any(p.is_earth for p in layout.points)
    shape = vehicle_shape(kind)
    assert len(shape.body) > 4
    stretched = offered_layout(kind, length_m=layout.length_m * 1.1)
    assert max(p.x_m for p in stretched.points) > max(p.x_m for p in layout.points)


def placed(*places: tuple[str, str], edits: tuple[Edit, ...] = ()) -> Job:
    """A pickup with 200 W lamps at the named points."""
    job = Job(name="J", vehicle=Vehicle(kind="pickup"))
    job = apply(job, SetLayout(layout=offered_layout("pickup")))
    for number, (name, point) in enumerate(places, start=1):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=name, watts=200)))
        place = PlaceCircuit(circuit_id=f"c{number}", place=Placement(load=point))
        job = apply(job, place)
    for edit in edits:
        job = apply(job, edit)
    return job


def leg_between(job: Job, a: str, b: str) -> LoomLeg:
    assert job.layout is not None
    return next(x for x in job.layout.legs if {x.a, x.b} == {a, b})


def test_runs_zones_bundles_and_panels_follow_without_a_typed_length() -> None:
    made = design(placed(("Bar", "rfc"), ("Beacon", "rer"), ("Rear", "bdr")), CATALOGUE)
    bar = made.circuit("c1").circuit
    assert bar.run[0].zone == "engine_bay"
    assert bar.run[-1].zone == "roof"
    assert [s.passes.name for s in bar.run if s.passes] == ["firewall", "roof skin"]
    assert max(s.loaded_conductors for s in bar.run) == 3
    assert bar.run[-1].loaded_conductors == 2
    assert not any(s.taped for s in bar.run)
    assert made.routes["c1"].back is not None
    assert made.job.circuits[0].run != bar.run, "what was stated stays as it was"


def test_a_taped_leg_beats_its_estimate_and_is_marked() -> None:
    job = placed(("Bar", "rfc"))
    leg = leg_between(job, "fir", "dash")
    hole = leg.hole
    job = apply(job, ChangeLeg(leg_id=leg.id, taped_m=1.77, zone=leg.zone, hole=hole))
    run = design(job, CATALOGUE).circuit("c1").circuit.run
    passing = next(s for s in run if s.passes)
    assert (passing.length_m, passing.taped) == (1.77, True)


def test_forbidding_a_leg_sends_the_wire_another_way_or_says_why_not() -> None:
    job = placed(("Rear locker", "rax"))
    first = design(job, CATALOGUE).routes["c1"].out
    assert first is not None
    leg = leg_between(job, "frm", "rax")
    assert leg.id in first.legs
    job = apply(job, ChangeLeg(leg_id=leg.id, rule="forbidden", zone=leg.zone))
    second = design(job, CATALOGUE).routes["c1"].out
    assert second is not None
    assert leg.id not in second.legs
    assert second.length_m > first.length_m
    for a, b in (("bed", "rax"), ("exh", "rax")):
        other = leg_between(job, a, b)
        job = apply(job, ChangeLeg(leg_id=other.id, rule="forbidden", zone=other.zone))
    made = design(job, CATALOGUE)
    assert "no allowed way" in made.routes["c1"].problem
    assert "no_way" in {f.code for f in made.circuit("c1").findings if f.severity == "stop"}
    assert made.circuit("c1").circuit.run == job.circuits[0].run


def test_via_points_are_passed() -> None:
    job = placed(("Bar", "rfc"))
    place = Placement(load="rfc", via=("kick",))
    way = design(apply(job, PlaceCircuit(circuit_id="c1", place=place)), CATALOGUE).routes["c1"]
    assert way.out is not None
    assert "kick" in way.out.points


def test_circuits_that_never_run_together_count_once() -> None:
    job = placed(("A", "rfc"), ("B", "rfc"), ("C", "rfc"))
    leg = leg_between(job, "apl", "con").id
    assert design(job, CATALOGUE).loaded[leg] == 3
    job = apply(job, KeepApart(circuit_id="c1", never_with=("c2",)))
    assert design(job, CATALOGUE).loaded[leg] == 2


def test_lightly_loaded_wires_do_not_count() -> None:
    job = placed(("Bar", "rfc"))
    small = AccessoryDraft(name="Small", watts=12)
    job = apply(job, AddAccessory(accessory=small))
    job = apply(job, PlaceCircuit(circuit_id="c2", place=Placement(load="rfc")))
    made = design(job, CATALOGUE)
    assert made.lightly_loaded == {"c2"}
    assert max(made.loaded.values()) == 1


def test_sleeves_clips_fill_and_earths() -> None:
    job = placed(("Bar", "rfc"), ("Beacon", "rer"), ("Rear", "bdr"))
    made = design(job, CATALOGUE)
    by_id = {x.leg.id: x for x in looms(made, CATALOGUE)}
    loom = by_id[leg_between(job, "fir", "dash").id]
    assert len(loom.wires) == 3
    assert loom.bundle_mm == pytest.approx(
        1.2 * math.sqrt(sum(w.diameter_mm**2 for w in loom.wires))
    )
    assert loom.sleeve is not None
    assert loom.sleeve.bundle_min_mm <= loom.bundle_mm <= loom.sleeve.bundle_max_mm
    assert loom.clips == math.ceil(loom.length_m / 0.25)
    assert loom.hole_fill_ratio is not None
    assert not loom.hole_is_too_full
    small = ChangeLeg(leg_id=loom.leg.id, zone="cabin", hole=Hole(panel="firewall", diameter_mm=6))
    tight = {x.leg.id: x for x in looms(design(apply(job, small), CATALOGUE), CATALOGUE)}
    assert tight[loom.leg.id].hole_is_too_full
    full = design(apply(job, small), CATALOGUE)
    finding = next(f for f in full.circuit("c1").findings if f.code == "hole_full")
    assert not full.circuit("c1").is_ready
    mended = design(apply(full.job, finding.actions[0].edit), CATALOGUE)
    assert mended.circuit("c1").is_ready
    assert facts(full) == afresh(full.job)
    assert {e.name for e in earth_loads(made)} == {"Roof earth point", "Load bed earth point"}
    hot = choose_sleeve(7.0, 110.0)
    assert hot is not None
    assert hot.kind == "glass sleeve"


@pytest.mark.parametrize(
    ("edit", "message"),
    [
        (MovePoint(point_id="rfc", x_m=9.0, y_m=0, z_m=1), "outside the vehicle"),
        (MovePoint(point_id="rfc", x_m=-0.9, y_m=0, z_m=1), "outside the vehicle"),
        (MovePoint(point_id="gone", x_m=1.0, y_m=0, z_m=1), "no longer in the layout"),
        (RemovePoint(point_id="bat"), "needs its point"),
        (AddPoint(name="X", x_m=1, y_m=0, z_m=0, join="gone"), "no longer in the layout"),
    ],
)
def test_refusals(edit: Edit, message: str) -> None:
    with pytest.raises(EditRefusedError, match=message):
        apply(placed(("Bar", "rfc")), edit)


def test_two_points_on_one_spot_are_refused() -> None:
    job = placed(("Bar", "rfc"))
    assert job.layout is not None
    spot = job.layout.point("con")
    with pytest.raises(EditRefusedError, match="on one spot"):
        apply(job, MovePoint(point_id="rfc", x_m=spot.x_m, y_m=spot.y_m, z_m=spot.z_m))
    with pytest.raises(ValidationError, match="two points are on one spot"):
        Layout(
            length_m=4,
            width_m=2,
            height_m=2,
            battery="a",
            points=tuple(LoomPoint(id=i, name=i, x_m=1, y_m=0, z_m=0) for i in ("a", "b")),
        )


def test_removing_a_point_takes_the_circuit_off_it() -> None:
    before = placed(("Bar", "rfc"))
    with pytest.raises(EditRefusedError, match="Bar would be placed no more; the runs of 1"):
        apply(before, RemovePoint(point_id="rfc"))
    edit = RemovePoint(point_id="rfc", anyway=True)
    job = apply(before, edit)
    assert "1 runs typed as routed" in edit.title(before)
    assert job.circuits[0].place is None
    made, was = design(job, CATALOGUE), design(before, CATALOGUE)
    assert made.routes == {}
    assert made.routed.circuits[0].run_m == pytest.approx(was.routed.circuits[0].run_m)
    assert made.routed.circuits[0].back.stub_m == was.routed.circuits[0].back.stub_m


def test_taking_a_circuit_off_the_layout_keeps_its_length() -> None:
    for name in ("Marmot", "Bluebell", "Kestrel"):
        job = demo(name)
        was = {c.id: c for c in design(job, CATALOGUE).routed.circuits}
        for circuit in job.circuits:
            if circuit.place is None:
                continue
            off = design(apply(job, PlaceCircuit(circuit_id=circuit.id, place=None)), CATALOGUE)
            if circuit.id in off.routes:  # a feeder's way follows from where its point sits
                continue
            now = next(c for c in off.routed.circuits if c.id == circuit.id)
            assert now.run_m == pytest.approx(was[circuit.id].run_m, abs=1e-6), circuit.name


def test_two_points_are_joined_once() -> None:
    job = placed(("Bar", "rfc"))
    assert job.layout is not None
    leg = job.layout.legs[0]
    with pytest.raises(EditRefusedError, match="joined already"):
        apply(job, JoinPoints(a=leg.b, b=leg.a, zone="cabin"))


def test_demo_jobs_are_all_routed() -> None:
    for name in ("Marmot", "Bluebell", "Kestrel"):
        made = design(demo(name), CATALOGUE)
        assert len(made.routes) == len(made.circuits)
        assert [r.problem for r in made.routes.values() if r.problem] == []


def test_control_wires_find_their_way_and_fill_the_looms() -> None:
    job = apply(placed(("Bar", "rfc")), AddSwitch(switch=Switch(name="Roof")))
    use = job.accessories[0].use.model_copy(update={"switch": "Roof"})
    switched = job.accessories[0].model_copy(update={"use": use})
    job = apply(job, ChangeAccessory(accessory=switched))
    before = {loom.leg.id: loom for loom in looms(design(job, CATALOGUE), CATALOGUE)}
    place = Placement(load="rfc", switching="bat")
    things = (
        PlaceThing(what="switch", name="Roof", place="con"),
        PlaceThing(what="signal", name="run", place="kick"),
    )
    many = PlaceMany(places=(PlaceCircuit(circuit_id="c1", place=place),), things=things)
    job = apply(job, many)
    made = design(job, CATALOGUE)
    assert job.layout is not None
    network = LoomNetwork(job.layout, CATALOGUE)
    there, on = network.way("kick", "con"), network.way("con", "bat")
    assert there is not None
    assert on is not None
    assert (made.routes["c1"].feed, made.routes["c1"].control) == (there, on)
    control = [w for w in made.installation.wires.values() if w.role == "control"]
    lengths = sorted(w.length_m for w in control)[-2:]
    assert lengths == pytest.approx(sorted([there.length_m, on.length_m]), abs=2e-3)
    for loom in looms(made, CATALOGUE):
        wanted = len(before[loom.leg.id].wires)
        wanted += (loom.leg.id in there.legs) + (loom.leg.id in on.legs)
        assert len(loom.wires) == wanted, loom.leg.id
        assert loom.loaded_conductors == before[loom.leg.id].loaded_conductors
    for leg in job.layout.legs:
        if "con" in (leg.a, leg.b):
            job = apply(job, ChangeLeg(leg_id=leg.id, rule="forbidden", zone=leg.zone))
    job = apply(job, PlaceCircuit(circuit_id="c1", place=Placement(load="frl")))
    cut_off = design(job, CATALOGUE).circuit("c1")
    assert cut_off.circuit.control_m == job.circuits[0].control_m
    assert "no_control_way" in {f.code for f in cut_off.findings}


def test_a_feeder_runs_from_the_battery_to_where_its_block_sits() -> None:
    job = placed(("Bar", "rfc"))
    block = PointDraft(kind="fuse_block", name="Block", positions=(Position(name="1"),))
    job = apply(job, AddSupply(point=block))
    point = job.points[0]
    job = apply(job, PlaceThing(what="point", name=point.id, place="kick"))
    job = apply(job, StartAt(circuit_id="c1", start=Channel(point=point.id, position="1")))
    made = design(job, CATALOGUE)
    feeder = job.feeder_of(point.id)
    assert feeder is not None
    out, on = made.routes[feeder.id].out, made.routes["c1"].out
    assert out is not None
    assert on is not None
    assert (out.points[0], out.points[-1], on.points[0]) == ("bat", "kick", "kick")
    moved = apply(job, PlaceThing(what="point", name=point.id, place="blk"))
    assert facts(design(moved, CATALOGUE)) == afresh(moved)
    assert design(moved, CATALOGUE).routes["c1"].out != on


def test_one_press_mends_what_the_layout_shows() -> None:
    for name in ("Marmot", "Bluebell", "Kestrel"):
        job = demo(name)
        assert job.layout is not None
        legs = [x.model_copy(update={"zone": "engine_bay"}) for x in job.layout.legs]
        for at, leg in enumerate(legs):
            if leg.hole is not None:
                bare = leg.hole.model_copy(update={"protection": "none"})
                legs[at] = leg.model_copy(update={"hole": bare})
        job = job.model_copy(update={"layout": job.layout.model_copy(update={"legs": tuple(legs)})})
        pressed = set()
        for circuit in design(job, CATALOGUE).circuits:
            for finding in circuit.findings:
                for action in finding.actions:
                    mended = design(apply(job, action.edit), CATALOGUE)
                    left = mended.circuit(circuit.circuit.id).findings
                    same = {(f.code, f.place, f.text) for f in left}
                    assert (finding.code, finding.place, finding.text) not in same, action.label
                    pressed.add(finding.code)
        assert ("bare_hole" in pressed) == any(x.hole for x in legs)
