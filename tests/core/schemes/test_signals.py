"""Vehicle signals, what function wires see, and outputs' triggers, against solved states."""

from __future__ import annotations

from typing import Any

import pytest

from ready_trail.core.design import design
from ready_trail.core.edits import AddSwitch, ChangeAccessory, ReadProbe, UseProbe, apply
from ready_trail.core.edits.survey import AddProbe, NoteFuse
from ready_trail.core.inputs import InputReading, read_inputs
from ready_trail.core.job import InputWire, Job, Use
from ready_trail.core.survey import classify
from ready_trail.core.truth import truth_table
from support import CATALOGUE, job_with


def wires(*inputs: InputWire, **more: Any) -> dict[str, InputReading]:
    job = job_with(name="Beacon", watts=24, **more)
    beacon = job.accessory("a1").model_copy(update={"inputs": inputs})
    job = apply(job, ChangeAccessory(accessory=beacon))
    made = design(job, CATALOGUE)
    return {r.wire.name: r for r in read_inputs(made.circuit("c1"), made.plan)}


@pytest.mark.parametrize("signal", ["brake", "left", "right", "reverse", "charging"])
def test_a_relay_follows_one_signal_and_no_other(signal: str) -> None:
    job = job_with(use=Use(key="always", signal=signal), watts=40)  # type: ignore[arg-type]
    made = design(job, CATALOGUE)
    circuit = made.circuit("c1")
    assert circuit.scheme.key == "relay_signal"
    table = truth_table(circuit, made.plan)
    assert table is not None
    assert table.signals == (signal,)
    assert {c.signal for c in table.cells if c.is_on} == {signal}
    assert all(c.is_on for c in table.cells if c.signal == signal and c.key == "run")


def test_an_output_that_rests_at_ground_pulls_a_free_wire_down_and_a_diode_stops_that() -> None:
    bare = InputWire(name="Pattern", must_float=True, rests="ground")
    read = wires(bare)["Pattern"]
    assert read.rest == "pulled"
    assert read.rest_v == pytest.approx(0.1, abs=0.1)
    assert not read.is_right
    mended = wires(bare.model_copy(update={"diode": True}))["Pattern"]
    assert (mended.rest, mended.acts, mended.is_right) == ("free", True, True)
    turned = wires(bare.model_copy(update={"diode": True, "backwards": True}))["Pattern"]
    assert not turned.is_right
    assert turned.acts is False
    assert wires(bare.model_copy(update={"rests": "open"}))["Pattern"].is_right


def test_function_wires_end_at_switch_signal_and_cap() -> None:
    from ready_trail.core.job import Switch

    read = wires(
        InputWire(name="Flash", ends="switch", at="Pattern"),
        InputWire(name="Steady", ends="signal", at="brake"),
        InputWire(name="Spare", ends="cap"),
        InputWire(name="Cut", active="low", ends="controller"),
        edits=(AddSwitch(switch=Switch(name="Pattern")),),
    )
    for name in ("Flash", "Steady", "Cut"):
        assert (read[name].rest, read[name].acts) == ("idle", True), read[name]
    assert read["Spare"].on_v is None
    assert read["Cut"].on_v == pytest.approx(0.0, abs=0.1)


def two_beacons(**second: Any) -> Job:
    from ready_trail.core.edits import AccessoryDraft, AddAccessory

    sync = InputWire(name="Sync", ends="cap")
    job = job_with(name="Front beacon", watts=24, inputs=(sync,))
    its = InputWire(name="Sync", ends="accessory", **second)
    other = AccessoryDraft(name="Rear beacon", watts=24, use=job.accessories[0].use, inputs=(its,))
    return apply(job, AddAccessory(accessory=other))


def test_synchronising_wires_join_two_accessories_once() -> None:
    made = design(two_beacons(at="a1 Sync"), CATALOGUE)
    joined = [w for w in made.installation.wires.values() if w.role == "function"]
    assert [(w.start.device, w.end.device) for w in joined] == [("L1", "L3")]


def test_a_synchronising_ring_is_refused_and_so_is_a_wire_to_nowhere() -> None:
    job = two_beacons(at="a1 Sync")
    document = job.model_dump(mode="json")
    document["accessories"][0]["inputs"][0] |= {"ends": "accessory", "at": "a3 Sync"}
    with pytest.raises(ValueError, match="ring"):
        Job.model_validate(document)
    document["accessories"][0]["inputs"][0] |= {"ends": "accessory", "at": "a9 Sync"}
    with pytest.raises(ValueError, match="no function wire here"):
        Job.model_validate(document)


def test_a_wire_is_named_by_its_signal_and_by_the_fuse_that_kills_it() -> None:
    job = apply(job_with(), AddProbe(name="Tail, upper"))
    for state, value in (("off", "dark"), ("run", "dark"), ("brake", "lit")):
        job = apply(job, ReadProbe(probe_id="w1", state=state, value=value))  # type: ignore[arg-type]
    assert apply(job, UseProbe(probe_id="w1")).survey.known[0].function == "brake"
    both = apply(job, ReadProbe(probe_id="w1", state="left", value="lit"))
    verdict = classify(both.survey.probes[0], nominal_v=12, supervised=False)
    assert verdict.standing == "undecided"

    job = apply(job_with(), AddProbe(name="Radio"))
    for state, value in (
        ("off", "dark"),
        ("accessory", "dark"),
        ("run", "lit"),
        ("fuse_out", "dark"),
    ):
        job = apply(job, ReadProbe(probe_id="w1", state=state, value=value))  # type: ignore[arg-type]
    job = apply(job, NoteFuse(probe_id="w1", fuse="F14", fuse_a=10))
    used = apply(job, UseProbe(probe_id="w1"))
    assert used.survey.known[0].fuse == "F14"
    assert [(i.kind, i.fuse_a) for i in used.survey.items] == [("tapped_circuit", 10)]
