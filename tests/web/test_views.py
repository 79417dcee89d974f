"""What templates are given: reasons, inspectors, sliders, walk, plan; words follow the figures."""

from __future__ import annotations

from itertools import combinations, pairwise
from typing import Any

import pytest

from ready_trail.core.cautions import cautions_of
from ready_trail.core.design import CircuitDesign, design
from ready_trail.core.edits import HoldChoice, SetHouseRules
from ready_trail.core.job import HouseRules, Job, Use
from ready_trail.core.layout.templates import vehicle_shape
from ready_trail.core.looms import looms
from ready_trail.drawing.plan import Plan, draw_plan
from ready_trail.drawing.section import draw_section
from ready_trail.formats.rendering import plain_number, rounded
from ready_trail.web.fields import FieldsRefusedError, nested
from ready_trail.web.pages import why
from ready_trail.web.pages.inspector import inspect
from ready_trail.web.pages.sheet import legend, pin_rows, sheet_of, truth_rows, walk_rows
from ready_trail.web.pages.what_if import what_if_of
from support import CATALOGUE, demo, job_with, only_circuit, segment, table_of

MARMOT = design(demo(), CATALOGUE)


def text(*parts: str) -> str:
    return " ".join(parts).replace("\u00a0", " ")


@pytest.mark.parametrize("circuit", MARMOT.circuits, ids=lambda c: c.circuit.name)
def test_every_piece_of_every_circuit_has_an_inspector(circuit: CircuitDesign) -> None:
    assert circuit.installation is not None
    refs = [*circuit.installation.wires, *circuit.installation.devices]
    for ref in refs:
        shown = inspect(circuit, MARMOT, ref, CATALOGUE)
        assert shown.ref == ref
        assert shown.heading
        for hold in shown.holds:
            assert hold.now in [value for value, _ in hold.options], (ref, hold.what)
    assert inspect(circuit, MARMOT, "nonsense", CATALOGUE).ref.startswith(
        f"C{circuit.circuit.number}-W"
    )


def held_at_125(**more: Any) -> Job:
    hold = HoldChoice(circuit_id="c1", what="insulation_c", value="125")
    return job_with(edits=(hold,), **more)


def test_reasons_name_what_governs_and_what_one_size_down_violates() -> None:
    made = only_circuit(held_at_125(run=(segment("engine_bay", 5.2, 3),)))
    reasons = text(*why.wire_reasons(made.sizing))
    assert reasons.startswith("Ampacity and conductor drop decide.")
    assert "12 AWG carries 26.6 A, and the fuse lets 30 A through" in reasons
    fuse = text(*why.fuse_reasons(made.sizing))
    assert "Of its 30 A it holds 22.4 A: × 0.80 for continuous duty, × 0.93 at 70 °C" in fuse
    assert "One rating down, 25 A would not hold the load." in fuse
    assert "the relay contact 32.4 A" in fuse


def test_held_choices_are_said_to_be_held() -> None:
    edits = (HoldChoice(circuit_id="c1", what="size", value="16"),)
    made = only_circuit(job_with(edits=edits))
    reasons = text(*why.wire_reasons(made.sizing))
    assert "16 AWG is held by hand. It does not satisfy: ampacity" in reasons
    rows = why.ladder_rows(made.sizing)
    chosen = next(row for row in rows if row.chosen)
    assert (chosen.size, chosen.carries_fails) == ("16", True)
    assert len(rows) == 5


def test_sliders_mean_nothing_until_moved_by_a_step() -> None:
    made = only_circuit(job_with(run=(segment("engine_bay", 3.511),), watts=311.4))
    still = {"run_m": "3.5", "load_w": "311", "ambient_c": "70", "loaded_conductors": "1"}
    view = what_if_of(made, CATALOGUE, still)
    assert not view.active
    assert view.query == {}
    moved = what_if_of(made, CATALOGUE, {**still, "run_m": "4.5"})
    assert moved.edit is not None
    assert (moved.edit.run_m, moved.edit.load_w) == (4.5, None)
    assert moved.can_be_kept
    for slider in moved.sliders:
        assert slider.low <= slider.value <= slider.high
    routed = what_if_of(MARMOT.circuit("c15"), CATALOGUE, {"run_m": "9"})
    assert routed.active
    assert not routed.can_be_kept


def test_feed_slider_is_looked_at_and_never_kept() -> None:
    view = what_if_of(MARMOT.circuit("c15"), CATALOGUE, {"feed_v": "11.0"})
    assert (view.feed_v, view.edit) == (11.0, None)
    with pytest.raises(FieldsRefusedError):
        what_if_of(MARMOT.circuit("c15"), CATALOGUE, {"feed_v": "eleven"})


def test_walk_sums_to_the_path_drop() -> None:
    for circuit in MARMOT.circuits:
        rows = walk_rows(circuit, MARMOT)
        assert rows
        assert max(row.share for row in rows) == 1.0
        assert any(row.on_the_way_back for row in rows) == bool(
            circuit.profile and circuit.profile.back
        )
        assert circuit.profile is not None
        assert len(rows) == len({row.ref for row in rows})


