"""The build of any job: everything once, nothing unused, no rule of the order broken."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from any_edits import MARMOT, edits
from ready_trail.core.build import STAGES, Build, Step, build_of
from ready_trail.core.build.found import changed, device_is_there, redo_plan, wire_is_there
from ready_trail.core.build.kit import plan_kit
from ready_trail.core.build.labels import LabelGrid, label_grids, labels_of, require_fits
from ready_trail.core.build.progress import Tick, asked_of_step, progress_of
from ready_trail.core.build.terminals import lugs, terminal_end
from ready_trail.core.buy.stock import Part, shopping
from ready_trail.core.datasheet import Figure, checked_figure, with_figures
from ready_trail.core.design import Design, design
from ready_trail.core.edits import Edit, HoldChoice, RecordFound, ReleaseChoice, SetKit, apply
from ready_trail.core.errors import EditRefusedError, TableError
from ready_trail.core.job import Job
from ready_trail.core.job.kit import Found, Kit, KitLead
from ready_trail.core.references import unknown_references
from support import CATALOGUE, circuit_named, demo, small, typed_demo

SPOTS = (
    "source",
    "fuse",
    "relay_30",
    "relay_87",
    "relay_86",
    "relay_85",
    "switch_in",
    "switch_out",
    "plus",
    "minus",
    "earth",
    "nowhere",
)


@st.composite
def what_is_there(draw: st.DrawFn) -> Edit:
    """A kit with any leads, or a circuit as found."""
    circuit_id = draw(st.sampled_from([c.id for c in MARMOT.circuits]))
    if draw(st.booleans()):
        return RecordFound(
            circuit_id=circuit_id,
            found=Found(
                size=draw(st.sampled_from([None, "18", "10", "4"])),
                fuse_a=draw(st.sampled_from([None, 15.0, 40.0])),
            ),
        )
    leads = tuple(
        KitLead(
            name=f"lead {n}",
            start=draw(st.sampled_from(SPOTS)),
            end=draw(st.sampled_from(SPOTS)),
            size=draw(st.sampled_from(["18", "12", "4"])),
            length_m=draw(st.sampled_from([0.3, 1.5, 6.0])),
            fuse_a=draw(st.sampled_from([None, 15.0, 25.0])),
        )
        for n in range(draw(st.integers(1, 5)))
    )
    return SetKit(
        circuit_id=circuit_id, kit=Kit(leads=leads, relay=draw(st.sampled_from([None, "mini_no"])))
    )


JOBS = {
    "Marmot": MARMOT,
    "typed": typed_demo(),
    "Bluebell": demo("Bluebell"),
    "Kestrel": demo("Kestrel"),
}
ANY_JOB = (st.sampled_from(list(JOBS)), st.lists(st.one_of(edits(), what_is_there()), max_size=6))
"""A demo job, and edits that make it another, some of it there already."""


def edited(name: str, sequence: list[Edit]) -> Job:
    """The job after those edits that it takes."""
    job = JOBS[name]
    for edit in sequence:
        try:
            after = apply(job, edit)
        except EditRefusedError:
            continue
        if not any(unknown_references(after, CATALOGUE)):
            job = after
    return job


@given(*ANY_JOB)
@settings(max_examples=20, deadline=None)
def test_everything_is_cut_counted_and_used_once(name: str, sequence: list[Edit]) -> None:
    made = design(edited(name, sequence), CATALOGUE)
    build = build_of(made, CATALOGUE)
    wires = made.installation.wires
    cuts, there = build.cuts.cuts, build.cuts.there
    assert Counter(c.wire for c in (*cuts, *there) if c.label == c.wire) == Counter(list(wires))
    assert len({c.label for c in cuts}) == len(cuts)
    assert {c.wire for c in there} == {w.label for w in wires.values() if wire_is_there(w, made)}
    spooled = Counter(c.label for s in build.cuts.spools for c in s.cuts)
    assert spooled == Counter(c.label for c in cuts if c.source == "spool")
    by_loom = Counter(c.label for group in build.cuts.by_loom for c in group.cuts)
    assert by_loom == Counter(c.label for c in cuts)
    lines = [line for line in build.parts if line.group != "Labels"]
    assert Counter(w for line in lines for w in line.wires) == Counter(
        c.label for c in (*cuts, *there)
    )
    refs = Counter(
        ref
        for line in lines
        for ref in line.refs
        if not line.key.startswith(("holder-", "socket-", "coil-resistor"))
        and not line.key.startswith("accessory-")
    )
    loads = {ref for line in lines if line.key.startswith("accessory-") for ref in line.refs}
    assert refs + Counter(loads) == Counter(list(made.installation.devices))
    ends = Counter(
        end for line in lines if line.group == "Terminals and splices" for end in line.ends
    )
    sides = (
        (f"{c.label} {side}", end)
        for c in cuts
        for side, end in (("start", c.start), ("end", c.end))
    )
    wanted = Counter(name for name, end in sides if end.count)
    assert ends == wanted
    used = {key for step in build.steps for key in step.parts}
    assert {line.key for line in build.parts if line.to_get} <= used
    assert used <= {line.key for line in build.parts}


@given(*ANY_JOB)
@settings(max_examples=20, deadline=None)
def test_no_rule_of_the_order_is_broken(name: str, sequence: list[Edit]) -> None:
    made = design(edited(name, sequence), CATALOGUE)
    build = build_of(made, CATALOGUE)
    at = {step.id: number for number, step in enumerate(build.steps)}
    assert len(at) == len(build.steps)
    for step in build.steps:
        for before, why in step.after:
            assert at[before] < at[step.id], (before, step.id, why)
    laid = _at(build, "lays")
    first, second = _at(build, "first"), _at(build, "second")
    new = {c.label for c in build.cuts.cuts if c.label == c.wire}
    assert set(laid) == set(first) == set(second) == new
    for label in new:
        cuts = [
            at[s.id]
            for s in build.steps
            if any(c.wire == label and c.label in s.cuts for c in build.cuts.cuts)
        ]
        assert cuts
        assert max(cuts) < laid[label] <= second[label]
    for step in build.steps:
        for label in step.sleeves:
            assert laid[label] < at[step.id] < second[label]
    holes = [at[s.id] for s in build.steps if s.stage == "holes"]
    assert not holes or not laid or max(holes) < min(laid.values())
    earths = [at[s.id] for s in build.steps if s.stage == "earths"]
    feeds = [at[s.id] for s in build.steps if s.stage in ("control", "power")]
    assert not earths or not feeds or max(earths) < min(feeds)
    stages = [_stage(step) for step in build.steps]
    battery = [n for n, s in enumerate(stages) if s == "battery"]
    fuses = [n for n, s in enumerate(stages) if s == "first_power"]
    assert battery
    assert all(stage in ("battery", "first_power") for stage in stages[battery[0] :])
    assert build.steps[battery[-1]].id == "battery:clamp"
    assert fuses == list(range(len(stages) - len(fuses), len(stages)))
    feeders = {c.feeds: c.id for c in made.routed.circuits if c.feeds}
    for circuit in made.routed.circuits:
        ahead, behind = f"fuse:{feeders.get(circuit.start.point)}", f"fuse:{circuit.id}"
        if ahead in at and behind in at:
            assert at[ahead] < at[behind]


def _at(build: Build, field: str) -> dict[str, int]:
    """Where in the order each wire is handled; each exactly once."""
    found: dict[str, int] = {}
    for number, step in enumerate(build.steps):
        for label in getattr(step, field):
            assert label not in found
            found[label] = number
    return found


def _stage(step: Step) -> str:
    assert step.stage in {stage.key for stage in STAGES}
    return step.stage


def test_same_design_same_build_and_places_stay_together() -> None:
    made = design(demo(), CATALOGUE)
    build = build_of(made, CATALOGUE)
    assert build == build_of(design(demo(), CATALOGUE), CATALOGUE)
    for stage in ("mount", "looms", "earths", "control", "power"):
        places = [s.site.key for s in build.steps if s.stage == stage]
        assert len(set(places)) == len(places), "one goes to each place once a stage"


def test_terminals_by_size_stud_and_place() -> None:
    """10 AWG is 5.26 mm²: a yellow barrel; 2 AWG takes a 35 mm² lug; 8 AWG fits no 6.3 blade."""
    size = {c.size: c for c in CATALOGUE.conductors["awg"]}
    assert terminal_end(size["10"], "blade_6_3").label == "Female blade 6.3 mm, yellow"
    lug = terminal_end(size["2"], "ring", stud="M8")
    assert (lug.label, lug.strip_mm, lug.torque_nm) == ("Ring M8, 35 mm²", 17.0, 15.0)
    assert lug.shrink is not None
    assert lug.shrink.size_mm == 12.0
    down = terminal_end(size["8"], "base_6_3")
    assert down.step_down
    assert down.label == "Tube splice, 10 mm²"
    pair = CATALOGUE.cables("awg")[-1]
    assert terminal_end(pair, "ring", stud="M10").count == 2
    with pytest.raises(TableError, match="M7"):
        terminal_end(size["10"], "ring", stud="M7")
    assert lugs()["M6"].torque_nm == 8.0


def test_wires_that_meet_on_one_pin_share_a_crimp() -> None:
    """K2's 30 takes its supply and its coil's fused jumper: one terminal for both."""
    build = build_of(design(small("high_beam_bridged"), CATALOGUE), CATALOGUE)
    by_label = {c.label: c for c in build.cuts.cuts}
    assert by_label["C2-W2"].end.label == "Relay-base socket 6.3 mm, red"
    assert by_label["C2-W8"].start.label == "into the crimp of C2-W2"
    assert by_label["C2-W8"].start.count == 0


def test_a_wire_too_thick_for_its_socket_gets_a_pigtail() -> None:
    build = build_of(design(demo(), CATALOGUE), CATALOGUE)
    tails = [c for c in build.cuts.cuts if c.label == "C19-W2b"]
    assert [c.conductor.size for c in tails] == ["10"]
    assert tails[0].cut_m == 0.15
    assert tails[0].start.label == "Relay-base socket 6.3 mm, yellow"


def test_no_pigtail_is_thinner_than_its_fuse_allows() -> None:
    """8 AWG behind 60 A: the 10 AWG that fits a relay's socket would be what burns."""
    job = demo()
    hoist = circuit_named(job, "Instrument hoist")
    for what, value in (("fuse_a", 60.0), ("relay", "mini_no"), ("size", "8")):
        job = apply(job, HoldChoice(circuit_id=hoist, what=what, value=value))
    cuts = {c.label: c for c in build_of(design(job, CATALOGUE), CATALOGUE).cuts.cuts}
    assert "C19-W2b" not in cuts
    assert "take a part that fits" in cuts["C19-W2"].end.label
    assert cuts["C19-W2"].end.count == 0


