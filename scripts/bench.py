"""Measure and print: sizing, design, solving, redraw, first page, memory. Nothing is asserted."""

from __future__ import annotations

import json
import math
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from itertools import cycle
from pathlib import Path

from playwright.sync_api import sync_playwright

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import Design, design, job_network, what_if
from ready_trail.core.edits import AccessoryDraft, AddAccessory, HoldChoice, apply
from ready_trail.core.job import Job, Use
from ready_trail.core.sizing.shares import forget_sizes
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from ready_trail.core.truth import truth_table
from ready_trail.formats.demo import demo_jobs
from ready_trail.formats.size_json import SizeInputs

ROOT = Path(__file__).parent.parent
CATALOGUE = load_catalogue()


def median_ms(work: Callable[[], object], times: int) -> float:
    spent = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        spent.append((time.perf_counter() - begin) * 1e3)
    return statistics.median(spent)


def line(what: str, value: float, unit: str, goal: float | None = None) -> None:
    against = "" if goal is None else f"   goal {goal:g} {unit}, {value / goal:.2f} of it"
    print(f"{what:<46} {value:>9.3f} {unit}{against}")


def machine() -> None:
    """What plain Python does here, so that figures of two machines can be set side by side."""

    def steps() -> int:
        total = 0
        for number in range(1_000_000):
            total += number & 7
        return total

    line("this machine: a million plain steps", median_ms(steps, 15), "ms")


def afresh(job: Job) -> Design:
    """The design of a job, nothing of it sized before."""
    forget_sizes()
    return design(job, CATALOGUE)


def core() -> None:
    from ready_trail.core.sizing import size

    marmot = demo_jobs(CATALOGUE)[0]
    request = SizeInputs(
        current_a=21.9,
        run_m=5.2,
        return_m=0.5,
        drop_class="normal",
        inrush_x=5,
        inrush_s=0.002,
        loaded_conductors=3,
    ).to_request()
    line("quick size, one circuit", median_ms(lambda: size(request, CATALOGUE), 2000), "ms", 0.2)
    made = design(marmot, CATALOGUE)
    circuits = len(made.circuits)
    line(
        f"design of the demo job, {circuits} circuits", median_ms(lambda: afresh(marmot), 20), "ms"
    )
    bar = next(c.circuit.id for c in made.circuits if c.circuit.name == "Roof light bar")
    sizes = cycle(("10", "8", "6", "4", "2", "1"))

    def held() -> None:
        edit = HoldChoice(circuit_id=bar, what="size", value=next(sizes))
        design(apply(marmot, edit), CATALOGUE)

    line("the same after one held wire size", median_ms(held, 6), "ms", 60)
    line(
        "the same again, everything sized before",
        median_ms(lambda: design(marmot, CATALOGUE), 20),
        "ms",
    )
    one = median_ms(lambda: what_if(made.routed, bar, CATALOGUE), 50)
    line("what-if of one circuit", one, "ms")
    network = job_network(made)
    state = VehicleState(key="run", on=network.switches - {"Winch remote I", "Winch remote II"})
    line(
        f"solve of the demo job, {len(network.nodes)} nodes",
        median_ms(lambda: solve(network, state), 30),
        "ms",
        3,
    )
    line(
        "truth table of one circuit",
        median_ms(lambda: truth_table(made.circuit(bar), made.plan), 20),
        "ms",
    )
    before = None
    for count in (10, 40, 160):
        job = Job(name="Grown")
        for number in range(count):
            draft = AccessoryDraft(name=f"Lamp {number}", watts=60)
            job = apply(job, AddAccessory(accessory=draft))
        spent = median_ms(lambda job=job: afresh(job), 3)  # type: ignore[misc]
        growth = "" if before is None else f"   x {spent / before:.2f} for 4 x the circuits"
        print(f"{f'design of {count} circuits':<46} {spent:>9.3f} ms{growth}")
        before = spent


