"""The accessory list: what comes out goes in again; faults are named by row and column."""

from __future__ import annotations

import pytest

from ready_trail.core.edits import apply
from ready_trail.core.job import Job
from ready_trail.formats.accessory_csv import read_accessories, write_accessories
from ready_trail.formats.errors import FileRefusedError
from support import demo


def test_round_trip_of_the_demo_list() -> None:
    job = demo()
    again = read_accessories(write_accessories(job).encode())
    made = apply(Job(name="J"), again)
    assert len(made.accessories) == len(job.accessories)
    ids = {"id": True, "use": {"while_on"}}
    for before, after in zip(job.accessories, made.accessories, strict=True):
        assert after.model_dump(exclude=ids) == before.model_dump(exclude=ids), before.name
        waits = (made.circuit(after.use.while_on).name if after.use.while_on else "",
                 job.circuit(before.use.while_on).name if before.use.while_on else "")  # fmt: skip
        assert waits[0] == waits[1]
    alike = {"name", "rating_a", "momentary", "guarded", "throws"}
    used = {a.use.switch for a in job.accessories}
    assert {s.name: s.model_dump(include=alike) for s in made.switches} == {
        s.name: s.model_dump(include=alike) for s in job.switches if s.name in used
    }


def test_semicolons_decimal_commas_and_blank_rows() -> None:
    text = "name;watts;at_v;switch\nLamp;27,5;13,5;S1\n;;;\nFan;120;13;\n"
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
        ("", "row 1: name and watts or amps are needed"),
        ("name,wats\nLamp,5", "row 1: unknown column 'wats'"),
        ("name,watts\n", "row 2: there is no accessory"),
        ("name,watts\nLamp,280 W\n", "row 2, watts: Type a number, such as 2.4. (it says '280 W')"),
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


def test_names_that_look_like_formulas_are_kept_harmless() -> None:
    got = read_accessories(b"name,watts\n'=cmd,5\n")
    assert got.accessories[0].name == "=cmd"
    job = apply(Job(name="J"), got)
    assert "'=cmd" in write_accessories(job)
