"""The build book: one document for people who build from paper."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ready_trail.core.build import STAGES, Build
from ready_trail.core.build import Step as BuildStep
from ready_trail.core.build.labels import labels_of
from ready_trail.core.build.progress import Progress, Tick, progress_of
from ready_trail.core.buy.stock import Needed, Shopping
from ready_trail.core.cautions import AID
from ready_trail.core.design import CircuitDesign
from ready_trail.drawing import words
from ready_trail.formats.paper import (
    Block,
    Frame,
    Paper,
    Points,
    Section,
    Step,
    Strong,
    Table,
    Text,
    Title,
    Words,
)
from ready_trail.formats.rendering import plain_number as plain
from ready_trail.web.pages.build import built, minutes_words
from ready_trail.web.pages.sheet import sheet_of
from ready_trail.web.papers.circuit import drop_words, load_words, wiring_tables
from ready_trail.web.papers.common import Printing, drawing_css, drawn, paper_of
from ready_trail.web.papers.cuts import cuts_table
from ready_trail.web.papers.drawing import drawing_sections, plan_section
from ready_trail.web.papers.faults import faults_sections

_SAFETY = (
    "Key out. Battery negative off first, on last; insulate the free lug.",
    "Fit the fuse before the wire leaves the source; fuses go in last of all, one at a time.",
    "Drill only after a look behind; stop collar, deburr, grommet.",
    "Under the vehicle: stands on hard ground, never only a jack.",
    "Leave yellow (air-bag) looms alone; let their circuits discharge. Never work on orange "
    "(high-voltage) wiring.",
    "Never bridge a fuse, never fit a bigger one to stop it blowing.",
    "Heat gun and solder away from fuel lines and batteries; ventilate.",
    "First power: extinguisher at hand; stop at smell, smoke or warmth.",
)
_MOST_REFS = 14


def book_paper(
    printed: Printing, facts: tuple[Tick, ...], shopping: Shopping, faults: bytes | None = None
) -> Paper:
    """Return the book of a job as far as its ticks say it is built; ``faults`` is what was worked
    out of them.
    """
    made = printed.shell.design
    build = built(printed.shell)
    progress = progress_of(build.steps, build.cuts.cuts, facts)
    parts: list[tuple[str, list[Section]]] = []
    if made.job.layout is not None:
        parts.append(("Where things sit", [plan_section(printed)]))
    if made.circuits:
        parts.append(("Drawing", drawing_sections(printed)))
        parts.append(("Circuits", [Section(list(_circuit(printed, c))) for c in made.circuits]))
        parts.append(("Cut list", [_cut_list(printed, build)]))
    parts += [
        ("Parts", [_parts(printed, shopping)]),
        ("Labels", [_labels(printed, build)]),
        ("Steps", [Section(list(_steps(printed, build, progress)))]),
        ("Tests", [_tests(printed, build)]),
    ]
    if made.circuits:
        parts.append(("If it does not work", faults_sections(printed, faults)))
    cover = Section(list(_cover(printed, build, progress, [name for name, _ in parts])))
    return paper_of(printed, "build book", [cover, *(s for _, own in parts for s in own)])


def _cover(
    printed: Printing, build: Build, progress: Progress, names: Sequence[str]
) -> Iterator[Block]:
    shell = printed.shell
    made, job = shell.design, shell.design.job
    yield Words(job.name, "cover")
    yield Words(f"Build book{f', {job.place}' if job.place else ''}", "lead")
    yield Words(f"{shell.vehicle_words}; {printed.stamp}")
    stops, cautions = made.count("stop"), made.count("caution")
    state = "No stop is open."
    if not made.is_ready:
        state = (
            f"Not ready: {stops} stop{'' if stops == 1 else 's'} open. Settle "
            f"{'it' if stops == 1 else 'them'} before building."
        )
    told: list[Text] = [
        (
            Strong(state),
            f" {made.ready_count} of {len(made.circuits)} circuits have no open stop; "
            f"{cautions} caution{'' if cautions == 1 else 's'}.",
        )
    ]
    found = [(c.circuit.name, f) for c in made.circuits for f in c.findings]
    found += [("The job", f) for f in made.findings]
    told += [
        f"{f.severity.upper()}: {name}, {f.place}: {f.text}"
        for name, f in found
        if f.is_open and f.severity != "note"
    ]
    told.append(
        f"{progress.done} of {len(build.steps)} steps done, "
        f"{minutes_words(progress.minutes_left)} left as estimated; "
        f"{len(build.cuts.cuts)} pieces of wire."
    )
    yield Frame(told)
    yield Points(names, "cover")
    if job.note:
        yield Words(job.note)
    yield Points(_SAFETY, "cautions")
    yield Words(AID, "aid")


def _circuit(printed: Printing, made: CircuitDesign) -> Iterator[Block]:
    shell = printed.shell
    sheet = sheet_of(made, shell.design, shell.catalogue)
    trail, css, number = sheet.trail, drawing_css(), made.circuit.number
    name, sizing = made.circuit.name, made.sizing
    yield printed.head(name)
    findings = [Strong(f" {f.severity.upper()}: {f.text}") for f in sheet.open_findings]
    yield Words((f"{made.scheme.label}. {made.planned.reason}", *findings))
    if trail:
        yield drawn("trail", f"Trail of {name}", trail, css=css)
        if sheet.fan:
            yield drawn("fan", f"Branches of {name}", sheet.fan, css=css)
    told: list[str | Strong] = []
    if sizing.fuse:
        fuse, colour = sizing.fuse, sizing.fuse.family.colours.get(sizing.fuse.rating_a)
        body = f", {colour}" if colour else ""
        family = words.lower_first(fuse.family.label)
        told += [Strong(f"F{number}"), f" {words.rating(fuse.rating_a)} {family}{body}. "]
    if sizing.relay:
        told += [
            Strong(f"K{number}"),
            f" {sizing.relay.label}, suppression: {sizing.relay.suppression}. ",
        ]
    told += [Strong(made.load_ref), f" {load_words(made)}. "]
    yield Words((*told, drop_words(made)))
    said = sheet.job.installation.words
    rows = [
        (
            w.label,
            said(w.start),
            said(w.end),
            f"{w.conductor.label} {w.colour}{f' ({w.mark})' if w.mark else ''}",
            words.metres(w.cut_length_m) + ("" if w.taped else " estimated"),
        )
        for w in sheet.wires
    ]
    yield Table(
        rows,
        ("19mm", "1fr", "1fr", "34mm", "27mm"),
        "",
        ("Wire", "From", "To", "Size, colour", "Cut"),
    )
    yield from wiring_tables(sheet)


def _cut_list(printed: Printing, build: Build) -> Section:
    return Section(
        [printed.head("Cut list", "Strip lengths in millimetres"), cuts_table(build, "spool")]
    )


def _parts(printed: Printing, shopping: Shopping) -> Section:
    head = ("Part", "Needs", "Spare", "Taken", "Shelf has", "To buy", "For")
    rows: list[Sequence[Text] | str] = []
    group = ""
    for needed in sorted(shopping.needed, key=lambda n: n.line.group_at):
        if needed.line.group != group:
            group = needed.line.group
            rows.append(group)
        rows.append(_part_row(needed))
    widths = ("1fr", "17mm", "17mm", "14mm", "17mm", "17mm", "1fr")
    under = "With a spare of each kind of fuse and relay, and 10 % of wire"
    table = Table(rows, widths, "", head, boxes=True)
    return Section([printed.head("Parts", under), table if rows else Words("No parts yet.")])


def _part_row(needed: Needed) -> tuple[str, ...]:
    line = needed.line

    def count(value: float) -> str:
        return f"{value:.2f} m" if line.unit == "m" else plain(value)

    refs = line.refs or line.wires
    owners = ", ".join(refs[:_MOST_REFS])
    if len(refs) > _MOST_REFS:
        owners += f" and {len(refs) - _MOST_REFS} more"
    return (
        line.label,
        count(line.quantity),
        count(line.spare) if line.spare else "",
        plain(needed.taken) if needed.taken else "",
        plain(needed.on_shelf) if needed.part else "",
        count(needed.missing) if needed.missing else "–",
        owners,
    )


def _labels(printed: Printing, build: Build) -> Section:
    said: list[Text] = []
    for label in labels_of(printed.shell.design, build.cuts):
        colour = f" ({label.colour})" if label.colour else ""
        said.append((Strong(label.code), f"{colour} {label.words} {label.far}"))
    if len(said) % 2:
        said.append("")
    rows = [(said[at], said[at + 1]) for at in range(0, len(said), 2)]
    head = printed.head("Labels", "What each label says; two to a wire, one at each end")
    if not rows:
        return Section([head, Words("No labels yet.")])
    return Section([head, Table(rows, ("1fr", "1fr"), strong=())])


def _steps(printed: Printing, build: Build, progress: Progress) -> Iterator[Block]:
    yield printed.head(
        "Steps",
        f"In order; {minutes_words(build.minutes)} as estimated. Torques "
        "are usual ones: the maker's figure wins.",
    )
    numbers = {step.id: at for at, step in enumerate(build.steps, start=1)}
    for stage in STAGES:
        own = [s for s in build.steps if s.stage == stage.key]
        if own:
            yield Title(stage.label)
            yield Words(stage.why, "small")
        for step in own:
            yield _step(step, numbers[step.id], progress)


def _step(step: BuildStep, number: int, progress: Progress) -> Step:
    state = progress.steps[step.id].state
    again = " (do again)" if state == "redo" else ""
    lines = [f"! {c}" for c in step.cautions] + [f"– {line}" for line in step.doing]
    last = [
        f"{stud} {f'{plain(nm)} N·m' if nm else 'as its maker says'}" for stud, nm in step.torques
    ]
    if step.tools:
        last.append(f"tools: {', '.join(step.tools)}")
    if last:
        lines.append("; ".join(last))
    title = (
        Strong(f"{number}. {step.title}{again}"),
        f": {words.lower_first(step.site.name)}, {minutes_words(step.minutes)}",
    )
    return Step(title, lines, state == "done")


def _tests(printed: Printing, build: Build) -> Section:
    vehicle = printed.shell.design.job.vehicle
    at_rest = {12: "12.4 to 12.9 V", 24: "24.8 to 25.8 V"}.get(
        int(vehicle.nominal_v), "as its maker says"
    )
    parked = "the vehicle's own, and what is always on"
    if vehicle.parked_ma:
        parked = f"{plain(vehicle.parked_ma)} mA of the vehicle, and what is always on"
    before = "Before power, fuses out"
    rows = [
        (before, "Battery at rest", at_rest, "", ""),
        (before, "Each earth point to battery negative, 10 A through it", "50 mV at most", "", ""),
    ]
    for step in build.steps:
        if step.stage != "first_power":
            continue
        for at, (what, value) in enumerate(step.expects):
            rows.append(("" if at else step.title, what, value, "", ""))
        if step.doing:
            rows.append(
                (
                    "" if step.expects else step.title,
                    step.doing[-1],
                    "" if step.expects else "as it says",
                    "",
                    "",
                )
            )
    rows += [
        ("After ten minutes", "Hottest joint, holder, relay over ambient", "30 K at most", "", ""),
        ("Key off", "Current from the battery", parked, "", ""),
    ]
    table = Table(
        rows,
        ("40mm", "1fr", "30mm", "24mm", "14mm"),
        "",
        ("Step", "What to read", "Expect", "Read", "Pass"),
    )
    head = printed.head(
        "Tests at first power", "One fuse at a time; write down what the meter says"
    )
    return Section([head, table, Words(AID, "aid")])