def _with_kit(*leads: KitLead, relay: str | None = "mini_no") -> tuple[Design, str]:
    job = demo()
    circuit_id = circuit_named(job, "Roof light bar")
    job = apply(job, SetKit(circuit_id=circuit_id, kit=Kit(leads=leads, relay=relay)))
    return design(job, CATALOGUE), circuit_id


def lead(name: str, start: str, end: str, size: str, length_m: float, **more: float) -> KitLead:
    return KitLead.model_validate(
        {"name": name, "start": start, "end": end, "size": size, "length_m": length_m, **more}
    )


def test_each_lead_of_a_kit_gets_its_verdict() -> None:
    """The bar needs 10 AWG: 1.57 m to the relay, 3.71 m on to the bar, 0.84 m to its earth."""
    made, circuit_id = _with_kit(
        lead("red", "fuse", "relay_30", "10", 3.0, fuse_a=25, insulation_c=125),
        lead("yellow", "relay_87", "plus", "10", 2.5, insulation_c=105),
        lead("black", "minus", "earth", "10", 0.9),
        lead("second black", "minus", "earth", "8", 0.9),
        lead("blue", "switch_out", "relay_86", "22", 2.0),
        lead("white", "plus", "nowhere", "14", 2.0),
        lead("green", "trigger", "relay_85", "18", 1.0),
    )
    plan = plan_kit(made.circuit(circuit_id), made, CATALOGUE)
    verdicts = {p.lead.name: p.verdict for p in plan.leads}
    assert verdicts == {
        "red": "cut",
        "yellow": "extend",
        "black": "as_is",
        "second black": "spare",
        "blue": "replace",
        "white": "cap",
        "green": "cap",
    }
    by_name = {p.lead.name: p for p in plan.leads}
    assert by_name["red"].need_m == 1.57
    assert by_name["yellow"].extend_m == pytest.approx(3.71 - 2.5 + 0.10)
    assert "in the" in by_name["yellow"].words
    assert plan.fuse_words == "red: 25 A, use its fuse."
    assert plan.relay_words == "Mini relay 40 A: use it."
    assert plan.missing == ("C15-W4", "C15-W5")
    build = build_of(made, CATALOGUE)
    cut = {c.label: c for c in build.cuts.cuts}
    assert (cut["C15-W1"].source, cut["C15-W1"].cut_m) == ("kit", 1.57)
    assert cut["C15-W1"].end.label == "Relay-base socket 6.3 mm, yellow", "it is cut: end it anew"
    assert (cut["C15-W2"].cut_m, cut["C15-W2x"].cut_m) == (2.5, 1.31)
    assert cut["C15-W4"].source == "spool", "what the kit has too thin comes off a spool"
    keys = {line.key: line for line in build.parts}
    assert keys["kit-c15"].quantity == 1
    assert "K15" in keys["kit-c15"].refs
    assert "K15" not in keys["relay-mini-no"].refs


