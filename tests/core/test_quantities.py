"""What a job takes, counted a second time from its drawn wires and devices."""

from __future__ import annotations

import csv
import math
from collections import Counter
from pathlib import Path

import pytest

from ready_trail.core.build import Build, build_of
from ready_trail.core.design import Design, design
from ready_trail.core.job import Job, Return
from support import CATALOGUE, demo, job_with, segment, small

TABLES = Path(__file__).parents[2] / "src" / "ready_trail" / "data" / "tables"


def pair() -> Job:
    """300 A over six metres: two cables in parallel, out and back."""
    run = (segment("engine_bay", 1.0), segment("underbody", 5.0))
    return job_with(
        amps=300, duty="intermittent", drop_class="tolerant", run=run, back=Return(kind="wire")
    )


JOBS = {
    "pair": pair,
    "Marmot": demo,
    "Bluebell": lambda: demo("Bluebell"),
    "Kestrel": lambda: demo("Kestrel"),
}


@pytest.fixture(params=JOBS)
def built(request: pytest.FixtureRequest) -> tuple[Design, Build]:
    made = design(JOBS[request.param](), CATALOGUE)
    return made, build_of(made, CATALOGUE)


def line(build: Build, key: str) -> float:
    return sum(part.quantity for part in build.parts if part.key == key)


def table(name: str) -> list[dict[str, str]]:
    with (TABLES / f"{name}.csv").open(encoding="utf-8") as lines:
        return list(csv.DictReader(lines))


def test_each_spool_holds_every_cable_of_its_wires_and_a_tenth_more(
    built: tuple[Design, Build],
) -> None:
    made, build = built
    metres: Counter[tuple[str, str, int]] = Counter()
    brought = {cut.wire for cut in build.cuts.cuts if cut.source == "kit"}
    for wire in made.installation.wires.values():
        label = wire.conductor.label
        if wire.label in brought:
            continue
        cables = 2 if label.startswith("2 ×") else 1
        metres[label.removeprefix("2 × "), wire.colour, wire.insulation_c] += (
            cables * wire.cut_length_m
        )
    for cut in build.cuts.cuts:
        if cut.label != cut.wire and cut.wire not in brought:  # a pigtail of 0.15 m
            metres[cut.conductor.label, cut.colour, cut.insulation_c] += 0.15
    spools = {(s.size, s.colour, s.insulation_c): s for s in build.cuts.spools}
    assert set(spools) == set(metres)
    for key, total_m in metres.items():
        bought_m = spools[key].buy_m
        assert line(build, spools[key].key) == pytest.approx(total_m, abs=1e-3)
        assert 1.1 * total_m - 1e-6 <= bought_m < 1.1 * total_m + 0.1
        assert bought_m * 10 == pytest.approx(round(bought_m * 10))


def test_two_labels_a_piece_and_one_terminal_an_end_of_each_cable(
    built: tuple[Design, Build],
) -> None:
    made, build = built
    pigtails = sum(cut.label != cut.wire for cut in build.cuts.cuts)
    assert line(build, "label-wire") == 2 * (len(made.installation.wires) + pigtails)
    wanted: Counter[str] = Counter()
    for cut in build.cuts.cuts:
        for end in (cut.start, cut.end):
            if end.key:
                wanted[end.key] += 2 if cut.conductor.label.startswith("2 ×") else 1
    for key, count in wanted.items():
        assert line(build, key) == count, key


def test_an_earth_bolt_takes_four_lugs_and_every_place_its_own(
    built: tuple[Design, Build],
) -> None:
    made, build = built
    earths = {ref for ref, d in made.installation.devices.items() if d.kind == "earth"}
    where: dict[str, set[str]] = {}
    for cut in build.cuts.cuts:
        wire = made.installation.wires[cut.wire]
        for terminal, site in ((wire.start, cut.from_site), (wire.end, cut.to_site)):
            if terminal.device in earths:
                where.setdefault(site.key, set()).add(terminal.device)
    assert set().union(*where.values()) == earths if where else not earths
    assert line(build, "earth-bolt") == sum(math.ceil(len(refs) / 4) for refs in where.values())