def layout() -> None:
    """Routing alone, and a drag's worth of design, as the network and the job grow."""
    from ready_trail.core.edits import MovePoint, PlaceCircuit, SetLayout
    from ready_trail.core.job.layout import Layout, LoomLeg, LoomPoint, Placement
    from ready_trail.core.layout.routing import find_ways, route_job

    marmot = demo_jobs(CATALOGUE)[0]
    design(marmot, CATALOGUE)
    spot = marmot.layout.point("rfc") if marmot.layout else None
    if spot is not None:
        edit = MovePoint(point_id="rfc", x_m=spot.x_m + 0.1, y_m=spot.y_m, z_m=spot.z_m)
        moved = apply(marmot, edit)
        line(
            "drag of a point: design of the demo job",
            median_ms(lambda: design(moved, CATALOGUE), 20),
            "ms",
            100,
        )
    rows, columns = 10, 11
    points = tuple(
        LoomPoint(
            id=f"p{r * columns + c}",
            name=f"P{r}-{c}",
            x_m=c * 0.5,
            y_m=(r - 5) * 0.15,
            z_m=0.5,
            is_earth=(r + c) % 5 == 0,
        )
        for r in range(rows)
        for c in range(columns)
    )
    joins = [
        (r * columns + c, r * columns + c + 1) for r in range(rows) for c in range(columns - 1)
    ]
    joins += [
        ((r * columns) + c, (r + 1) * columns + c) for r in range(rows - 1) for c in range(columns)
    ]
    legs = tuple(
        LoomLeg(id=f"l{n}", a=f"p{a}", b=f"p{b}", zone="cabin") for n, (a, b) in enumerate(joins)
    )
    grid = Layout(length_m=5.5, width_m=1.9, height_m=1.8, points=points, legs=legs, battery="p0")
    before_ms = None
    for count in (10, 60, 200):
        job = apply(Job(name="Grown"), SetLayout(layout=grid))
        for number in range(1, count + 1):
            job = apply(job, AddAccessory(accessory=AccessoryDraft(name=f"L{number}", watts=60)))
            place = Placement(load=f"p{1 + (number * 37) % (len(points) - 1)}")
            job = apply(job, PlaceCircuit(circuit_id=f"c{number}", place=place))
        spent = median_ms(lambda job=job: route_job(find_ways(job, CATALOGUE)), 5)  # type: ignore[misc]
        growth = "" if before_ms is None else f"   x {spent / before_ms:.2f}"
        goal = "   goal 150 ms" if count == 60 else ""
        what = f"routing {count} circuits over {len(legs)} legs"
        print(f"{what:<46} {spent:>9.3f} ms{goal}{growth}")
        before_ms = spent


def whole_job() -> None:
    """What reviews, budgets and sizes the whole job: house rules, review, least copper."""
    from ready_trail.core.design.feeders import least_of
    from ready_trail.core.edits import AddSupply, PointDraft, SetHouseRules, StartAt
    from ready_trail.core.job import Channel
    from ready_trail.core.review import review_job

    marmot = demo_jobs(CATALOGUE)[0]
    made = design(marmot, CATALOGUE)
    line("review over the whole job", median_ms(lambda: review_job(made, CATALOGUE), 20), "ms", 30)
    other = marmot.rules.model_copy(update={"drop": "three"})
    tried = apply(marmot, SetHouseRules(rules=other))
    line("preview of a house rule", median_ms(lambda: design(tried, CATALOGUE), 7), "ms", 300)
    job = Job(name="Grown")
    draft = PointDraft(kind="fuse_block", name="Block", total_a=100)
    job = apply(job, AddSupply(point=draft, start=Channel(point="battery")))
    block = job.points[0].id
    for number in range(1, 41):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=f"L{number}", watts=24)))
        start = Channel(point=block)
        job = apply(job, StartAt(circuit_id=job.circuits[-1].id, start=start))
    plan = design(job, CATALOGUE).plan
    root = next(iter(plan.least))
    feeder = plan.circuits[root].circuit

    def least() -> None:
        forget_sizes()
        least_of(plan, feeder, CATALOGUE)

    line("least copper of 40 circuits behind a feeder", median_ms(least, 5), "ms", 50)


