"""Faults of a network, every single fault of a design, and wires that heat."""

from __future__ import annotations

import math
import random
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.core.design import design, job_network
from ready_trail.core.edits import HoldChoice
from ready_trail.core.fault_list import NamedFault, single_faults
from ready_trail.core.faults import (
    Backwards,
    FaultError,
    Open,
    Series,
    Short,
    Stuck,
    Weak,
    faulted,
)
from ready_trail.core.heat import time_constant_s, withstand_a2s
from ready_trail.core.heating import heating
from ready_trail.core.live import first_to_open, heats, live
from ready_trail.core.meter import has_power, ohms, without_power
from ready_trail.core.netlist import Coil, Diode, Resistor, SwitchContact
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, VehicleState
from ready_trail.core.sweep import VEHICLES_OWN, sweep
from ready_trail.core.sweep import effects as every_effect
from ready_trail.core.working import working_state
from ready_trail.formats.job_json import read_job
from simulator import worst_v
from support import CATALOGUE, demo, job_with, small

MARMOT = design(demo(), CATALOGUE)
NETWORK = job_network(MARMOT)
SINGLES = single_faults(MARMOT)
ON = VehicleState(key="run", lights="high", on=NETWORK.switches)


def named(key: str) -> NamedFault:
    return next(f for f in SINGLES if f.key == key)


def test_each_kind_of_fault_changes_just_its_element() -> None:
    contact = next(e for e in NETWORK.elements if isinstance(e, SwitchContact))
    diode = next(e for e in NETWORK.elements if isinstance(e, Diode))
    wire = next(e for e in NETWORK.elements if isinstance(e, Resistor))

    def gained_and_lost(fault: object) -> tuple[int, int]:
        after = set(faulted(NETWORK, [fault]).elements)  # type: ignore[list-item]
        return len(after - set(NETWORK.elements)), len(set(NETWORK.elements) - after)

    assert gained_and_lost(Open(wire.name)) == (0, 1)
    assert gained_and_lost(Series(wire.name, 0.5)) == (2, 1)
    assert gained_and_lost(Short(wire.a, wire.b)) == (1, 0)
    assert gained_and_lost(Stuck(contact.name, closed=True)) == (1, 1)
    assert gained_and_lost(Stuck(contact.name, closed=False)) == (0, 1)
    assert gained_and_lost(Backwards(diode.name)) == (1, 1)
    coil = next(e for e in NETWORK.elements if isinstance(e, Coil))
    assert gained_and_lost(Open(coil.name)) == (1, 1)
    for wrong in (
        Open("nothing"),
        Short(wire.a, "nowhere"),
        Stuck(wire.name, closed=True),
        Backwards(wire.name),
        Weak(wire.name, 3.0),
        Short(wire.a, wire.a),
    ):
        with pytest.raises(FaultError):
            faulted(NETWORK, [wrong])


def test_a_bridged_coil_can_be_seen_pulling_in_with_the_lights_off() -> None:
    bridged = design(small("high_beam_bridged"), CATALOGUE)
    state = VehicleState(key="run", lights="off", on=frozenset({"Range lamps"}))
    assert live(bridged, state).relays["K2"]
    at_rest = live(bridged, VehicleState(key="run"))
    assert not at_rest.relays["K2"]
    cut = next(f for f in single_faults(bridged) if f.key == "open:C2-W10")
    assert not live(bridged, state, [cut]).relays["K2"]
    found = {e.fault.key: e for e in every_effect(bridged)}
    assert found["body:C2-W10"].runs == "Left light", "its coil is worked by the earth"


def test_a_short_on_a_fused_wire_opens_its_fuse_before_the_wire_suffers() -> None:
    state = working_state(MARMOT.plan, MARMOT.circuit("c15").circuit)
    reading = live(MARMOT, state, [named("body:C15-W2")])
    first = first_to_open(reading)
    assert first is not None
    assert first.ref == "F15"
    hot = heats(MARMOT, reading, "C15-W2")
    assert hot is not None
    found, fuse = hot
    assert fuse == first
    assert found.fuse_is_first
    assert found.gives_up_s > 10 * found.opens_slowest_s
    opened = live(MARMOT, state, [named("body:C15-W2")], blown=("F15",))
    assert first_to_open(opened) is None
    assert not any(x.is_on for x in opened.loads if x.ref == "L15")


def test_a_fuse_that_opens_elsewhere_protects_nothing_here() -> None:
    on = frozenset({"Roof bar", "Work lights"})
    both = [named("body:C15-W2"), named("body:C17-W2")]
    reading = live(MARMOT, VehicleState(key="run", on=on), both)
    for label, ref in (("C15-W2", "F15"), ("C17-W2", "F17")):
        hot = heats(MARMOT, reading, label)
        assert hot is not None
        assert hot[1] is not None
        assert hot[1].ref == ref
    quiet = heats(MARMOT, reading, "C22-W1")
    assert quiet is not None
    assert quiet[1] is None or quiet[1].ref == "F2", "its own feeder may open, no neighbour's fuse"


