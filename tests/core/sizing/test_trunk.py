"""Branching circuits: sizes against a second program, every lead once, and what is refused."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.sizing.test_oracle import FUSES, WIRES, opening
from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    BringTogether,
    ChangeAccessory,
    ChangeBranch,
    GiveBranches,
    HoldChoice,
    JoinOutputs,
    MoveBranch,
    MoveUnits,
    PutOnCircuit,
    RemoveAccessory,
    SetJoint,
    SplitAccessory,
    SplitOutputs,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Branch, BranchReturn, InputWire, Job, Return, Share, Use
from ready_trail.core.sizing import Held, Leg, SizingRequest, Stretch, Upstream, size
from ready_trail.formats.wire_csv import wire_list_csv
from sizing_support import asked
from support import CATALOGUE, job_with, segment

LENGTHS = st.floats(0.2, 7).map(lambda v: round(v, 2))
AMBIENTS = st.sampled_from([25.0, 50.0, 70.0, 85.0])


@st.composite
def trees(draw: st.DrawFn) -> SizingRequest:
    """A trunk with two to four units, some of them behind a joint further out."""
    units = draw(st.integers(2, 4))
    limb = draw(st.booleans()) and units > 2
    amps = [draw(st.floats(0.5, 8).map(lambda v: round(v, 2))) for _ in range(units)]
    shared = [draw(st.booleans()) for _ in range(units)]
    limb_shared = draw(st.booleans())

    def legs() -> tuple[Leg, ...]:
        n = draw(st.integers(1, 2))
        return tuple(
            Leg(
                length_m=draw(LENGTHS),
                ambient_c=draw(AMBIENTS),
                loaded_conductors=draw(st.sampled_from([1, 2, 4, 9])),
            )
            for _ in range(n)
        )

    made: list[Stretch] = []
    behind = set(range(2)) if limb else set()
    for n in range(units):
        out = legs()
        own = not shared[n]
        made.append(
            Stretch(
                id=f"b{n}",
                ahead="limb" if n in behind else "",
                current_a=amps[n],
                out=out,
                back=(Leg(length_m=0.4, ambient_c=out[-1].ambient_c),) if own else out[::-1],
                chassis_ohm=0.002 if own else None,
                joints_ohm=0.001,
                drop_limit_v=draw(st.sampled_from([0.36, 0.6, 1.2])),
            )
        )
    limb_back = sum(amps[n] for n in behind if shared[n])
    if limb:
        out = legs()
        back: tuple[Leg, ...] = ()
        if limb_back:
            back = out[::-1] if limb_shared else (Leg(length_m=0.3, ambient_c=50.0),)
        made.append(
            Stretch(
                id="limb",
                current_a=sum(amps[n] for n in behind),
                out=out,
                back=back,
                back_a=limb_back,
                joints_ohm=0.001,
                chassis_ohm=0.002 if back and not limb_shared else None,
            )
        )
    returns = sum(amps[n] for n in range(units) if shared[n] and n not in behind)
    returns += limb_back if limb and limb_shared else 0.0
    out = legs()
    body = bool(returns) and draw(st.booleans())
    back = (Leg(length_m=0.5, ambient_c=50.0),) if body else out[::-1] if returns else ()
    return asked(
        current_a=round(sum(amps), 6),
        out=out,
        back=back,
        back_a=returns,
        chassis_ohm=0.004 if body else 0.0,
        limit_a=draw(st.sampled_from([None, None, 30.0, 90.0])),
        upstream=draw(st.sampled_from([None, AHEAD])),
        drop_limit_v=0.6,
        insulation_c=105,
        relay=None,
        branches=tuple(made),
        holder_c=50.0,
        held=Held(family="large_blade"),
    )


AHEAD = Upstream(resistance_ohm=0.006, conductor_drop_v=0.11, path_drop_v=0.16)


def along(r: SizingRequest, rating: float, sizes: dict[str, str]) -> dict[str, list[float]]:
    """At each stretch's end: drop in copper, at joints and bodies from the trunk on, and a short
    there."""
    at = {w.size: w for w in WIRES["awg"]}
    fuse_ohm = float(FUSES["large_blade"]["drop_at_rating_v"]) / rating
    fixed = fuse_ohm + 4 * 0.0003 + 2 * 0.0002 + (r.upstream.resistance_ohm if r.upstream else 0)
    path = r.path
    names = {"": (path.out, path.back, r.current_a, r.returns_a, 0.0, path.chassis_ohm, None)} | {
        s.id: (s.out, s.back, s.current_a, s.returns_a, s.joints_ohm, s.chassis_ohm or 0.0, s.ahead)
        for s in r.path.branches
    }

    def ohm_of(name: str, legs: tuple[Leg, ...], amps: float) -> float:
        wire, total = at[sizes[name]], 0.0
        for leg in legs:
            i_z = wire.table_a[105] * math.sqrt((105 - leg.ambient_c) / 75)
            i_z *= {1: 1.0, 2: 1.0, 4: 0.6, 9: 0.5}[leg.loaded_conductors]
            warm = min(250, leg.ambient_c + (105 - leg.ambient_c) * (amps / i_z) ** 2)
            total += wire.r20 * leg.length_m * (1 + 0.00393 * (warm - 20))
        return total

    found: dict[str, list[float]] = {}
    for name in names:
        trail, copper_v, fixed_v, ohm, earthed = name, 0.0, 0.0, 0.0, False
        while True:
            out, back, i_out, i_back, joints, body, ahead = names[trail]
            copper_v += ohm_of(trail, out, i_out) * i_out
            ohm += ohm_of(trail, out, i_out) + joints
            fixed_v += joints * i_out
            if not earthed:
                copper_v += ohm_of(trail, back, i_back) * i_back
                ohm += ohm_of(trail, back, i_back) + body
                fixed_v += body * i_back if trail else 0.0
            earthed = earthed or body > 0
            if ahead is None:
                break
            trail = ahead
        copper_v += r.upstream.conductor_drop_v if r.upstream else 0.0
        short = min(12.7 / (0.005 + fixed + ohm), r.supply.limit_a or math.inf)
        found[name] = [copper_v, fixed_v, short]
    return found


def oracle(r: SizingRequest, rating: float) -> tuple[float, dict[str, str]] | None:
    """Try every size of every inner wire; each unit then takes the first wire that works."""
    row = FUSES["large_blade"]
    fuse_ohm = float(row["drop_at_rating_v"]) / rating
    fixed_ohm = fuse_ohm + 4 * 0.0003 + 2 * 0.0002
    fixed_ohm += r.upstream.resistance_ohm if r.upstream else 0.0
    ahead_v = r.upstream.conductor_drop_v if r.upstream else 0.0
    inner = [s for s in r.path.branches if any(b.ahead == s.id for b in r.path.branches)]
    ends = [s for s in r.path.branches if s not in inner]
    lines: dict[str, Any] = {
        "": (
            r.path.out,
            r.path.back,
            r.current_a,
            r.returns_a,
            0.0,
            r.path.chassis_ohm or None,
            0.75,
        )
    }
    for s in r.path.branches:
        lines[s.id] = (s.out, s.back, s.current_a, s.returns_a, s.joints_ohm, s.chassis_ohm, 0.75)

    def figures(name: str, wire: Any) -> Any:
        out, back, i_out, i_back, *_ = lines[name]
        ohm, drop, hottest, carries, length = [0.0, 0.0], [0.0, 0.0], -99.0, math.inf, 0.0
        for way, legs, amps in ((0, out, i_out), (1, back, i_back)):
            for leg in legs:
                i_z = wire.table_a[105] * math.sqrt((105 - leg.ambient_c) / 75)
                i_z *= {1: 1.0, 2: 1.0, 4: 0.6, 9: 0.5}[leg.loaded_conductors]
                warm = min(250, leg.ambient_c + (105 - leg.ambient_c) * (amps / i_z) ** 2)
                part = wire.r20 * leg.length_m * (1 + 0.00393 * (warm - 20))
                ohm[way] += part
                drop[way] += part * amps
                hottest, carries = max(hottest, warm), min(carries, i_z)
                length += leg.length_m
        return ohm, drop, hottest, carries, wire.area * length

    table = {n: [figures(n, w) for w in WIRES["awg"]] for n in lines}

    most_a = math.inf if r.supply.limit_a is None else r.supply.limit_a

    def sound(hot: float, area: float, ohm: float, carries: float) -> bool:
        short = min(12.7 / (0.005 + ohm), most_a)
        slow = opening(row["gates"], short / rating, "slowest_s")
        heat = math.log(1 + (160 - hot) / (234.5 + hot)) if hot < 160 else 0.0
        if carries >= most_a:  # it bears for good all that its source can give
            return True
        opens = short >= float(row["clearing_x"]) * rating or (most_a < math.inf and slow <= 60)
        return opens and short**2 * slow <= 226**2 * heat * area**2

    best: tuple[float, dict[str, str]] | None = None
    for picks in itertools.product(range(len(WIRES["awg"])), repeat=1 + len(inner)):
        chosen = dict(zip(["", *(s.id for s in inner)], picks, strict=True))
        state: dict[str, Any] = {}
        weight, good = 0.0, True
        for name in chosen:
            ahead = lines[name] if not name else next(s.ahead for s in inner if s.id == name)
            wire = WIRES["awg"][chosen[name]]
            ohm, drop, hot, carries, mass = table[name][chosen[name]]
            before = state.get(ahead if name else None, ((fixed_ohm, ahead_v), (0.0, 0.0)))
            chassis = lines[name][5]
            base = before[1] if chassis is None else (chassis, 0.0)
            state[name] = (
                (before[0][0] + ohm[0] + lines[name][4], before[0][1] + drop[0]),
                (base[0] + ohm[1], base[1] + drop[1]),
            )
            fits = wire.area <= float(row["socket_max_mm2"]) or bool(name)
            good = (
                good
                and carries >= rating
                and wire.area >= 0.75
                and fits
                and sound(hot, wire.area, state[name][0][0] + state[name][1][0], carries)
            )
            weight += mass
        if not good or (best and weight >= best[0]):
            continue
        for s in ends:
            (out_ohm, out_v), (back_ohm, back_v) = state[s.ahead]
            if s.chassis_ohm is not None:
                back_ohm, back_v = s.chassis_ohm, 0.0
            for at, wire in enumerate(WIRES["awg"]):
                ohm, drop, hot, carries, mass = table[s.id][at]
                if (
                    carries >= rating
                    and wire.area >= 0.75
                    and out_v + back_v + sum(drop) <= s.drop_limit_v
                    and sound(hot, wire.area, out_ohm + back_ohm + sum(ohm) + s.joints_ohm, carries)
                ):
                    weight += mass
                    chosen[s.id] = at
                    break
            else:
                good = False
                break
        if good and (best is None or weight < best[0] - 1e-9):
            best = (weight, {n: WIRES["awg"][at].size for n, at in chosen.items()})
    return best


@given(trees())
@settings(max_examples=200, deadline=None)
def test_a_second_program_comes_to_the_same_branches(request: SizingRequest) -> None:
    got = size(request, CATALOGUE)
    assert got.fuse is not None
    want = oracle(request, got.fuse.rating_a)
    pigtail = got.chosen is not None and got.chosen.pigtail is not None
    assert got.ok == (want is not None) or pigtail  # the second program knows no pigtails
    if want is None or not got.ok or got.chosen is None or pigtail:
        return
    sizes = {"": got.chosen.conductor.size} | {
        k: b.chosen.conductor.size for k, b in got.branches.items()
    }
    lengths = {"": sum(g.length_m for g in (*request.path.out, *request.path.back))} | {
        s.id: sum(g.length_m for g in (*s.out, *s.back)) for s in request.path.branches
    }
    area = {w.size: w.area for w in WIRES["awg"]}
    copper = sum(area[sizes[n]] * lengths[n] for n in sizes)
    assert copper == pytest.approx(want[0], rel=1e-6), (sizes, want[1])
    ends = along(request, got.fuse.rating_a, sizes)
    for name, branch in got.branches.items():
        copper_v, fixed_v, short_a = ends[name]
        assert branch.chosen.conductor_drop_v == pytest.approx(copper_v, rel=1e-4), name
        assert branch.chosen.far_short_a == pytest.approx(short_a, rel=1e-4), name
        assert branch.path_drop_v - branch.chosen.conductor_drop_v == pytest.approx(
            fixed_v if ends_at_a_unit(request, name) else branch.path_drop_v - copper_v, abs=1e-4
        )
    assert got.worst is not None
    copper_v, fixed_v, _ = ends[got.worst.stretch.id]
    row = FUSES["large_blade"]
    trunk_v = request.current_a * (float(row["drop_at_rating_v"]) / got.fuse.rating_a + 0.0016)
    trunk_v += request.returns_a * request.path.chassis_ohm + (0.05 if request.upstream else 0.0)
    assert got.path_drop_v == pytest.approx(copper_v + fixed_v + trunk_v, abs=1e-4)


@given(trees())
@settings(max_examples=100, deadline=None)
def test_twins_get_one_size_and_it_works_for_each(request: SizingRequest) -> None:
    free = size(request, CATALOGUE)
    alike = tuple(
        replace(s, twins="a" if ends_at_a_unit(request, s.id) else "")
        for s in request.path.branches
    )
    got = size(replace(request, path=replace(request.path, branches=alike)), CATALOGUE)
    assert got.ok == free.ok
    if not got.ok or got.chosen is None or free.chosen is None:
        return
    ends = [b for b in got.branches.values() if b.stretch.twins]
    assert len({b.chosen.conductor.size for b in ends}) == 1
    assert all(not b.chosen.rejects for b in got.branches.values())
    copper_g = [
        s.chosen.mass_g + sum(b.chosen.mass_g for b in s.branches.values())
        for s in (free, got)
        if s.chosen is not None
    ]
    assert copper_g[1] >= copper_g[0] - 1e-6
    known = {b.stretch.id for b in ends}
    before = {b.chosen.conductor.size for b in free.branches.values() if b.stretch.id in known}
    if len(before) == 1:
        assert copper_g[1] == pytest.approx(copper_g[0])
    else:  # one of them waits for the others, or the trunk serves them all
        limbs = {i: b.chosen.conductor for i, b in free.branches.items() if i not in known}
        other = any(got.branches[i].chosen.conductor != wire for i, wire in limbs.items())
        trunk = got.chosen.conductor != free.chosen.conductor
        assert other or trunk or any(b.governs == ("twins",) for b in ends)


def ends_at_a_unit(request: SizingRequest, name: str) -> bool:
    return all(s.ahead != name for s in request.path.branches)


def rear_lights(**more: Any) -> Job:
    """Four work lights behind a five-metre trunk, each with a branch of its own."""
    job = job_with(
        name="Work lights",
        watts=18,
        quantity=4,
        **more,
        run=(segment("engine_bay", 1.0), segment("cabin", 4.0)),
    )
    return apply(job, GiveBranches(circuit_id="c1"))


def leads(job: Job) -> dict[str, int]:
    """How many feeds and returns each unit has on the cut list."""
    made = design(job, CATALOGUE).circuit("c1")
    found: dict[str, int] = {}
    for wire in made.wires:
        for end, side in ((wire.end, "feed"), (wire.start, "return")):
            if wire.role in ("power", "return") and end.device.startswith("L"):
                found[f"{end.device} {side}"] = found.get(f"{end.device} {side}", 0) + 1
    return found


@given(st.data())
@settings(max_examples=40, deadline=None)
def test_the_cut_list_holds_every_lead_of_every_unit_once(data: st.DataObject) -> None:
    """Whatever is moved, each end has one feed and one return, and no unit is lost or doubled."""
    job = rear_lights()
    for _ in range(data.draw(st.integers(0, 5))):
        branches = job.circuit("c1").branches
        ids = [b.id for b in branches]
        ends = [b.id for b in branches if b.loads]
        if not ids:
            break
        edit = data.draw(
            st.one_of(
                st.builds(
                    MoveBranch,
                    circuit_id=st.just("c1"),
                    branch_id=st.sampled_from(ids),
                    behind=st.sampled_from(["", *ids]),
                ),
                st.builds(
                    MoveUnits,
                    circuit_id=st.just("c1"),
                    branch_id=st.sampled_from(ends),
                    accessory_id=st.just("a1"),
                    to=st.sampled_from(["new", *ends]),
                ),
                st.builds(
                    SetJoint,
                    circuit_id=st.just("c1"),
                    branch_id=st.sampled_from(["", *ids]),
                    joint=st.sampled_from(["splice", "bus", "double_87"]),
                ),
                st.builds(
                    ChangeAccessory,
                    accessory=st.integers(2, 6).map(
                        lambda n, j=job: j.accessory("a1").model_copy(update={"quantity": n})
                    ),
                ),
            )
        )
        try:
            job = apply(job, edit)
        except EditRefusedError:
            continue
    circuit = job.circuit("c1")
    hung = sum(s.units for b in circuit.branches for s in b.loads) or job.accessory("a1").quantity
    assert hung == job.accessory("a1").quantity
    found = leads(job)
    ends = sum(bool(b.loads) for b in circuit.branches) or 1
    assert len(found) == 2 * ends
    assert set(found.values()) == {1}


def test_solved_drops_agree_with_sized_ones_on_every_branch() -> None:
    job = apply(rear_lights(), MoveBranch(circuit_id="c1", branch_id="b2", behind="b1"))
    made = design(job, CATALOGUE).circuit("c1")
    for end in made.outlets:
        assert end.profile is not None
        sized = made.sizing.branches[end.outlet.branch].chosen
        assert end.profile.conductor_drop_v == pytest.approx(sized.conductor_drop_v, abs=1e-4)
        assert end.profile.current_a == pytest.approx(made.current_a / 4, rel=1e-6)
    assert made.sizing.path_drop_v == pytest.approx(
        max(e.profile.path_drop_v for e in made.outlets if e.profile), abs=3e-3
    )


def test_outputs_have_circuits_of_their_own_and_one_return_for_both() -> None:
    job = job_with(
        name="Bar",
        watts=200,
        outputs=({"name": "white", "watts": 150}, {"name": "amber", "watts": 50}),
    )
    made = design(apply(job, SplitOutputs(accessory_id="a1")), CATALOGUE)
    white, amber = made.circuits
    assert (white.use.switch, amber.use.switch) == ("S1 dash", "S1 dash amber")
    assert [w.end.terminal for w in (white.wires[2], amber.wires[2])] == ["white", "amber"]
    assert [w.owner for w in made.installation.wires.values() if w.role == "return"] == ["c1"]
    for circuit in made.circuits:  # both on: the shared return loses what both make it lose
        assert circuit.profile is not None
        assert circuit.sizing.deciding is not None
        assert circuit.profile.conductor_drop_v == pytest.approx(
            circuit.sizing.deciding.conductor_drop_v, abs=1e-4
        )
        assert circuit.back == white.back
    both_a = white.current_a + amber.current_a
    assert white.sizing.request.returns_a == pytest.approx(both_a)
    assert apply(made.job, JoinOutputs(accessory_id="a1")).circuits == job.circuits


def test_outputs_that_never_run_together_do_not_add_on_the_return() -> None:
    job = job_with(
        name="Bar",
        watts=200,
        outputs=({"name": "white", "watts": 150}, {"name": "amber", "watts": 50}),
    )
    job = apply(job, SplitOutputs(accessory_id="a1"))
    apart = job.circuits[0].model_copy(update={"never_with": (job.circuits[1].id,)})
    job = job.model_copy(update={"circuits": (apart, job.circuits[1])})
    white = design(job, CATALOGUE).circuit("c1")
    assert white.sizing.request.returns_a == pytest.approx(white.current_a)


def test_a_circuit_whose_partner_cannot_be_wired_says_so_and_harms_nobody() -> None:
    """Outputs, synchronising wires and interlocks lead to another circuit: it may be in trouble."""
    bar = job_with(
        name="Bar",
        watts=200,
        outputs=({"name": "white", "watts": 150}, {"name": "amber", "watts": 50}),
    )
    waits = AccessoryDraft(name="Hoist", watts=200, use=Use(key="run", while_on="c1", switch="H"))
    tells = AccessoryDraft(
        name="Rear", watts=24, inputs=(InputWire(name="Sync", ends="accessory", at="a1 Sync"),)
    )
    host = job_with(name="Front", watts=24, inputs=(InputWire(name="Sync", ends="cap"),))
    for job in (
        apply(bar, SplitOutputs(accessory_id="a1")),
        apply(job_with(), AddAccessory(accessory=waits)),
        apply(host, AddAccessory(accessory=tells)),
    ):
        broken = apply(job, HoldChoice(circuit_id="c1", what="fuse_a", value=33))
        made = design(broken, CATALOGUE)
        assert [c.is_ready for c in made.circuits] == [False, False]
        assert "is not complete" in made.circuits[-1].planned.trouble
        assert wire_list_csv(made)


REFUSED: list[tuple[Any, str]] = [
    (MoveBranch(circuit_id="c1", branch_id="b1", behind="b9"), "no longer there"),
    (MoveUnits(circuit_id="c1", branch_id="b1", accessory_id="a1", to="new"), "to itself already"),
    (MoveUnits(circuit_id="c1", branch_id="b1", accessory_id="a9", to="b2"), "no unit of that"),
    (SplitOutputs(accessory_id="a1"), "one output only"),
    (JoinOutputs(accessory_id="a1"), "one circuit already"),
]


@pytest.mark.parametrize(("edit", "words"), REFUSED)
def test_an_edit_that_does_not_fit_says_why(edit: Any, words: str) -> None:
    with pytest.raises(EditRefusedError, match=words):
        apply(rear_lights(), edit)


@pytest.mark.parametrize(
    ("branches", "words"),
    [
        (("b1",), "a joint needs two"),
        (("b1", "b2>b9"), "which is not there"),
        (("b1>b2", "b2>b1"), "runs in a ring"),
        (("b1", "b2-"), "has no end"),
        (("b1", "b2", "b3>b1", "b4>b1"), "a unit and at a joint"),
        (("b1", "b2"), "hangs on exactly one"),  # three of four units
    ],
)
def test_branches_that_make_no_tree_are_refused(branches: tuple[str, ...], words: str) -> None:
    units = {"b1": 2}
    made = []
    for word in branches:
        name, _, behind = word.rstrip("-").partition(">")
        loads = () if word.endswith("-") else (Share(accessory="a1", units=units.get(name, 1)),)
        made.append(
            Branch(
                id=name, name=name, behind=behind, loads=loads, run=(segment("cabin", 0.5),)
            ).model_dump()
        )
    whole = job_with(name="Work lights", watts=18, quantity=4).model_dump()
    whole["circuits"][0]["branches"] = made
    with pytest.raises(ValueError, match=words):
        Job.model_validate(whole)


def test_outputs_that_do_not_add_up_are_refused() -> None:
    with pytest.raises(ValueError, match="150 \\+ 20 W is 170 W, but its label says 200 W"):
        job_with(
            name="Bar",
            watts=200,
            outputs=({"name": "white", "watts": 150}, {"name": "amber", "watts": 20}),
        )


def test_what_changes_an_accessory_keeps_its_branches_whole() -> None:
    job = rear_lights()
    fewer = job.accessory("a1").model_copy(update={"quantity": 3})
    assert len(apply(job, ChangeAccessory(accessory=fewer)).circuit("c1").branches) == 3
    one = job.accessory("a1").model_copy(update={"quantity": 1})
    assert apply(job, ChangeAccessory(accessory=one)).circuit("c1").branches == ()
    halves = apply(job, SplitAccessory(accessory_id="a1"))
    assert [len(c.branches) for c in halves.circuits] == [2, 2], "the second half keeps its wires"
    second = halves.circuits[1].accessory_ids[0]
    joined = apply(halves, PutOnCircuit(accessory_id=second, circuit_id="c1"))
    hung = [s for b in joined.circuit("c1").branches for s in b.loads]
    assert sum(s.units for s in hung) == 4
    assert apply(joined, RemoveAccessory(accessory_id=second)).circuit("c1").branches
    assert apply(job, BringTogether(circuit_id="c1")).circuit("c1").branches == ()


def test_a_shared_return_carries_the_sum_and_an_own_earth_its_own() -> None:
    job = rear_lights(back=Return(kind="wire"))
    made = design(job, CATALOGUE).circuit("c1")
    assert {w.end.device for w in made.wires if w.role == "return"} == {"J1", "BAT"}
    own = ChangeBranch(
        circuit_id="c1",
        branch_id="b1",
        name="left",
        back=BranchReturn(stub_m=0.2),
        run=(segment("cabin", 0.8),),
    )
    made = design(apply(job, own), CATALOGUE).circuit("c1")
    assert made.sizing.request.returns_a == pytest.approx(made.current_a * 3 / 4)
    assert {w.end.device for w in made.wires if w.branch == "b1"} == {"L1.1", "G1.1"}
