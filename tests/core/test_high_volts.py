"""48 V in full: fuses, relays and control fuses that break it; the spark of a converter."""

from __future__ import annotations

from typing import Literal

import pytest

from ready_trail.core.build import build_of
from ready_trail.core.design import Design, design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    HoldChoice,
    PointDraft,
    apply,
)
from ready_trail.core.job import Battery, Channel, Job, Use, Vehicle
from ready_trail.core.job.parts import NominalVolts
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.sizing import size
from ready_trail.formats.size_json import SizeInputs
from support import CATALOGUE, burning, segment, small


def cart(watts: float) -> Design:
    battery = Battery(capacity_ah=60, resistance_mohm=40)
    job = Job(
        name="T",
        vehicle=Vehicle(kind="side_by_side", nominal_v=48, battery=battery, charging_a=0),
    )
    load = AccessoryDraft(
        name="Load",
        watts=watts,
        at_v=48,
        model="resistive",
        low_v=36,
        high_v=60,
        use=Use(key="run", switch="S"),
    )
    way = (segment("engine_bay", 2.0, taped=True),)
    return design(apply(job, AddAccessory(accessory=load, run=way)), CATALOGUE)


@pytest.mark.parametrize(
    ("watts", "fuse", "relay"),
    [(100, (3.0, "blade_58v"), "power_60v"), (1500, (50.0, "strip_m5_58v"), "contactor_100_60v")],
)
def test_everything_in_the_path_breaks_the_voltage(
    watts: float, fuse: tuple[float, str], relay: str
) -> None:
    made = cart(watts)
    (circuit,) = made.circuits
    sizing = circuit.sizing
    assert sizing.fuse is not None
    assert sizing.relay is not None
    assert (sizing.fuse.rating_a, sizing.fuse.family.family) == fuse
    assert sizing.relay.key == relay
    assert [f.code for f in circuit.findings if f.severity != "note"] == []
    fuses = [d.spec for d in made.installation.devices.values() if isinstance(d.spec, FuseSpec)]
    assert len(fuses) == 2, "its own and the control fuse"
    assert min(f.family.max_v for f in fuses) >= 57.6


def test_quick_size_and_the_command_line_take_them_too() -> None:
    asked = SizeInputs.model_validate({"current_a": 8, "run_m": 3, "nominal_v": 48})
    sizing = size(asked.to_request(), CATALOGUE)
    assert sizing.ok
    assert sizing.fuse is not None
    assert sizing.relay is not None
    assert min(sizing.fuse.family.max_v, sizing.relay.max_v) >= 57.6


def test_a_converters_spark_is_told_where_it_is_joined() -> None:
    build = build_of(design(small("converter_48_to_12"), CATALOGUE), CATALOGUE)
    told = [s.id for s in build.steps if any("100 Ω" in c for c in s.cautions)]
    assert len(told) == 1


@pytest.mark.parametrize("body", ["steel", "composite"])
@pytest.mark.parametrize(("nominal_v", "amps"), [(24, 6.0), (24, 12.0), (48, 12.0), (48, 20.0)])
def test_a_short_behind_a_converter_burns_its_earth_wire_no_more(
    nominal_v: NominalVolts, amps: float, body: Literal["steel", "composite"]
) -> None:
    """It was as thick as the fuse ahead asks, and carried all that the converter gives."""
    job = Job(name="T", vehicle=Vehicle(nominal_v=nominal_v, body=body))
    converter = PointDraft(kind="converter", name="Converter", output_v=12, output_a=25)
    job = apply(job, AddSupply(point=converter))
    load = AccessoryDraft(name="Load", amps=amps, model="electronics")
    job = apply(job, AddAccessory(accessory=load, start=Channel(point=job.points[-1].id)))
    made = design(job, CATALOGUE)
    assert made.circuits[0].is_ready
    assert burning(made) == []
    earth = next(w for w in made.circuits[0].wires if w.role == "return")
    behind = made.circuits[1].sizing.fuse
    assert behind is not None
    assert earth.bears_a() >= min(25.0, 1.35 * behind.rating_a)
    thin = design(apply(job, HoldChoice(circuit_id="c2", what="size", value="20")), CATALOGUE)
    assert "converter_earth" in {f.code for f in thin.circuits[0].findings}
