"""The review on paper: what is open, what was accepted and why, what the batteries do."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.cautions import AID
from ready_trail.drawing import words
from ready_trail.formats.paper import Block, Paper, Section, Strong, Table, Words
from ready_trail.web.pages.review import Group, Line, review_of
from ready_trail.web.pages.scenarios import (
    ENGINE_WORDS,
    KEY_WORDS,
    LIGHT_WORDS,
    ScenariosView,
    scenarios_of,
)
from ready_trail.web.papers.common import Printing, drawing_css, drawn, paper_of


def review_paper(printed: Printing) -> Paper:
    """Return the review of a job."""
    return paper_of(printed, "review", [Section(list(_blocks(printed)))])


def _blocks(printed: Printing) -> Iterator[Block]:
    shell = printed.shell
    made = shell.design
    view = review_of(shell, shell.catalogue)
    yield printed.head("Review", printed.job_words)
    state = "No stop is open." if made.is_ready else f"Not ready: {made.count('stop')} open."
    yield Words(
        (
            Strong(state),
            f" {made.ready_count} of {len(made.circuits)} circuits have no "
            f"open stop; {view.rules_count} rules were checked.",
        )
    )
    for group in view.groups:
        accepted = group.key == "accepted"
        head = ("Where", "What", "Found", "Allowed", "Accepted because" if accepted else "Rule")
        yield Table(
            [_row(line, accepted) for line in _every(group)],
            ("28mm", "1fr", "22mm", "22mm", "42mm"),
            group.title,
            head,
        )
    if not view.groups:
        yield Words("Nothing was found.")
    battery = scenarios_of(shell, {})
    if battery.columns:
        yield from _battery(battery)
    yield Words(AID, "aid")


def _every(group: Group) -> Iterator[Line]:
    """The findings of a group, then those that follow from one of them."""
    yield from group.lines
    for _, lines in group.following:
        yield from lines


def _row(line: Line, accepted: bool) -> tuple[str, ...]:
    found = line.finding
    where = f"{line.circuit.circuit.name}, {found.place}" if line.circuit else found.place
    what = f"{found.severity}: {found.text}" if accepted else found.text
    why = found.accepted_reason if accepted else f"{line.rule} ({line.source})"
    return where, what, found.found, found.allowed, why


def _battery(battery: ScenariosView) -> Iterator[Block]:
    budget = battery.budget
    rows = []
    for column in battery.columns:
        at = column.scenario
        state = KEY_WORDS[at.key] if at.engine == "off" else ENGINE_WORDS[at.engine]
        if at.lights != "off":
            state += f", {LIGHT_WORDS[at.lights]}"
        ends = []
        for bank in budget.names:
            ends.append(f"{round(column.ends[bank] * 100)} %")
            half_h = column.half_h.get(bank)
            ends.append(words.duration(half_h * 60) if half_h is not None else "never")
        used = ", ".join(d.name for d in column.draws) or "nothing"
        amps = words.amps(column.load_a), words.amps(column.alternator_a)
        rows.append((at.name, state, words.duration(at.minutes), used, *amps, *ends))
    head = ["Scenario", "State", "Lasts", "In use", "Taken", "Alternator"]
    for name in budget.names.values():
        head += [f"{name} left", "half empty after"]
    widths = ("1fr", "1fr", "auto", "1.6fr", "auto", "auto", *("auto",) * (len(head) - 6))
    yield Table(rows, widths, "Scenarios, each from full batteries", head)
    yield from _course(battery)
    names = {bank: words.lower_first(name) for bank, name in budget.names.items()}
    told = [
        f"Parked, {names[bank]} is half empty after {round(days)} days."
        for bank, days in budget.parked_days.items()
    ]
    told += [
        f"{w.name}: {w.pull_min:.1f} min of pull in one go." for w in budget.winches if w.pull_min
    ]
    if told:
        yield Words(" ".join(told))


def _course(battery: ScenariosView) -> Iterator[Block]:
    """What the battery does over time, drawn and in figures."""
    if battery.plot:
        keys = ", ".join(name for _, name in battery.plot.keys)
        yield drawn(
            "course",
            f"Charge and currents over time: {battery.shown_name}",
            battery.plot,
            css=drawing_css(),
        )
        yield Words(
            (
                Strong(battery.shown_name),
                f". Stacked from the foot: {keys}; the line over "
                "them is what the alternator gives.",
            ),
            "small",
        )
        parts = [
            (
                p.name,
                words.duration(p.hours * 60),
                words.amps(p.load_a),
                words.amps(p.charge_a),
                words.signed_amps(p.into_a),
                *(f"{round(state * 100)} %" for _, state in p.ends),
            )
            for p in battery.parts
        ]
        said = ["Part", "Lasts", "Taken", "Alternator", "Into the battery"]
        said += [f"{name} left" for name in battery.budget.names.values()]
        yield Table(parts, ("1fr", *("auto",) * (len(said) - 1)), "The same in figures", said)