def test_pins_and_truth_and_legend() -> None:
    sheet = sheet_of(MARMOT.circuit("c21"), MARMOT, CATALOGUE)
    assert [p.terminal for p in sheet.pins] == ["30", "85", "86", "87"]
    assert sheet.truth[-1].label == "Amber beacon off"
    assert set(sheet.truth[-1].marks) == {"off"}
    refs = [ref for ref, _ in legend(sheet, CATALOGUE)]
    assert {"BAT", "F21", "K21", "L21", "G21", "S20"} <= set(refs)
    hold = HoldChoice(circuit_id="c1", what="relay", value="mini_co")
    change = design(job_with(edits=(hold,)), CATALOGUE)
    spare = next(p for p in pin_rows(change.circuits[0], change, CATALOGUE) if p.terminal == "87a")
    assert (spare.wire, spare.colour) == ("—", "leave empty, insulate")


def test_lights_get_rows_of_their_own_where_they_matter() -> None:
    table = table_of(job_with(use=Use(lights="high", switch="S1")))
    rows = truth_rows(table)
    assert [r.label for r in rows] == ["Lights off", "Side", "Low", "High"]
    assert set(rows[3].marks) == {"with switch"}
    assert {m for r in rows[:3] for m in r.marks} == {"off"}


@pytest.mark.parametrize(
    ("circuit_id", "words"),
    [
        ("c25", "fairlead"),
        ("c99", "stands on hard ground"),
        ("c15", "off-road use"),
        ("c22", "yellow (air-bag) looms"),
        ("c23", "Never bridge a fuse"),
    ],
)
def test_cautions_are_shown_where_they_matter(circuit_id: str, words: str) -> None:
    under = (segment("engine_bay", 1.0), segment("underbody", 1.0))
    made = only_circuit(job_with(run=under)) if circuit_id == "c99" else MARMOT.circuit(circuit_id)
    assert words in " ".join(cautions_of(made))


def test_no_word_claims_safety() -> None:
    for circuit in MARMOT.circuits:
        for words in (*cautions_of(circuit), *(f.text for f in circuit.findings)):
            assert "is safe" not in words
            assert "certified" not in words


def meets(plan: Plan) -> list[str]:
    """Labels that touch another, leave the sheet, or are crossed by a leg or by a leader."""
    boxes = {
        p.point_id: (
            p.label_at[0],
            p.label_at[1] - 9,
            p.label_at[0] + 6.8 * len(p.label),
            p.label_at[1] + 2,
        )
        for p in plan.points
        if p.label
    }
    found = [f"{a} on {b}" for (a, x), (b, y) in combinations(boxes.items(), 2) if covers(x, y)]
    lines = [((leg.x1, leg.y1), (leg.x2, leg.y2)) for leg in plan.legs]
    lines += [pair for p in plan.points for pair in pairwise(p.leader)]
    for name, (left, top, right, bottom) in boxes.items():
        if left < 0 or right > plan.width or top < 0 or bottom > plan.height:
            found.append(f"{name} leaves the sheet")
        for (x1, y1), (x2, y2) in lines:
            steps = (n / 200 for n in range(201))
            along = ((x1 + (x2 - x1) * s, y1 + (y2 - y1) * s) for s in steps)
            if any(left < x < right and top < y < bottom for x, y in along):
                found.append(f"{name} is crossed")
    return found


def covers(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_plans_are_true_to_scale_and_inside_their_sheet(name: str) -> None:
    made = design(demo(name), CATALOGUE)
    every = looms(made, CATALOGUE)
    layout = made.job.layout
    assert layout is not None
    for view in ("plan", "side"):
        plan = draw_plan(made, every, CATALOGUE, view)  # type: ignore[arg-type]
        assert plan is not None
        spots = {p.point_id: p for p in plan.points}
        for point in layout.points:
            spot = spots[point.id]
            assert spot.x == pytest.approx(plan.origin_x + point.x_m * plan.px_per_m)
            assert 0 <= spot.y <= plan.height
        for leg in plan.legs:
            assert (leg.x1, leg.y1) == (spots[leg.a].x, spots[leg.a].y)
        assert len(plan.body) > 4
        assert not meets(plan)
        assert all(p.label for p in plan.points if p.kind in ("device", "battery"))
    assert vehicle_shape(made.job.vehicle.kind).zones


def test_sections_show_each_wire_inside_the_sleeve() -> None:
    for loom in looms(MARMOT, CATALOGUE):
        section = draw_section(loom)
        if section is None:
            assert loom.wires == ()
            continue
        assert len(section.wires) == len(loom.wires)
        middle = section.size / 2
        for wire in section.wires:
            reach = ((wire.x - middle) ** 2 + (wire.y - middle) ** 2) ** 0.5 + wire.radius
            assert reach <= section.sleeve_radius + 1e-6
            assert section.sleeve_radius <= middle


def test_dotted_fields_become_lists_and_commas_points() -> None:
    got = nested({"run.1.length_m": "2,5", "run.0.length_m": " 1 ", "name": "A, B", "use.key": "x"})
    assert got == {
        "run": [{"length_m": "1"}, {"length_m": "2.5"}],
        "name": "A, B",
        "use": {"key": "x"},
    }


def test_small_words() -> None:
    assert plain_number(2.0) == "2"
    assert plain_number(None) == ""
    assert rounded(((0, 0), (10, 0), (10, 10)), 2).count("Q") == 3
    assert rounded(((0, 0), (1, 1)), 2) == ""


def test_metric_jobs_speak_metric() -> None:
    made = design(job_with(edits=(SetHouseRules(rules=HouseRules(system="metric")),)), CATALOGUE)
    assert inspect(made.circuits[0], made, "C1-W3", CATALOGUE).heading.endswith(
        "mm², red with white"
    )
