"""Single figures worked out by hand where a slip would look right: each is one line of trade."""

from __future__ import annotations

import pytest

from core.review.findings_cases import LORRY, behind, link
from ready_trail.core.budget.battery import Bank
from ready_trail.core.budget.course import Link, Stretch, run
from ready_trail.core.budget.draws import bank_behind
from ready_trail.core.build import build_of
from ready_trail.core.design import design
from ready_trail.core.edits import HoldChoice, SetSignalLimit, apply
from ready_trail.core.heat import time_constant_s
from ready_trail.core.heating import heating
from ready_trail.core.job import Battery, Job, Use, Vehicle
from ready_trail.core.job.lift import lifted
from ready_trail.core.supply.tree import Tree
from ready_trail.core.sweep import effects
from support import CATALOGUE, demo, job_with, small


def test_a_converter_takes_what_it_gives_over_its_efficiency() -> None:
    """12 V / 0.8 out of 24 V: 0.625 A taken for each ampere given."""
    job = behind("converter", 5.0, output_v=12, output_a=20.0, efficiency_ratio=0.8, vehicle=LORRY)
    bank, factor = bank_behind(job.circuits[-1], Tree(job))
    assert (bank, factor) == ("battery", pytest.approx(12 / 0.8 / 24))


def test_a_short_heats_from_the_air_around_it() -> None:
    """Small steps of the same physics: 120 A in 6 mm² that lies in air of 85 °C."""
    area_mm2, current_a, air_c = 6.0, 120.0, 85.0
    got = heating(
        current_a=current_a, area_mm2=area_mm2, insulation_c=105, start_c=85.0, ambient_c=air_c
    )
    at_c, after_s, step_s = 85.0, 0.0, 0.002
    tau_s = time_constant_s(area_mm2)
    while at_c < 160.0 and after_s < 600:
        at_c += step_s * (
            (current_a / (226 * area_mm2)) ** 2 * (234.5 + at_c) - (at_c - air_c) / tau_s
        )
        after_s += step_s
    assert got.gives_up_s == pytest.approx(after_s, rel=0.01)


def test_each_trigger_bears_the_coil() -> None:
    job = job_with(use=Use(key="run", also="high", switch="S1"), watts=100)
    assert "trigger_overload" not in told(job)
    for signal in ("run", "high"):
        limited = apply(job, SetSignalLimit(signal=signal, most_a=0.05))
        assert "trigger_overload" in told(limited), signal


def told(job: Job) -> set[str]:
    return {f.code for f in design(job, CATALOGUE).circuits[0].findings}


def test_a_main_that_cannot_break_a_short_does_not_cure_what_hangs_behind_it() -> None:
    """Both are above their rating at a battery of 1 mΩ: one finding, for main and branch."""
    strong = Vehicle(battery=Battery(resistance_mohm=1))
    positions = ({"name": "1", "rating_a": 30.0},)
    job = behind(
        "fuse_block", 20.0, vehicle=strong, positions=positions, feeder=(("family", "blade"),)
    )
    short = [
        c.model_copy(
            update={"run": tuple(s.model_copy(update={"length_m": 0.25}) for s in c.run[:1])}
        )
        for c in job.circuits
    ]
    made = design(job.model_copy(update={"circuits": tuple(short)}), CATALOGUE)
    found = [f for c in made.circuits for f in c.findings if f.code == "interrupting"]
    assert len(found) == 1
    assert "1 more behind the same main" in found[0].text


def test_a_lifted_switch_keeps_the_lower_rating_and_old_wire_its_class() -> None:
    old = {
        "schema_version": 1,
        "name": "Old",
        "accessories": [
            {
                "id": f"a{n}",
                "name": f"Lamp {n}",
                "watts": 20,
                "use": {"key": "run", "switch": "Both", "switch_a": rating},
            }
            for n, rating in ((1, 20.0), (2, 10.0))
        ],
        "circuits": [
            {
                "id": f"c{n}",
                "number": n,
                "name": f"Lamp {n}",
                "accessory_ids": [f"a{n}"],
                "run": [{"zone": "cabin", "length_m": 2.0}],
            }
            for n in (1, 2)
        ],
    }
    new = lifted(old)
    assert [s["rating_a"] for s in new["switches"]] == [10.0]
    assert new["rules"]["insulation_c"] == 125
    assert lifted({**old, "rules": {"insulation_c": 105}})["rules"]["insulation_c"] == 105