def test_a_tired_battery_is_read_at_its_posts() -> None:
    tired = next(f for f in SINGLES if f.key.startswith("tired."))
    loaded = VehicleState(key="run", on=frozenset({"Roof bar"}))
    assert live(MARMOT, loaded, [tired]).source_v < 10.9 < live(MARMOT, loaded).source_v


def test_every_single_fault_has_a_key_of_its_own_and_touches_one_thing() -> None:
    assert len({f.key for f in SINGLES}) == len(SINGLES)
    known = {*MARMOT.installation.wires, *MARMOT.installation.devices}
    assert {f.subject for f in SINGLES} <= known
    covered = {f.subject for f in SINGLES}
    assert set(MARMOT.installation.wires) <= covered
    kinds = {d.kind for r, d in MARMOT.installation.devices.items() if r in covered}
    assert kinds >= {"fuse", "relay", "switch", "earth", "diode", "load", "battery", "reversing"}


def test_the_sweep_tells_what_each_fault_does() -> None:
    effects = {e.fault.key: e for e in sweep(MARMOT)}
    assert len(effects) > 0.9 * len(SINGLES)
    assert not effects["open:C15-W2"].works
    assert effects["open:C15-W2"].load_v < 1
    assert effects["body:C15-W2"].opens == "F15"
    assert not effects["lost.g15_body:G15"].works
    seen = {key: e.symptom for key, e in effects.items()}
    assert seen["open:C15-W2"] == "dead"
    assert seen["body:C15-W2"] == "fuse"
    assert seen["bad:C26-W3"] == "weak"
    stuck = effects["welded.k15_30_87:K15"]
    assert stuck.symptom == "on", "nothing shows until its switch is off"
    assert stuck.runs == "Roof light bar"
    assert "Roof bar" not in stuck.state.on
    assert effects["bad:C16-W3"].load_v == 0, "a lamp that cuts out, though it measures 12 V"
    assert effects["bad:C16-W3"].sound_v > 11
    assert 6 < effects["bad:C26-W3"].load_v < 11 < effects["bad:C26-W3"].sound_v
    assert seen["body:C2-W1"] == "burns", "between the battery and its first fuse nothing opens"
    burnt = [e for e in effects.values() if e.burns and not e.fault.key.startswith("pins85.")]
    assert {e.fault.key for e in burnt if e.fault.key.startswith("welded.")} == {"welded.s24_i:S24"}
    burning = [MARMOT.installation.wires[e.burns] for e in burnt if e.fault.key.startswith("body:")]
    assert {(w.start.device, w.end.device[0], w.end.terminal) for w in burning} == {
        ("BAT", "F", "1")
    }, "of this job only what leads to a fuse can burn"
    assert effects["body:C4-W4"].opens == "F4T", "a control circuit's own fuse"
    assert effects["body:C4-W3"].opens == VEHICLES_OWN
    headlamps = [e for e in effects.values() if e.fault.subject == "HL"]
    assert {e.circuit_id for e in headlamps} == {"c16"}, "c15 knows nothing of them"
    power = [
        e
        for k, e in effects.items()
        if k.startswith("body:") and MARMOT.installation.wires[e.fault.subject].role == "power"
    ]
    assert len(power) > 15
    assert all(e.opens or e.burns for e in power)


def test_a_fault_ahead_is_seen_on_every_circuit_behind_it() -> None:
    ahead = [fault for fault in SINGLES if fault.key == "open:C2-W2"]
    found = list(every_effect(MARMOT, everywhere=True, of=ahead))
    fed = {
        c.circuit.id
        for c in MARMOT.circuits
        if "c2" in c.ahead and not c.circuit.is_feeder and c.network is not None
    }
    assert {e.circuit_id for e in found} >= fed
    assert len(fed) > 8
    assert all(e.symptom == "dead" for e in found)


def test_a_fuse_counts_only_where_it_opens_before_the_wire_burns() -> None:
    held = (
        HoldChoice(circuit_id="c1", what="fuse_a", value=100.0),
        HoldChoice(circuit_id="c1", what="size", value="20"),
    )
    for edits, seen in (((), "fuse"), (held, "burns")):
        found = {e.fault.key: e for e in sweep(design(job_with(edits=edits), CATALOGUE))}
        assert found["body:C1-W2"].symptom == seen
        assert found["body:C1-W1"].symptom == "burns", "ahead of the fuse, whichever it is"