def test_a_kits_lead_is_no_better_than_its_class_and_its_holder() -> None:
    """10 AWG of 80 °C in the engine bay does not bear 25 A; a holder is never given more."""
    made, circuit_id = _with_kit(
        lead("red", "fuse", "relay_30", "10", 3.0, fuse_a=25),
        lead("grey", "relay_87", "plus", "10", 2.5, fuse_a=40, insulation_c=105),
    )
    plain = {p.lead.name: p for p in plan_kit(made.circuit(circuit_id), made, CATALOGUE).leads}
    assert plain["red"].verdict == "replace"
    assert "80 °C" in plain["red"].words
    made, circuit_id = _with_kit(
        lead("red", "fuse", "relay_30", "10", 3.0, fuse_a=5, insulation_c=125),
        lead("thin", "switch_out", "relay_86", "18", 6.0, fuse_a=5, insulation_c=105),
    )
    plan = plan_kit(made.circuit(circuit_id), made, CATALOGUE)
    by_name = {p.lead.name: p for p in plan.leads}
    assert by_name["red"].verdict == "replace"
    assert "never put a larger fuse in" in by_name["red"].words
    assert plan.fuse_words.startswith("red: its 5 A fuse is not used.")
    assert "25 A in place" not in plan.fuse_words
    made, circuit_id = _with_kit(
        lead("red", "fuse", "relay_30", "10", 3.0, fuse_a=30, insulation_c=125)
    )
    plan = plan_kit(made.circuit(circuit_id), made, CATALOGUE)
    assert plan.fuse_words == "red: put 25 A in place of its 30 A."