def drawing() -> None:
    """The live drawing: one state, every fault, the sheet itself; and a circuit simulator."""
    from ready_trail.core.fault_list import single_faults
    from ready_trail.core.live import live
    from ready_trail.core.sweep import sweep
    from ready_trail.drawing.sheet import draw_sheet
    from ready_trail.formats.spice import spice_deck

    made = design(demo_jobs(CATALOGUE)[0], CATALOGUE)
    network = job_network(made)
    on = network.switches - {"Winch remote I", "Winch remote II"}
    state = VehicleState(key="run", lights="high", on=on)
    line("one state of the demo job, read", median_ms(lambda: live(made, state), 30), "ms", 10)
    fault = single_faults(made)[40]
    line("the same with a fault", median_ms(lambda: live(made, state, [fault]), 30), "ms")
    line(
        f"every single fault, {len(single_faults(made))} of them",
        median_ms(lambda: sweep(made), 3),
        "ms",
        2000,
    )
    line("sheet of the demo job", median_ms(lambda: draw_sheet(made), 9), "ms")
    job = Job(name="Grown")
    for number in range(60):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=f"Lamp {number}", watts=60)))
    grown = design(job, CATALOGUE)
    line("sheet of 60 circuits", median_ms(lambda: draw_sheet(grown), 5), "ms", 150)
    solved_ms = median_ms(lambda: solve(network, state), 30)
    with tempfile.TemporaryDirectory() as folder:
        deck = Path(folder) / "deck.cir"
        text = spice_deck("bench", network, solve(network, state))
        deck.write_text(text.replace(".op", ".options acct\n.op"))
        spent = []
        for _ in range(9):
            run = subprocess.run(
                ["ngspice", "-b", str(deck)], capture_output=True, text=True, check=False
            )
            found = re.search(r"analysis time \(seconds\) = ([\d.e-]+)", run.stdout)
            if found:
                spent.append(float(found.group(1)) * 1e3)
    if spent:
        other_ms = statistics.median(spent)
        print(
            f"{'plain solve against a circuit simulator':<46} {solved_ms:>9.3f} ms, its own "
            f"{other_ms:.3f} ms: {other_ms / solved_ms:.2f} times as fast as it"
        )


def build() -> None:
    """Cut list, parts and steps; the build book as its page makes it."""
    from ready_trail.core.build import build_of

    marmot = demo_jobs(CATALOGUE)[0]
    made = design(marmot, CATALOGUE)
    line(
        "cut list, parts and steps of the demo job",
        median_ms(lambda: build_of(made, CATALOGUE), 9),
        "ms",
    )
    job = Job(name="Grown")
    for number in range(60):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=f"Lamp {number}", watts=60)))
    grown = design(job, CATALOGUE)
    line(
        "cut list, parts and steps of 60 circuits",
        median_ms(lambda: build_of(grown, CATALOGUE), 9),
        "ms",
        100,
    )


def proving() -> None:
    """The plans of the demo job, 40 different circuits; a ranking with its next reading."""
    from ready_trail.core.prove.diagnose import rank
    from ready_trail.core.prove.next_reading import propose
    from ready_trail.core.prove.plan import Plan, plan_of

    def plans(made: Design) -> list[Plan]:
        found = (plan_of(made, c.circuit.id) for c in made.circuits)
        return [p for p in found if p is not None]

    marmot = design(demo_jobs(CATALOGUE)[0], CATALOGUE)
    begin = time.perf_counter()
    every = plans(marmot)
    line("plans of tests of the demo job", time.perf_counter() - begin, "s", 4)
    kept = sum(p.matrix.nbytes for p in every) / 1e6
    line("what is kept of them", kept, "MB", 30)
    tests = sum(len(p.must) for p in every)
    line("must tests of the demo job", tests, "tests")
    largest = max(every, key=lambda p: p.matrix.readings.size)
    taken = [(i, float(largest.matrix.readings[7, i])) for i in largest.cover.must[:8]]
    known = [t for t in taken if math.isfinite(t[1])]

    def ranked() -> None:
        propose(largest.matrix, rank(largest.matrix, known), [c for c, _ in known])

    line("ranking and next reading, largest circuit", median_ms(ranked, 9), "ms", 150)
    job = Job(name="Grown")
    for number in range(40):
        draft = AccessoryDraft(
            name=f"Lamp {number}", watts=20 + 7 * number, use=Use(switch=f"S{number}")
        )
        job = apply(job, AddAccessory(accessory=draft))
    grown = design(job, CATALOGUE)
    begin = time.perf_counter()
    plans(grown)
    line("plans of tests of 40 different circuits", time.perf_counter() - begin, "s", 12)


