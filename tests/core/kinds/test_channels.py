"""A power module: many circuits on its channels in one act, each as it was, in a fitting mode."""

from __future__ import annotations

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.edits import AddSupply, ChangePoint, FillChannels, PointDraft, StartAt, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Channel, Job, Position
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, demo, table_of

EIGHT = tuple(
    Position(name=str(at), rating_a=rating)
    for at, rating in enumerate((30, 30, 20, 20, 15, 15, 10, 10), start=1)
)
SEVEN = (
    "Roof light bar",
    "Rear work lights",
    "Radiator fans",
    "Tyre compressor",
    "Heated wiper rest",
    "Sample-box light, white",
    "Sample-box light, red",
)


def module(job: Job) -> Job:
    draft = PointDraft(kind="power_panel", name="Keypad module", positions=EIGHT, total_a=100)
    return apply(job, AddSupply(point=draft))


def ids(job: Job, *names: str) -> tuple[str, ...]:
    by_name = {c.name: c.id for c in job.circuits}
    return tuple(by_name[n] for n in names)


def filled(*names: str) -> tuple[Job, Job]:
    before = module(demo())
    point = before.points[-1].id
    return before, apply(before, FillChannels(point_id=point, circuit_ids=ids(before, *names)))


def at_points(job: Job) -> dict[str, str]:
    """Where each circuit starts or is triggered on the module."""
    point = job.points[-1].id
    found: dict[str, str] = {}
    for circuit in job.circuits:
        use = job.use_of(circuit)
        if circuit.start.point == point:
            found[circuit.name] = circuit.start.position
        elif use.channel is not None and use.channel.point == point:
            found[circuit.name] = f"triggered by {use.channel.position}"
    return found


def on_keys(job: Job, circuit_id: str) -> set[tuple[str, str]]:
    """Key and lights in which a circuit is on; a panel's relay may let go while cranking."""
    cells = table_of(job, circuit_id).cells
    return {(c.key, c.lights) for c in cells if c.switch_on and c.is_on and c.key != "cranking"}


def test_seven_circuits_move_in_one_act_each_on_the_first_channel_that_carries_it() -> None:
    before, after = filled(*SEVEN)
    assert at_points(after) == {
        "Roof light bar": "1",
        "Rear work lights": "2",
        "Radiator fans": "triggered by 3",
        "Tyre compressor": "triggered by 4",
        "Heated wiper rest": "5",
        "Sample-box light, white": "6",
        "Sample-box light, red": "7",
    }
    gone = {s.name for s in before.switches} - {s.name for s in after.switches}
    assert gone == {
        "Roof bar",
        "Work lights",
        "Fan override",
        "Compressor",
        "Wiper rest",
        "Sample red",
        "Sample white",
    }
    legends = {p.name: p.legend for p in after.points[-1].positions}
    assert legends["5"] == "Heated wiper rest"
    made = design(after, CATALOGUE)
    stops = [
        (c.circuit.name, f.code)
        for c in made.circuits
        if c.circuit.name in SEVEN
        for f in c.findings
        if f.severity == "stop"
    ]
    assert stops == []


@pytest.mark.parametrize("name", SEVEN)
def test_each_is_on_with_the_same_key_as_before(name: str) -> None:
    before, after = filled(*SEVEN)
    (circuit_id,) = ids(before, name)
    assert on_keys(before, circuit_id) == on_keys(after, circuit_id)


def test_a_key_that_a_channel_follows_has_its_wire_and_is_dead_without_it() -> None:
    _, after = filled("Roof light bar")
    point = after.points[-1]
    assert point.positions[0].wakes == "run"
    made = design(after, CATALOGUE)
    ends = {(w.end.device, w.end.terminal) for w in made.installation.wires.values()}
    ref = made.plan.refs[point.id]
    assert (ref, "key run") in ends
    whole = job_network(made)
    on = frozenset({"Keypad module 1"})
    volts = [solve(whole, VehicleState(key=k, on=on)).node_v for k in ("off", "run")]
    assert volts[0][f"{ref.lower()}_out1"] == pytest.approx(0.0, abs=0.01)
    assert volts[1][f"{ref.lower()}_out1"] > 12.0


def test_what_a_channel_cannot_work_is_refused_and_so_is_one_too_many() -> None:
    before = module(demo())
    point = before.points[-1].id
    for name, words in (
        ("Bumper winch", "takes more than any channel"),
        ("Wide driving lamp", "follows the lights"),
        ("Instrument hoist", "only while another"),
        ("Feeder of Bay block", "feeds a point"),
    ):
        with pytest.raises(EditRefusedError, match=words):
            apply(before, FillChannels(point_id=point, circuit_ids=ids(before, name)))
    spare = tuple(p.model_copy(update={"spare": True}) for p in EIGHT[1:])
    stated = before.points[-1].model_copy(update={"positions": (EIGHT[0], *spare)})
    one = apply(before, ChangePoint(point=stated))
    with pytest.raises(EditRefusedError, match="no free channel left for Rear work lights"):
        apply(one, FillChannels(point_id=point, circuit_ids=ids(one, *SEVEN[:2])))


def with_mode(mode: str, name: str) -> Design:
    job = module(demo())
    point = job.points[-1]
    told = tuple(p.model_copy(update={"mode": mode}) for p in point.positions)
    job = apply(job, ChangePoint(point=point.model_copy(update={"positions": told})))
    start = Channel(point=point.id, position="1")
    return design(apply(job, StartAt(circuit_id=ids(job, name)[0], start=start)), CATALOGUE)


@pytest.mark.parametrize(
    ("mode", "name", "code"),
    [
        ("steady", "Instrument hoist", "channel_latches"),
        ("momentary", "Roof light bar", "channel_springs_back"),
        ("flash", "Radiator fans", "channel_flashes"),
    ],
)
def test_a_mode_that_does_not_fit_is_stopped_and_mended_by_its_press(
    mode: str, name: str, code: str
) -> None:
    made = with_mode(mode, name)
    (circuit,) = [c for c in made.circuits if c.circuit.name == name]
    finding = next(f for f in circuit.findings if f.code == code)
    assert finding.severity == "stop"
    after = design(apply(made.job, finding.actions[0].edit), CATALOGUE)
    assert code not in {f.code for f in after.circuit(circuit.circuit.id).findings}


def test_the_makers_share_decides_what_a_channel_carries() -> None:
    before, after = filled("Heated wiper rest")
    assert at_points(after) == {"Heated wiper rest": "1"}
    point = before.points[-1].model_copy(update={"channel_ratio": 0.3})
    strict = apply(before, ChangePoint(point=point))
    put = apply(
        strict, FillChannels(point_id=point.id, circuit_ids=ids(strict, "Heated wiper rest"))
    )
    assert at_points(put) == {"Heated wiper rest": "triggered by 1"}, "11.1 A over 30 % of 30 A"


def test_keypad_and_module_earth_are_bought_and_built() -> None:
    _, after = filled(*SEVEN)
    made = design(after, CATALOGUE)
    build = build_of(made, CATALOGUE)
    ref = made.plan.refs[after.points[-1].id]
    assert any(line.key.startswith("keypad-") for line in build.parts)
    step = next(s for s in build.steps if s.id == f"keypad:{ref}K")
    assert any("firewall" in line for line in step.doing)
    assert any("5: Heated wiper rest" in line for line in step.doing)
    earths = [w for w in made.installation.wires.values() if w.start.terminal == "module earth"]
    assert [str(w.start) for w in earths] == [f"{ref} module earth"]
