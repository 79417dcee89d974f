"""From any job the ways out lead to a sound one; and on sound work nothing fires."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import Action, CircuitDesign, Design, design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSwitch,
    ChangeAccessory,
    Edit,
    FitCoilResistor,
    HoldChoice,
    MoveFuse,
    MoveRelay,
    ProposeScenarios,
    SetLayout,
    SetRun,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Battery, Job, Return, Segment, Switch, Use, Vehicle
from ready_trail.core.job.survey import KnownWire, Survey
from ready_trail.core.netlist import Coil
from ready_trail.core.references import unknown_references
from ready_trail.core.relays import with_coil_resistor
from support import CATALOGUE, burning, demo, job_with, segment

PRESETS = [p for p in CATALOGUE.presets.values() if p.at_v < 17]
ZONES = ("engine_bay", "cabin", "underbody", "exhaust")
PRESSES_MOST, AGAIN_MOST = 40, 6


@st.composite
def careless_segments(draw: st.DrawFn) -> Segment:
    bare = {"passes": "Firewall", "grommet": draw(st.booleans())} if draw(st.booleans()) else {}
    return segment(
        draw(st.sampled_from(ZONES)), draw(st.floats(0.4, 5.0)), draw(st.integers(1, 6)), **bare
    )


@st.composite
def installations(draw: st.DrawFn) -> Job:
    """A vehicle with one to three usual accessories, carelessly laid and carelessly held."""
    vehicle = Vehicle(
        headlamps=draw(st.sampled_from(["positive", "earth"])),
        data_bus=draw(st.sampled_from(["plain", "supervised"])),
        body=draw(st.sampled_from(["steel", "composite"])),
        battery=Battery(capacity_ah=draw(st.sampled_from([45.0, 70.0, 95.0]))),
        charging_a=draw(st.sampled_from([60.0, 120.0])),
    )
    proved = tuple(  # nobody loads a wire of a supervised vehicle unproved
        KnownWire(id=f"w{n}", probe_id=f"w{n}", function=function, words=f"{function} feed")
        for n, function in enumerate(("accessory", "ignition"), start=1)
    )
    job = Job(name="Any", vehicle=vehicle, survey=Survey(known=proved))
    for number in range(1, draw(st.integers(1, 3)) + 1):
        winched = any(a.model == "winch" for a in job.accessories)  # one is enough for a vehicle
        preset = draw(st.sampled_from([p for p in PRESETS if p.model != "winch" or not winched]))
        label = AccessoryDraft(
            name=f"{preset.label[:40]} {number}",
            watts=preset.watts,
            amps=preset.amps,
            idle_a=preset.idle_a,
            at_v=preset.at_v,
            model=preset.model,
            duty=preset.duty,
            drop_class=preset.drop_class,
            inrush_x=preset.inrush_x,
            inrush_s=preset.inrush_s,
            min_v=preset.min_v,
            quantity=draw(st.integers(1, 2)) if preset.model != "winch" else 1,
            hazard=draw(st.booleans()),
        )
        run = (
            segment("engine_bay", draw(st.floats(0.4, 3.0))),  # where the battery stands
            *draw(st.lists(careless_segments(), min_size=0, max_size=3)),
        )
        back = Return(kind=draw(st.sampled_from(["chassis", "wire"])))
        job = apply(job, AddAccessory(accessory=label, run=run, back=back))
        use = Use(
            key=draw(st.sampled_from(["always", "accessory", "run"])),
            lights=draw(st.sampled_from(["any", "any", "side", "high"])),
            switch=draw(st.sampled_from(["", f"Switch {number}"])),
            engine_only=draw(st.booleans()),
        )
        circuit = job.circuits[-1]
        careless: list[Edit] = [
            ChangeAccessory(accessory=job.accessories[-1].model_copy(update={"use": use})),
            SetRun(
                circuit_id=circuit.id,
                run=run,
                back=circuit.back,
                fuse_at_m=draw(st.sampled_from([0.1, 0.4])),
                switching_at_m=0.5,
                control_m=3.0,
            ),
            MoveFuse(circuit_id=circuit.id, fuse_at_m=draw(st.sampled_from([0.1, 0.3, 1.0]))),
            HoldChoice(
                circuit_id=circuit.id,
                what="size",
                value=draw(st.sampled_from(["22", "16", "10", "4"])),
            ),
            HoldChoice(
                circuit_id=circuit.id, what="fuse_a", value=draw(st.sampled_from([2.0, 15.0, 40.0]))
            ),
            HoldChoice(
                circuit_id=circuit.id,
                what="family",
                value=draw(st.sampled_from(["mini_blade", "breaker_auto", "bolt_midi"])),
            ),
            HoldChoice(circuit_id=circuit.id, what="insulation_c", value=80),
        ]
        if use.switch:
            plate = Switch(
                name=use.switch,
                rating_a=draw(st.sampled_from([2.0, 20.0])),
                momentary=draw(st.booleans()),
            )
            job = apply(job, AddSwitch(switch=plate))
        for edit in careless[:2] + draw(st.lists(st.sampled_from(careless[2:]), max_size=3)):
            job = _tried(job, edit) or job
    return (_tried(job, ProposeScenarios()) or job) if draw(st.booleans()) else job


def _tried(job: Job, edit: Edit) -> Job | None:
    try:
        after = apply(job, edit)
    except EditRefusedError:
        return None
    return None if any(unknown_references(after, CATALOGUE)) else after


def loud(made: Design) -> list[tuple[str, str, tuple[Action, ...]]]:
    found = [(f"{c.circuit.id} {f.code} {f.place}", f) for c in made.circuits for f in c.findings]
    found += [(f"job {f.code} {f.place}", f) for f in made.findings]
    return [(k, f.severity, f.actions) for k, f in found if f.is_open and f.severity != "note"]


def weight(made: Design) -> int:
    return sum(10 if severity == "stop" else 1 for _, severity, _ in loud(made))


def pressed_until_sound(job: Job) -> tuple[Job, Design, list[str]]:
    """Press the way out that leaves least, again and again, until nothing is left to press."""
    made = design(job, CATALOGUE)
    pressed: list[str] = []
    while loud(made) and len(pressed) < PRESSES_MOST:
        tries: list[tuple[int, str, Job, Design]] = []
        for action in {a.label: a for _, _, actions in loud(made) for a in actions}.values():
            after = _tried(job, action.edit)
            assert after is not None, f"{action.label} is offered and refused"
            seen = design(after, CATALOGUE)
            tries.append((weight(seen), action.label, after, seen))
        tries = [t for t in tries if pressed.count(t[1]) < AGAIN_MOST]
        if not tries:
            break
        best = min(tries, key=lambda t: t[:2])
        pressed.append(best[1])
        job, made = best[2], best[3]
    return job, made, pressed


@given(installations())
@settings(max_examples=15, deadline=None)
def test_ways_out_lead_from_careless_work_to_sound_work(job: Job) -> None:
    sound, made, pressed = pressed_until_sound(job)
    left = [key for key, _, _ in loud(made)]
    assert not left, (pressed, left)
    again = design(Job.model_validate_json(sound.model_dump_json()), CATALOGUE)
    assert not loud(again)
    assert again.is_ready
    assert [(e.fault.words, e.burns, e.burns_a) for e in burning(again)] == []


def test_where_no_single_cable_loses_little_enough_two_are_offered() -> None:
    way = tuple(segment("engine_bay", length_m) for length_m in (1.0, 3.0, 4.0))
    job = apply(
        Job(name="Long pull"),
        AddAccessory(
            accessory=AccessoryDraft(
                name="Winch",
                model="winch",
                amps=410.0,
                idle_a=70.0,
                duty="momentary",
                drop_class="tolerant",
                use=Use(key="run", switch="Winch"),
            ),
            run=way,
            back=Return(kind="wire"),
        ),
    )
    made = design(job, CATALOGUE)
    drop = next(f for f in made.circuits[0].findings if f.code == "path_drop")
    assert [a.label for a in drop.actions] == ["Take 2 × 2/0 AWG"]
    after = design(apply(job, drop.actions[0].edit), CATALOGUE).circuits[0]
    assert "path_drop" not in {f.code for f in after.findings}
    assert after.sizing.fuse == made.circuits[0].sizing.fuse


def test_a_resistor_across_the_coil_is_in_netlist_and_words() -> None:
    job = job_with(use=Use(key="run", lights="high", switch="S1"), watts=100)
    bare = design(job, CATALOGUE).circuits[0]
    fitted = design(apply(job, FitCoilResistor(circuit_id="c1")), CATALOGUE).circuits[0]

    def coil_ohm(made: CircuitDesign) -> float:
        assert made.network is not None
        return next(e.ohm for e in made.network.elements if isinstance(e, Coil))

    assert bare.sizing.relay is not None
    assert fitted.sizing.relay is not None
    assert fitted.sizing.relay.suppression == "resistor of 680 Ω, fitted"
    warm = coil_ohm(bare) / bare.sizing.relay.coil_ohm
    assert coil_ohm(fitted) == pytest.approx(warm * 90 * 680 / (90 + 680))
    already = with_coil_resistor(fitted.sizing.relay)
    assert already == fitted.sizing.relay, "one is enough"
    at_24 = with_coil_resistor(replace(bare.sizing.relay, coil_ohm=360, coil_v=24.0))
    assert at_24.suppression.startswith("resistor of 2720")


def test_a_sleeve_goes_onto_the_layouts_legs_and_ends_the_caution() -> None:
    job = demo()
    assert job.layout is not None
    hot = apply(
        job,
        SetLayout(
            layout=job.layout.model_copy(
                update={
                    "legs": tuple(
                        leg.model_copy(update={"zone": "exhaust"}) for leg in job.layout.legs
                    )
                }
            )
        ),
    )
    bar = design(hot, CATALOGUE).circuit("c15")
    assert "hot_zone" in {f.code for f in bar.findings}
    action = next(a for f in bar.findings if f.code == "hot_zone" for a in f.actions)
    sleeved = apply(hot, action.edit)
    assert sleeved.layout is not None
    assert all(leg.heat_sleeve for leg in sleeved.layout.legs)
    assert "hot_zone" not in {f.code for f in design(sleeved, CATALOGUE).circuit("c15").findings}


def test_a_relay_that_the_layout_places_is_moved_there() -> None:
    with pytest.raises(EditRefusedError, match="layout"):
        apply(demo(), MoveRelay(circuit_id="c15", switching_at_m=1.0))
    job = job_with(watts=100)
    with pytest.raises(EditRefusedError, match="run ends"):
        apply(job, MoveRelay(circuit_id="c1", switching_at_m=50.0))
    moved = apply(job, MoveRelay(circuit_id="c1", switching_at_m=0.0))
    assert moved.circuits[0].switching_at_m == moved.circuits[0].fuse_at_m, "behind the fuse"


def test_a_given_switch_is_new_guarded_and_the_accessorys_own() -> None:
    job = job_with(use=Use(key="run"), watts=30, hazard=True)
    made = design(job, CATALOGUE).circuits[0]
    action = next(a for f in made.findings if f.code == "no_interlock" for a in f.actions)
    given = apply(job, action.edit)
    assert given.switches[-1].guarded
    assert given.accessories[0].use.switch == given.switches[-1].name
    assert design(given, CATALOGUE).circuits[0].is_ready
    with pytest.raises(EditRefusedError, match="of this name"):
        apply(given, action.edit)