def practising() -> None:
    """A hunt hidden, read and played to its end by the best strategy; mistakes seeded."""
    from random import Random

    from ready_trail.core.practice import hunt
    from ready_trail.core.practice.broken import Broken
    from ready_trail.core.practice.mistakes import mistake
    from ready_trail.core.practice.strategy import best_hunt
    from ready_trail.core.prove.bench import bench_of
    from ready_trail.core.prove.free import free_test, points
    from ready_trail.core.prove.plan import plan_of

    marmot = design(demo_jobs(CATALOGUE)[0], CATALOGUE)
    bar = next(c.circuit.id for c in marmot.circuits if c.circuit.name == "Roof light bar")
    plan, bench = plan_of(marmot, bar), bench_of(marmot, bar)
    assert plan is not None
    assert bench is not None
    chance = Random(2)
    for words, level, goal in (("a fault", "open", 500), ("two faults", "two", 500)):
        spent = median_ms(lambda level=level: hunt.hide(bench, plan.matrix, level, chance), 7)
        line(f"hiding {words}", spent, "ms", goal)
    hidden = hunt.hide(bench, plan.matrix, "two", chance)
    vehicle = Broken(bench=bench, matrix=plan.matrix, rows=tuple(h.row for h in hidden))
    known = list(points(bench).values())
    test = free_test(bench, "volts", known[3], known[1], bench.working)
    line("a reading of a hunt", median_ms(lambda: vehicle.reads([test]), 9), "ms", 100)
    line("the best strategy on two faults", median_ms(lambda: best_hunt(vehicle), 5), "ms")
    titles = {code: rule.rule for code, rule in CATALOGUE.finding_rules.items()}
    seeds = iter(range(1000))
    spent = median_ms(lambda: mistake(marmot, titles, CATALOGUE, next(seeds)), 40)
    line("a mistake on the demo job", spent, "ms", 500)


def buying() -> None:
    """Plans of spools, proven, and the order in packs."""
    from ready_trail.core.build import build_of
    from ready_trail.core.buy.order import order_of
    from ready_trail.core.buy.plans import kept, offers_of
    from ready_trail.core.buy.stock import shopping

    job = Job(name="Grown")
    for number in range(40):
        draft = AccessoryDraft(
            name=f"Lamp {number}", watts=20 + 7 * number, use=Use(switch=f"S{number}")
        )
        job = apply(job, AddAccessory(accessory=draft))
    for words, each, goal in (
        ("the demo job", demo_jobs(CATALOGUE)[0], 2.0),
        ("40 different circuits", job, 10.0),
    ):
        made = design(each, CATALOGUE)
        build = build_of(made, CATALOGUE)
        begin = time.perf_counter()
        offers = offers_of(made, build.cuts, CATALOGUE, {})
        line(f"every plan of spools, {words}", time.perf_counter() - begin, "s", goal)
        few = [o for o in offers.every if o.more < 0.15]
        best = min(few, key=lambda o: o.plan.to_buy)
        spools = offers.designed.to_buy
        line(f"spools for 15 % more copper, of {spools}", best.plan.to_buy, "spools", 12)
        begin = time.perf_counter()
        kept(made, best, CATALOGUE)
        line("that plan designed and looked at", time.perf_counter() - begin, "s")
        begin = time.perf_counter()
        order_of(shopping(build.parts, {}), build.cuts)
        line("its order in packs", time.perf_counter() - begin, "s")


def papers(url: str) -> None:
    """What leaves as PDF, as its address gives it: the first time, and once it is known."""

    def fetched(path: str) -> float:
        begin = time.perf_counter()
        urllib.request.urlopen(f"{url}{path}").read()
        return time.perf_counter() - begin

    line("one sheet as PDF, the first time", fetched("/jobs/3/circuits/c17/sheet.pdf"), "s", 0.3)
    line("build book of the demo job, the first time", fetched("/jobs/3/build/book.pdf"), "s", 3)
    line("the same again", fetched("/jobs/3/build/book.pdf"), "s")
    job = Job(name="Grown")
    for number in range(40):
        job = apply(job, AddAccessory(accessory=AccessoryDraft(name=f"Lamp {number}", watts=60)))
    request = urllib.request.Request(
        f"{url}/api/jobs", job.model_dump_json().encode(), {"Content-Type": "application/json"}
    )
    grown = json.loads(urllib.request.urlopen(request).read())["job_id"]
    line("all sheets of 40 circuits as PDF", fetched(f"/jobs/{grown}/build/sheets.pdf"), "s", 1.5)