def test_two_wires_in_one_crimp_take_the_barrel_of_their_sum() -> None:
    """2.0 mm² alone is blue (to 2.7); with 18 AWG of 0.8 mm² beside it, yellow."""
    job = apply(small("high_beam_bridged"), HoldChoice(circuit_id="c2", what="size", value="14"))
    made = design(job, CATALOGUE)
    build = build_of(made, CATALOGUE)
    guest = next(
        c for c in build.cuts.cuts for e in (c.start, c.end) if e.label == "into the crimp of C2-W2"
    )
    host = next(c for c in build.cuts.cuts if c.label == "C2-W2")
    assert (host.conductor.label, guest.conductor.label) == ("14 AWG", "18 AWG")
    assert host.end.label.endswith("yellow")
    assert host.start.label.endswith("blue")


def test_a_part_of_the_day_averages_its_own_current_alone() -> None:
    """20 A taken for an hour, then charging at 60 A: neither average knows the other's end."""
    banks = {"battery": Bank(capacity_ah=100, chemistry="agm")}
    rest = Stretch(name="rest", hours=1, engine_on=False, charge_a=0, load_a={"battery": 20})
    drive = Stretch(name="drive", hours=1, engine_on=True, charge_a=15, load_a={"battery": 5})
    course = run([rest, drive, rest], banks, dict[str, Link]())
    assert [course.mean_a(n) for n in (0, 2)] == pytest.approx([-20, -20])
    assert course.mean_a(1) == pytest.approx(10, abs=0.01)
    assert course.part(1)[0].at_h == 1


def test_a_wire_that_is_fed_from_its_other_end_too_burns_after_its_first_fuse() -> None:
    """A link between two batteries with a fuse at one end alone, lying on the body."""
    for end_fuse, seen in ((False, "burns"), (True, "fuse")):
        made = design(link(end_fuse=end_fuse), CATALOGUE)
        fused = {e.fault.key: e for e in effects(made)}
        feeder = made.circuit(next(c.circuit.id for c in made.circuits if c.circuit.is_feeder))
        powers = [w for w in feeder.wires if w.role == "power"]
        middle = max(powers, key=lambda w: w.length_m)
        assert fused[f"body:{middle.label}"].symptom == seen, middle.label


def test_what_one_fuse_leaves_on_is_played_out_to_the_next() -> None:
    """Bluebell's second battery: the starter's fuse opens, and its own post goes on feeding."""
    found = {e.fault.key: e for e in effects(design(demo("Bluebell"), CATALOGUE))}
    short = found["body:C2-W4"]
    assert (short.opens, short.burns, short.symptom) == ("F2", "C2-W5", "burns")


def test_a_thin_lead_is_protected_once_less_hangs_behind_its_fuse() -> None:
    """Two lamps of 50 W want 15 A; their leads bear 10 A, and half of them want 7.5 A."""
    job = job_with(watts=50, quantity=2, lead_bears_a=10)
    made = design(job, CATALOGUE).circuits[0]
    (finding,) = (f for f in made.findings if f.code == "fuse_over_element")
    assert (finding.found, finding.allowed) == ("15 A", "10 A")
    (press,) = finding.actions
    after = design(apply(job, press.edit), CATALOGUE)
    fuses = [c.sizing.fuse.rating_a for c in after.circuits if c.sizing.fuse is not None]
    assert fuses == [7.5, 7.5]
    assert all(f.code != "fuse_over_element" for c in after.circuits for f in c.findings)