def test_a_lead_that_is_thin_but_would_do_offers_to_hold_its_size() -> None:
    """The beacon was held at 14 AWG, and 18 AWG passes every rule."""
    job = demo()
    circuit_id = circuit_named(job, "Amber beacon")
    made = design(apply(job, HoldChoice(circuit_id=circuit_id, what="size", value="14")), CATALOGUE)
    leads = (lead("thin", "relay_87", "plus", "18", 4.0),)
    job = apply(made.job, SetKit(circuit_id=circuit_id, kit=Kit(leads=leads)))
    made = design(job, CATALOGUE)
    plan = plan_kit(made.circuit(circuit_id), made, CATALOGUE).leads[0]
    assert plan.verdict == "replace"
    assert plan.instead is not None
    after = design(apply(job, plan.instead), CATALOGUE)
    assert plan_kit(after.circuit(circuit_id), after, CATALOGUE).leads[0].verdict == "cut"
    assert after.circuit(circuit_id).is_ready


def test_as_found_is_checked_and_only_what_changes_is_built() -> None:
    job = demo()
    circuit_id = circuit_named(job, "Roof light bar")
    found = Found(size="14", fuse_a=40.0, relay="mini_no")
    job = apply(job, RecordFound(circuit_id=circuit_id, found=found))
    made = design(job, CATALOGUE)
    plan = redo_plan(made)
    assert [r.finding.severity for r in plan][:1] == ["stop"], "14 AWG behind 40 A may burn"
    assert not changed(made)
    before = build_of(made, CATALOGUE)
    assert not [c for c in before.cuts.cuts if c.owner == circuit_id]
    assert any(s.id == f"look:{circuit_id}" for s in before.steps)
    unknown = apply(demo(), RecordFound(circuit_id=circuit_id, found=Found(size="10")))
    steps = build_of(design(unknown, CATALOGUE), CATALOGUE).steps
    look = next(s for s in steps if s.id == f"look:{circuit_id}")
    assert "Fuse not recorded: it must be 25 A." in look.doing
    for what in ("size", "fuse_a"):
        job = apply(job, ReleaseChoice(circuit_id=circuit_id, what=what))
    made = design(job, CATALOGUE)
    assert {(c.what, c.found) for c in changed(made)} == {("wire", "14 AWG"), ("fuse", "40 A")}
    after = build_of(made, CATALOGUE)
    new = {c.label for c in after.cuts.cuts if c.owner == circuit_id}
    assert new == {"C15-W1", "C15-W2", "C15-W3"}, "its control wires stay"
    devices = made.installation.devices
    assert device_is_there(devices["K15"], made)
    assert not device_is_there(devices["F15"], made)


