"""The accessory list: what comes out goes in again; faults are named by row and column."""

from __future__ import annotations

from typing import Any

import pytest

from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    AddSwitch,
    PointDraft,
    PutOnCircuit,
    apply,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import (
    Accessory,
    Channel,
    InputWire,
    Job,
    Output,
    Position,
    Switch,
    Use,
)
from ready_trail.core.job.accessory import Mode
from ready_trail.formats.accessory_csv import (
    COLUMNS,
    SWITCH_COLUMNS,
    read_accessories,
    write_accessories,
)
from ready_trail.formats.cells import guarded, plain
from ready_trail.formats.errors import FileRefusedError
from support import demo


def essence(job: Job) -> dict[str, Any]:
    """What a list of accessories holds of a job, ids replaced by names."""
    circuit_names = {c.id: f"{c.name}|{c.output}" for c in job.circuits}
    point_names = {p.id: p.name for p in job.points}

    def use_of(use: Use) -> dict[str, Any]:
        told = use.model_dump()
        told["while_on"] = circuit_names.get(use.while_on, "")
        if use.channel is not None:
            told["channel"] = (point_names[use.channel.point], use.channel.position)
        return told

    def wire_of(wire: InputWire) -> dict[str, Any]:
        told = wire.model_dump()
        if wire.ends == "accessory":
            other, _, its = wire.at.partition(" ")
            told["at"] = (job.accessory(other).name, its)
        return told

    accessories = [
        {
            **a.model_dump(exclude={"id", "use", "inputs"}),
            "inputs": [wire_of(w) for w in a.inputs],
            "circuits": [
                (c.output, use_of(job.use_of(c)), [job.accessory(i).name for i in c.accessory_ids])
                for c in job.circuits_of(a.id)
            ],
        }
        for a in job.accessories
    ]
    worked = {u.switch for c in job.circuits if c.accessory_ids for u in [job.use_of(c)]}
    worked |= {w.at for a in job.accessories for w in a.inputs if w.ends == "switch"}
    own = {"name", "rating_a", "surge_a", "momentary", "guarded", "throws", "lamp"}
    switches = {s.name: s.model_dump(include=own) for s in job.switches if s.name in worked}
    return {"accessories": accessories, "switches": switches}


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_a_list_that_goes_out_and_comes_in_makes_the_same_job(name: str) -> None:
    job = demo(name)
    text = write_accessories(job)
    made = apply(Job(name="J"), read_accessories(text.encode()))
    assert essence(made) == essence(job)
    assert write_accessories(made) == text


def test_everything_that_a_list_can_hold_comes_in_again() -> None:
    """Shared circuits, twins by name, wires to switches and to each other, channels, waits."""
    job = Job(name="Full")
    bank = PointDraft(kind="factory_bank", name="Bank: A/B", positions=(Position(name="1"),))
    job = apply(job, AddSupply(point=bank))
    job = apply(job, AddSwitch(switch=Switch(name="Dim: it")))
    bar = AccessoryDraft(
        name="Bar; wide: 1",
        watts=60,
        low_v=9,
        high_v=32,
        one_at_a_time=False,
        outputs=(
            Output(name="white", watts=40, lead="WH"),
            Output(name="red", watts=20, proved=True),
        ),
        inputs=(
            InputWire(name="Dim/er", ends="switch", at="Dim: it", diode=True),
            InputWire(name="Sync", ends="cap", must_float=True),
        ),
        modes=(Mode(name="Soft", wires=("Sync",), how="tap", seconds=2.0),),
        use=Use(switch="Bar", key="always"),
    )
    job = apply(
        job,
        AddAccessory(
            accessory=bar,
            split_outputs=True,
            switch=Switch(name="Bar", lamp="side", surge_a=70, rating_a=9.5),
        ),
    )
    red = job.circuits[-1]
    for watts in (5, 5, 7):
        twin = AccessoryDraft(name="Twin", watts=watts, use=Use(while_on=red.id, switch="T"))
        job = apply(job, AddAccessory(accessory=twin))
    shared, host = job.circuits[-1], job.circuits[-2]
    job = apply(job, PutOnCircuit(accessory_id=shared.accessory_ids[0], circuit_id=host.id))
    tied = AccessoryDraft(
        name="Second",
        watts=5,
        inputs=(InputWire(name="S", ends="accessory", at=f"{job.accessories[0].id} Sync"),),
    )
    job = apply(job, AddAccessory(accessory=tied))
    use = Use(channel=Channel(point=job.points[0].id, position="1"))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(name="Led", watts=5, use=use)))

    text = write_accessories(job)
    base = apply(Job(name="J"), AddSupply(point=bank))
    made = apply(base, read_accessories(text.encode()))
    assert essence(made) == essence(job)
    assert write_accessories(made) == text
    with pytest.raises(EditRefusedError, match="add it to the supply first"):
        apply(Job(name="J"), read_accessories(text.encode()))


