"""The whole job's sheet: each wire drawn once between its terminals, nothing on top of another."""

from __future__ import annotations

from collections import Counter
from itertools import combinations, pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from any_edits import MARMOT, edits
from ready_trail.core.design import Design, design
from ready_trail.core.edits import Edit, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job
from ready_trail.core.references import unknown_references
from ready_trail.drawing.sheet import SheetScene, draw_sheet, level_names
from ready_trail.drawing.sheet.draw import CHAR_PX, TIGHT, WIDE
from ready_trail.drawing.sheet.order import best_order, spans
from ready_trail.web.papers.sheet_pages import LEAST_LETTER_MM, pages_of
from support import CATALOGUE, DEMO_DIR, demo

Box = tuple[float, float, float, float]


def apart(a: Box, b: Box) -> bool:
    return a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1]


def faults_of(made: Design, sheet: SheetScene) -> list[str]:
    """Everything that is wrong with a sheet, in words."""
    wires = made.installation.wires
    drawn = Counter(w.label for w in sheet.wires)
    wired = {w.label for c in made.circuits if c.planned.parts for w in c.planned.parts.wires}
    wired |= {w.label for p in made.shared.values() for w in p.wires}
    found = [f"{w} is drawn {drawn[w]} times" for w in wired & set(wires) if drawn[w] != 1]
    spots = {(s.node, round(s.x, 1), round(s.y, 1)) for d in sheet.devices for s in d.spots}
    bars = {b.node: b for b in sheet.bars}
    for wire in sheet.wires:
        real = wires[wire.label]
        for node, (x, y) in ((real.start.node, wire.points[0]), (real.end.node, wire.points[-1])):
            bar = bars.get(node)
            on_bar = bar is not None and abs(bar.x - x) < 0.1 and bar.top < y < bar.bottom
            at_spot = any(
                n == node and abs(sy - y) < 0.2 and abs(sx - x) < 60 for n, sx, sy in spots
            )
            if not (on_bar or at_spot):
                found.append(f"{wire.label} does not end at {node}")
    found += overlaps(made, sheet)
    frames = {
        (d.ref, d.part): (d.x - d.width / 2, d.y - 12, d.x + d.width / 2, d.y + d.height + 12)
        for d in sheet.devices
        if d.kind != "joint"
    }
    found += [
        f"{a} lies on {b}" for (a, x), (b, y) in combinations(frames.items(), 2) if not apart(x, y)
    ]
    for wire in sheet.wires:
        for (x0, y0), (x1, y1) in pairwise(wire.points):
            stretch = (min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
            inside = (stretch[0] + 1, stretch[1] + 1, stretch[2] - 1, stretch[3] - 1)
            if y0 == y1:
                inside = (inside[0], y0 - 0.1, inside[2], y0 + 0.1)
            else:
                inside = (x0 - 0.1, inside[1], x0 + 0.1, inside[3])
            found += [
                f"{wire.label} runs through {ref}"
                for ref, box in frames.items()
                if not apart(inside, box)
            ]
    words = [
        (
            w.label,
            (
                w.at[0] - len(w.words) * CHAR_PX / 2,
                w.at[1] - 8,
                w.at[0] + len(w.words) * CHAR_PX / 2,
                w.at[1],
            ),
        )
        for w in sheet.wires
        if w.words
    ]
    found += [
        f"words of {a} on {b}" for (a, x), (b, y) in combinations(words, 2) if not apart(x, y)
    ]
    found += [
        f"words of {a} on {ref}"
        for a, x in words
        for ref, box in frames.items()
        if not apart(x, (box[0], box[1] + 2, box[2], box[3] - 2))
    ]
    return found


def overlaps(made: Design, sheet: SheetScene) -> list[str]:
    """Wires that lie on one another, except on their way out of a terminal that they share."""
    level: dict[float, list[tuple[float, float, str]]] = {}
    upright: dict[float, list[tuple[float, float, str]]] = {}
    for wire in sheet.wires:
        for (x0, y0), (x1, y1) in pairwise(wire.points):
            if y0 == y1:
                level.setdefault(y0, []).append((min(x0, x1), max(x0, x1), wire.label))
            else:
                upright.setdefault(x0, []).append((min(y0, y1), max(y0, y1), wire.label))
    found = []
    for lines in (level, upright):
        for stretches in lines.values():
            for (a0, a1, a), (b0, b1, b) in combinations(stretches, 2):
                if a == b or min(a1, b1) - max(a0, b0) <= 0.5:
                    continue
                one, two = made.installation.wires[a], made.installation.wires[b]
                shared = {one.start.node, one.end.node} & {two.start.node, two.end.node}
                if not shared:
                    found.append(f"{a} lies on {b}")
    return found


SMALL = sorted((DEMO_DIR.parents[3] / "tests" / "data" / "jobs").glob("*.json"))


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_the_demo_jobs_are_drawn_whole(name: str) -> None:
    made = design(demo(name), CATALOGUE)
    sheet = draw_sheet(made)
    assert not faults_of(made, sheet)
    assert not sheet.missing
    rows = {c.circuit.name for c in made.circuits if not c.circuit.is_feeder}
    assert {b.name for b in sheet.blocks} >= rows | {"Feeders"}


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_a_row_alone_has_all_its_wires_and_on_a_phone_fits(name: str) -> None:
    made = design(demo(name), CATALOGUE)
    for circuit in made.circuits:
        assert circuit.planned.parts is not None
        own = {w.label for w in circuit.planned.parts.wires}
        for spacing in (WIDE, TIGHT):
            row = draw_sheet(made, frozenset({circuit.circuit.id}), spacing)
            assert not [f for f in faults_of(made, row) if "drawn 0 times" not in f]
            assert own <= {w.label for w in row.wires}
        if not circuit.circuit.branches and not circuit.circuit.is_feeder:
            assert row.width <= 450, circuit.circuit.name


def after(job: Job, edit: Edit) -> Job:
    try:
        changed = apply(job, edit)
    except EditRefusedError:
        return job
    return job if any(unknown_references(changed, CATALOGUE)) else changed


@given(st.lists(edits(), min_size=1, max_size=6))
@settings(max_examples=25, deadline=None)
def test_any_job_is_drawn_without_overlap(sequence: list[Edit]) -> None:
    job = MARMOT
    for edit in sequence:
        job = after(job, edit)
    made = design(job, CATALOGUE)
    assert not faults_of(made, draw_sheet(made))
    for owner in sequence_of(made):
        row = draw_sheet(made, frozenset({owner}), TIGHT)
        assert not [f for f in faults_of(made, row) if "drawn 0 times" not in f]


def sequence_of(made: Design) -> list[str]:
    """The first circuits that are wired."""
    return [c.circuit.id for c in made.circuits if c.planned.parts is not None][:4]


def test_order_keeps_what_meets_together_and_feeders_ahead() -> None:
    made = design(demo(), CATALOGUE)
    order = best_order(made)
    assert sorted(order) == sorted(c.circuit.id for c in made.circuits)
    for circuit in made.circuits:
        for feeder in circuit.ahead:
            assert order.index(feeder) < order.index(circuit.circuit.id)
    meets = {"a": frozenset({"x", "z"}), "b": frozenset({"y"})}
    assert spans(["x", "y", "z"], meets) == 2
    assert spans(["x", "z", "y"], meets) == 1


@pytest.mark.parametrize("name", ["Marmot", "Bluebell", "Kestrel"])
def test_pages_hold_every_row_once_with_letters_that_read(name: str) -> None:
    made = design(demo(name), CATALOGUE)
    sheet = draw_sheet(made)
    circuits = {c.circuit.id for c in made.circuits}
    for paper, room in (("A4", (280.0, 164.0)), ("letter", (262.0, 170.0))):
        pages = pages_of(made, sheet, paper, whole=False)
        rows = [o for b in sheet.blocks for o in b.owners if o in circuits]
        assert [o for p in pages for b in p.scene.blocks for o in b.owners if o in circuits] == rows
        assert {w.label for p in pages for w in p.scene.wires} == {w.label for w in sheet.wires}
        for page in pages:
            assert page.width_mm <= room[0] + 0.01
            assert page.height_mm <= room[1] + 0.01
            assert page.letter_mm >= LEAST_LETTER_MM or len(page.scene.blocks) == 1
        assert any(p.goes for p in pages[:-1]) == any(p.comes for p in pages[1:])
        assert len(pages) > 1
    assert len(pages_of(made, sheet, "A4", whole=True)) == 1


def test_names_over_a_row_on_a_phone_lie_level_and_apart() -> None:
    seen = 0
    for name in ("Marmot", "Bluebell"):
        made = design(demo(name), CATALOGUE)
        for block in draw_sheet(made).blocks:
            scene = draw_sheet(made, frozenset(block.owners), TIGHT)
            names = level_names(scene, max(scene.width, 330.0))
            assert {n.bar.node for n in names} == {b.node for b in scene.bars}
            for name in names:
                assert name.x0 >= -4.0
                assert name.bar.x in (name.x0, name.x1)
                assert name.y <= scene.top - 10.0
            for a, b in combinations(names, 2):
                assert a.y != b.y or a.x1 < b.x0 or b.x1 < a.x0
                seen += 1
    assert seen > 100
