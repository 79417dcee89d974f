"""A kind that nobody made before goes through everything from this one file."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.build.ends import ends_of
from ready_trail.core.build.labels import labels_of
from ready_trail.core.conductors import Conductor
from ready_trail.core.design import Design, design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    HoldChoice,
    PointDraft,
    apply,
)
from ready_trail.core.fault_list import single_faults
from ready_trail.core.installation import Device, Parts, Terminal
from ready_trail.core.job import Channel, Job, Use
from ready_trail.core.kinds.around import SWITCHES, Around, Part
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.kinds.points import POINT_KINDS, PointKind
from ready_trail.core.netlist import Element, Resistor
from ready_trail.core.schemes import BY_KEY
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.relay_positive import RelayPositive
from ready_trail.drawing.sheet import draw_sheet
from ready_trail.drawing.trail import draw_trail
from ready_trail.formats.job_json import read_job, write_job
from ready_trail.formats.rendering import environment
from support import CATALOGUE, job_with

TOWER = PointKind(
    key="bus_tower",
    letter="Y",
    words="bus tower",
    holds_fuses=True,
    may_have_earth=True,
    bus=Seat(kind="ring", stud="M10", usual_torque=True),
    position=Seat(kind="ring", stud="M5"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounder(DeviceKind):
    """A sounder between what is switched and the body, which says that something is on."""

    ohm: float = 400.0
    kind: str = "sounder"
    gets_label = True
    is_bought = True

    def elements(self, at: At, name: str) -> Iterator[Element]:
        yield Resistor(name=f"{name}_horn", a=at("1"), b=at("2"), ohm=self.ohm, kind="vehicle")

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        return Seat(kind="ferrule")

    def parts(self, around: Around) -> Iterator[Part]:
        yield Part(key="sounder", group=SWITCHES, label=f"Sounder, {around.detail}")


class WithSounder(RelayPositive):
    """The usual relay, and a sounder at its 87."""

    def wiring(self, bench: Bench) -> Parts:
        parts = RelayPositive.wiring(self, bench)
        coil = next(w for w in parts.wires if w.role == "control_return")
        relay, earth = coil.start.device, coil.end
        horn = Device(
            ref="U1",
            spec=Sounder(),
            owner=bench.circuit.id,
            label="Sounder",
            detail="small",
            name="Sounder",
            zone="cabin",
        )
        wires = (
            replace(
                coil,
                label="C1-U1",
                role="function",
                start=Terminal(device=relay, terminal="87"),
                end=Terminal(device="U1", terminal="1"),
            ),
            replace(
                coil,
                label="C1-U2",
                role="function",
                start=Terminal(device="U1", terminal="2"),
                end=earth,
            ),
        )
        return replace(parts, devices=(*parts.devices, horn), wires=(*parts.wires, *wires))


@pytest.fixture
def towered(monkeypatch: pytest.MonkeyPatch) -> Design:
    """A tower that feeds one lamp."""
    monkeypatch.setitem(POINT_KINDS, TOWER.key, TOWER)
    positions = ({"name": "1", "rating_a": 30.0},)
    draft = PointDraft.model_validate(
        {"kind": "bus_tower", "name": "Tower", "earth_bus": True, "positions": positions}
    )
    job = apply(Job(name="T"), AddSupply(point=draft))
    lamp = AccessoryDraft(name="Lamp", watts=60, use=Use(key="run"))
    start = Channel(point=job.points[0].id, position="1")
    return design(apply(job, AddAccessory(accessory=lamp, start=start)), CATALOGUE)


@pytest.fixture
def sounding(monkeypatch: pytest.MonkeyPatch) -> Design:
    """A circuit whose scheme has the sounder in it."""
    monkeypatch.setitem(BY_KEY, "relay_positive", WithSounder())
    held = HoldChoice(circuit_id="c1", what="scheme", value="relay_positive")
    return design(apply(job_with(), held), CATALOGUE)


def test_a_kind_of_point_is_designed_bought_and_drawn(towered: Design) -> None:
    job = towered.job
    assert all(c.is_ready for c in towered.circuits), [c.findings for c in towered.circuits]
    assert towered.points[job.points[0].id].ref == "Y1"
    assert towered.installation.devices["Y1"].kind == "bus_tower"
    feed = next(w for w in towered.installation.wires.values() if w.end.device == "Y1")
    assert ends_of(feed, towered)[1].label.startswith("Ring M10")
    made = build_of(towered, CATALOGUE)
    line = next(p for p in made.parts if p.refs == ("Y1",))
    assert line.label == "Tower: bus tower, 1 position"
    assert any(label.code == "Y1" for label in labels_of(towered, made.cuts))
    assert "Y1" in {bar.ref for bar in draw_sheet(towered).bars}
    lamp = next(c for c in towered.circuits if not c.circuit.is_feeder)
    assert "Y1" in {p.ref for p in draw_trail(lamp, CATALOGUE).band.parts}
    assert read_job(write_job(job).encode(), CATALOGUE) == job


def test_a_kind_of_device_is_wired_bought_labelled_and_found_broken(sounding: Design) -> None:
    circuit = sounding.circuits[0]
    assert circuit.is_ready
    assert circuit.network is not None
    assert any(e.name == "u1_horn" for e in circuit.network.elements)
    made = build_of(sounding, CATALOGUE)
    assert {p.label for p in made.parts if "U1" in p.refs} == {"Sounder, small"}
    into = ends_of(sounding.installation.wires["C1-U1"], sounding)[1]
    assert into.label.startswith("Ferrule")
    assert any(label.code == "U1" for label in labels_of(sounding, made.cuts))
    assert any("U1" in fault.words for fault in single_faults(sounding))
    sheet = draw_sheet(sounding)
    horn = next(d for d in sheet.devices if d.ref == "U1")
    assert horn.kind == "sounder"
    shapes = environment().get_template("drawing/sheet.html").module
    assert "U1" in str(shapes.body(sheet))  # type: ignore[attr-defined]


def test_a_kind_that_nobody_has_is_refused_by_its_name() -> None:
    with pytest.raises(ValueError, match="there is no such kind of point; it is one of"):
        PointDraft.model_validate({"kind": "bus_tower", "name": "Tower"})