def test_a_channel_and_a_control_circuit_open_their_own_fuses() -> None:
    path = Path(__file__).parents[1] / "data" / "jobs" / "two_outputs_channels.json"
    made = design(read_job(path.read_bytes(), CATALOGUE), CATALOGUE)
    short = next(f for f in single_faults(made) if f.key == "body:C4-W1")
    state = working_state(made.plan, made.circuit("c4").circuit)
    first = first_to_open(live(made, state, [short]))
    assert first is not None
    assert first.ref == "M1 2"
    assert first.device == "M1"
    after = live(made, state, [short], blown=[first.ref])
    assert first_to_open(after) is None
    assert max(abs(a) for a in after.wires_a.values()) < 60
    own = {f.words for f in single_faults(made) if f.subject == "M1"}
    assert {
        "M1 Output module output 2 own fuse is open",
        "M1 Output module output 2 stays closed",
    } <= own
    control = live(MARMOT, ON, [named("body:C4-W4")])
    assert "F4T" in {f.ref for f in control.fuses if f.opens}


@given(st.integers(0, 10_000))
@settings(max_examples=60, deadline=None)
def test_a_faulted_state_balances_at_every_node(seed: int) -> None:
    pick = random.Random(seed)
    faults = pick.sample(SINGLES, pick.randint(1, 2))
    state = VehicleState(
        key=pick.choice(KEY_STATES),
        lights=pick.choice(LIGHT_STATES),
        on=frozenset(n for n in sorted(NETWORK.switches) if pick.random() < 0.5),
    )
    try:
        reading = live(MARMOT, state, faults)
    except FaultError:
        return  # the second one needs what the first took away
    if reading.point is None:
        assert reading.trouble
        return
    sums: dict[str, float] = dict.fromkeys(reading.point.node_v, 0.0)
    changed = faulted(NETWORK, [c for f in faults for c in f.faults])
    for element in changed.elements:
        amps = reading.point.branch_a[element.name]
        for node, sign in ((element.a, 1), (element.b, -1)):
            if node in sums:
                sums[node] += sign * amps
    worst = max((abs(a) for a in sums.values()), default=0.0)
    assert worst < 1e-3


def test_ngspice_agrees_on_faulted_states(tmp_path: Path) -> None:
    pick = random.Random(7)
    checked = 0
    for name in ("Marmot", "Bluebell", "Kestrel"):
        made = design(demo(name), CATALOGUE)
        network = job_network(made)
        singles = single_faults(made)
        for _ in range(17):
            fault = pick.choice(singles)
            state = VehicleState(
                key=pick.choice(["off", "run"]),
                lights=pick.choice(LIGHT_STATES),
                on=frozenset(n for n in sorted(network.switches) if pick.random() < 0.5),
            )
            reading = live(made, state, [fault])
            if reading.point is None or reading.chatter:
                continue
            changed = faulted(network, fault.faults)
            assert worst_v(changed, reading.point, tmp_path) < 0.02, (name, fault.key, state)
            checked += 1
    assert checked > 40


def test_heating_meets_both_of_its_limits() -> None:
    area_mm2, ampacity_a = 5.26, 60.0
    short = heating(current_a=600, area_mm2=area_mm2, insulation_c=105, start_c=70, ambient_c=70)
    a2s = withstand_a2s(area_mm2=area_mm2, insulation_c=105, start_c=70)
    assert short.gives_up_s == pytest.approx(a2s / 600**2, rel=0.03)
    mild = heating(
        current_a=ampacity_a / 2, area_mm2=area_mm2, insulation_c=105, start_c=70, ambient_c=70
    )
    assert math.isinf(mild.gives_up_s)
    stepped_c, step_s = 70.0, time_constant_s(area_mm2) / 4000
    rate = (300 / (226 * area_mm2)) ** 2
    loss = 1 / time_constant_s(area_mm2)
    seconds = 0.0
    while stepped_c < 160 and seconds < 600:
        stepped_c += step_s * (rate * (234.5 + stepped_c) - loss * (stepped_c - 70))
        seconds += step_s
    long = heating(current_a=300, area_mm2=area_mm2, insulation_c=105, start_c=70, ambient_c=70)
    assert long.gives_up_s == pytest.approx(seconds, rel=0.01)
    assert long.course[0] == (0.0, 70.0)
    assert long.course[-1][1] == pytest.approx(160, abs=0.5)


def test_ohms_are_read_with_the_power_away() -> None:
    made = design(job_with(watts=100), CATALOGUE)
    network = job_network(made)
    wire = made.circuits[0].wire_on("power")
    assert wire is not None
    with pytest.raises(ValueError, match="power"):
        ohms(network, VehicleState(), wire.start.node, wire.end.node)
    cold = without_power(network)
    assert not has_power(cold)
    through = ohms(cold, VehicleState(), wire.start.node, wire.end.node)
    total = sum(e.ohm for e in made.installation.elements_of(wire.label) if isinstance(e, Resistor))
    assert through == pytest.approx(total, rel=1e-3)
    cut = without_power(faulted(network, [Open(made.installation.elements_of(wire.label)[0].name)]))
    assert math.isinf(ohms(cut, VehicleState(), wire.start.node, wire.end.node))