def test_every_field_of_the_models_has_a_column() -> None:
    """A field that is added later is either in the list, or said to be left out here."""
    assert set(Accessory.model_fields) - {"id", "use"} <= set(COLUMNS)
    elsewhere = {"while_on": "only_while", "channel": "channel"}
    assert {elsewhere.get(f, f) for f in Use.model_fields} <= set(COLUMNS)
    placed = {"name", "number", "panel", "position", "place", "pins"}
    assert set(Switch.model_fields) - placed == set(SWITCH_COLUMNS.values())


def test_semicolons_decimal_commas_and_blank_rows() -> None:
    text = "name;watts;at_v;switch\nLamp;27,5 W;13,5;S1\n;;;\nFan;0,12 kW;13 V;\n"
    got = read_accessories(text.encode("utf-8-sig"))
    assert [(a.name, a.watts, a.at_v, a.use.switch) for a in got.accessories] == [
        ("Lamp", 27.5, 13.5, "S1"),
        ("Fan", 120, 13, ""),
    ]
    job = apply(Job(name="J"), got)
    assert len(job.circuits) == 2


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("name,watts,with\nA,5,B\n", "row 2, with: no row of this list is named 'B'"),
        ("name,watts,with\nA,5,\nA,5,\nB,5,A\n", "row 4, with: several rows are named 'A'"),
        ("name,watts,output_of\nA,5,\nred,,A\n", "row 3, name: A has no output 'red'"),
        ("name,watts,channel\nA,5,Bank\n", "row 2, channel: write it as point / position"),
        ("", "row 1: name and watts or amps are needed"),
        ("name,wats\nLamp,5", "row 1: unknown column 'wats'"),
        ("name,watts\n", "row 2: there is no accessory"),
        (
            "name,watts\nLamp,bright\n",
            "row 2, watts: Type a number, such as 2.4 or 2.4 W. (it says 'bright')",
        ),
        ("name,watts\nA,5\n,7\n", "row 3, name: Fill this in."),
        ("name,watts,amps\nA,5,1\n", "row 2, form: state either watts or amps"),
        ("name,watts\nA,5,6\n", "row 2: it has more or fewer cells"),
        ("name,watts,quantity\nA,5,1.5\n", "row 2, quantity: Type a whole number."),
        ("name,watts,lights\nA,5,disco\n", "row 2, lights: Choose one of"),
        ("name,watts\n" + "A,5\n" * 10_000, "row 202: a list has 200 accessories at most"),
        ("n\xe4me,watts\n", "not UTF-8"),
    ],
)
def test_faults(text: str, message: str) -> None:
    data = text.encode("latin-1") if "\xe4" in text else text.encode()
    with pytest.raises(FileRefusedError) as refused:
        read_accessories(data)
    assert message in str(refused.value)


@pytest.mark.parametrize("text", ["=1", "'=1", "''+x", "＝cmd", "-5", "－5 °C", "'plain", "x"])
def test_a_cell_is_guarded_and_read_back(text: str) -> None:
    assert plain(guarded(text)) == text
    assert not guarded(text).startswith(("=", "＝", "＋", "－", "＠"))


def test_names_that_look_like_formulas_are_kept_harmless() -> None:
    got = read_accessories(b"name,watts\n'=cmd,5\n")
    assert got.accessories[0].name == "=cmd"
    job = apply(Job(name="J"), got)
    assert "'=cmd" in write_accessories(job)