def server() -> None:
    with tempfile.TemporaryDirectory() as folder:
        command = [
            sys.executable,
            "-m",
            "ready_trail",
            "demo",
            "--db",
            f"{folder}/b.db",
            "--port",
            "0",
        ]
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        begin = time.perf_counter()
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=env)
        try:
            assert process.stdout is not None
            found = re.search(r"http://[\d.:]+", process.stdout.readline())
            assert found is not None
            url = found.group(0)
            urllib.request.urlopen(url).read()
            line("server start to first answer", (time.perf_counter() - begin) * 1e3, "ms")
            redraw(url)
            states(url)
            first_page(url)
            papers(url)
            status = Path(f"/proc/{process.pid}/status")
            if status.exists():
                resident = re.search(r"VmRSS:\s+(\d+)", status.read_text())
                if resident:
                    line("memory of the server", int(resident.group(1)) / 1000, "MB", 130)
        finally:
            process.terminate()
            process.wait()


def redraw(url: str) -> None:
    headers = {"HX-Request": "true", "HX-Target": "sheet"}
    spent = []
    size = 0
    for step in range(200):
        target = f"{url}/jobs/3/circuits/c15?run_m={4 + step * 0.05:.2f}"
        request = urllib.request.Request(target, headers=headers)
        begin = time.perf_counter()
        size = len(urllib.request.urlopen(request).read())
        spent.append((time.perf_counter() - begin) * 1e3)
    spent.sort()
    line("what-if redraw, median", statistics.median(spent), "ms", 30)
    line("what-if redraw, p95", spent[int(len(spent) * 0.95)], "ms")
    line("what-if redraw, answer before compression", size / 1e3, "kB")


def states(url: str) -> None:
    """A switch of the live drawing: at the server, and until the screen shows it."""
    query = "key=run&engine=on&on=Roof+bar"
    spent = []
    for step in range(40):
        target = f"{url}/jobs/3/drawing/state?{query}&lights={('off', 'high')[step % 2]}"
        begin = time.perf_counter()
        urllib.request.urlopen(target).read()
        spent.append((time.perf_counter() - begin) * 1e3)
    line("one state from the server, median", statistics.median(spent), "ms")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{url}/jobs/3/drawing?key=run", wait_until="load")
        waits = page.evaluate(
            """async () => {
                const box = document.querySelector("input[value='Roof bar']");
                const wire = document.querySelector("[data-wire='C15-W2']");
                const found = [];
                for (let n = 0; n < 20; n++) {
                    const was = wire.classList.contains("is-live");
                    const begin = performance.now();
                    box.click();
                    await new Promise((done) => {
                        const seen = () => wire.classList.contains("is-live") !== was
                            ? requestAnimationFrame(done) : setTimeout(seen, 1);
                        seen();
                    });
                    found.push(performance.now() - begin);
                }
                return found;
            }"""
        )
        line("a switch pressed until the screen shows it", statistics.median(waits), "ms", 60)
        browser.close()


def first_page(url: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        for name, path in (
            ("jobs", "/"),
            ("trail sheet", "/jobs/3/circuits/c15"),
            ("drawing", "/jobs/3/drawing"),
        ):
            loads, sizes = [], []
            for _ in range(5):
                context = browser.new_context(viewport={"width": 1280, "height": 800})
                page = context.new_page()
                page.goto(url + path, wait_until="load")
                loads.append(
                    page.evaluate("performance.getEntriesByType('navigation')[0].loadEventStart")
                )
                sizes.append(
                    page.evaluate(
                        "performance.getEntriesByType('navigation')[0].transferSize + "
                        "performance.getEntriesByType('resource')"
                        ".reduce((sum, r) => sum + r.transferSize, 0)"
                    )
                )
                context.close()
            line(f"first load of {name}, empty cache", statistics.median(loads), "ms", 500)
            line(f"first load of {name}, transferred", statistics.median(sizes) / 1e3, "kB", 350)
        browser.close()


if __name__ == "__main__":
    machine()
    core()
    layout()
    whole_job()
    drawing()
    build()
    proving()
    practising()
    buying()
    server()
