"""A relay that takes its load off: 87a carries, and the side lights pull the coil."""

from __future__ import annotations

import pytest

from ready_trail.core.design import design
from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.job import Job, Use
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.relays import contact_rating_a, rest_contact_rating_a
from support import CATALOGUE, small, table_of

JOB = "day_lamps_taken_off"


def test_it_is_on_with_the_key_and_goes_off_with_the_lights() -> None:
    cells = table_of(small(JOB), "c4").cells
    on = {(c.key, c.lights) for c in cells if c.is_on}
    assert on == {("run", "off"), ("cranking", "off")}
    assert not any(c.chatters for c in cells)


@pytest.mark.parametrize("relay", ["mini_nc", "mini_co"])
def test_its_rest_contact_carries_and_bounds_the_fuse(relay: str) -> None:
    job = apply(small(JOB), HoldChoice(circuit_id="c4", what="relay", value=relay))
    made = design(job, CATALOGUE).circuit("c4")
    device = made.relay_device
    assert device is not None
    assert device.spec.passes() == (("30", "87a"),)
    ends = {w.end.terminal for w in made.wires if w.end.device == device.ref}
    ends |= {w.start.terminal for w in made.wires if w.start.device == device.ref}
    assert ends == {"30", "87a", "86", "85"}
    chosen, air_c = CATALOGUE.relays[relay], made.sizing.request.relay_c
    assert device.spec.limit_a(air_c) == rest_contact_rating_a(chosen, air_c)
    if relay == "mini_co":
        assert rest_contact_rating_a(chosen, air_c) < contact_rating_a(chosen, air_c)


@pytest.mark.parametrize(
    ("use", "why"),
    [
        (Use(key="run", unless="side", switch="S"), "no switch"),
        (Use(key="accessory", unless="side"), "start it where"),
    ],
)
def test_what_cannot_be_taken_off_so_is_a_stop(use: Use, why: str) -> None:
    job = small(JOB)
    lamps = job.accessories[0].model_copy(update={"use": use})
    switches = [{"name": "S", "number": 9}] if use.switch else []
    changed = Job.model_validate(
        {**job.model_dump(), "accessories": [lamps.model_dump()], "switches": switches}
    )
    stop = next(
        f for f in design(changed, CATALOGUE).circuit("c4").findings if f.severity == "stop"
    )
    assert stop.code in ("stays_on", "scheme")
    assert why in stop.text + stop.why


def test_proving_pulls_the_coil_where_the_lamps_go_off() -> None:
    made = design(small(JOB), CATALOGUE)
    bench = bench_of(made, "c4")
    assert (bench.working.state.lights, bench.resting.state.lights) == ("off", "side")


def test_the_catalogue_has_no_87_on_it() -> None:
    relay = CATALOGUE.relays["mini_nc"]
    assert relay.has_rest_contact
    assert not relay.has_make_contact
    assert relay.terminals.split() == ["30", "85", "86", "87a"]


@pytest.mark.parametrize("name", [JOB, "two_outputs_changeover"])
def test_a_relay_without_the_pin_of_its_load_is_a_stop_with_a_way_out(name: str) -> None:
    job = small(name)
    last = job.circuits[-1].id
    held = apply(job, HoldChoice(circuit_id=last, what="relay", value="maxi_no"))
    made = design(held, CATALOGUE).circuit(last)
    (stop,) = (f for f in made.findings if f.severity == "stop")
    assert (stop.code, "no 87a" in stop.text) == ("relay_pins", True)
    mended = design(apply(held, stop.actions[0].edit), CATALOGUE).circuit(last)
    assert not mended.count("stop")