def test_ticks_know_what_they_were_made_for() -> None:
    made = design(demo(), CATALOGUE)
    build = build_of(made, CATALOGUE)
    step = next(s for s in build.steps if s.id.startswith("mount:"))
    done = Tick(
        item=f"step:{step.id}",
        done=True,
        print=step.print,
        asked=asked_of_step(step),
        who="Ina",
        made_at="2026-01-02T10:00:00Z",
    )
    late = replace(done, done=False, made_at="2026-01-01T10:00:00Z")
    progress = progress_of(build.steps, build.cuts.cuts, (done, late))
    assert progress.steps[step.id].state == "done", "the newest tick counts, whenever it arrived"
    assert progress.done == 1
    other = replace(step, doing=(*step.doing[1:], "K99: another relay"))
    changed_steps = tuple(other if s.id == step.id else s for s in build.steps)
    standing = progress_of(changed_steps, build.cuts.cuts, (done,)).steps[step.id]
    assert (standing.state, standing.was, standing.now) == (
        "redo",
        (step.doing[0],),
        ("K99: another relay",),
    )
    without = tuple(s for s in build.steps if s.id != step.id)
    gone = progress_of(without, build.cuts.cuts, (done,)).gone
    assert [t.asked.splitlines()[0] for t in gone] == [step.title]


def test_minutes_and_cautions_alone_ask_for_nothing_again() -> None:
    step = build_of(design(demo(), CATALOGUE), CATALOGUE).steps[5]
    assert replace(step, minutes=99.0, cautions=("More",)).print == step.print
    assert replace(step, title="Other").print != step.print