def test_shrink_goes_over_one_cable_of_a_pair_five_centimetres_each() -> None:
    build = build_of(design(pair(), CATALOGUE), CATALOGUE)
    shrinks = [
        (cut, end)
        for cut in build.cuts.cuts
        for end in (cut.start, cut.end)
        if end.shrink is not None
    ]
    tubes = sorted(float(r["size_mm"]) for r in table("sleeves") if "shrink 3:1" in r["kind"])
    lengths: Counter[float] = Counter()
    for cut, end in shrinks:
        pairs = cut.conductor.label.startswith("2 ×")
        one_mm = cut.conductor.outside_diameter_mm / (math.sqrt(2) if pairs else 1)
        assert end.shrink is not None
        over = next(size for size in tubes if 0.9 * size >= one_mm - 1e-6)
        assert end.shrink.size_mm == over, (cut.label, one_mm)
        lengths[over] += 0.05 * (2 if pairs else 1)
    assert lengths
    for size, metres in lengths.items():
        assert line(build, f"shrink-{size:g}") == pytest.approx(metres)


def test_clips_stand_every_quarter_metre_of_every_leg_that_holds_wires() -> None:
    made = design(demo(), CATALOGUE)
    build = build_of(made, CATALOGUE)
    used = {leg for cut in build.cuts.cuts for leg in cut.looms}
    assert used == {loom.leg.id for loom in build.cuts.looms}
    by_leg = {loom.leg.id: loom.length_m for loom in build.cuts.looms}
    assert line(build, "clip") == pytest.approx(
        sum(math.ceil(length_m / 0.25 - 1e-9) for length_m in by_leg.values()), abs=0.01
    )
    typed = build_of(design(pair(), CATALOGUE), CATALOGUE)
    assert line(typed, "clip") == math.ceil(6.0 / 0.25)


def test_a_shared_crimp_takes_the_copper_of_all_that_meet_in_it() -> None:
    made = design(small("high_beam_bridged"), CATALOGUE)
    build = build_of(made, CATALOGUE)
    barrels = [(float(r["mm2_from"]), float(r["mm2_to"]), r["barrel"]) for r in table("barrels")]
    shared = 0
    by_label = {c.label: c for c in build.cuts.cuts}
    for cut in build.cuts.cuts:
        for end in (cut.start, cut.end):
            if end.label.startswith("into the crimp of "):
                host = by_label[end.label.removeprefix("into the crimp of ")]
                guests = [c for c in build.cuts.cuts if end.label in (c.start.label, c.end.label)]
                area = host.conductor.lug_mm2 + sum(c.conductor.lug_mm2 for c in guests)
                fits = next(name for low, high, name in barrels if low <= area < high)
                assert any(fits in e.label for e in (host.start, host.end)), (host.label, area)
                shared += 1
    assert shared


def test_a_splice_in_the_wet_is_sealed_and_one_in_the_cabin_is_not() -> None:
    found = set()
    for zone in ("cabin", "engine_bay", "underbody"):
        run = (segment("engine_bay", 0.6), segment(zone, 2.0))
        made = design(job_with(watts=60, run=run, tail_m=0.3), CATALOGUE)
        for cut in build_of(made, CATALOGUE).cuts.cuts:
            for end in (cut.start, cut.end):
                if end.kind.startswith("butt"):
                    found.add((zone, cut.role, end.kind))
    kinds = {
        zone: {kind for z, role, kind in found if z == zone and role == "power"}
        for zone in ("cabin", "engine_bay", "underbody")
    }
    assert kinds == {"cabin": {"butt"}, "engine_bay": {"butt_sealed"}, "underbody": {"butt_sealed"}}