def test_shopping_counts_stock_prices_and_alternatives() -> None:
    build = build_of(design(demo(), CATALOGUE), CATALOGUE)
    line = next(x for x in build.parts if x.key == "wire-awg-12-awg-bk-105")
    shelf = {
        "relay-mini-no": Part(key="relay-mini-no", label="Relay", group="R", price=3.5, stock=4),
        "wire-awg-12-awg-bn-105": Part(
            key="wire-awg-12-awg-bn-105", label="12 AWG brown", group="Wire", unit="m", stock=50.0
        ),
        "wire-awg-14-awg-bk-105": Part(
            key="wire-awg-14-awg-bk-105", label="14 AWG black", group="Wire", unit="m", stock=50.0
        ),
    }
    found = shopping(build.parts, shelf)
    relay = next(n for n in found.needed if n.line.key == "relay-mini-no")
    assert (relay.line.buy, relay.on_shelf, relay.missing, relay.cost) == (9.0, 4.0, 5.0, 31.5)
    assert found.cost_missing == pytest.approx(17.5)
    assert sum(found.by_owner.values()) == pytest.approx(31.5)
    after = shopping(build.parts, shelf, {"relay-mini-no": 7.0})
    taken = next(n for n in after.needed if n.line.key == "relay-mini-no")
    assert (taken.taken, taken.on_shelf, taken.missing, taken.too_many) == (7.0, 2.0, 0.0, 0.0)
    more = shopping(build.parts, shelf, {"relay-mini-no": 11.0})
    assert next(n for n in more.needed if n.line.key == "relay-mini-no").too_many == 2.0
    stray = Part(key="fuse-old", label="Old", group="F", stock=1)
    gone = shopping(build.parts, {**shelf, "fuse-old": stray}, {"fuse-old": 2.0})
    assert gone.surplus() == {"fuse-old": 2.0}
    black = next(n for n in found.needed if n.line.key == line.key)
    assert [a.part.key for a in black.alternatives] == ["wire-awg-12-awg-bn-105"], (
        "another colour of the size, never a thinner wire"
    )


def test_labels_name_both_ends_and_grids_must_fit() -> None:
    made = design(demo(), CATALOGUE)
    build = build_of(made, CATALOGUE)
    labels = [x for x in labels_of(made, build.cuts) if x.code == "C15-W2"]
    assert [(x.words, x.far) for x in labels] == [
        ("K15 87", "to Roof light bar +, roof front middle"),
        ("Roof light bar +", "to K15 87, dash, left of the radio"),
    ]
    for grid in label_grids().values():
        require_fits(grid)
    usual = next(iter(label_grids().values()))
    for field, value in (("columns", 6), ("rows", 15), ("pitch_x_mm", 20.0), ("width_mm", 4.0)):
        wrong: LabelGrid = replace(usual, **{field: value})  # type: ignore[arg-type]
        with pytest.raises(EditRefusedError) as refused:
            require_fits(wrong)
        assert refused.value.field == field


def test_a_datasheet_drives_the_design() -> None:
    """A relay that carries 15 A hot is passed over for a 22 A hoist motor."""
    job = demo()
    hoist = circuit_named(job, "Instrument hoist")
    assert design(job, CATALOGUE).circuit(hoist).sizing.relay.key == "mini_no"  # type: ignore[union-attr]
    figures = (
        Figure(row="relay:mini_no", field="contact_a_23c", value=22.0, source="RL sheet 3"),
        Figure(row="relay:mini_no", field="contact_a_85c", value=15.0, source="RL sheet 3"),
        Figure(row="wire:awg:10", field="r20_mohm_per_m", value=4.0, source="W sheet"),
    )
    tables = with_figures(CATALOGUE, figures)
    assert tables.relays["mini_no"].label == "Mini relay 40 A, datasheet"
    made = design(job, tables)
    assert made.circuit(hoist).sizing.relay.key == "maxi_no"  # type: ignore[union-attr]
    ten = next(c for c in tables.wires("awg") if c.size == "10")
    assert (ten.r20_mohm_per_m, CATALOGUE.relays["mini_no"].contact_a_85c) == (4.0, 30)
    for wrong, field in (
        (replace(figures[1], value=60.0), "contact_a_85c"),
        (replace(figures[0], value=-1.0), "contact_a_23c"),
        (replace(figures[0], field="shoe_size"), "shoe_size"),
        (replace(figures[0], row="relay:none"), "contact_a_23c"),
        (replace(figures[0], source=" "), "source"),
    ):
        with pytest.raises(EditRefusedError) as refused:
            checked_figure(wrong, CATALOGUE)
        assert refused.value.field == field
